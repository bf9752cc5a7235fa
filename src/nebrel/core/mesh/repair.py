"""Mending meshes from elsewhere, step by step, each telling what it changed."""

from collections.abc import Callable
from dataclasses import dataclass

import manifold3d
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadMeshError
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.trimesh import TriMesh
from nebrel.core.mesh.weld import weld_vertices

LONGEST_LOOP = 20_000
FLAT_SHARE = 1e-10


@dataclass(frozen=True)
class Repaired:
    """A mended mesh and what was done to it, as counts.

    Attributes:
        mesh: mended; `check_soundness` tells what is left.
        welded: vertices that were joined with another.
        degenerate: faces without an area that were dropped.
        duplicate: faces that were there twice and were dropped.
        turned: faces that were turned round.
        filled: holes that were filled.
        left_open: holes too winding or too long to fill.
    """

    mesh: TriMesh
    welded: int
    degenerate: int
    duplicate: int
    turned: int
    filled: int
    left_open: int


def repair(mesh: TriMesh, progress: Callable[[float], None] = lambda _: None) -> Repaired:
    """Join corners, drop faces that are none, turn all faces outward, fill holes.

    Holes are filled by a triangulation of their outline seen along its own normal; outlines that cross themselves
    there stay open and are counted. Crossing faces stay; `check_soundness` finds them.

    Raises:
        BadMeshError: nothing would be left.
    """
    joined = weld_vertices(mesh)
    welded = len(mesh.vertices) - len(joined.vertices)
    progress(0.2)
    faces = joined.faces.astype(np.int64)
    kept, degenerate, duplicate = _real_faces(joined, faces)
    if not kept.any():
        raise BadMeshError("No face of the mesh has an area, so nothing would be left of it.")
    faces = faces[kept]
    progress(0.4)
    faces, turned = _turned_alike(faces)
    patches, filled, left_open = fill_holes(joined.vertices, faces)
    faces = np.vstack([faces, *patches])
    progress(0.8)
    faces, outward = _turned_outward(joined.vertices, faces)
    progress(1.0)
    mended, _ = drop_unused(joined, faces)
    return Repaired(mended, max(0, welded), degenerate, duplicate, turned + outward, filled, left_open)


def _real_faces(mesh: TriMesh, faces: NDArray[np.int64]) -> tuple[NDArray[np.bool_], int, int]:
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    whole &= face_heights(mesh) > FLAT_SHARE * extent
    first = np.zeros(len(faces), dtype=bool)
    numbers = np.flatnonzero(whole)
    if len(numbers):
        _, chosen = np.unique(np.sort(faces[numbers], axis=1), axis=0, return_index=True)
        first[numbers[chosen]] = True
    return first, int((~whole).sum()), int(whole.sum() - first.sum())


