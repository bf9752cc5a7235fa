"""Outlines as arrays of corners."""

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon


def rings_of(region: MultiPolygon) -> list[NDArray[np.float64]]:
    """Corners float64 (K, 2) of every outline, the first not repeated; the region lies to the left of each."""
    rings = shapely.get_rings(shapely.get_parts(shapely.orient_polygons(region)))
    if not len(rings):
        return []
    places, of = shapely.get_coordinates(rings, return_index=True)
    return [ring[:-1] for ring in np.split(places, np.flatnonzero(np.diff(of)) + 1)]
