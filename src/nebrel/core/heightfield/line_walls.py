"""Upright walls between the two sides of lines."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.greedy_lines import Cut
from nebrel.core.jit import compiled

# At no node do more pieces meet.
MOST_AT_A_NODE = 8


def walls_along(cut: Cut, levels: NDArray[np.float32]) -> NDArray[np.int32]:
    """Triangles of the walls, int32 (F, 3), counter-clockwise as seen from outside with Y upwards.

    A wall is as high as both sides of a piece are apart at its start and its end. Where further pieces meet there, its
    upright sides are cut at every height that meets them, so that all walls share their corners.

    Args:
        cut: what became of lines.
        levels: float32 (N,) mm, of the vertices; one side of a piece is nowhere below the other.
    """
    faces = np.empty((2 * MOST_AT_A_NODE * len(cut.ends), 3), dtype=np.int32)
    return np.asarray(faces[: _walls(cut.ends, cut.twin, cut.first, levels, faces)])


@compiled
def _walls(ends, twin, first, levels, faces):
    made = 0
    at_start, at_end = np.empty(MOST_AT_A_NODE, dtype=np.int32), np.empty(MOST_AT_A_NODE, dtype=np.int32)
    for k in range(len(ends)):
        left, right = ends[k, 0], ends[k, 1]
        falls_left = levels[left[0]] < levels[right[0]] or levels[left[1]] < levels[right[1]]
        low, high = (left, right) if falls_left else (right, left)
        starts = _upright(first[k, 0], low[0], high[0], twin, levels, at_start)
        stops = _upright(first[k, 1], low[1], high[1], twin, levels, at_end)
        i, j = 0, 0
        while i < starts - 1 or j < stops - 1:
            ahead = j < stops - 1 and (i == starts - 1 or levels[at_end[j + 1]] <= levels[at_start[i + 1]])
            further = at_end[j + 1] if ahead else at_start[i + 1]
            one, two = at_start[i], at_end[j]
            faces[made, 0] = two if falls_left else one
            faces[made, 1] = one if falls_left else two
            faces[made, 2] = further
            made += 1
            if ahead:
                j += 1
            else:
                i += 1
    return made


@compiled
def _upright(vertex, low, high, twin, levels, found):
    """The vertices at a node from the lower to the higher one, rising; gives how many they are."""
    count = 0
    while vertex >= 0:
        level = levels[vertex]
        if levels[low] <= level <= levels[high]:
            at = count
            while at > 0 and levels[found[at - 1]] > level:
                found[at] = found[at - 1]
                at -= 1
            found[at] = vertex
            count += 1
        vertex = twin[vertex]
    return count
