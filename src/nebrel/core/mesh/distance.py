"""Distances from points to a mesh, and between two meshes."""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.nearest import (
    ANY_COSINE,
    ANY_WAY,
    empty_stack,
    nearest_triangle,
    squared_to_triangle,
    triangle_tree,
)
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

POINTS_AT_ONCE = 50_000


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


def furthest_at(mesh: TriMesh, away: NDArray[np.float64]) -> NDArray[np.float64]:
    """The largest of a mesh's sampled distances at or beside every vertex, float64 (N,); see `MeshDeviation`."""
    count, faces = len(mesh.faces), mesh.faces
    at_vertices, at_sides, at_centres = np.split(away, [len(mesh.vertices), len(mesh.vertices) + 3 * count])
    found = at_vertices.copy()
    for corner, of_side in enumerate(at_sides.reshape(3, count)):
        worst = np.maximum(of_side, at_centres)
        np.maximum.at(found, faces[:, corner], worst)
        np.maximum.at(found, faces[:, (corner + 1) % 3], of_side)
    return found


def distances_to(
    mesh: TriMesh, points: NDArray[np.float64], progress: Callable[[float], None] = lambda _: None
) -> NDArray[np.float64]:
    """Distance from every point, (K, 3) mm, to the nearest place on the surface of `mesh`, float64 (K,) mm."""
    return np.sqrt(_search(mesh, points, progress)[1])


def nearest_faces(mesh: TriMesh, points: NDArray[np.float64]) -> NDArray[np.int64]:
    """The face of `mesh` nearest to every point, (K, 3) mm; int64 (K,)."""
    return _search(mesh, points, lambda _: None)[0]


def _search(
    mesh: TriMesh, points: NDArray[np.float64], progress: Callable[[float], None]
) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The nearest face to every point, and the squared distance to it."""
    tree = triangle_tree(mesh, with_normals=False)
    which = np.empty(len(points), dtype=np.int64)
    away = np.empty(len(points), dtype=np.float64)

    def search(start: int) -> int:
        rows = slice(start, start + POINTS_AT_ONCE)
        which[rows], away[rows] = _nearest(np.ascontiguousarray(points[rows]), tree)
        return start

    with ThreadPoolExecutor(max_workers=min(8, os.cpu_count() or 1)) as threads:
        for start in threads.map(search, range(0, len(points), POINTS_AT_ONCE)):
            progress(min(1.0, (start + POINTS_AT_ONCE) / len(points)))
    return tree.order[which], away


def _samples_away(surface: TriMesh, sampled: TriMesh, progress: Callable[[float], None]) -> NDArray[np.float64]:
    """Distances of the samples of one mesh from another, in the order of `MeshDeviation`; edges are measured once."""
    corners, count = sampled.corners, len(sampled.faces)
    opposite, _ = opposite_halfedges(sampled.faces.astype(np.int64), len(sampled.vertices))
    edges = np.arange(3 * count)
    first = np.flatnonzero((opposite < 0) | (opposite > edges))
    middles = ((corners + np.roll(corners, -1, axis=1)) / 2).reshape(-1, 3)[first]
    away = distances_to(surface, np.vstack([sampled.vertices, middles, corners.mean(axis=1)]), progress)
    at_vertices, at_edges, at_centres = np.split(away, np.cumsum([len(sampled.vertices), len(first)]))
    of_edge = np.empty(3 * count)
    of_edge[first] = at_edges
    second = np.flatnonzero((opposite >= 0) & (opposite < edges))
    of_edge[second] = of_edge[opposite[second]]
    return np.concatenate([at_vertices, of_edge.reshape(-1, 3).T.ravel(), at_centres])


@compiled
def _nearest(points, tree):
    which = np.empty(len(points), dtype=np.int64)
    found = np.empty(len(points), dtype=np.float64)
    stack = empty_stack()
    last = 0
    for k in range(len(points)):
        point = (points[k, 0], points[k, 1], points[k, 2])
        # Samples follow each other in space, so what was nearest to the one before bounds the search.
        first = squared_to_triangle(point, tree.corners, last)
        at, found[k] = nearest_triangle(point, ANY_WAY, ANY_COSINE, first, tree, stack)
        if at >= 0:
            last = at
        which[k] = last
    return which, found
