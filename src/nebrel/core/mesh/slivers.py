"""Faces so thin that rounding could turn them over, and how a closed mesh is rid of them.

After Botsch and Kobbelt, "A Robust Procedure to Eliminate Degenerate Faces" (2001): needles lose their short edge, caps
give their long edge to the neighbour behind it.
"""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

MOST_PASSES = 12

_Faces = NDArray[np.int64]
_Points = NDArray[np.float64]


def without_slivers(mesh: TriMesh, thin: float) -> TriMesh:
    """The closed mesh without faces lower than `thin` mm, as far as its connectivity allows.

    No point moves by more than about `thin`. An edge is only collapsed or flipped where that keeps the mesh 2-manifold,
    so a few slivers may stay; `face_heights` tells.
    """
    fixed = np.zeros(len(mesh.vertices), dtype=bool)
    return drop_unused(mesh, faces_without_slivers(mesh.vertices, mesh.faces.astype(np.int64), thin, fixed))[0]


def faces_without_slivers(points: _Points, faces: _Faces, thin: float, fixed: NDArray[np.bool_]) -> _Faces:
    """The same of a patch of a closed mesh, by its faces.

    Args:
        points: float64 (N, 3) mm.
        faces: int64 (M, 3).
        thin: mm.
        fixed: bool (N,), points that other faces have too, so that they stay and no edge between two of them is made.
    """
    for _ in range(MOST_PASSES):
        low = np.flatnonzero(_heights(points, faces) < thin)
        if not len(low):
            break
        faces, collapsed = _collapse_short_edges(points, faces, thin, fixed)
        if collapsed:
            low = np.flatnonzero(_heights(points, faces) < thin)
        flipped = _flip_caps(points, faces, low, fixed)
        if not collapsed and not flipped:
            break
    return faces


def _heights(points: _Points, faces: _Faces) -> _Points:
    return face_heights(TriMesh(points, faces.astype(np.uint32)))


def _collapse_short_edges(points: _Points, faces: _Faces, thin: float, fixed: NDArray[np.bool_]) -> tuple[_Faces, bool]:
    """Join the ends of edges shorter than `thin` where the ends share just the two vertices opposite to the edge."""
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    short = (np.linalg.norm(points[starts] - points[ends], axis=1) < thin) & (starts < ends)
    short &= ~fixed[starts] & ~fixed[ends]
    edges = np.column_stack([starts[short], ends[short]]).tolist()
    if not edges:
        return faces, False
    faces = faces.copy()
    ends_of_short = np.unique(np.array(edges))
    touching = np.flatnonzero(np.isin(faces, ends_of_short).any(axis=1))
    around: dict[int, set[int]] = {int(vertex): set() for vertex in ends_of_short}
    for face in touching.tolist():
        for vertex in faces[face].tolist():
            if vertex in around:
                around[vertex].add(face)
    merged_into: dict[int, int] = {}
    gone: set[int] = set()
    for a, b in edges:
        keep, drop = _follow(merged_into, a), _follow(merged_into, b)
        shared = around[keep] & around[drop]
        if keep == drop or len(shared) != 2:
            continue
        common = _neighbours(faces, around[keep]) & _neighbours(faces, around[drop])
        if len(common - {keep, drop}) != 2:
            continue
        for face in around[drop]:
            faces[face][faces[face] == drop] = keep
        around[keep] = (around[keep] | around[drop]) - shared
        for vertex in common - {keep, drop}:
            if vertex in around:
                around[vertex] -= shared
        merged_into[drop] = keep
        gone |= shared
    return np.delete(faces, sorted(gone), axis=0), bool(gone)


def _follow(merged_into: dict[int, int], vertex: int) -> int:
    while vertex in merged_into:
        vertex = merged_into[vertex]
    return vertex


def _neighbours(faces: _Faces, around: set[int]) -> set[int]:
    return {vertex for face in around for vertex in faces[face].tolist()}


def _flip_caps(points: _Points, faces: _Faces, low: _Faces, fixed: NDArray[np.bool_]) -> bool:
    """Divide each low face and the neighbour behind its longest edge by their other diagonal; changes `faces`."""
    if not len(low):
        return False
    mate, _ = opposite_halfedges(faces, len(points))
    corners = points[faces[low]]
    longest = np.argmax(np.linalg.norm(np.roll(corners, -1, axis=1) - corners, axis=2), axis=1)
    behind = mate[3 * low + longest]
    low, longest, behind = (each[behind >= 0] for each in (low, longest, behind))
    other = behind // 3
    a, c, b = (faces[low, (longest + step) % 3] for step in range(3))
    d = faces[other, (behind + 2) % 3]
    halves = np.stack([np.column_stack([a, d, b]), np.column_stack([d, c, b])], axis=1)
    better = (b != d) & ~(fixed[b] & fixed[d]) & ~_are_edges(faces, b, d, len(points))
    chosen = np.flatnonzero(better)
    if not len(chosen):
        return False
    after = _heights(points, halves[chosen].reshape(-1, 3)).reshape(-1, 2).min(axis=1)
    before = np.minimum(_heights(points, faces[low[chosen]]), _heights(points, faces[other[chosen]]))
    chosen = chosen[after > before]
    touched: set[int] = set()
    made: set[tuple[int, int]] = set()
    columns = (chosen, low[chosen], other[chosen], b[chosen], d[chosen])
    for at, face, neighbour, one, two in zip(*(column.tolist() for column in columns), strict=True):
        edge = (min(one, two), max(one, two))
        if face in touched or neighbour in touched or edge in made:
            continue
        faces[[face, neighbour]] = halves[at]
        made.add(edge)
        touched |= {face, neighbour}
    return bool(touched)


def _are_edges(faces: _Faces, ones: _Faces, others: _Faces, count: int) -> NDArray[np.bool_]:
    """Which pairs of `count` points are joined by an edge, bool."""
    starts, ends = faces.ravel(), np.roll(faces, -1, axis=1).ravel()
    about = np.zeros(count, dtype=bool)
    about[ones] = about[others] = True
    near = about[starts] & about[ends]
    keys = np.minimum(starts[near], ends[near]) * count + np.maximum(starts[near], ends[near])
    return np.isin(np.minimum(ones, others) * count + np.maximum(ones, others), keys)
