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
    _fill(mesh.vertices, faces, order, low, high, leaves - 1)
    return BoundsTree(order, low, high, leaves - 1)


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
            cell = int((middle - lowest[axis]) * scale)
            for bit in range(20):
                code |= ((cell >> bit) & 1) << (3 * bit + axis)
        codes[f] = code
    return codes, reach


@compiled
def _fill(vertices, faces, order, low, high, first_leaf):
    for i in range(len(order)):
        leaf = first_leaf + i // LEAF_SIZE
        for corner in range(3):
            for axis in range(3):
                at = vertices[faces[order[i], corner], axis]
                low[leaf, axis] = min(low[leaf, axis], np.nextafter(np.float32(at), np.float32(-np.inf)))
                high[leaf, axis] = max(high[leaf, axis], np.nextafter(np.float32(at), np.float32(np.inf)))
    for node in range(first_leaf - 1, -1, -1):
        for axis in range(3):
            low[node, axis] = min(low[2 * node + 1, axis], low[2 * node + 2, axis])
            high[node, axis] = max(high[2 * node + 1, axis], high[2 * node + 2, axis])
