"""Fewer triangles: quadric edge collapse with measured deviation.

The collapses are meshoptimizer's and fast-simplification's (after Garland and Heckbert, "Surface Simplification Using
Quadric Error Metrics", 1997). Their own error is an estimate, so what is promised here is measured afterwards.
"""

import ctypes
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import fast_simplification
import meshoptimizer
import numpy as np
from meshoptimizer._loader import lib
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.colouring import coloured_like
from nebrel.core.mesh.distance import MeshDeviation, measure_between, vertices_beyond
from nebrel.core.mesh.model import TriMesh
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.shells import part_of
from nebrel.core.mesh.topology import analyse
from nebrel.core.mesh.trouble import troubled_vertices

Progress = Callable[[float], None]
FEWEST = 4
LAST_HALVING = 2
SOUND_ROUNDS = 8
MOST_PATCHED = 0.002
NOTHING = np.zeros(1, dtype=bool)
ROUNDS = 14
MOST_BEYOND = 0.01
FEWER_BEYOND = 0.8
HIGHEST = 16
LOWEST = 0.25
LARGEST_ERROR = 1e30


_collapse = ctypes.CFUNCTYPE(
    ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_void_p, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_void_p, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_float, ctypes.c_uint, ctypes.c_void_p,
)(("meshopt_simplifyWithAttributes", lib))  # fmt: skip


def _pointer(array: NDArray[Any]) -> int:
    return int(array.ctypes.data)


@dataclass(frozen=True)
class Simplified:
    """A lighter mesh, and how far it is from the one it came from."""

    mesh: TriMesh
    deviation: MeshDeviation


def to_count(mesh: TriMesh, triangles: int, progress: Progress = lambda _: None) -> Simplified:
    """About `triangles` triangles, fewer rather than more; as many more as borders and shells need.

    Raises:
        BadValueError: fewer than four are asked for.
    """
    if triangles < FEWEST:
        raise BadValueError(f"{triangles:,} triangles are asked for; a solid needs at least {FEWEST}.")
    lighter = mesh if triangles >= len(mesh.faces) else reduced(mesh, triangles)
    progress(0.3)
    return Simplified(lighter, measure_between(mesh, lighter, lambda part: progress(0.3 + 0.7 * part)))


def to_tolerance(mesh: TriMesh, tolerance: float, progress: Progress = lambda _: None) -> Simplified:
    """As few triangles as keep the measured deviation within `tolerance` mm, both ways.

    The collapse works by an estimate, which is too low in places. Where the measured deviation passes the tolerance,
    the estimate is lowered while that helps, then vertices are locked and the collapse is done again, until it holds
    everywhere. The mesh itself always holds.

    Raises:
        BadValueError: the tolerance is not above 0.
    """
    if not tolerance > 0:
        raise BadValueError(f"The tolerance is {tolerance:g} mm; more than 0 is needed.")
    locked, estimate, before = np.zeros(len(mesh.vertices), dtype=bool), HIGHEST * tolerance, len(mesh.vertices)
    sound_before = not troubled_vertices(mesh).any()
    for turn in range(ROUNDS):
        lighter, used = _collapsed(mesh, FEWEST, estimate, locked)
        deviation = measure_between(mesh, lighter)
        progress((turn + 1) / ROUNDS)
        troubled = troubled_vertices(lighter) if sound_before and deviation.max <= tolerance else NOTHING
        if deviation.max <= tolerance and not troubled.any():
            progress(1.0)
            return Simplified(lighter, deviation)
        if troubled.any():
            beside = np.zeros(len(mesh.vertices), dtype=bool)
            beside[used[troubled]] = True
            locked |= _with_neighbours(mesh, beside, 1 + turn // 2)
            continue
        beyond = vertices_beyond(mesh, deviation.back, tolerance)
        beyond[used[vertices_beyond(lighter, deviation.there, tolerance)]] = True
        if beyond.mean() > MOST_BEYOND and (estimate > LOWEST * tolerance or beyond.sum() < FEWER_BEYOND * before):
            estimate, before = estimate / 2, int(beyond.sum())
        else:
            locked |= _with_neighbours(mesh, beyond, 1 + turn // 2)
    return Simplified(mesh, measure_between(mesh, mesh))


def reduced(mesh: TriMesh, triangles: int) -> TriMesh:
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
        lighter, used = _collapsed(mesh, triangles + held, np.inf, locked)
        troubled = troubled_vertices(lighter)
        if not sound_before or not troubled.any():
            return lighter
        beside = np.zeros(len(mesh.vertices), dtype=bool)
        beside[used[troubled]] = True
        locked |= _with_neighbours(mesh, beside, 1 + turn)
    return mesh


def _placed_anew(mesh: TriMesh, triangles: int) -> TriMesh | None:
    """The lighter mesh by both collapses in turn, or None where that does not give a sound solid."""
    first = collapsed(mesh, max(FEWEST, LAST_HALVING * triangles), np.inf)
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
        mended = _patched(lighter, troubled)
        if mended is None:
            return None
        lighter = mended
    return coloured_like(lighter, first)


def _patched(mesh: TriMesh, troubled: NDArray[np.bool_]) -> TriMesh | None:
    """The mesh with the faces at a few troubled vertices cut out and the holes filled, or None where that fails."""
    if troubled.mean() > MOST_PATCHED:
        return None
    sound = ~troubled[mesh.faces].any(axis=1)
    filled = repair(part_of(mesh, np.flatnonzero(sound)))
    if filled.left_open or troubled_vertices(filled.mesh).any():
        return None
    return filled.mesh


def collapsed(mesh: TriMesh, triangles: int, error: float) -> TriMesh:
    """Edges collapsed down to `triangles` or until the estimated error would pass `error` mm."""
    return _collapsed(mesh, triangles, error, np.zeros(len(mesh.vertices), dtype=bool))[0]


def _collapsed(
    mesh: TriMesh, triangles: int, error: float, locked: NDArray[np.bool_]
) -> tuple[TriMesh, NDArray[np.int64]]:
    """The lighter mesh, and which vertex of the original each of its vertices is."""
    middle = (mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2
    points = np.ascontiguousarray(mesh.vertices - middle, dtype=np.float32)
    indices = np.ascontiguousarray(mesh.faces, dtype=np.uint32).ravel()
    kept = np.empty_like(indices)
    attributes, weights = np.zeros((len(points), 1), dtype=np.float32), np.zeros(1, dtype=np.float32)
    lock = locked.astype(np.uint8)
    # Called without the package's wrapper, which does not tell ctypes the types of this function's arguments.
    count = _collapse(
        _pointer(kept),
        _pointer(indices),
        indices.size,
        _pointer(points),
        len(points),
        points.strides[0],
        _pointer(attributes),
        attributes.strides[0],
        _pointer(weights),
        1,
        _pointer(lock),
        3 * triangles,
        min(error, LARGEST_ERROR),
        meshoptimizer.SIMPLIFY_LOCK_BORDER | meshoptimizer.SIMPLIFY_ERROR_ABSOLUTE,
        None,
    )
    used, faces = np.unique(kept[:count], return_inverse=True)
    colours = None if mesh.colours is None else mesh.colours[used]
    lighter = TriMesh(mesh.vertices[used], faces.reshape(-1, 3).astype(np.uint32), colours)
    return lighter, used.astype(np.int64)


def _with_neighbours(mesh: TriMesh, chosen: NDArray[np.bool_], rings: int) -> NDArray[np.bool_]:
    for _ in range(rings):
        chosen = chosen.copy()
        chosen[mesh.faces[chosen[mesh.faces].any(axis=1)].ravel()] = True
    return chosen
