"""Broken meshes made by code: every kind of fault, alone and in pairs, at three sizes, and what is to come of each."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import combinations

import manifold3d
import numpy as np

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.split import split_sides

SIZES = (0.3, 20.0, 900.0)
Break = Callable[[TriMesh, np.random.Generator], TriMesh]


@dataclass(frozen=True)
class Broken:
    """A broken mesh.

    Attributes:
        name: faults and size.
        mesh: with them.
        volume: mm³ that the mended one is to hold; None where it is not known.
        off: by which share of that it may be off.
        mended: whether it is to be sound.
    """

    name: str
    mesh: TriMesh
    volume: float | None
    mended: bool = True
    off: float = 1e-5


def whole() -> TriMesh:
    """A sound solid: a block with a round hollow and a ball on a corner, of about 1,300 faces, about 1 large."""
    block = manifold3d.Manifold.cube((1.0, 0.7, 0.5))
    block -= manifold3d.Manifold.sphere(0.2, 48).translate((0.4, 0.35, 0.5))
    block += manifold3d.Manifold.sphere(0.15, 40).translate((0.95, 0.6, 0.4))
    return mesh_of(block.refine_to_length(0.12))


def loose(mesh: TriMesh, _: np.random.Generator) -> TriMesh:
    """Every triangle has corners of its own."""
    return TriMesh(mesh.corners.reshape(-1, 3), np.arange(3 * len(mesh.faces), dtype=np.uint32).reshape(-1, 3))


def missed(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Every triangle has corners of its own, which miss each other by a millionth of the size."""
    apart = loose(mesh, rng)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return TriMesh(apart.vertices + rng.uniform(-4e-7, 4e-7, apart.vertices.shape) * extent, apart.faces)


