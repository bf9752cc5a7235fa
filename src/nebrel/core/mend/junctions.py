"""Corners that lie on an open edge of another face: that face is divided there, so that both share the edge."""

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mend.weld import grain_of, open_corners
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

MOST_ROUNDS = 12
# A corner that is nearer to the line than so many times what a float32 can tell apart lies on it.
GRAINS = 16.0
_Reals = NDArray[np.float64]
_Ints = NDArray[np.int64]


def divided_at_junctions(mesh: TriMesh, tolerance: float | None = None) -> tuple[TriMesh, int]:
    """The mesh with faces divided where corners of others lie on their open edges, and how many corners those were.

    Args:
        mesh: open or closed.
        tolerance: mm that a corner may miss the edge by; by itself, a few times what a file can tell apart.
    """
    within = GRAINS * grain_of(mesh) if tolerance is None else max(tolerance, GRAINS * grain_of(mesh))
    faces, corners = mesh.faces.astype(np.int64), 0
    for _ in range(MOST_ROUNDS):
        found = _on_edges(mesh.vertices, faces, within)
        if not found:
            break
        faces, added = _divided(faces, found)
        corners += added
    return (drop_unused(mesh, faces)[0], corners) if corners else (mesh, 0)


def _on_edges(points: _Reals, faces: _Ints, within: float) -> dict[int, _Ints]:
    """Of open edges, by their half-edge, the corners that lie on them, in their order; at most one edge of a face."""
    from scipy.spatial import cKDTree

    mate, _ = opposite_halfedges(faces, len(points))
    sides = np.flatnonzero(mate < 0)
    among = np.flatnonzero(open_corners(faces, len(points)))
    if not len(sides):
        return {}
    starts, ends = faces.ravel()[sides], np.roll(faces, -1, axis=1).ravel()[sides]
    middle, half = (points[starts] + points[ends]) / 2, np.linalg.norm(points[ends] - points[starts], axis=1) / 2
    near = cKDTree(points[among]).query_ball_point(middle, half, return_sorted=False)
    found: dict[int, _Ints] = {}
    taken: set[int] = set()
    for number in np.flatnonzero(np.fromiter(map(len, near), np.int64, len(near)) > 0).tolist():
        side = int(sides[number])
        if side // 3 in taken:
            continue
        a, b = points[starts[number]], points[ends[number]]
        corners = among[near[number]]
        corners = corners[~np.isin(corners, faces[side // 3])]
        along = (points[corners] - a) @ (b - a) / max(float((b - a) @ (b - a)), 1e-300)
        off = np.linalg.norm(points[corners] - a - along[:, np.newaxis] * (b - a), axis=1)
        gap = within / max(2 * half[number], 1e-300)
        on = (off <= within) & (along > gap) & (along < 1 - gap)
        if on.any():
            order = np.argsort(along[on])
            found[side] = corners[on][order]
            taken.add(side // 3)
    return found


def _divided(faces: _Ints, found: dict[int, _Ints]) -> tuple[_Ints, int]:
    """Faces as fans from the corner opposite to an edge, over the corners on it."""
    gone, fresh = np.zeros(len(faces), dtype=bool), []
    for side, corners in found.items():
        face, corner = divmod(side, 3)
        a, b, c = (int(faces[face, (corner + step) % 3]) for step in range(3))
        chain = [a, *corners.tolist(), b]
        fresh += [(one, other, c) for one, other in pairwise(chain)]
        gone[face] = True
    return np.vstack([faces[~gone], np.array(fresh, dtype=np.int64)]), sum(map(len, found.values()))
