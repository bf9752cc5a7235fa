"""Distances along a surface from the edge of a mask: the eikonal equation solved by sweeps (Zhao 2005)."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

FAR = 1e12
ROUNDS = 12


def distances_from_edge(within: NDArray[np.bool_], slowness: NDArray[np.float64], pitch: float) -> NDArray[np.float64]:
    """How far every sample lies from the edge of a mask, measured along the surface, float64 (H, W) mm; 0 beside it.

    Args:
        within: bool (H, W).
        slowness: float64 (H, W), mm along the surface for every mm on the plan, at least 1.
        pitch: mm between samples.
    """
    away = np.where(within, FAR, 0.0)
    sweep_distances(away, np.ascontiguousarray(slowness * pitch), ROUNDS)
    return away


@compiled
def sweep_distances(away, cost, rounds):
    rows, columns = away.shape
    for number in range(rounds * 4):
        up, over = number % 2 == 0, (number // 2) % 2 == 0
        changed = False
        for i in range(rows):
            row = i if up else rows - 1 - i
            for j in range(columns):
                column = j if over else columns - 1 - j
                here = away[row, column]
                if here == 0:
                    continue
                above = min(away[max(row - 1, 0), column], away[min(row + 1, rows - 1), column])
                beside = min(away[row, max(column - 1, 0)], away[row, min(column + 1, columns - 1)])
                step = cost[row, column]
                if abs(above - beside) >= step:
                    found = min(above, beside) + step
                else:
                    found = 0.5 * (above + beside + np.sqrt(2 * step * step - (above - beside) ** 2))
                if found < here - 1e-9:
                    away[row, column] = found
                    changed = True
        if not changed and number >= 4:
            break
