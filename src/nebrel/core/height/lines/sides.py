"""Heights on either side of lines, and which samples they are asked of."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

# Heights beside a line go by samples within so many of it, nearer ones more; slopes are held a little.
WINDOW_PX, NEARER_PX, HELD = 2, 1.3, 0.03
_SIDE = 2 * WINDOW_PX + 1
# Heights go on by so much of what they span there.
BEYOND = 0.25
# Samples that touch a jump count where they are no further from the plane of the others than so often their spread,
# and a trace of all heights.
FEWEST_INNER, AGREE, TRACE = 4, 3.0, 0.002
# How near to a line a sample may lie on the wrong side of it or on its slope, and how near to it samples are free.
BESIDE_PX, ON_LINE_PX = 1.5, 0.1
# Of the way from its own side to the other, what makes a sample one on the slope between them.
ON_SLOPE = 0.1
# Squares of samples that a line passes have one so near to it.
PASSED_PX = 0.75
_Points = NDArray[np.float64]
_Floats = NDArray[np.float32]


class Ground(NamedTuple):
    """Heights whose jumps lie between neighbours.

    Attributes:
        heights: float32 (H, W) mm.
        across, down: bool (H, W), whether there is a jump to the next sample in the row, and in the column.
        low, high: the least and the largest height, mm.
    """

    heights: _Floats
    across: NDArray[np.bool_]
    down: NDArray[np.bool_]
    low: float
    high: float


def heights_beside(ground: Ground, places: _Points, samples: NDArray[np.int64]) -> _Points:
    """What the surface on one side of a line comes to at places, float64 (N,) mm.

    A plane of weighted least squares through the samples around each place that hold together with the given one; so
    every side goes on as it does before the line.

    Args:
        ground: the heights.
        places: float64 (N, 2), column and row.
        samples: int64 (N,), the sample on that side next to each, by number.
    """
    trace = TRACE * (ground.high - ground.low)
    found = _planes(ground.heights, ground.across, ground.down, places, samples, trace)
    return np.clip(found, ground.low, ground.high)


def near_lines(
    heights: _Floats, starts: _Points, ends: _Points, beside: _Points
) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Samples that nothing is asked of, and samples beside which a line passes, bool (H, W) each.

    Nothing is asked of those on lines, those that lie on the other side of one than they belong to, and those that are
    left of the slope of a jump.

    Args:
        heights: float32 (H, W) mm.
        starts, ends: float64 (K, 2), column and row of the pieces of lines.
        beside: float64 (K, 2, 2) mm, of every piece at its start and at its end the heights to the left and right, as
            seen with Y upwards.
    """
    nearest = np.full(heights.shape, np.inf, dtype=np.float32)
    square = np.zeros(heights.shape, dtype=np.float32)
    free = np.zeros(heights.shape, dtype=np.bool_)
    _look(heights, starts, ends, beside, nearest, square, free)
    return free, nearest < PASSED_PX


