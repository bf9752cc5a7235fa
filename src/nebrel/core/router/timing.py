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


def corner_between(cosine: float, slower: float, drive: Drive) -> float:
    """How fast a machine passes a corner, mm/s.

    Args:
        cosine: of the angle between the way back and the way on.
        slower: the slower of both speeds, mm/s.
        drive: how the machine moves.
    """
    return float(corner_speed(cosine, slower, drive.acceleration, drive.corner_deviation))


@compiled
def corner_speed(cosine, slower, acceleration, deviation):
    """How fast a corner is passed, mm/s; `cosine` of the angle between the way back and the way on."""
    if cosine > 0.999999:
        return 0.0
    if cosine < -0.999999:
        return slower
    half_sine = np.sqrt(0.5 * (1 - cosine))
    return min(slower, np.sqrt(acceleration * deviation * half_sine / (1 - half_sine)))


@compiled
def trapezoids(lengths, ways, speeds, acceleration, deviation):
    count = len(lengths)
    entry = np.zeros(count + 1)
    for i in range(1, count):
        cosine = -(ways[i - 1, 0] * ways[i, 0] + ways[i - 1, 1] * ways[i, 1] + ways[i - 1, 2] * ways[i, 2])
        entry[i] = corner_speed(cosine, min(speeds[i - 1], speeds[i]), acceleration, deviation)
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
