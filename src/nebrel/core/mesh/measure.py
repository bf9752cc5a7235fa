"""Size, area and volume of a mesh."""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.trimesh import TriMesh

FACES_AT_ONCE = 500_000
TINY = float(np.finfo(np.float64).tiny)


def size(mesh: TriMesh) -> NDArray[np.float64]:
    """Extent in X, Y and Z of the vertices that faces use, float64 (3,) mm."""
    used = np.zeros(len(mesh.vertices), dtype=np.bool_)
    used[mesh.faces] = True
    points = mesh.vertices[used]
    return np.asarray(points.max(axis=0) - points.min(axis=0))


def area(mesh: TriMesh) -> float:
    """Surface area, mm²."""
    return float(face_areas(mesh).sum())


def face_areas(mesh: TriMesh) -> NDArray[np.float64]:
    """Float64 (M,) mm²."""
    return np.asarray(_areas(mesh.vertices, mesh.faces))


def volume(mesh: TriMesh) -> float:
    """What a closed, outward mesh encloses, mm³."""
    return float(sum(np.einsum("ij,ij->", corners[:, 0], normals) for corners, normals in _batches(mesh)) / 6)


def face_heights(mesh: TriMesh) -> NDArray[np.float64]:
    """Lowest height of every face, float64 (M,) mm: twice its area over its longest edge; 0 when that has no length."""
    return np.asarray(_heights(mesh.vertices, mesh.faces))


@compiled
def _areas(vertices, faces):
    areas = np.empty(len(faces), dtype=np.float64)
    for face in range(len(faces)):
        areas[face] = _double_area(vertices, faces, face) / 2
    return areas


@compiled
def _heights(vertices, faces):
    heights = np.empty(len(faces), dtype=np.float64)
    for face in range(len(faces)):
        longest = 0.0
        for corner in range(3):
            square = 0.0
            for axis in range(3):
                along = vertices[faces[face, (corner + 1) % 3], axis] - vertices[faces[face, corner], axis]
                square += along * along
            longest = max(longest, square)
        heights[face] = _double_area(vertices, faces, face) / max(np.sqrt(longest), TINY)
    return heights


@compiled
def _double_area(vertices, faces, face):
    a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
    ux, uy, uz = vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1], vertices[b, 2] - vertices[a, 2]
    vx, vy, vz = vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1], vertices[c, 2] - vertices[a, 2]
    x, y, z = uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx
    return np.sqrt(x * x + y * y + z * z)


def _batches(mesh: TriMesh) -> Iterator[tuple[NDArray[np.float64], NDArray[np.float64]]]:
    """Corners and double-area normals, a bounded number of faces at a time."""
    for start in range(0, len(mesh.faces), FACES_AT_ONCE):
        corners = mesh.vertices[mesh.faces[start : start + FACES_AT_ONCE]]
        yield corners, np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
