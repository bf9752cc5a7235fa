"""Walls that lean, from the lines where they begin."""

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.network import HeightLines
from nebrel.core.jit import compiled

# Beside lines walls are told exactly that far; further out sample follows on sample.
EXACT_PX = 3.0
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
    at_node = np.full(len(lines.places), -np.inf)
    np.maximum.at(at_node, lines.pieces, lines.beside.max(axis=2))
    upper = at_node[lines.pieces][:, :, np.newaxis]
    return replace(lines, beside=np.repeat(upper, 2, axis=2)), heights


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
