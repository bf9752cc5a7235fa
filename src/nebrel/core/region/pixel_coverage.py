"""How much of every pixel curves cover, exactly but for the chords that they are drawn by."""

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.region.curves import Curve
from nebrel.core.region.rings import following

SAMPLE_PX, FEWEST_SAMPLES, MOST_SAMPLES = 0.25, 4, 400


class Sides(NamedTuple):
    """Closed curves in pixels, Y up; the lower left corner of the lower left pixel is the origin.

    Attributes:
        knots: float64 (N, 3, 2), those of all curves in turn; insides lie to the left.
        after: int64 (N,), for every knot the one that its side leads to.
    """

    knots: NDArray[np.float64]
    after: NDArray[np.int64]


def sides_of(curves: list[Curve], pitch: float) -> Sides:
    """The sides of closed curves in mm, `pitch` to the pixel."""
    after = following([len(curve.knots) for curve in curves])
    return Sides(np.vstack([curve.knots for curve in curves]) / pitch, after)


def pixel_coverage(sides: Sides, shape: tuple[int, ...]) -> NDArray[np.float64]:
    """The share of every pixel of a picture of so many rows and columns that lies inside, float64 (H, W).

    Every chord adds the area between it and the right end of its rows to the pixels that it passes, and its height to
    all that follow in them, as scan converters of typefaces do.
    """
    areas = np.zeros((shape[0], shape[1] + 2))
    add_sides(sides, areas)
    return np.cumsum(areas, axis=1)[:, : shape[1]]


@compiled
def samples_of(knots, i, j):
    """In how many chords the side from knot i to knot j is drawn."""
    length = _apart(knots[i, 1], knots[i, 2]) + _apart(knots[i, 2], knots[j, 0]) + _apart(knots[j, 0], knots[j, 1])
    return min(max(int(length / SAMPLE_PX), FEWEST_SAMPLES), MOST_SAMPLES)


@compiled
def _apart(one, other):
    return math.sqrt((one[0] - other[0]) ** 2 + (one[1] - other[1]) ** 2)


@compiled
def add_sides(sides, areas):
    """Add all sides to differences of areas, float64 (H, W + 2), whose sums along rows are shares."""
    rows, columns = areas.shape[0], areas.shape[1] - 2
    for i in range(len(sides.after)):
        j = sides.after[i]
        a, b, c, d = sides.knots[i, 1], sides.knots[i, 2], sides.knots[j, 0], sides.knots[j, 1]
        straight = a[0] == b[0] and a[1] == b[1] and c[0] == d[0] and c[1] == d[1]
        chords = 1 if straight else samples_of(sides.knots, i, j)
        x0, y0 = min(max(a[0], 0.0), columns), min(max(rows - a[1], 0.0), rows)
        for s in range(1, chords + 1):
            t = s / chords
            b0, b1, b2, b3 = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
            x1 = min(max(b0 * a[0] + b1 * b[0] + b2 * c[0] + b3 * d[0], 0.0), columns)
            y1 = min(max(rows - (b0 * a[1] + b1 * b[1] + b2 * c[1] + b3 * d[1]), 0.0), rows)
            if y0 != y1:
                _add_chord(x0, y0, x1, y1, areas)
            x0, y0 = x1, y1


@compiled
def _add_chord(x0, y0, x1, y1, areas):
    """Rows run downwards and insides lie to the left of a chord seen upwards, so what falls adds."""
    sign = 1.0
    if y0 > y1:
        x0, y0, x1, y1, sign = x1, y1, x0, y0, -1.0
    slope = (x1 - x0) / (y1 - y0)
    x = x0
    for row in range(math.floor(y0), min(math.ceil(y1), areas.shape[0])):
        bottom = min(y1, row + 1)
        signed = sign * (bottom - max(y0, row))
        beyond = x1 if bottom == y1 else x0 + (bottom - y0) * slope
        left, right = max(min(x, beyond), 0.0), min(max(x, beyond), areas.shape[1] - 2.0)
        first, last = math.floor(left), math.floor(right)
        if first == last:
            inside = 1 - ((left + right) / 2 - first)
            areas[row, first] += signed * inside
            areas[row, first + 1] += signed * (1 - inside)
        else:
            # What a column holds: all of the chord's height that lies left of it, and part of what lies within it.
            passed, before, each = 0.0, 0.0, 1 / (right - left)
            for column in range(first, last + 1):
                start, end = max(left, column), min(right, column + 1)
                here = (end - start) * each
                held = passed + here * (column + 1 - (start + end) / 2)
                areas[row, column] += signed * (held - before)
                passed, before = passed + here, held
            areas[row, last + 1] += signed * (1 - before)
        x = beyond
