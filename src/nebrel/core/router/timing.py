"""How long a machine takes for its moves: trapezoids of speed that look ahead, slowed down at corners.

At a corner a machine passes as fast as a circle would let it that leaves the corner by no more than the deviation it is
set to; between corners it speeds up and slows down evenly.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.router.interpreter import Moves


@dataclass(frozen=True)
class Drive:
    """How a machine moves.

    Attributes:
        acceleration: mm/s².
        corner_deviation: mm by which it may leave a corner.
        rapid: mm a minute.
    """

    acceleration: float = 400.0
    corner_deviation: float = 0.02
    rapid: float = 3000.0


def seconds_of(moves: Moves, drive: Drive) -> NDArray[np.float64]:
    """Seconds that every move takes, float64 (N,)."""
    steps = np.diff(moves.places, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    speeds = np.where(moves.rapid, drive.rapid, moves.feed) / 60
    out = np.zeros(len(lengths))
    ways = steps / np.where(lengths > 0, lengths, 1.0)[:, np.newaxis]
    going = lengths > 0
    out[going] = _seconds(
        lengths[going], np.ascontiguousarray(ways[going]), speeds[going], drive.acceleration, drive.corner_deviation
    )
    return out


def _seconds(
    lengths: NDArray[np.float64],
    ways: NDArray[np.float64],
    speeds: NDArray[np.float64],
    acceleration: float,
    deviation: float,
) -> NDArray[np.float64]:
    if not len(lengths):
        return lengths
    return trapezoids(lengths, ways, speeds, acceleration, deviation)


@compiled
def trapezoids(lengths, ways, speeds, acceleration, deviation):
    count = len(lengths)
    entry = np.zeros(count + 1)
    for i in range(1, count):
        cosine = -(ways[i - 1, 0] * ways[i, 0] + ways[i - 1, 1] * ways[i, 1] + ways[i - 1, 2] * ways[i, 2])
        slower = min(speeds[i - 1], speeds[i])
        if cosine > 0.999999:
            entry[i] = 0.0
        elif cosine < -0.999999:
            entry[i] = slower
        else:
            half_sine = np.sqrt(0.5 * (1 - cosine))
            entry[i] = min(slower, np.sqrt(acceleration * deviation * half_sine / (1 - half_sine)))
    for i in range(count - 1, 0, -1):
        entry[i] = min(entry[i], np.sqrt(entry[i + 1] ** 2 + 2 * acceleration * lengths[i]))
    out = np.empty(count)
    for i in range(count):
        entry[i + 1] = min(entry[i + 1], np.sqrt(entry[i] ** 2 + 2 * acceleration * lengths[i]))
        begins, ends, speed = entry[i], entry[i + 1], speeds[i]
        up = (speed * speed - begins * begins) / (2 * acceleration)
        down = (speed * speed - ends * ends) / (2 * acceleration)
        if up + down <= lengths[i]:
            out[i] = (speed - begins) / acceleration + (speed - ends) / acceleration + (lengths[i] - up - down) / speed
        else:
            peak = np.sqrt(acceleration * lengths[i] + (begins * begins + ends * ends) / 2)
            out[i] = (2 * peak - begins - ends) / acceleration
    return out
