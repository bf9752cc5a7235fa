"""Regions on a grid of samples."""

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.jit import compiled
from nebrel.core.region.rings import following, rings_of

# Outlines along the border of the grid hold the samples there.
GROWN = 1 + 1e-7


def raster_of(region: MultiPolygon, shape: tuple[int, ...], pitch: float) -> NDArray[np.bool_]:
    """Which samples lie inside a region or on the border of the grid along it, bool (H, W), top row first.

    Args:
        region: mm; the lower left sample lies at the origin.
        shape: rows and columns.
        pitch: mm between samples.
    """
    turns = np.zeros(shape, dtype=np.bool_)
    middle = np.array([shape[1] - 1, shape[0] - 1]) / 2
    rings = rings_of(region)
    if rings:
        places = (np.concatenate(rings) / pitch - middle) * GROWN
        after = following([len(ring) for ring in rings])
        _toggle(places[:, 0] + middle[0], middle[1] - places[:, 1], after, turns)
    return np.logical_xor.accumulate(turns, axis=1)


@compiled
def _toggle(x, y, after, turns):
    """Mark, in every row, the first sample to the right of each crossing of outlines; `after` is the next corner."""
    rows, columns = turns.shape
    for i in range(len(x)):
        j = after[i]
        low, high = min(y[i], y[j]), max(y[i], y[j])
        if low == high:
            continue
        slope = (x[j] - x[i]) / (y[j] - y[i])
        for row in range(max(0, int(np.ceil(low))), min(rows - 1, int(np.ceil(high)) - 1) + 1):
            column = int(np.ceil(x[i] + (row - y[i]) * slope - 1e-9))
            if column < columns:
                turns[row, max(0, column)] ^= True
