"""A tree of boxes over triangles, for finding those that are near each other.

A linear bounding volume hierarchy (Lauterbach et al. 2009): triangles sorted along a Morton curve, leaves of a few
neighbours, and a complete binary tree of boxes over the leaves, stored as a heap. The few triangles that are much
larger than most, such as those of a flat back, have leaves of their own, so that they do not swell the boxes of others.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.trimesh import TriMesh

LEAF_SIZE = 4
LARGE_TIMES = 16.0


class BoundsTree(NamedTuple):
    """Boxes over the faces of a mesh, as kernels read them.

    Attributes:
        order: int64 (M,), faces in the order of the leaves.
        low, high: float32 (2 * leaves - 1, 3), corners of the boxes, rounded outwards; children of i are 2i+1, 2i+2.
        first_leaf: index of the first leaf box.
    """

    order: NDArray[np.int64]
    low: NDArray[np.float32]
    high: NDArray[np.float32]
    first_leaf: int


def build_tree(mesh: TriMesh) -> BoundsTree:
    """The tree over all faces of `mesh`."""
    faces = mesh.faces.astype(np.int64)
    lowest, highest = mesh.vertices.min(axis=0), mesh.vertices.max(axis=0)
    scale = (2**20 - 1) / max(float((highest - lowest).max()), 1e-12)
    codes, reach = _morton(mesh.vertices, faces, lowest, scale)
    codes[reach > LARGE_TIMES * reach.mean()] += 1 << 61
    order = np.argsort(codes, kind="stable")
    leaves = 1
    while leaves * LEAF_SIZE < len(faces):
        leaves *= 2
    low = np.full((2 * leaves - 1, 3), np.inf, dtype=np.float32)
    high = np.full((2 * leaves - 1, 3), -np.inf, dtype=np.float32)
    _fill(face_boxes(mesh.vertices, faces, order), low, high, leaves - 1)
    return BoundsTree(order, low, high, leaves - 1)


@compiled
def face_boxes(vertices, faces, order):
    """Boxes of faces in the order of the leaves, rounded outwards: float32 (M, 6), the lower corner first."""
    boxes = np.empty((len(order), 6), dtype=np.float32)
    for i in range(len(order)):
        f = order[i]
        for axis in range(3):
            a, b, c = vertices[faces[f, 0], axis], vertices[faces[f, 1], axis], vertices[faces[f, 2], axis]
            boxes[i, axis] = _rounded(min(a, b, c), -1.0)
            boxes[i, 3 + axis] = _rounded(max(a, b, c), 1.0)
    return boxes


@compiled
def _rounded(value, towards):
    """As a float32 that lies on one side of the value, if it does not hold it."""
    near = np.float32(value)
    if (near - value) * towards >= 0:
        return near
    return np.nextafter(near, np.float32(towards * np.inf))


@compiled
def _morton(vertices, faces, lowest, scale):
    codes = np.empty(len(faces), dtype=np.int64)
    reach = np.zeros(len(faces), dtype=np.float64)
    for f in range(len(faces)):
        code = 0
        for axis in range(3):
            a, b, c = vertices[faces[f, 0], axis], vertices[faces[f, 1], axis], vertices[faces[f, 2], axis]
            reach[f] = max(reach[f], max(a, b, c) - min(a, b, c))
            middle = (a + b + c) / 3
            code |= _spread(int((middle - lowest[axis]) * scale)) << axis
        codes[f] = code
    return codes, reach


@compiled
def _spread(cell):
    """The 20 lowest bits of a whole number, each three places from the next."""
    cell = (cell | (cell << 32)) & 0x1F00000000FFFF
    cell = (cell | (cell << 16)) & 0x1F0000FF0000FF
    cell = (cell | (cell << 8)) & 0x100F00F00F00F00F
    cell = (cell | (cell << 4)) & 0x10C30C30C30C30C3
    return (cell | (cell << 2)) & 0x1249249249249249


@compiled
def _fill(boxes, low, high, first_leaf):
    for i in range(len(boxes)):
        leaf = first_leaf + i // LEAF_SIZE
        for axis in range(3):
            low[leaf, axis] = min(low[leaf, axis], boxes[i, axis])
            high[leaf, axis] = max(high[leaf, axis], boxes[i, 3 + axis])
    for node in range(first_leaf - 1, -1, -1):
        for axis in range(3):
            low[node, axis] = min(low[2 * node + 1, axis], low[2 * node + 2, axis])
            high[node, axis] = max(high[2 * node + 1, axis], high[2 * node + 2, axis])
