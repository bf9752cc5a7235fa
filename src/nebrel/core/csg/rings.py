"""Outlines as rings of points."""

import numpy as np
from numpy.typing import NDArray


def dense_ring(ring: NDArray[np.float64], step: float) -> NDArray[np.float64]:
    """A closed ring with points between its own, so that none is further than `step` mm from the next.

    Args:
        ring: float64 (N, 2) mm.
        step: mm, above 0.

    Returns:
        float64 (M, 2) mm, M ≥ N.
    """
    after = np.roll(ring, -1, axis=0)
    counts = np.maximum(1, np.ceil(np.linalg.norm(after - ring, axis=1) / step).astype(int))
    edge = np.repeat(np.arange(len(ring)), counts)
    within = np.arange(len(edge)) - np.repeat(np.cumsum(counts) - counts, counts)
    return np.asarray(ring[edge] + (within / counts[edge])[:, np.newaxis] * (after - ring)[edge])
