"""Size, area and volume of a mesh."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.model import TriMesh

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


def signed_volume(mesh: TriMesh) -> float:
    """Enclosed volume by the divergence theorem, mm³; negative when the faces point inwards."""
    centre = mesh.vertices[mesh.faces[0, 0]]
    return float(sum(np.einsum("ij,ij->", corners[:, 0] - centre, normals) for corners, normals in _batches(mesh)) / 6)


def face_areas(mesh: TriMesh) -> NDArray[np.float64]:
    """Area of every face, float64 (M,) mm²."""
    return np.concatenate([np.linalg.norm(normals, axis=1) / 2 for _, normals in _batches(mesh)])


def _batches(mesh: TriMesh) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float64]]]:
    """Corners and double-area normals, a bounded number of faces at a time."""
    for start in range(0, len(mesh.faces), FACES_AT_ONCE):
        corners = mesh.vertices[mesh.faces[start : start + FACES_AT_ONCE]]
        yield corners, np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
