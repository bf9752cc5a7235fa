"""Meshes of some faces, without the vertices that nothing uses."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.trimesh import TriMesh


def drop_unused(mesh: TriMesh, faces: NDArray[Any]) -> tuple[TriMesh, NDArray[np.int64]]:
    """The mesh of `faces`, integers (K, 3) over the mesh's vertices, with their colours.

    Also gives which vertex of the mesh each vertex of the result is, int64 (N,), rising.
    """
    marked = np.zeros(len(mesh.vertices), dtype=bool)
    marked[faces.ravel()] = True
    used: NDArray[np.int64] = np.flatnonzero(marked)
    index = np.cumsum(marked, dtype=np.uint32) - np.uint32(1)
    colours = None if mesh.colours is None else mesh.colours[used]
    return TriMesh(mesh.vertices[used], index[faces], colours), used
