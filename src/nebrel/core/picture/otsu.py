"""The value that parts others best into low and high ones."""

import numpy as np
from numpy.typing import NDArray


def best_threshold(values: NDArray[np.floating], bins: int) -> float:
    """The middle of the bin that parts the histogram of `values` with the largest variance between both parts.

    Otsu, "A Threshold Selection Method from Gray-Level Histograms" (1979). Written out here because loading the package
    that has it takes ten times as long as using it.

    Args:
        values: any shape, not all the same.
        bins: of the histogram between the least and the largest.
    """
    counts, edges = np.histogram(values, bins)
    middles = (edges[:-1] + edges[1:]) / 2
    low = np.cumsum(counts)
    high = np.cumsum(counts[::-1])[::-1]
    low_mean = np.cumsum(counts * middles) / low
    high_mean = np.cumsum((counts * middles)[::-1])[::-1] / high
    between = low[:-1] * high[1:] * (low_mean[:-1] - high_mean[1:]) ** 2
    return float(middles[np.argmax(between)])
