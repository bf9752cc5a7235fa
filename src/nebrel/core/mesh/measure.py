"""Size, area and volume of a mesh."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.trimesh import TriMesh

FACES_AT_ONCE = 500_000


def size(mesh: TriMesh) -> NDArray[np.float64]:
    """Extent in X, Y and Z of the vertices that faces use, float64 (3,) mm."""
    used = np.zeros(len(mesh.vertices), dtype=np.bool_)
    used[mesh.faces] = True
    points = mesh.vertices[used]
    return np.asarray(points.max(axis=0) - points.min(axis=0))


def area(mesh: TriMesh) -> float:
    """Surface area, mm²."""
    return float(sum(np.linalg.norm(normals, axis=1).sum() for _, normals in _batches(mesh)) / 2)


def face_areas(mesh: TriMesh) -> NDArray[np.float64]:
    """Float64 (M,) mm²."""
    return np.concatenate([np.linalg.norm(normals, axis=1) for _, normals in _batches(mesh)]) / 2


def volume(mesh: TriMesh) -> float:
    """What a closed, outward mesh encloses, mm³."""
    return float(sum(np.einsum("ij,ij->", corners[:, 0], normals) for corners, normals in _batches(mesh)) / 6)


def face_heights(mesh: TriMesh) -> NDArray[np.float64]:
    """Lowest height of every face, float64 (M,) mm: twice its area over its longest edge; 0 when that has no length."""
    heights = []
    for corners, normals in _batches(mesh):
        longest = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
        heights.append(np.linalg.norm(normals, axis=1) / np.maximum(longest, np.finfo(np.float64).tiny))
    return np.concatenate(heights)


def _batches(mesh: TriMesh) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float64]]]:
    """Corners and double-area normals, a bounded number of faces at a time."""
    for start in range(0, len(mesh.faces), FACES_AT_ONCE):
        corners = mesh.vertices[mesh.faces[start : start + FACES_AT_ONCE]]
        yield corners, np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
