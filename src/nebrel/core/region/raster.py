"""Regions on a grid of samples."""

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.jit import compiled
from nebrel.core.region.rings import rings_of


def raster_of(region: MultiPolygon, shape: tuple[int, ...], pitch: float) -> NDArray[np.bool_]:
    """Which samples lie inside a region, bool (H, W), top row first.

    Args:
        region: mm; the lower left sample lies at the origin.
        shape: rows and columns.
        pitch: mm between samples.
    """
    turns = np.zeros(shape, dtype=np.bool_)
    for ring in rings_of(region):
        _toggle(ring[:, 0] / pitch, shape[0] - 1 - ring[:, 1] / pitch, turns)
    return np.logical_xor.accumulate(turns, axis=1)


@compiled
def _toggle(x, y, turns):
    """Mark, in every row, the first sample to the right of each crossing of an outline."""
    rows, columns = turns.shape
    for i in range(len(x)):
        j = (i + 1) % len(x)
        low, high = min(y[i], y[j]), max(y[i], y[j])
        if low == high:
            continue
        slope = (x[j] - x[i]) / (y[j] - y[i])
        for row in range(max(0, int(np.ceil(low))), min(rows - 1, int(np.ceil(high)) - 1) + 1):
            column = int(np.ceil(x[i] + (row - y[i]) * slope - 1e-9))
            if column < columns:
                turns[row, max(0, column)] ^= True
