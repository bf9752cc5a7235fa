"""Where areas are too narrow, and making them wider there."""

from dataclasses import replace

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.curves import Figure, Layer, layer_region, quarter_segments
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.mend import curves_of_region
from nebrel.core.region.rings import rings_of

REGROWN = 1.02
AT_MOST_GROWN = 1.5
SMALLEST_THIN = 0.3
NARROWER = 0.99
NOWHERE_MM = 1e-9
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
    circles = shapely.maximum_inscribed_circle(thin, tolerance=np.full(len(thin), 0.01 * width))
    deepest = shapely.get_coordinates(shapely.get_point(circles, 0))
    widths = _widths_at(region, deepest, width)
    return [
        (part, across, (float(x), float(y)))
        for part, across, (x, y) in zip(thin.tolist(), widths.tolist(), deepest, strict=True)
        if across < NARROWER * width
    ]


def _widths_at(region: MultiPolygon, places: _Points, most: float) -> _Points:
    """How wide a region is across places inside it, at right angles to the nearest edge or along it, (N,) mm.

    Along it counts at the ends of bars, where the end is as near as the sides. At most 4 times `most`.
    """
    rings = rings_of(region)
    starts, ends = np.concatenate(rings), np.concatenate([np.roll(ring, -1, axis=0) for ring in rings])
    tree = shapely.STRtree(shapely.linestrings(np.stack([starts, ends], axis=1)))
    points = shapely.points(places)
    asked, nearest = tree.query_nearest(points, all_matches=False)
    own = tree.geometries[nearest[np.argsort(asked)]]
    near = shapely.get_coordinates(shapely.line_interpolate_point(own, shapely.line_locate_point(own, points)))
    away = np.linalg.norm(places - near, axis=1)
    across = (places - near) / np.maximum(away, NOWHERE_MM)[:, np.newaxis]

    def free(way: _Points) -> _Points:
        """How far it is from each place to the first edge in a direction, at most twice `most`."""
        ray, side = tree.query(shapely.linestrings(np.stack([places, places + way * 2 * most], axis=1)), "intersects")
        along, off = ends[side] - starts[side], starts[side] - places[ray]
        turn = way[ray, 0] * along[:, 1] - way[ray, 1] * along[:, 0]
        reach = off[:, 0] * along[:, 1] - off[:, 1] * along[:, 0]
        met = np.divide(reach, turn, out=np.full(len(turn), np.inf), where=turn != 0)
        found = np.full(len(places), 2 * most)
        np.minimum.at(found, ray, np.maximum(met, 0.0))
        return found

    beside = np.column_stack([-across[:, 1], across[:, 0]])
    widths = np.minimum(away + free(across), free(beside) + free(-beside))
    return np.where(away < NOWHERE_MM, 0.0, widths)


def narrowest(region: MultiPolygon, width: float) -> list[tuple[float, tuple[float, float]]]:
    """How wide a region is where it is narrower than `width` mm, and where; the narrowest first."""
    return sorted((across, where) for _, across, where in thin_parts(region, width))
