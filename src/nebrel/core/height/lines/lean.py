"""Walls that lean, from the lines where they begin."""

import math
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.drawn import FINE
from nebrel.core.height.lines.network import HeightLines
from nebrel.core.jit import compiled

# Beside lines walls are told exactly that far; further out sample follows on sample.
EXACT_PX = 3.0
# A piece is divided where it has fallen by so many samples at least, and by that share of itself at the most.
LEAST_FALL_PX, MOST_FALL = 0.1, 0.9
NOWHERE = np.float32(-1e30)


def lean_from(lines: HeightLines, step: float) -> tuple[HeightLines, NDArray[np.float32]]:
    """Lines whose lower side begins at the height of the upper one, and heights to let walls grow from.

    Args:
        lines: upright walls.
        step: mm that a wall may fall from one sample to the next.

    Returns:
        The lines as the upper edges of walls, and float32 (H, W) mm: the field with what leans beside lines on it;
        `NOWHERE` at samples that nothing is asked of.
    """
    heights = np.where(lines.free, NOWHERE, lines.heights)
    _lean(heights, lines.places[lines.pieces[:, 0]], lines.places[lines.pieces[:, 1]], lines.beside, np.float64(step))
    # Where pieces meet, all walls fall from the highest of what meets there.
    lines = _divided(lines, _highest(lines), step)
    upper = _highest(lines)[lines.pieces][:, :, np.newaxis]
    return replace(lines, beside=np.repeat(upper, 2, axis=2)), heights


def _highest(lines: HeightLines) -> NDArray[np.float64]:
    """The highest of what meets at every node, float64 (N,) mm."""
    found = np.full(len(lines.places), -np.inf)
    np.maximum.at(found, lines.pieces, lines.beside.max(axis=2))
    return found


def _divided(lines: HeightLines, highest: NDArray[np.float64], step: float) -> HeightLines:
    """The same with a node where a piece has fallen from a higher wall that it meets to its own height.

    Without one it would stay above its own wall all the way to its other end.
    """
    places, pieces, beside = list(lines.places), list(lines.pieces), list(lines.beside)
    raised = (highest[lines.pieces] - lines.beside.max(axis=2)) / step
    for k in np.flatnonzero((raised > LEAST_FALL_PX).any(axis=1)):
        (start, end), (at_start, at_end) = lines.pieces[k], lines.beside[k]
        along = lines.places[end] - lines.places[start]
        fallen, rising = raised[k] / float(np.hypot(*along))
        if fallen + rising > MOST_FALL:
            continue
        nodes, heights = [int(start)], [at_start]
        for share, there in ((fallen, raised[k, 0]), (1 - rising, raised[k, 1])):
            if there > LEAST_FALL_PX:
                nodes.append(len(places))
                heights.append(at_start + share * (at_end - at_start))
                places.append(np.round((lines.places[start] + share * along) * FINE) / FINE)
        pairs = list(zip([*nodes, int(end)], [*heights, at_end], strict=True))
        parts = [(np.array([a, b]), np.array([before, after])) for (a, before), (b, after) in pairwise(pairs)]
        pieces[k], beside[k] = parts[0]
        pieces += [piece for piece, _ in parts[1:]]
        beside += [pair for _, pair in parts[1:]]
    return replace(lines, places=np.array(places), pieces=np.array(pieces), beside=np.array(beside))


@compiled
def _lean(heights, starts, ends, beside, step):
    """Raise samples on the lower side of every piece to the wall that falls from its upper one."""
    rows, columns = heights.shape
    for k in range(len(starts)):
        ax, ay, bx, by = starts[k, 0], starts[k, 1], ends[k, 0], ends[k, 1]
        ux, uy = bx - ax, by - ay
        square = ux * ux + uy * uy
        for y in range(max(int(min(ay, by) - EXACT_PX), 0), min(int(max(ay, by) + EXACT_PX) + 2, rows)):
            for x in range(max(int(min(ax, bx) - EXACT_PX), 0), min(int(max(ax, bx) + EXACT_PX) + 2, columns)):
                t = min(max(((x - ax) * ux + (y - ay) * uy) / square, 0.0), 1.0)
                away = math.sqrt((ax + t * ux - x) ** 2 + (ay + t * uy - y) ** 2)
                if away > EXACT_PX:
                    continue
                left = beside[k, 0, 0] * (1 - t) + beside[k, 1, 0] * t
                right = beside[k, 0, 1] * (1 - t) + beside[k, 1, 1] * t
                on_left = ux * (y - ay) - uy * (x - ax) < 0
                if (left < right) == on_left:
                    heights[y, x] = max(heights[y, x], np.float32(max(left, right) - away * step))