def holed(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Single faces are missing, some of them side by side."""
    return drop_unused(mesh, np.delete(mesh.faces, rng.choice(len(mesh.faces), 12, replace=False), axis=0))[0]


def bottomless(mesh: TriMesh, _: np.random.Generator) -> TriMesh:
    """The flat faces at the bottom are missing."""
    low = mesh.corners[..., 2].max(axis=1) <= mesh.vertices[:, 2].min() + 1e-6 * np.ptp(mesh.vertices)
    return drop_unused(mesh, mesh.faces[~low])[0]


def turned(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """A fifth of the faces is turned round."""
    faces = mesh.faces.copy()
    chosen = rng.random(len(faces)) < 0.2
    faces[chosen] = faces[chosen][:, [0, 2, 1]]
    return TriMesh(mesh.vertices, faces)


def inside_out(mesh: TriMesh, _: np.random.Generator) -> TriMesh:
    """All faces look inwards."""
    return TriMesh(mesh.vertices, mesh.faces[:, [0, 2, 1]].copy())


def repeated(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Some faces are there twice."""
    return TriMesh(mesh.vertices, np.vstack([mesh.faces, mesh.faces[rng.choice(len(mesh.faces), 9)]]))


def finned(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Faces that stand back to back on edges: fins that enclose nothing."""
    chosen = rng.choice(len(mesh.faces), 5, replace=False)
    tips = mesh.corners[chosen].mean(axis=1) + 0.02 * np.ptp(mesh.vertices, axis=0).max()
    number = len(mesh.vertices) + np.arange(5)
    fins = np.column_stack([mesh.faces[chosen][:, :2], number])
    every = np.vstack([mesh.faces, fins, fins[:, [0, 2, 1]]]).astype(np.uint32)
    return TriMesh(np.vstack([mesh.vertices, tips]), every)


def flat(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Faces without an area: such that name a corner twice."""
    more = rng.choice(len(mesh.faces), 7)
    return TriMesh(mesh.vertices, np.vstack([mesh.faces, mesh.faces[more][:, [0, 0, 1]]]))


def jointed(mesh: TriMesh, rng: np.random.Generator) -> TriMesh:
    """Corners in the middle of edges that only one of the two faces there knows."""
    chosen = rng.choice(len(mesh.faces), 15, replace=False)
    sides = np.unique(np.sort(mesh.faces[chosen][:, :2].astype(np.int64), axis=1), axis=0)
    fine, of = split_sides(mesh, sides[:1], mesh.vertices[sides[:1]].mean(axis=1))
    for side in sides[1:]:
        if np.isin(fine.faces, side).sum(axis=1).max() >= 2:
            fine, more = split_sides(fine, side[np.newaxis], fine.vertices[side].mean(axis=0)[np.newaxis])
            of = of[more]
    split = np.flatnonzero(np.bincount(of, minlength=len(mesh.faces)) > 1)[::2]
    kept = fine.faces[~np.isin(of, split)]
    return drop_unused(fine, np.vstack([kept, mesh.faces[split]]))[0]


def overlapped(mesh: TriMesh, _: np.random.Generator) -> TriMesh:
    """A ball of its own passes through the surface."""
    return together([mesh, _ball(mesh, 0.2, (0.1, 0.1, 0.1))])


def filled(mesh: TriMesh, _: np.random.Generator) -> TriMesh:
    """A ball lies within the solid."""
    return together([mesh, _ball(mesh, 0.08, (0.75, 0.3, 0.2))])


def _ball(mesh: TriMesh, radius: float, at: tuple[float, float, float]) -> TriMesh:
    scale = float(np.ptp(mesh.vertices, axis=0).max()) / 1.1
    low = mesh.vertices.min(axis=0)
    ball = mesh_of(manifold3d.Manifold.sphere(radius, 32))
    return TriMesh(low + scale * (ball.vertices + np.array(at)), ball.faces)


# What each does to a mesh, and how far the volume of what comes of it may be off; None where it is another.
BREAKS: dict[str, tuple[Break, float | None]] = {
    "loose": (loose, 1e-5),
    "missed": (missed, 1e-4),
    "holed": (holed, 0.02),
    "bottomless": (bottomless, 0.02),
    "turned": (turned, 1e-5),
    "inside out": (inside_out, 1e-5),
    "repeated": (repeated, 1e-5),
    "finned": (finned, 1e-5),
    "flat": (flat, 1e-5),
    "jointed": (jointed, 1e-5),
    "overlapped": (overlapped, None),
    "filled": (filled, 1e-5),
}
# Corners that are each other's own cannot be taken away, divided or named twice in the same way any more.
ORDER = ("overlapped", "filled", "bottomless", "finned", "jointed", "repeated", "holed", "turned", "inside out", "flat")
LAST = ("loose", "missed")


def corpus() -> Iterator[Broken]:
    """Every fault alone and in pairs, at three sizes, and solids that touch or nest."""
    sound = whole()
    names = [*ORDER, *LAST]
    for number, chosen in enumerate([*((name,) for name in names), *combinations(names, 2)]):
        if chosen == LAST:
            continue
        sizes = SIZES if len(chosen) == 1 else SIZES[number % 3 : number % 3 + 1]
        for size in sizes:
            mesh = TriMesh((sound.vertices - 0.3) * size, sound.faces)
            volume = _volume(mesh)
            rng = np.random.default_rng(number)
            for name in chosen:
                mesh = BREAKS[name][0](mesh, rng)
            off = [BREAKS[name][1] for name in chosen]
            known = [each for each in off if each is not None]
            told = f"{' and '.join(chosen)}, {size:g} mm"
            yield Broken(told, mesh, volume if len(known) == len(off) else None, off=max(known, default=1e-5))
    yield from _touching()


def _touching() -> Iterator[Broken]:
    cube = mesh_of(manifold3d.Manifold.cube((1, 1, 1)))

    def moved(*by: float) -> TriMesh:
        return TriMesh(cube.vertices + np.array(by), cube.faces)

    ball = mesh_of(manifold3d.Manifold.sphere(0.3, 32))
    inner = TriMesh(ball.vertices + 0.5, ball.faces)
    cavity = TriMesh(inner.vertices, inner.faces[:, ::-1].copy())
    seed = TriMesh(ball.vertices * 0.4 + 0.5, ball.faces)
    sheet = TriMesh(
        np.array([[0, 0, 0], [9, 0, 0], [9, 9, 0], [0, 9, 0.0]]), np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    )
    room = _volume(ball)
    for size in SIZES:
        for name, parts, volume, mended in (
            ("cubes that touch along an edge", [cube, moved(1, 1, 0)], 2.0, True),
            ("cubes that touch at a point", [cube, moved(1, 1, 1)], 2.0, True),
            ("cubes that share a side", [cube, moved(1, 0, 0)], 2.0, True),
            ("cubes that share part of a side", [cube, moved(1, 0.25, 0.25)], 2.0, True),
            ("cubes that cross", [cube, moved(0.5, 0.5, 0.5)], 2.0 - 0.125, True),
            ("a ball in a cavity", [cube, cavity, seed], 1 - room + room * 0.064, True),
            ("an inner ball", [cube, inner], 1.0, True),
            ("a cavity that is one", [cube, cavity], 1 - room, True),
            ("a flat sheet", [sheet], None, False),
        ):
            mesh = together(parts)
            scaled = TriMesh(mesh.vertices * size, mesh.faces)
            held = None if volume is None else volume * size**3
            # What touches is taken apart by a micrometre, which is much of a small cube.
            yield Broken(f"{name}, {size:g} mm", scaled, held, mended, max(1e-5, 5e-3 / size))


def _volume(mesh: TriMesh) -> float:
    corners = mesh.corners - mesh.vertices.mean(axis=0)
    return float(np.einsum("ij,ij->", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6)
