"""A mesh seen from above, as heights over a grid."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height import HeightField
from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh


def heights_from_above(mesh: TriMesh, longest_px: int) -> HeightField:
    """The highest place of the mesh over every sample of a grid, `longest_px` samples on the longer side.

    Args:
        mesh: its lowest corner at the origin, mm; at least one face.
        longest_px: at least 2.

    Returns:
        Heights over z = 0, blank where there is nothing.
    """
    width, depth = (max(float(side), 1e-6) for side in mesh.vertices.max(axis=0)[:2])
    pitch = max(width, depth) / (longest_px - 1)
    rows, columns = max(2, round(depth / pitch) + 1), max(2, round(width / pitch) + 1)
    pitch = width / (columns - 1)
    heights = np.full((rows, columns), -1.0, dtype=np.float32)
    places = mesh.vertices / np.array([pitch, depth / (rows - 1), 1.0])
    places[:, 1] = rows - 1 - places[:, 1]
    raise_on_grid(places, mesh.faces, heights)
    there = heights >= 0
    return HeightField(np.where(there, heights, np.float32(0)), there.astype(np.float32), pitch)


def heights_over(mesh: TriMesh, box: tuple[float, float, float, float], longest_px: int) -> NDArray[np.float64]:
    """The highest place of a mesh over every sample of a grid on a box.

    Args:
        mesh: anywhere, mm.
        box: left, low, right and high of what is looked at, mm.
        longest_px: samples on its longer side, at least 2.

    Returns:
        float64 (H, W) mm, the top row first; minus infinity where there is nothing.
    """
    left, low, right, high = box
    width, depth = max(right - left, 1e-6), max(high - low, 1e-6)
    pitch = max(width, depth) / (longest_px - 1)
    rows, columns = max(2, round(depth / pitch) + 1), max(2, round(width / pitch) + 1)
    heights = np.full((rows, columns), -np.inf)
    places = (mesh.vertices - (left, low, 0.0)) / (width / (columns - 1), depth / (rows - 1), 1.0)
    places[:, 1] = rows - 1 - places[:, 1]
    raise_on_grid(places, mesh.faces, heights)
    return heights


@compiled
def raise_on_grid(places, faces, heights):
    rows, columns = heights.shape
    for f in range(len(faces)):
        a, b, c = places[faces[f, 0]], places[faces[f, 1]], places[faces[f, 2]]
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if area == 0:
            continue
        low_y, high_y = (
            max(0, int(np.ceil(min(a[1], b[1], c[1]) - 1e-6))),
            min(rows - 1, int(np.floor(max(a[1], b[1], c[1]) + 1e-6))),
        )
        low_x, high_x = (
            max(0, int(np.ceil(min(a[0], b[0], c[0]) - 1e-6))),
            min(columns - 1, int(np.floor(max(a[0], b[0], c[0]) + 1e-6))),
        )
        for y in range(low_y, high_y + 1):
            for x in range(low_x, high_x + 1):
                wb = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) / area
                wc = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / area
                if wb >= -1e-6 and wc >= -1e-6 and wb + wc <= 1 + 1e-6:
                    heights[y, x] = max(heights[y, x], a[2] + wb * (b[2] - a[2]) + wc * (c[2] - a[2]))
