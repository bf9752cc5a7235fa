"""Where areas are too narrow, and making them wider there."""

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

from nebrel.core.region.curves import Figure, Layer, layer_region, quarter_segments
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import curves_of_region

REGROWN = 1.02
AT_MOST_GROWN = 1.5
SMALLEST_THIN = 0.3
NARROWER = 0.99
_Points = NDArray[np.float64]


def widen(figure: Figure, narrower_than: float, by: float) -> Figure:
    """Where areas are narrower than `narrower_than` mm, `by` mm wider, half of it on either side."""

    def widen(layer: Layer) -> Layer:
        region = layer_region(layer)
        thin = thin_parts(region, narrower_than)
        if not thin:
            return layer
        grown = shapely.union_all([part.buffer(by / 2, quad_segs=quarter_segments(by / 2)) for part, _, _ in thin])
        return replace(layer, curves=tuple(curves_of_region(polygons_of(shapely.union_all([region, grown])))))

    return Figure(tuple(widen(layer) for layer in figure.layers))


def thin_parts(region: MultiPolygon, width: float) -> list[tuple[shapely.Polygon, float, tuple[float, float]]]:
    """Where a disc of `width` mm does not fit into a region: the part, how wide the region is there, and where.

    The width is taken across the middle of the part, at right angles to the nearest edge. Corners, where no disc fits
    although nothing is narrow, are left out.
    """
    radius = width / 2
    segments = quarter_segments(radius, 0.01)
    each = np.array(region.geoms, dtype=object)
    # Part by part, as many parts take no longer than they are many.
    opened = shapely.buffer(shapely.buffer(each, -radius, quad_segs=segments), radius * REGROWN, quad_segs=segments)
    # Opening without growing anew covers at least so much; what loses less than the smallest thin part has none.
    covered = shapely.area(opened) - AT_MOST_GROWN * (REGROWN - 1) * radius * shapely.length(opened)
    some = shapely.area(each) - covered >= SMALLEST_THIN * width**2
    thin = shapely.get_parts(shapely.difference(each[some], opened[some]))
    thin = thin[(shapely.get_dimensions(thin) == 2) & (shapely.area(thin) >= SMALLEST_THIN * width**2)]
    if not len(thin):
        return []
    edge = region.boundary
    shapely.prepare(edge)
    found = []
    for part in thin:
        deepest = shapely.get_coordinates(shapely.maximum_inscribed_circle(part, tolerance=0.01 * width))[0]
        across = _width_at(region, edge, deepest, width)
        if across < NARROWER * width:
            found.append((part, across, (float(deepest[0]), float(deepest[1]))))
    return found


def _width_at(region: MultiPolygon, edge: BaseGeometry, place: _Points, most: float) -> float:
    """How wide a region is across a place inside it, at right angles to its nearest edge; at most twice `most`."""
    near = shapely.get_coordinates(edge.interpolate(edge.project(shapely.Point(place))))[0]
    way = place - near
    length = float(np.linalg.norm(way))
    if length < 1e-9:
        return 0.0
    across = shapely.LineString([near + way * 1e-6, near + way / length * 2 * most]).intersection(region)
    pieces = [piece for piece in shapely.get_parts(across) if piece.distance(shapely.Point(place)) < 1e-6]
    return float(pieces[0].length) if pieces else 0.0


def narrowest(region: MultiPolygon, width: float) -> list[tuple[float, tuple[float, float]]]:
    """How wide a region is where it is narrower than `width` mm, and where; the narrowest first."""
    return sorted((across, where) for _, across, where in thin_parts(region, width))
