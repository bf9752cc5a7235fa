"""Corners at the same place become one vertex."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.trimesh import TriMesh


def weld(corners: NDArray[np.float32], colours: NDArray[np.uint8] | None = None) -> TriMesh:
    """The mesh of loose triangles, float32 (M, 3, 3) mm, with corners joined where they agree to the last bit.

    Faces that lose a corner by this stay, so that a check can count them as degenerate. Of corners with different
    `colours`, uint8 (M, 3, 4), the first counts.
    """
    points = np.ascontiguousarray(corners.reshape(-1, 3) + np.float32(0.0))
    index, first = _join(points.view(np.uint32))
    kept = None if colours is None else colours.reshape(-1, 4)[first]
    return TriMesh(vertices=points[first].astype(np.float64), faces=index.reshape(-1, 3), colours=kept)


def weld_vertices(mesh: TriMesh) -> TriMesh:
    """The mesh with vertices joined where they agree to the last bit of a float32, and without those of no face.

    Of vertices with different colours, the first counts.
    """
    points = mesh.vertices.astype(np.float32) + np.float32(0.0)
    index, first = _join(points.view(np.uint32))
    kept = None if mesh.colours is None else mesh.colours[first]
    return drop_unused(TriMesh(points[first].astype(np.float64), mesh.faces, kept), index[mesh.faces])[0]


@compiled
def _join(bits):
    slots = 16
    while slots < 2 * len(bits):
        slots *= 2
    table = np.full(slots, -1, dtype=np.int64)
    first = np.empty(len(bits), dtype=np.int64)
    index = np.empty(len(bits), dtype=np.uint32)
    count = 0
    for i in range(len(bits)):
        hashed = (
            np.uint64(bits[i, 0]) * np.uint64(0x9E3779B97F4A7C15)
            ^ np.uint64(bits[i, 1]) * np.uint64(0xC2B2AE3D27D4EB4F)
            ^ np.uint64(bits[i, 2]) * np.uint64(0x165667B19E3779F9)
        )
        hashed ^= hashed >> np.uint64(29)
        slot = np.int64(hashed & np.uint64(slots - 1))
        while True:
            known = table[slot]
            if known < 0:
                table[slot] = count
                first[count] = i
                index[i] = count
                count += 1
                break
            j = first[known]
            if bits[j, 0] == bits[i, 0] and bits[j, 1] == bits[i, 1] and bits[j, 2] == bits[i, 2]:
                index[i] = known
                break
            slot = (slot + 1) & (slots - 1)
    return index, first[:count]
