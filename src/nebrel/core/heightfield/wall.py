"""Flat walls between two edges that run side by side."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled


def triangulate_wall(
    lower_along: NDArray[np.float64],
    lower_up: NDArray[np.float64],
    upper_along: NDArray[np.float64],
    upper_up: NDArray[np.float64],
) -> NDArray[np.int64]:
    """Triangles of the wall between a lower and an upper chain, neither of which gains a vertex.

    Sweep over a monotone polygon (Garey, Johnson, Preparata and Tarjan 1978); no triangle is degenerate.

    Args:
        lower_along, upper_along: float64 (L,) and (U,), strictly rising, with the same first and the same last value.
        lower_up, upper_up: float64 heights; the upper chain lies strictly above the lower one everywhere.

    Returns:
        int64 (L + U - 2, 3); lower vertices are numbered 0 to L-1, upper ones L to L+U-1; counter-clockwise with
        `along` to the right and `up` upwards.
    """
    along = np.concatenate([lower_along, upper_along])
    up = np.concatenate([lower_up, upper_up])
    is_upper = np.arange(len(along)) >= len(lower_along)
    order = np.lexsort((is_upper, along))
    faces = np.empty((len(along) - 2, 3), dtype=np.int64)
    made = _sweep(along, up, is_upper, order, faces)
    if made != len(faces):
        raise ValueError("The chains of a wall touch or cross each other.")
    return faces


@compiled
def _turn(a, b, c, along, up):
    return (along[b] - along[a]) * (up[c] - up[a]) - (up[b] - up[a]) * (along[c] - along[a])


@compiled
def _sweep(along, up, is_upper, order, faces):
    stack = np.empty(len(order), dtype=np.int64)
    stack[0], stack[1] = order[0], order[1]
    size, made = 2, 0
    for i in range(2, len(order)):
        here = order[i]
        if is_upper[here] == is_upper[stack[size - 1]]:
            while size >= 2:
                a, b = stack[size - 2], stack[size - 1]
                turn = _turn(a, b, here, along, up)
                if is_upper[here]:
                    turn = -turn
                if turn <= 0:
                    break
                if made == len(faces):
                    return -1
                made = _add(faces, made, a, b, here, is_upper[here])
                size -= 1
        else:
            last = stack[size - 1]
            for j in range(size - 1):
                if made == len(faces):
                    return -1
                made = _add(faces, made, stack[j], stack[j + 1], here, is_upper[last])
            stack[0] = last
            size = 1
        stack[size] = here
        size += 1
    return made


@compiled
def _add(faces, made, a, b, c, clockwise):
    faces[made, 0] = a
    faces[made, 1], faces[made, 2] = (c, b) if clockwise else (b, c)
    return made + 1
