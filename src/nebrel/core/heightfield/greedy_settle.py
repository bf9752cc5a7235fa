"""Vertices of a triangulated grid moved up or down so that the samples lie about as far over it as under it.

A triangle between samples of a round form is off to one side only. With its corners moved by half of that, it is half
as far off, so fewer triangles keep the same tolerance.
"""

import numpy as np

from nebrel.core.heightfield.greedy_scan import corners_of, row_between, slants_of, slopes_of
from nebrel.core.jit import compiled

# How much further than the tolerance samples may be before vertices are moved, and how often they are.
LOOSER = 1.25
SWEEPS = 2
# Of the tolerance: how far vertices may leave their samples, and how true a triangle is whose corners stay.
MOST_SHARE, TRUE_SHARE = 0.99, 1e-3
CORNERS = 3


@compiled
def settle(target, first, mesh):
    """Move the vertices from number `first` on, which lie at samples, and have all triangles looked at again.

    Every one goes by the middle of what the samples of the triangles round it are off, but no further from its own than
    `target.bound`. The lowest and highest that counts stay, for the size of the whole, and so does what is flat.
    """
    columns, rows, levels, _, corners, _, _, _, _, place, pending, counts = mesh
    vertices, triangles, fine = counts[0], counts[1], target.fine
    most = np.float32(MOST_SHARE) * target.bound
    lowest, highest = np.nanmin(target.wanted), np.nanmax(target.wanted)
    above, below = np.empty(vertices, dtype=np.float32), np.empty(vertices, dtype=np.float32)
    stays = np.zeros(vertices, dtype=np.bool_)
    stays[:first] = True
    for sweep in range(SWEEPS):
        above[:], below[:] = 0, 0
        for triangle in range(triangles):
            a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
            if stays[a] and stays[b] and stays[c]:
                continue
            over, under, samples = _off(target.wanted, fine, triangle, columns, rows, levels, corners)
            true = samples > CORNERS and over - under <= np.float32(TRUE_SHARE) * target.bound
            for corner in (a, b, c):
                above[corner], below[corner] = max(above[corner], over), min(below[corner], under)
                stays[corner] = stays[corner] or (sweep == 0 and true)
        for vertex in range(first, vertices):
            own = target.heights[rows[vertex] // fine, columns[vertex] // fine]
            if not stays[vertex] and lowest < own < highest:
                moved = levels[vertex] + np.float32(0.5) * (above[vertex] + below[vertex])
                levels[vertex] = min(max(moved, own - most, lowest), own + most, highest)
    counts[2], counts[3] = triangles, 0
    for triangle in range(triangles):
        place[triangle], pending[triangle] = -2, triangle


@compiled
def _off(wanted, fine, triangle, columns, rows, levels, corners):
    """How far samples lie over a triangle at most, how far under it, below 0, and how many there are."""
    a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
    ax, ay, bx, by, cx, cy = corners_of(a, b, c, columns, rows, fine)
    za, zb, zc = np.float64(levels[a]), np.float64(levels[b]), np.float64(levels[c])
    slope_x, slope_y = slopes_of(ax, ay, bx, by, cx, cy, zb - za, zc - za)
    step, slants = np.float32(slope_x), slants_of(ax, ay, bx, by, cx, cy)
    over, under, samples = np.float32(0), np.float32(0), 0
    for y in range(int(np.ceil(min(ay, by, cy))), int(np.floor(max(ay, by, cy))) + 1):
        first, last = row_between(ax, ay, bx, by, cx, cy, slants, y)
        base = np.float32(za + slope_y * (y - ay) + slope_x * (first - ax))
        for i in range(last - first + 1):
            # Of free samples this is NaN, which is neither over nor under.
            off = wanted[y, first + i] - (base + step * np.float32(i))
            over = off if off > over else over
            under = off if off < under else under
        samples += last - first + 1
    return over, under, samples
