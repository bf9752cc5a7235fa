"""Distances from points to a mesh, and between two meshes."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.bounds_tree import LEAF_SIZE, build_tree
from nebrel.core.mesh.topology import half_edge_mates
from nebrel.core.mesh.trimesh import TriMesh

POINTS_AT_ONCE = 50_000
_DEEPEST = 128


@dataclass(frozen=True)
class MeshDeviation:
    """How far two surfaces are apart, mm.

    Attributes:
        max, rms: over both directions.
        there: distances of the second mesh's samples from the first, float64 (N + 4 M,): its N vertices, then the
            middles of the first, second and third sides of its M faces, then their centres.
        back: likewise those of the first mesh's samples from the second.
    """

    max: float
    rms: float
    there: NDArray[np.float64]
    back: NDArray[np.float64]


def measure_between(
    original: TriMesh, changed: TriMesh, progress: Callable[[float], None] = lambda _: None
) -> MeshDeviation:
    """Deviation of `changed` from `original`, both ways.

    Exact distances are taken from the vertices, the middles of edges and the centres of faces of either mesh to the
    other one's surface. RMS weighs every face's centre by its area.

    Args:
        original, changed: meshes with at least one face.
        progress: called with the fraction done.
    """
    there = _samples_away(original, changed, lambda part: progress(part / 2))
    back = _samples_away(changed, original, lambda part: progress(0.5 + part / 2))
    squares, weights = 0.0, 0.0
    for mesh, away in ((changed, there), (original, back)):
        corners = mesh.corners
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
        centres = away[-len(mesh.faces) :]
        squares += float((areas * centres**2).sum())
        weights += float(areas.sum())
    return MeshDeviation(
        max=float(max(there.max(), back.max())),
        rms=float(np.sqrt(squares / max(weights, 1e-300))),
        there=there,
        back=back,
    )


def distances_to(
    mesh: TriMesh, points: NDArray[np.float64], progress: Callable[[float], None] = lambda _: None
) -> NDArray[np.float64]:
    """Distance from every point, (K, 3) mm, to the nearest place on the surface of `mesh`, float64 (K,) mm."""
    tree = build_tree(mesh)
    corners = np.ascontiguousarray(mesh.corners[tree.order].reshape(-1, 9))
    found = np.empty(len(points), dtype=np.float64)

    def search(start: int) -> int:
        part = np.ascontiguousarray(points[start : start + POINTS_AT_ONCE])
        found[start : start + POINTS_AT_ONCE] = _nearest(part, corners, tree.low, tree.high, tree.first_leaf)
        return start

    with ThreadPoolExecutor(max_workers=min(8, os.cpu_count() or 1)) as threads:
        for start in threads.map(search, range(0, len(points), POINTS_AT_ONCE)):
            progress(min(1.0, (start + POINTS_AT_ONCE) / len(points)))
    return np.sqrt(found)


def _samples_away(surface: TriMesh, sampled: TriMesh, progress: Callable[[float], None]) -> NDArray[np.float64]:
    """Distances of the samples of one mesh from another, in the order of `MeshDeviation`; edges are measured once."""
    corners, count = sampled.corners, len(sampled.faces)
    mates, _ = half_edge_mates(sampled.faces.astype(np.int64), len(sampled.vertices))
    edges = np.arange(3 * count)
    first = np.flatnonzero((mates < 0) | (mates > edges))
    middles = ((corners + np.roll(corners, -1, axis=1)) / 2).reshape(-1, 3)[first]
    away = distances_to(surface, np.vstack([sampled.vertices, middles, corners.mean(axis=1)]), progress)
    at_vertices, at_edges, at_centres = np.split(away, np.cumsum([len(sampled.vertices), len(first)]))
    of_edge = np.empty(3 * count)
    of_edge[first] = at_edges
    second = np.flatnonzero((mates >= 0) & (mates < edges))
    of_edge[second] = of_edge[mates[second]]
    return np.concatenate([at_vertices, of_edge.reshape(-1, 3).T.ravel(), at_centres])


@compiled
def _nearest(points, corners, low, high, first_leaf):
    found = np.empty(len(points), dtype=np.float64)
    stack = np.empty(_DEEPEST, dtype=np.int64)
    reach = np.empty(_DEEPEST, dtype=np.float64)
    last = 0
    for k in range(len(points)):
        x, y, z = points[k, 0], points[k, 1], points[k, 2]
        # Samples follow each other in space, so what was nearest to the one before bounds the search.
        best = _to_triangle(x, y, z, corners, last)
        stack[0], reach[0], top = 0, 0.0, 1
        while top:
            top -= 1
            node = stack[top]
            if reach[top] >= best:
                continue
            if node >= first_leaf:
                start = (node - first_leaf) * LEAF_SIZE
                for i in range(start, min(start + LEAF_SIZE, len(corners))):
                    away = _to_triangle(x, y, z, corners, i)
                    if away < best:
                        best, last = away, i
                continue
            left, right = 2 * node + 1, 2 * node + 2
            near_left = _to_box(x, y, z, low, high, left)
            near_right = _to_box(x, y, z, low, high, right)
            if near_left < near_right:
                left, right, near_left, near_right = right, left, near_right, near_left
            if near_left < best:
                stack[top], reach[top] = left, near_left
                top += 1
            if near_right < best:
                stack[top], reach[top] = right, near_right
                top += 1
        found[k] = best
    return found


@compiled
def _to_box(x, y, z, low, high, node):
    dx = max(low[node, 0] - x, 0.0, x - high[node, 0])
    dy = max(low[node, 1] - y, 0.0, y - high[node, 1])
    dz = max(low[node, 2] - z, 0.0, z - high[node, 2])
    return dx * dx + dy * dy + dz * dz


@compiled
def _to_triangle(x, y, z, corners, i):
    """Squared distance (Ericson, Real-Time Collision Detection, 2005, 5.1.5)."""
    ax, ay, az = corners[i, 0], corners[i, 1], corners[i, 2]
    ab0, ab1, ab2 = corners[i, 3] - ax, corners[i, 4] - ay, corners[i, 5] - az
    ac0, ac1, ac2 = corners[i, 6] - ax, corners[i, 7] - ay, corners[i, 8] - az
    ap0, ap1, ap2 = x - ax, y - ay, z - az
    d1 = ab0 * ap0 + ab1 * ap1 + ab2 * ap2
    d2 = ac0 * ap0 + ac1 * ap1 + ac2 * ap2
    s, t = 0.0, 0.0
    if d1 > 0 or d2 > 0:
        bp0, bp1, bp2 = ap0 - ab0, ap1 - ab1, ap2 - ab2
        d3 = ab0 * bp0 + ab1 * bp1 + ab2 * bp2
        d4 = ac0 * bp0 + ac1 * bp1 + ac2 * bp2
        cp0, cp1, cp2 = ap0 - ac0, ap1 - ac1, ap2 - ac2
        d5 = ab0 * cp0 + ab1 * cp1 + ab2 * cp2
        d6 = ac0 * cp0 + ac1 * cp1 + ac2 * cp2
        va, vb, vc = d3 * d6 - d5 * d4, d5 * d2 - d1 * d6, d1 * d4 - d3 * d2
        if d3 >= 0 and d4 <= d3:
            s = 1.0
        elif d6 >= 0 and d5 <= d6:
            t = 1.0
        elif vc <= 0 and d1 >= 0 and d3 <= 0:
            s = d1 / (d1 - d3) if d1 != d3 else 0.0
        elif vb <= 0 and d2 >= 0 and d6 <= 0:
            t = d2 / (d2 - d6) if d2 != d6 else 0.0
        elif va <= 0 and d4 - d3 >= 0 and d5 - d6 >= 0:
            whole = (d4 - d3) + (d5 - d6)
            t = (d4 - d3) / whole if whole > 0 else 0.0
            s = 1.0 - t
        else:
            whole = va + vb + vc
            if whole != 0:
                s, t = vb / whole, vc / whole
    dx = ap0 - s * ab0 - t * ac0
    dy = ap1 - s * ab1 - t * ac1
    dz = ap2 - s * ab2 - t * ac2
    return dx * dx + dy * dy + dz * dz
