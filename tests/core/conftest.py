"""Height fields whose solids are known by formula."""

from collections.abc import Callable

import numpy as np
import pytest
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.mesh import TriMesh

Surface = Callable[[NDArray[np.float64], NDArray[np.float64]], NDArray[np.float64]]
FieldOf = Callable[..., HeightField]


@pytest.fixture(scope="session")
def field_of() -> FieldOf:
    """A field from a function of x and y in mm, from the lower left corner."""

    def make(surface: Surface, width: float = 40.0, columns: int = 201, rows: int = 151) -> HeightField:
        pitch = width / (columns - 1)
        row, column = np.mgrid[0:rows, 0:columns]
        heights = surface(column * pitch, (rows - 1 - row) * pitch)
        heights = np.broadcast_to(heights, (rows, columns))
        return HeightField(heights.astype(np.float32), np.ones((rows, columns), dtype=np.float32), pitch)

    return make


@pytest.fixture(scope="session")
def box() -> Callable[..., TriMesh]:
    """A box with outward faces."""

    def make(low: tuple[float, float, float] = (0, 0, 0), size: tuple[float, float, float] = (1, 1, 1)) -> TriMesh:
        corners = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=np.float64)
        faces = [
            [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
            [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3],
        ]  # fmt: skip
        return TriMesh(corners * np.array(size) + np.array(low), np.array(faces, dtype=np.uint32))

    return make


@pytest.fixture(scope="session")
def together() -> Callable[..., TriMesh]:
    """Several meshes as one, nothing joined."""

    def make(*meshes: TriMesh) -> TriMesh:
        shifts = np.cumsum([0, *(len(mesh.vertices) for mesh in meshes[:-1])])
        faces = [mesh.faces + np.uint32(shift) for mesh, shift in zip(meshes, shifts, strict=True)]
        return TriMesh(np.vstack([mesh.vertices for mesh in meshes]), np.vstack(faces).astype(np.uint32))

    return make
