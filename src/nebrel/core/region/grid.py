"""The grid that outlines of solids lie on: every place of it is one that a float32 holds exactly."""

import numpy as np
import shapely
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

FINEST_MM = 2.0**-14
LARGEST_MM = 1000.0


def grid_for(extent: float) -> float:
    """Spacing in mm of a grid over `extent` mm whose places float32 numbers hold exactly: 0.06 µm up to a metre."""
    return FINEST_MM * 2.0 ** max(0.0, np.ceil(np.log2(max(extent, 1e-9) / LARGEST_MM)))


def polygons_of(shape: BaseGeometry) -> MultiPolygon:
    """The parts of a shape that have an area."""
    parts = [part for part in shapely.get_parts(shape) if part.geom_type == "Polygon" and part.area > 0]
    return shapely.MultiPolygon(parts)


def on_grid(shape: BaseGeometry, grid: float) -> MultiPolygon:
    """The shape with every corner moved to the nearest place of the grid; what collapses is dropped."""
    return polygons_of(shapely.set_precision(shape, grid))
