"""Outlines as arrays of corners."""

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon


def rings_of(region: MultiPolygon) -> list[NDArray[np.float64]]:
    """Corners float64 (K, 2) of every outline, the first not repeated; the region lies to the left of each."""
    rings = []
    for polygon in shapely.orient_polygons(region).geoms:
        for ring in (polygon.exterior, *polygon.interiors):
            rings.append(shapely.get_coordinates(ring)[:-1])
    return rings
