"""What parts values into low and high ones, and what is usual of either."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

FINE = 4096


def best_threshold(values: NDArray[np.floating], bins: int) -> float:
    """The middle of the bin that parts the histogram of `values` with the largest variance between both parts.

    Otsu, "A Threshold Selection Method from Gray-Level Histograms" (1979). Written out here because loading the package
    that has it takes ten times as long as using it.

    Args:
        values: any shape, not all the same.
        bins: of the histogram between the least and the largest.
    """
    (_, counts), _, middles = _histogram(values, bins)
    low = np.cumsum(counts)
    high = np.cumsum(counts[::-1])[::-1]
    low_mean = np.cumsum(counts * middles) / low
    high_mean = np.cumsum((counts * middles)[::-1])[::-1] / high
    between = low[:-1] * high[1:] * (low_mean[:-1] - high_mean[1:]) ** 2
    return float(middles[np.argmax(between)])


def usual_beside(values: NDArray[np.floating], level: float) -> tuple[float, float]:
    """The medians of the values below a level and of those that reach it, to a 4,096th of their range.

    Args:
        values: any shape; some below and some not.
        level: that parts them.
    """
    counts, sums, _ = _histogram(values, FINE, level)
    medians = []
    for side in range(2):
        at = int(np.searchsorted(np.cumsum(counts[side]), counts[side].sum() / 2))
        medians.append(float(sums[side, at] / counts[side, at]))
    return medians[0], medians[1]


def _histogram(
    values: NDArray[np.floating], bins: int, level: float = -np.inf
) -> tuple[NDArray[np.int64], NDArray[np.float64], NDArray[np.float64]]:
    """How many values lie in every bin and their sums, (2, bins), below the level and from it on; the bins' middles."""
    flat = np.ravel(values)
    lowest, highest = float(flat.min()), float(flat.max())
    counts, sums = np.zeros((2, bins), np.int64), np.zeros((2, bins))
    _count(flat, lowest, bins / max(highest - lowest, 1e-300), level, counts, sums)
    return counts, sums, lowest + (np.arange(bins) + 0.5) * (highest - lowest) / bins


@compiled
def _count(values, lowest, scale, level, counts, sums):
    """Values that are the same as the one before, as most of a drawing's are, are counted together."""
    last = counts.shape[1] - 1
    start = 0
    for i in range(1, len(values) + 1):
        if i < len(values) and values[i] == values[start]:
            continue
        value, run = values[start], i - start
        side, at = int(value >= level), min(int((value - lowest) * scale), last)
        counts[side, at] += run
        sums[side, at] += run * value
        start = i
