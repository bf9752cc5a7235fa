"""Outlines as arrays of corners."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon


def rings_of(region: MultiPolygon) -> list[NDArray[np.float64]]:
    """Corners float64 (K, 2) of every outline, the first not repeated; the region lies to the left of each."""
    rings = shapely.get_rings(shapely.get_parts(shapely.orient_polygons(region)))
    if not len(rings):
        return []
    places, ends = shapely.get_coordinates(rings), np.cumsum(shapely.get_num_coordinates(rings)).tolist()
    return [places[start : end - 1] for start, end in pairwise([0, *ends])]


def following(sizes: Sequence[int] | NDArray[np.int64]) -> NDArray[np.int64]:
    """The number of the corner that comes after each, int64 (sum of sizes), of closed rings laid end to end."""
    ends = np.cumsum(sizes, dtype=np.int64)
    after = np.arange(1, int(ends[-1]) + 1 if len(ends) else 1)
    after[ends - 1] = ends - sizes
    return after
