"""Fewer triangles: quadric edge collapse with measured deviation.

The collapses are meshoptimizer's and fast-simplification's (after Garland and Heckbert, "Surface Simplification Using
Quadric Error Metrics", 1997). Their own error is an estimate, so what is promised here is measured afterwards.
"""

from collections.abc import Callable
from dataclasses import dataclass

import fast_simplification
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.collapse import collapse, collapse_in_halves
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.distance import MeshDeviation, distances_to, measure_between
from nebrel.core.mesh.holes import fill_holes
from nebrel.core.mesh.topology import analyse
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.trouble import troubled_vertices, with_neighbours

Progress = Callable[[float], None]
FEWEST = 4
LAST_HALVING = 2
SOUND_ROUNDS = 8
MOST_PATCHED = 0.002
MOST_TRIES = 8
LARGEST_STEP = 8.0
AIM = 0.96
USED_WELL = 0.9
CLOSE_ENOUGH = 1.1
FIRST_LOOK = 50_000


@dataclass(frozen=True)
class Simplified:
    """A lighter mesh, and how far it is from the one it came from."""

    mesh: TriMesh
    deviation: MeshDeviation


def unchanged(mesh: TriMesh) -> Simplified:
    """The mesh as it is, which is nowhere off itself."""
    nowhere = np.zeros(len(mesh.vertices) + 4 * len(mesh.faces))
    return Simplified(mesh, MeshDeviation(0.0, 0.0, nowhere, nowhere))


def to_count(mesh: TriMesh, triangles: int, progress: Progress = lambda _: None) -> Simplified:
    """About `triangles` triangles, fewer rather than more; as many more as borders and shells need.

    Raises:
        BadValueError: fewer than four are asked for.
    """
    if triangles < FEWEST:
        raise BadValueError(f"{triangles:,} triangles are asked for; a solid needs at least {FEWEST}.")
    lighter = mesh if triangles >= len(mesh.faces) else reduce_faces(mesh, triangles)
    progress(0.3)
    return Simplified(lighter, measure_between(mesh, lighter, lambda part: progress(0.3 + 0.7 * part)))


def to_tolerance(mesh: TriMesh, tolerance: float, progress: Progress = lambda _: None) -> Simplified:
    """Few triangles that keep the measured deviation within `tolerance` mm, both ways.

    What deviation a count costs is not known beforehand, so counts are tried, each taken from what the one before cost
    as if deviation went with one over the count, until one uses nearly all of the tolerance or the count is known
    within 10 %. The mesh itself always holds.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    if not tolerance > 0:
        raise BadValueError(f"The tolerance is {tolerance:g} mm; more than 0 is needed.")
    best, fits, passes = None, len(mesh.faces), FEWEST
    count = len(collapse(mesh, FEWEST, tolerance)[0].faces)
    for turn in range(MOST_TRIES):
        progress(turn / MOST_TRIES)
        count = min(max(count, passes + 1), fits - 1)
        lighter = reduce_faces(mesh, count)
        least = _least_deviation(mesh, lighter)
        deviation = measure_between(mesh, lighter) if least <= tolerance else None
        reached = least if deviation is None else deviation.max
        if deviation is not None and reached <= tolerance:
            best, fits = Simplified(lighter, deviation), min(count, len(lighter.faces))
        else:
            passes = count
        if fits <= CLOSE_ENOUGH * passes or USED_WELL * tolerance <= reached <= tolerance:
            break
        count = round(count * min(max(reached / (AIM * tolerance), 1 / LARGEST_STEP), LARGEST_STEP))
        if not passes < count < fits:
            count = round((passes * fits) ** 0.5)
    progress(1.0)
    return best or unchanged(mesh)


def _least_deviation(mesh: TriMesh, lighter: TriMesh) -> float:
    """A bound that the deviation is not below, from some of the vertices: most often enough to say no, and quick."""
    some = mesh.vertices[:: max(1, len(mesh.vertices) // FIRST_LOOK)]
    return float(max(distances_to(lighter, some).max(), distances_to(mesh, lighter.vertices).max()))


def reduce_faces(mesh: TriMesh, triangles: int) -> TriMesh:
    """About `triangles` triangles, of as small a deviation as can be had quickly, and as sound as the mesh was.

    A collapse that keeps vertices where they are is fast, but the last halving of the count is better done by one that
    places them anew. That one does not know borders and may pinch what is thin; open meshes, and those that would not
    stay sound, take the first way to the end, and what would not be sound is locked until it is. What is locked comes
    on top of the count.
    """
    placed = _placed_anew(mesh, triangles)
    if placed is not None:
        return placed
    sound_before = not troubled_vertices(mesh).any()
    locked = np.zeros(len(mesh.vertices), dtype=bool)
    for turn in range(SOUND_ROUNDS):
        held = int(locked[mesh.faces].all(axis=1).sum())
        lighter, used = collapse(mesh, triangles + held, np.inf, locked)
        troubled = troubled_vertices(lighter)
        if not sound_before or not troubled.any():
            return lighter
        beside = np.zeros(len(mesh.vertices), dtype=bool)
        beside[used[troubled]] = True
        locked |= with_neighbours(mesh, beside, 1 + turn)
    return mesh


def _placed_anew(mesh: TriMesh, triangles: int) -> TriMesh | None:
    """The lighter mesh by both collapses in turn, or None where that does not give a sound solid."""
    first = collapse_in_halves(mesh, max(FEWEST, LAST_HALVING * triangles))
    if len(first.faces) <= triangles or not analyse(first).closed:
        return None
    middle = (first.vertices.min(axis=0) + first.vertices.max(axis=0)) / 2
    points, faces = fast_simplification.simplify(
        (first.vertices - middle).astype(np.float32), first.faces, target_count=triangles
    )
    places = (np.asarray(points, np.float64) + middle).astype(np.float32).astype(np.float64)
    lighter = TriMesh(places, np.asarray(faces, np.uint32))
    if len(lighter.faces) > max(triangles, FEWEST):
        return None
    troubled = troubled_vertices(lighter)
    if troubled.any():
        mended = _patch(lighter, troubled)
        if mended is None:
            return None
        lighter = mended
    return colour_like(lighter, first)


def _patch(mesh: TriMesh, troubled: NDArray[np.bool_]) -> TriMesh | None:
    """The mesh with the faces at a few troubled vertices cut out and the holes filled, or None where that fails."""
    if troubled.mean() > MOST_PATCHED:
        return None
    gone = troubled[mesh.faces].any(axis=1)
    patches, _, left_open = fill_holes(mesh.vertices, mesh.faces[gone].astype(np.int64)[:, ::-1])
    if left_open or not patches:
        return None
    kept = mesh.faces[~gone]
    filled, _ = drop_unused(mesh, np.vstack([kept, *patches]))
    new = np.arange(len(filled.faces)) >= len(kept)
    return None if troubled_vertices(filled, among=new).any() else filled
