"""How far the samples of a sheet are from the triangles over them."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.greedy import GridSurface
from nebrel.core.heightfield.greedy_scan import corners_of, off_plane, plane_through, row_of_triangle
from nebrel.core.jit import compiled


def add_off(
    places: NDArray[np.float32], surface: GridSurface, asked: NDArray[np.bool_], off: NDArray[np.float32]
) -> None:
    """Add to every sample that is `asked` how far the triangle over it is along its normal, the worst of them where
    two meet."""
    _add(places, surface.columns, surface.rows, surface.spots, surface.faces, np.int64(surface.fine), asked, off)


def add_height_off(
    heights: NDArray[np.float32], surface: GridSurface, asked: NDArray[np.bool_], off: NDArray[np.float32]
) -> None:
    """Like `add_off` over an even flat grid, where the normal is upright."""
    levels, fine = surface.levels, np.int64(surface.fine)
    _add_height(heights, surface.columns, surface.rows, levels, surface.faces, fine, asked, off)


@compiled
def _add(places, columns, rows, spots, faces, fine, asked, off):
    here = np.zeros_like(off)
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay, bx, by, cx, cy = corners_of(a, b, c, columns, rows, fine)
        plane = plane_through(spots, a, b, c)
        for y in range(int(np.ceil(min(ay, by, cy))), int(np.floor(max(ay, by, cy))) + 1):
            first, last = row_of_triangle(ax, ay, bx, by, cx, cy, y)
            for x in range(first, last + 1):
                if not asked[y, x] or (x == ax and y == ay) or (x == bx and y == by) or (x == cx and y == cy):
                    continue
                here[y, x] = max(here[y, x], np.float32(off_plane(places, y, x, plane)))
    off += here


@compiled
def _add_height(heights, columns, rows, levels, faces, fine, asked, off):
    here = np.zeros_like(off)
    for f in range(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay, bx, by, cx, cy = corners_of(a, b, c, columns, rows, fine)
        za, zb, zc = np.float64(levels[a]), np.float64(levels[b]), np.float64(levels[c])
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        right = ((zb - za) * (cy - ay) - (zc - za) * (by - ay)) / area
        down = ((zc - za) * (bx - ax) - (zb - za) * (cx - ax)) / area
        for y in range(int(np.ceil(min(ay, by, cy))), int(np.floor(max(ay, by, cy))) + 1):
            first, last = row_of_triangle(ax, ay, bx, by, cx, cy, y)
            for x in range(first, last + 1):
                if not asked[y, x]:
                    continue
                made = za + right * (x - ax) + down * (y - ay)
                here[y, x] = max(here[y, x], np.float32(abs(heights[y, x] - made)))
    off += here