@compiled
def _planes(heights, across, down, places, samples, trace):
    rows, columns = heights.shape
    found = np.empty(len(places))
    waiting = np.empty((_SIDE * _SIDE, 2), dtype=np.int64)
    near, used = np.empty((_SIDE * _SIDE, 4)), np.empty(_SIDE * _SIDE, dtype=np.bool_)
    for i in range(len(places)):
        sy, sx = samples[i] // columns, samples[i] % columns
        # The window lies about the sample, so that it holds it however far the line has been moved.
        seen = np.zeros((_SIDE, _SIDE), dtype=np.bool_)
        seen[WINDOW_PX, WINDOW_PX] = True
        waiting[0, 0], waiting[0, 1] = sy, sx
        first, last, inner = 0, 1, 0
        base = float(heights[sy, sx])
        while first < last:
            y, x = waiting[first, 0], waiting[first, 1]
            dx, dy = x - places[i, 0], y - places[i, 1]
            near[first, 0], near[first, 1], near[first, 2] = dx, dy, heights[y, x] - base
            near[first, 3] = math.exp(-(dx * dx + dy * dy) / (2 * NEARER_PX * NEARER_PX))
            touches = False
            for k in range(4):
                ny, nx = y + (k == 0) - (k == 1), x + (k == 2) - (k == 3)
                iy, ix = ny - sy + WINDOW_PX, nx - sx + WINDOW_PX
                if ny < 0 or nx < 0 or ny >= rows or nx >= columns:
                    continue
                broken = down[min(y, ny), x] if k < 2 else across[y, min(x, nx)]
                touches = touches or broken
                if broken or iy < 0 or ix < 0 or iy >= _SIDE or ix >= _SIDE or seen[iy, ix]:
                    continue
                seen[iy, ix] = True
                waiting[last, 0], waiting[last, 1] = ny, nx
                last += 1
            used[first] = not touches
            inner += not touches
            first += 1
        if inner >= FEWEST_INNER:
            # Samples at the edge itself may be left of a corner's slope: they count where they agree with those inside.
            level, b, c = _plane(near[:last], used[:last])
            squares = 0.0
            for k in range(last):
                if used[k]:
                    squares += (near[k, 2] - level - b * near[k, 0] - c * near[k, 1]) ** 2
            allowed = AGREE * math.sqrt(squares / inner) + trace
            for k in range(last):
                used[k] = used[k] or abs(near[k, 2] - level - b * near[k, 0] - c * near[k, 1]) <= allowed
        else:
            used[:last] = True
        level, _, _ = _plane(near[:last], used[:last])
        low, high = np.inf, -np.inf
        for k in range(last):
            if used[k]:
                low, high = min(low, near[k, 2]), max(high, near[k, 2])
        reach = BEYOND * (high - low)
        found[i] = base + min(max(level, low - reach), high + reach)
    return found


@compiled
def _plane(near, used):
    """Height at the origin, and slopes held a little towards 0, of the plane of weighted least squares."""
    m, mx, my, xx, xy, yy, z0, zx, zy = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for k in range(len(near)):
        if used[k]:
            dx, dy, z, w = near[k, 0], near[k, 1], near[k, 2], near[k, 3]
            m += w
            mx += w * dx
            my += w * dy
            xx += w * dx * dx
            xy += w * dx * dy
            yy += w * dy * dy
            z0 += w * z
            zx += w * z * dx
            zy += w * z * dy
    xx, yy = xx - mx * mx / m + HELD * m, yy - my * my / m + HELD * m
    xy -= mx * my / m
    zx, zy = zx - z0 * mx / m, zy - z0 * my / m
    det = xx * yy - xy * xy
    b, c = (zx * yy - zy * xy) / det, (zy * xx - zx * xy) / det
    return (z0 - b * mx - c * my) / m, b, c


@compiled
def _look(heights, starts, ends, beside, nearest, square, free):
    rows, columns = heights.shape
    for k in range(len(starts)):
        ax, ay, bx, by = starts[k, 0], starts[k, 1], ends[k, 0], ends[k, 1]
        ux, uy = bx - ax, by - ay
        length = math.sqrt(ux * ux + uy * uy)
        for y in range(max(int(min(ay, by) - BESIDE_PX), 0), min(int(max(ay, by) + BESIDE_PX) + 2, rows)):
            for x in range(max(int(min(ax, bx) - BESIDE_PX), 0), min(int(max(ax, bx) + BESIDE_PX) + 2, columns)):
                t = min(max(((x - ax) * ux + (y - ay) * uy) / (length * length), 0.0), 1.0)
                away = np.float32(math.sqrt((ax + t * ux - x) ** 2 + (ay + t * uy - y) ** 2))
                beyond = ux * (y - ay) - uy * (x - ax)
                stands = np.float32(abs(beyond) / length)
                # At a corner both pieces are as near; the one that it stands more squarely over tells the side.
                if away > BESIDE_PX or away > nearest[y, x] or (away == nearest[y, x] and stands <= square[y, x]):
                    continue
                nearest[y, x], square[y, x] = away, stands
                left = beside[k, 0, 0] * (1 - t) + beside[k, 1, 0] * t
                right = beside[k, 0, 1] * (1 - t) + beside[k, 1, 1] * t
                own, other = (left, right) if beyond < 0 else (right, left)
                gone = (heights[y, x] - own) / (other - own) if other != own else 0.0
                free[y, x] = away < ON_LINE_PX or gone > ON_SLOPE
