"""Edge collapse that keeps vertices where they are: meshoptimizer's, called so that it works on a mesh of ours."""

import ctypes
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import meshoptimizer
import numpy as np
from meshoptimizer._loader import lib
from numpy.typing import NDArray

from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.trimesh import TriMesh

LARGEST_ERROR = 1e30
WORTH_HALVING = 200_000

_Vertices = NDArray[np.int64]

_collapse = ctypes.CFUNCTYPE(
    ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_void_p, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_void_p, ctypes.c_size_t,
    ctypes.c_void_p, ctypes.c_size_t, ctypes.c_float, ctypes.c_uint, ctypes.c_void_p,
)(("meshopt_simplifyWithAttributes", lib))  # fmt: skip


def collapse(
    mesh: TriMesh, triangles: int, error: float = np.inf, locked: NDArray[np.bool_] | None = None
) -> tuple[TriMesh, _Vertices]:
    """Edges collapsed down to `triangles`, or until the estimated error would pass `error` mm.

    Open borders and the vertices that are `locked`, bool (N,), stay. Also gives which vertex of the mesh each vertex of
    the result is, int64, rising.
    """
    middle = (mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2
    points = np.ascontiguousarray(mesh.vertices - middle, dtype=np.float32)
    indices = np.ascontiguousarray(mesh.faces, dtype=np.uint32).ravel()
    kept = np.empty_like(indices)
    attributes, weights = np.zeros((len(points), 1), dtype=np.float32), np.zeros(1, dtype=np.float32)
    lock = np.zeros(len(points), dtype=np.uint8) if locked is None else locked.astype(np.uint8)
    # Called without the package's wrapper, which does not tell ctypes the types of this function's arguments.
    count = _collapse(
        _pointer(kept),
        _pointer(indices),
        indices.size,
        _pointer(points),
        len(points),
        points.strides[0],
        _pointer(attributes),
        attributes.strides[0],
        _pointer(weights),
        1,
        _pointer(lock),
        3 * triangles,
        min(error, LARGEST_ERROR),
        meshoptimizer.SIMPLIFY_LOCK_BORDER | meshoptimizer.SIMPLIFY_ERROR_ABSOLUTE,
        None,
    )
    return drop_unused(mesh, kept[:count].reshape(-1, 3))


def collapse_in_halves(mesh: TriMesh, triangles: int) -> TriMesh:
    """About `triangles` triangles, both halves of a large mesh at once; along the cut between them, edges stay."""
    if len(mesh.faces) < WORTH_HALVING:
        return collapse(mesh, triangles)[0]
    axis = int(np.ptp(mesh.vertices, axis=0).argmax())
    places = mesh.vertices[mesh.faces[:, 0], axis]
    left = places < np.median(places)
    share = triangles / len(mesh.faces)

    def half(faces: NDArray[np.uint32]) -> NDArray[np.int64]:
        part, of_mesh = drop_unused(mesh, faces)
        lighter, of_part = collapse(part, int(share * len(faces)))
        return of_mesh[of_part][lighter.faces]

    with ThreadPoolExecutor(max_workers=2) as threads:
        halves = list(threads.map(half, (mesh.faces[left], mesh.faces[~left])))
    return drop_unused(mesh, np.vstack(halves))[0]


def _pointer(array: NDArray[Any]) -> int:
    return int(array.ctypes.data)
