"""Parts of a path that lie on a circle about an upright axis, so that a program can say them in one line."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

TRUE = 0.002
CLIMB = 1e-4
SMALLEST, LARGEST = 0.05, 1000.0
FEWEST = 4
MOST_TURN = 5.2
HALF_TURN = 3.0


class Arc(NamedTuple):
    """A part of a path, both ends counted.

    Attributes:
        first, last: places of the path.
        x, y: of its middle, mm.
        clockwise: seen from above.
    """

    first: int
    last: int
    x: float
    y: float
    clockwise: bool


def arcs_in(path: NDArray[np.float64], tolerance: float = TRUE, most_turn: float = MOST_TURN) -> list[Arc]:
    """Arcs that no place of the path, and no place between two of them, is farther from than `tolerance`.

    Args:
        path: float64 (N, 3) mm.
        tolerance: mm.
        most_turn: of one arc, radians.
    """
    if len(path) < FEWEST:
        return []
    # Straight ways and sharp corners begin no arc: found for all places at once.
    steps = np.diff(path[:, :2], axis=0)
    turn = steps[:-1, 0] * steps[1:, 1] - steps[:-1, 1] * steps[1:, 0]
    lengths = np.hypot(*steps.T)
    bends = np.abs(turn) > 1e-9 * np.maximum(lengths[:-1] * lengths[1:], 1e-12)
    if not bends.any():
        return []
    found = find_arcs(np.ascontiguousarray(path), bends, tolerance, most_turn)
    return [Arc(int(first), int(last), float(x), float(y), bool(turned < 0)) for first, last, x, y, turned in found]


@compiled
def find_arcs(path, bends, tolerance, most_turn):
    count = len(path)
    out = np.empty((count // (FEWEST - 1) + 1, 5))
    number = 0
    i = 0
    while i < count - FEWEST + 1:
        if not bends[i]:
            i += 1
            continue
        good = -1
        x = y = turned = 0.0
        reach = FEWEST - 1
        # Twice as far until it is too far, then half way back.
        low, high = i, count
        while i + reach < count:
            fits, cx, cy, turn = on_circle(path, i, i + reach, tolerance, most_turn)
            if not fits:
                high = i + reach
                break
            good, x, y, turned = i + reach, cx, cy, turn
            low = good
            reach *= 2
        if good >= 0:
            high = min(high, count)
            while high - low > 1:
                middle = (low + high) // 2
                fits, cx, cy, turn = on_circle(path, i, middle, tolerance, most_turn)
                if fits:
                    low, good, x, y, turned = middle, middle, cx, cy, turn
                else:
                    high = middle
            out[number, 0], out[number, 1] = i, good
            out[number, 2], out[number, 3], out[number, 4] = x, y, turned
            number += 1
            i = good
        else:
            i += 1
    return out[:number]


@compiled
def on_circle(path, first, last, tolerance, most_turn):
    """Whether places lie on one circle, turning one way and climbing evenly; its middle, and how far it turns."""
    ax, ay = path[first, 0], path[first, 1]
    middle = (first + last) // 2
    bx, by = path[middle, 0] - ax, path[middle, 1] - ay
    cx, cy = path[last, 0] - ax, path[last, 1] - ay
    cross = 2 * (bx * cy - by * cx)
    if abs(cross) < 1e-12:
        return False, 0.0, 0.0, 0.0
    b, c = bx * bx + by * by, cx * cx + cy * cy
    ux, uy = (cy * b - by * c) / cross, (bx * c - cx * b) / cross
    radius = np.sqrt(ux * ux + uy * uy)
    if not SMALLEST <= radius <= LARGEST:
        return False, 0.0, 0.0, 0.0
    x, y = ax + ux, ay + uy
    turn = 0.0
    for j in range(first, last):
        px, py = path[j, 0] - x, path[j, 1] - y
        qx, qy = path[j + 1, 0] - x, path[j + 1, 1] - y
        if abs(np.sqrt(qx * qx + qy * qy) - radius) > tolerance:
            return False, 0.0, 0.0, 0.0
        step = np.arctan2(px * qy - py * qx, px * qx + py * qy)
        if turn * step < 0 or step == 0 or radius * (1 - np.cos(step / 2)) > tolerance:
            return False, 0.0, 0.0, 0.0
        turn += step
        if abs(turn) > most_turn:
            return False, 0.0, 0.0, 0.0
    climb = path[last, 2] - path[first, 2]
    gone = 0.0
    for j in range(first, last):
        px, py = path[j, 0] - x, path[j, 1] - y
        qx, qy = path[j + 1, 0] - x, path[j + 1, 1] - y
        gone += np.arctan2(px * qy - py * qx, px * qx + py * qy)
        if abs(path[first, 2] + climb * gone / turn - path[j + 1, 2]) > CLIMB:
            return False, 0.0, 0.0, 0.0
    return True, x, y, turn
