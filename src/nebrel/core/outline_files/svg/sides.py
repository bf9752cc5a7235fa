"""Chains of sides under maps, as loops: files hold tens of thousands of them, most of a few sides each."""

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

MEETING_PX = 1e-9
FLAT_SHARE = 1e-9
_Points = NDArray[np.float64]


@compiled
def is_finite(sides: _Points) -> bool:
    """Whether all control points of sides, float64 (S, 4, 2), are numbers."""
    strange = 0
    for value in sides.flat:
        strange += not math.isfinite(value)
    return strange == 0


@compiled
def is_line(sides: _Points) -> bool:
    """Whether sides, float64 (S, 4, 2), go along one straight line and back, so that they enclose nothing."""
    first_x, first_y = sides[0, 0, 0], sides[0, 0, 1]
    far_x, far_y, farthest = 0.0, 0.0, 0.0
    for at in range(len(sides)):
        for end in range(4):
            x, y = sides[at, end, 0] - first_x, sides[at, end, 1] - first_y
            if x * x + y * y > farthest:
                far_x, far_y, farthest = x, y, x * x + y * y
    across = 0.0
    for at in range(len(sides)):
        for end in range(4):
            x, y = sides[at, end, 0] - first_x, sides[at, end, 1] - first_y
            across = max(across, abs(y * far_x - x * far_y))
    return across <= FLAT_SHARE * max(farthest, 1e-300)


@compiled
def knots_of(sides: _Points, matrix: _Points) -> tuple[_Points, bool]:
    """Knots of a curve along sides, float64 (S, 4, 2), under a map, and whether its ends meet; then it is closed.

    Args:
        sides: each begins where the one before it ends.
        matrix: affine, float64 (3, 3).

    Returns:
        Float64 (N, 3, 2): of every node the handle before it, the node and the handle after it.
    """
    count = len(sides)
    placed = np.empty((count, 4, 2))
    for at in range(count):
        for end in range(4):
            x, y = sides[at, end, 0], sides[at, end, 1]
            placed[at, end, 0] = x * matrix[0, 0] + y * matrix[0, 1] + matrix[0, 2]
            placed[at, end, 1] = x * matrix[1, 0] + y * matrix[1, 1] + matrix[1, 2]
    first, last = placed[0, 0], placed[count - 1, 3]
    meet = math.hypot(first[0] - last[0], first[1] - last[1]) < MEETING_PX
    knots = np.empty((count if meet else count + 1, 3, 2))
    for axis in range(2):
        for at in range(count):
            knots[at, 1, axis], knots[at, 2, axis] = placed[at, 0, axis], placed[at, 1, axis]
            if at > 0:
                knots[at, 0, axis] = placed[at - 1, 2, axis]
        knots[0, 0, axis] = placed[count - 1, 2, axis] if meet else first[axis]
        if not meet:
            knots[count, 0, axis] = placed[count - 1, 2, axis]
            knots[count, 1, axis], knots[count, 2, axis] = last[axis], last[axis]
    return knots, meet


@compiled
def box_of(knots: _Points) -> tuple[float, float, float, float]:
    """A box round knots and handles, float64 (N, 3, 2), which the curve does not leave: lowest and highest X and Y."""
    low_x = low_y = math.inf
    high_x = high_y = -math.inf
    for at in range(len(knots)):
        for end in range(3):
            x, y = knots[at, end, 0], knots[at, end, 1]
            low_x, low_y = min(low_x, x), min(low_y, y)
            high_x, high_y = max(high_x, x), max(high_y, y)
    return low_x, low_y, high_x, high_y
