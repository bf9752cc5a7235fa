"""The grid that outlines of solids lie on: every place of it is one that a float32 holds exactly."""

import numpy as np
import shapely
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

FINEST_MM = 2.0**-14
LARGEST_MM = 1000.0
CRUMB_SHARE = 1e-8

POLYGON = int(shapely.GeometryType.POLYGON)


def grid_for(extent: float) -> float:
    """Spacing in mm of a grid over `extent` mm whose places float32 numbers hold exactly: 0.06 µm up to a metre."""
    return FINEST_MM * 2.0 ** max(0.0, np.ceil(np.log2(max(extent, 1e-9) / LARGEST_MM)))


def polygons_of(shape: BaseGeometry) -> MultiPolygon:
    """The parts of a shape that have an area. Crumbs that rounding leaves along shared edges count as having none.

    Holes that are crumbs are filled.
    """
    parts = shapely.get_parts(shape)
    areas = shapely.area(parts)
    least = CRUMB_SHARE * areas.sum()
    kept = parts[(shapely.get_type_id(parts) == POLYGON) & (areas > least)]
    for at in np.flatnonzero(shapely.get_num_interior_rings(kept) > 0).tolist():
        holes = [ring for ring in kept[at].interiors if shapely.Polygon(ring).area > least]
        if len(holes) < len(kept[at].interiors):
            kept[at] = shapely.Polygon(kept[at].exterior, holes)
    return shapely.multipolygons(kept) if len(kept) else shapely.MultiPolygon()


def on_grid(shape: BaseGeometry, grid: float) -> MultiPolygon:
    """The shape with every corner moved to the nearest place of the grid; what collapses is dropped."""
    rounded = shapely.transform(polygons_of(shape), lambda places: np.round(places / grid) * grid)
    if _keeps_sides(rounded) and shapely.is_valid(rounded):
        return polygons_of(rounded)
    return polygons_of(shapely.set_precision(shape, grid))


def _keeps_sides(shape: BaseGeometry) -> bool:
    """Whether no side of an outline has shrunk to a point."""
    places, of = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(shape)), return_index=True)
    same = (places[1:] == places[:-1]).all(axis=1) & (of[1:] == of[:-1])
    return not same.any()
