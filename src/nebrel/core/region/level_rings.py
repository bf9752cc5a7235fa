"""Where samples pass a level: rings between the middles of pixels, by marching squares.

The way of Lorensen and Cline (1987) in the plane: in every square of four samples the ring enters where the rim passes
from outside to inside and leaves where it passes back. Written out here because the package that has it first makes
three arrays of doubles as large as the picture, and takes eight times as long.
"""

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

_Points = NDArray[np.float64]
_TURN = 4


def level_rings(values: NDArray[np.float32], level: float) -> list[_Points]:
    """Rings round where `values` reach `level`, float64 (K, 2) in pixels, Y up; what reaches it lies to their left.

    Parts run counter-clockwise, holes clockwise; the first place is not repeated, and no two in turn are the same. The
    lower left corner of the lower left pixel is the origin. What reaches an outermost pixel reaches its outer side.
    Where four samples say both, their mean decides whether what reaches the level holds together.
    """
    low = np.float32(min(float(values.min()), level) - 1.0)
    edged = cv2.copyMakeBorder(values, 1, 1, 1, 1, cv2.BORDER_REPLICATE)
    padded = cv2.copyMakeBorder(edged, 1, 1, 1, 1, cv2.BORDER_CONSTANT, value=float(low))
    rows, columns = values.shape
    points, ends = _rings(padded, np.float64(level))
    placed = np.column_stack([points[:, 0] - 1.5, rows + 1.5 - points[:, 1]])
    np.clip(placed, 0, (columns, rows), out=placed)
    apart = [_distinct(ring) for ring in np.split(placed, ends[:-1])] if len(ends) else []
    return [ring for ring in apart if len(ring) >= 3]


def _distinct(ring: _Points) -> _Points:
    apart = (ring != np.roll(ring, 1, axis=0)).any(axis=1)
    return ring if apart.all() else ring[apart]


@compiled
def _rings(values, level):
    """Places by column and row, ring after ring, and where each ring ends."""
    rows, columns = values.shape
    upright = rows * columns
    following = np.full(2 * upright, -1, dtype=np.int32)
    started, count = _link(values, level, following)
    points, ends = np.empty((count, 2)), np.empty(count, dtype=np.int64)
    made, rings = 0, 0
    for first in started[:count]:
        side = first
        while following[side] >= 0:
            at = side % upright
            row, column = at // columns, at % columns
            here = values[row, column]
            there = values[row, column + 1] if side < upright else values[row + 1, column]
            t = (level - here) / (there - here)
            points[made, 0] = column + (t if side < upright else 0.0)
            points[made, 1] = row + (0.0 if side < upright else t)
            made += 1
            beyond = following[side]
            following[side] = -1
            side = beyond
        if made > (ends[rings - 1] if rings > 0 else 0):
            ends[rings] = made
            rings += 1
    return points[:made], ends[:rings]


@compiled
def _link(values, level, following):
    """Set which side of a square follows on which; sides that lie flat come first, then those that stand."""
    rows, columns = values.shape
    upright = rows * columns
    started, count = np.empty(1024, dtype=np.int64), 0
    inside, sides = np.empty(_TURN, dtype=np.bool_), np.empty(_TURN, dtype=np.int64)
    # Row by row which samples reach the level, and which squares are passed by a rim; most are not.
    here, below = np.empty(columns, dtype=np.uint8), np.empty(columns, dtype=np.uint8)
    passed = np.empty(columns - 1, dtype=np.uint8)
    _reach(values[0], level, below)
    for row in range(rows - 1):
        here, below = below, here
        _reach(values[row + 1], level, below)
        for column in range(columns - 1):
            passed[column] = (
                (here[column] ^ below[column]) | (here[column] ^ here[column + 1]) | (here[column] ^ below[column + 1])
            )
        for column in range(columns - 1):
            if passed[column] == 0:
                continue
            # Counter-clockwise as seen with Y up: down the left, along the foot, up the right, back along the top.
            inside[0], inside[1] = here[column] != 0, below[column] != 0
            foot, top = below[column + 1] != 0, here[column + 1] != 0
            inside[2], inside[3] = foot, top
            sides[0], sides[1] = upright + row * columns + column, (row + 1) * columns + column
            sides[2], sides[3] = upright + row * columns + column + 1, row * columns + column
            together = True
            if inside[0] == inside[2] and inside[1] == inside[3]:
                mean = (
                    np.float64(values[row, column])
                    + values[row + 1, column]
                    + values[row + 1, column + 1]
                    + values[row, column + 1]
                ) / 4
                together = mean >= level
            for k in range(_TURN):
                if inside[k] and not inside[(k + 1) % _TURN]:
                    # It leaves what is inside at side k, and comes back at the next or the last side that leads there.
                    step = 1 if together else _TURN - 1
                    m = (k + step) % _TURN
                    while inside[m] or not inside[(m + 1) % _TURN]:
                        m = (m + step) % _TURN
                    following[sides[k]] = sides[m]
                    if count == len(started):
                        longer = np.empty(2 * count, dtype=np.int64)
                        longer[:count] = started
                        started = longer
                    started[count] = sides[k]
                    count += 1
    return started, count


@compiled
def _reach(row, level, reached):
    for column in range(len(row)):
        reached[column] = row[column] >= level