def _sides(faces: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """All directed sides (3 M, 2) and the face of each."""
    sides = np.vstack([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    return sides, np.tile(np.arange(len(faces)), 3)


def _pairs(faces: NDArray[np.int64]) -> tuple[NDArray[np.int64], NDArray[np.int64], NDArray[np.bool_]]:
    """Faces that share an edge which only they have, and whether both run along it the same way."""
    sides, owner = _sides(faces)
    low, high = sides.min(axis=1), sides.max(axis=1)
    order = np.lexsort((high, low))
    low, high, sides, owner = low[order], high[order], sides[order], owner[order]
    starts = np.flatnonzero(np.r_[True, (low[1:] != low[:-1]) | (high[1:] != high[:-1])])
    counts = np.diff(np.r_[starts, len(low)])
    first = starts[counts == 2]
    return owner[first], owner[first + 1], sides[first, 0] == sides[first + 1, 0]


def _turned_alike(faces: NDArray[np.int64]) -> tuple[NDArray[np.int64], int]:
    """Faces of a shell made to agree with each other, the fewer turned round."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import breadth_first_order, connected_components

    one, other, same = _pairs(faces)
    count = len(faces)
    graph = coo_array((np.ones(2 * len(one)), (np.r_[one, other], np.r_[other, one])), (count, count)).tocsr()
    differ = {(int(a), int(b)) for a, b in zip(one[same], other[same], strict=True)}
    differ |= {(b, a) for a, b in differ}
    flip = np.zeros(count, dtype=bool)
    if differ:
        _, shell = connected_components(graph, directed=False)
        for start in np.unique(shell[[a for a, _ in differ]]):
            members = np.flatnonzero(shell == start)
            order, before = breadth_first_order(graph, members[0], directed=False)
            for face in order[1:]:
                flip[face] = flip[before[face]] ^ ((int(before[face]), int(face)) in differ)
            if flip[members].sum() > len(members) / 2:
                flip[members] = ~flip[members]
    faces = faces.copy()
    faces[flip] = faces[flip][:, [0, 2, 1]]
    return faces, int(flip.sum())


def _turned_outward(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> tuple[NDArray[np.int64], int]:
    """Closed shells of negative volume turned inside out, unless they are cavities inside another shell's box."""
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import connected_components

    one, other, _ = _pairs(faces)
    count = len(faces)
    graph = coo_array((np.ones(len(one)), (one, other)), (count, count))
    shells, shell = connected_components(graph, directed=False)
    corners = vertices[faces]
    signed = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])) / 6
    volumes = np.bincount(shell, signed, shells)
    low = np.full((shells, 3), np.inf)
    high = np.full((shells, 3), -np.inf)
    np.minimum.at(low, shell, corners.min(axis=1))
    np.maximum.at(high, shell, corners.max(axis=1))
    faces, turned = faces.copy(), 0
    for number in np.flatnonzero(volumes < 0):
        holders = (low < low[number]).all(axis=1) & (high > high[number]).all(axis=1) & (np.abs(volumes) > 0)
        if holders.any():
            continue
        mine = shell == number
        faces[mine] = faces[mine][:, [0, 2, 1]]
        turned += int(mine.sum())
    return faces, turned


def fill_holes(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> tuple[list[NDArray[np.int64]], int, int]:
    """Patches, each int64 (K, 3), for the holes of `faces`; how many holes were filled and how many were not."""
    patches, filled, left = [], 0, 0
    for loop in _loops(faces):
        patch = _patch(vertices, loop) if 3 <= len(loop) <= LONGEST_LOOP else None
        if patch is None:
            left += 1
        else:
            patches.append(patch)
            filled += 1
    return patches, filled, left


def _loops(faces: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """Outlines of holes, running so that a patch along them agrees with the faces around."""
    sides, _ = _sides(faces)
    edge = np.sort(sides, axis=1)
    _, inverse, counts = np.unique(edge, axis=0, return_inverse=True, return_counts=True)
    following: dict[int, list[int]] = {}
    for a, b in sides[counts[inverse.ravel()] == 1]:
        following.setdefault(int(b), []).append(int(a))
    loops = []
    while following:
        start = next(iter(following))
        loop, at = [], start
        while at in following:
            loop.append(at)
            nexts = following[at]
            ahead = nexts.pop()
            if not nexts:
                del following[at]
            at = ahead
            if at == start:
                break
        if at == start:
            loops.append(np.array(loop))
    return loops


def _patch(vertices: NDArray[np.float64], loop: NDArray[np.int64]) -> NDArray[np.int64] | None:
    points = vertices[loop]
    middle = points - points.mean(axis=0)
    normal = np.cross(middle, np.roll(middle, -1, axis=0)).sum(axis=0)
    length = float(np.linalg.norm(normal))
    if length == 0:
        return None
    normal /= length
    across = np.cross(normal, np.eye(3)[np.abs(normal).argmin()])
    across /= np.linalg.norm(across)
    flat = np.column_stack([middle @ across, middle @ np.cross(normal, across)])
    triangles = np.asarray(manifold3d.triangulate([flat], -1.0, False), dtype=np.int64)
    if len(triangles) != len(loop) - 2:
        return None
    return loop[triangles]
