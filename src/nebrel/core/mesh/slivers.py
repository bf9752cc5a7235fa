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
        if not (_heights(points, faces) < thin).any():
            break
        faces, collapsed = _collapse_short_edges(points, faces, thin, fixed)
        flipped = _flip_caps(points, faces, np.flatnonzero(_heights(points, faces) < thin), fixed)
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
    mate, _ = opposite_halfedges(faces, len(points))
    starts, ends = faces.ravel().tolist(), np.roll(faces, -1, axis=1).ravel().tolist()
    known = set(zip(starts, ends, strict=True)) if len(low) else set()
    touched: set[int] = set()
    for face in low.tolist():
        corners = points[faces[face]]
        longest = int(np.argmax(np.linalg.norm(np.roll(corners, -1, axis=0) - corners, axis=1)))
        other_edge = int(mate[3 * face + longest])
        other = other_edge // 3
        if other_edge < 0 or face in touched or other in touched:
            continue
        a, c, b = (int(faces[face, (longest + i) % 3]) for i in range(3))
        d = int(faces[other, (other_edge + 2) % 3])
        flipped = np.array([[a, d, b], [d, c, b]])
        if b == d or (fixed[b] and fixed[d]) or (b, d) in known or (d, b) in known:
            continue
        if _heights(points, flipped).min() <= _heights(points, faces[[face, other]]).min():
            continue
        faces[[face, other]] = flipped
        known |= {(b, d), (d, b)}
        touched |= {face, other}
    return bool(touched)
