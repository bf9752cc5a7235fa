"""The parts of a mesh that hang together."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.jit import compiled
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.topology import Topology, analyse
from nebrel.core.mesh.trimesh import TriMesh


@dataclass(frozen=True)
class Shell:
    """One part.

    Attributes:
        faces: int64 (K,), which faces of the mesh.
        volume_mm3: enclosed; below 0 when its faces look inwards, as those of a cavity do.
        low, high: corners of its box, float64 (3,) mm.
        closed: whether it has no open edge.
    """

    faces: NDArray[np.int64]
    volume_mm3: float
    low: NDArray[np.float64]
    high: NDArray[np.float64]
    closed: bool


def shells_of(mesh: TriMesh, topology: Topology | None = None) -> list[Shell]:
    """The shells of a mesh, the one of the largest box first; its topology is looked at anew where it is not given."""
    topology = topology or analyse(mesh)
    order = np.argsort(topology.shell_of_face, kind="stable")
    ends = np.cumsum(np.bincount(topology.shell_of_face, minlength=topology.shells))
    volumes, low, high = _extents(mesh.vertices, mesh.faces, topology.shell_of_face, topology.shells)
    found = [
        Shell(faces, float(volumes[number]), low[number], high[number], not topology.open_shells[number])
        for number, faces in enumerate(np.split(order, ends[:-1]))
    ]
    return sorted(found, key=lambda shell: -float(np.linalg.norm(shell.high - shell.low)))


@compiled
def _extents(vertices, faces, shell_of_face, shells):
    """What every shell encloses, and the corners of its box.

    All are taken from one place: of shells that are open where they meet others, the sum is right still.
    """
    volumes = np.zeros(shells)
    low, high = np.full((shells, 3), np.inf), np.full((shells, 3), -np.inf)
    o = np.int64(faces[0, 0]) if len(faces) else 0
    for face in range(len(faces)):
        shell = shell_of_face[face]
        a, b, c = np.int64(faces[face, 0]), np.int64(faces[face, 1]), np.int64(faces[face, 2])
        for axis in range(3):
            x, y, z = vertices[a, axis], vertices[b, axis], vertices[c, axis]
            low[shell, axis] = min(low[shell, axis], x, y, z)
            high[shell, axis] = max(high[shell, axis], x, y, z)
        ux, uy, uz = vertices[a, 0] - vertices[o, 0], vertices[a, 1] - vertices[o, 1], vertices[a, 2] - vertices[o, 2]
        vx, vy, vz = vertices[b, 0] - vertices[o, 0], vertices[b, 1] - vertices[o, 1], vertices[b, 2] - vertices[o, 2]
        wx, wy, wz = vertices[c, 0] - vertices[o, 0], vertices[c, 1] - vertices[o, 1], vertices[c, 2] - vertices[o, 2]
        volumes[shell] += (ux * (vy * wz - vz * wy) + uy * (vz * wx - vx * wz) + uz * (vx * wy - vy * wx)) / 6
    return volumes, low, high


def only_shells(mesh: TriMesh, shells: list[Shell]) -> TriMesh:
    """The mesh of some of its shells.

    Raises:
        BadValueError: none is given.
    """
    if not shells:
        raise BadValueError("No part of the mesh is to be kept; at least one is needed.")
    return part_of(mesh, np.concatenate([shell.faces for shell in shells]))


def bodies_of(mesh: TriMesh, most: int = 1000) -> list[NDArray[np.int64]]:
    """Faces of every body, int64 (K,) each: an outer shell and the cavities inside its box.

    A mesh of more than `most` shells counts as one body, as does one without an outer shell.
    """
    topology = analyse(mesh)
    every = np.arange(len(mesh.faces))
    if not 1 < topology.shells <= most:
        return [every]
    shells = shells_of(mesh)
    outer = [shell for shell in shells if shell.volume_mm3 > 0 or not shell.closed]
    if len(outer) < 2:
        return [every]
    bodies = [[shell.faces] for shell in outer]
    for cavity in (shell for shell in shells if shell.closed and shell.volume_mm3 <= 0):
        around = [
            number
            for number, shell in enumerate(outer)
            if (shell.low <= cavity.low).all() and (shell.high >= cavity.high).all()
        ]
        bodies[around[-1] if around else 0].append(cavity.faces)
    return [np.concatenate(body) for body in bodies]


def together(parts: list[TriMesh]) -> TriMesh:
    """One mesh of several, their vertices kept apart; colours are kept where every part has some."""
    starts = np.cumsum([0, *(len(part.vertices) for part in parts[:-1])])
    colours = [part.colours for part in parts if part.colours is not None]
    return TriMesh(
        np.vstack([part.vertices for part in parts]),
        np.vstack([part.faces + np.uint32(start) for part, start in zip(parts, starts, strict=True)]),
        np.vstack(colours) if len(colours) == len(parts) else None,
    )


def together_coloured(parts: list[TriMesh]) -> TriMesh:
    """The same with the colours of corners; plain white where a part among coloured ones has none."""
    whole = together([TriMesh(part.vertices, part.faces) for part in parts])
    if all(part.corner_colours is None for part in parts):
        return whole
    white = np.uint8(255)
    return replace(
        whole,
        corner_colours=np.vstack(
            [
                np.full((len(part.faces), 3, 4), white) if part.corner_colours is None else part.corner_colours
                for part in parts
            ]
        ),
    )


def part_of(mesh: TriMesh, faces: NDArray[np.int64]) -> TriMesh:
    """The mesh of some of its faces, vertices that none of them uses left out."""
    return drop_unused(mesh, mesh.faces[faces])[0]
