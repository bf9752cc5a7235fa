"""Faces of more than three corners cut into triangles that lie within them, whether they are convex or not."""

from collections.abc import Sequence

import manifold3d
import numpy as np
from numpy.typing import NDArray

# Both ways to cut a quad.
FAN, OTHER = np.array([[0, 1, 2], [0, 2, 3]]), np.array([[0, 1, 3], [1, 2, 3]])
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def triangulated(points: _Reals, polygons: Sequence[_Ints]) -> _Ints:
    """Triangles of all polygons, in their order, int64 (K, 3).

    Polygons are seen along their own normal (Newell) and cut there by ears; one that crosses itself there is cut as a
    fan, since it has no inside.

    Args:
        points: float64 (N, 3).
        polygons: numbers of points, at least three each.
    """
    if not len(polygons):
        return np.empty((0, 3), dtype=np.int64)
    counts = np.array([len(polygon) for polygon in polygons])
    first = np.concatenate([[0], np.cumsum(counts - 2)])
    found = np.empty((int(first[-1]), 3), dtype=np.int64)
    three, four = np.flatnonzero(counts == 3), np.flatnonzero(counts == 4)
    if len(three):
        found[first[three]] = np.array([polygons[at] for at in three.tolist()], dtype=np.int64)
    if len(four):
        quads = np.array([polygons[at] for at in four.tolist()], dtype=np.int64)
        halves = np.where(_other_diagonal(points[quads])[:, np.newaxis, np.newaxis], quads[:, OTHER], quads[:, FAN])
        found[first[four]], found[first[four] + 1] = halves[:, 0], halves[:, 1]
    for at in np.flatnonzero(counts > 4).tolist():
        polygon = np.asarray(polygons[at], dtype=np.int64)
        found[first[at] : first[at + 1]] = polygon[_ears(points[polygon])]
    return found


def _normals(corners: _Reals, triangles: _Ints) -> _Reals:
    """Normals of triangles of polygons of one size, (K, M, 3), as long as twice their area."""
    a, b, c = (corners[:, triangles[:, corner]] for corner in range(3))
    return np.asarray(np.cross(b - a, c - a))


def _other_diagonal(corners: _Reals) -> NDArray[np.bool_]:
    """Which quads have to be cut from their second corner, since the first cut would lie outside."""
    worst = []
    for triangles in (FAN, OTHER):
        normals = _normals(corners, triangles)
        worst.append(np.einsum("kmi,ki->km", normals, normals.sum(axis=1)).min(axis=1))
    return np.asarray((worst[0] < 0) & (worst[1] > worst[0]))


def _ears(corners: _Reals) -> _Ints:
    count = len(corners)
    fan = np.column_stack([np.zeros(count - 2, np.int64), np.arange(1, count - 1), np.arange(2, count)])
    off = corners - corners.mean(axis=0)
    normal = np.cross(off, np.roll(off, -1, axis=0)).sum(axis=0)
    length = float(np.linalg.norm(normal))
    if length == 0 or not np.isfinite(length):
        return fan
    across = np.cross(normal / length, np.eye(3)[np.abs(normal).argmin()])
    across /= np.linalg.norm(across)
    flat = np.column_stack([off @ across, off @ np.cross(normal / length, across)])
    found = np.asarray(manifold3d.triangulate([flat], -1.0, False), dtype=np.int64)
    return found if len(found) == count - 2 else fan
