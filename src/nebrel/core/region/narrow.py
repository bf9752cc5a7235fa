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
AT_MOST_GROWN = 1.1
SMALLEST_THIN = 0.3
NARROWER = 0.99
NOWHERE_MM, BESIDE_MM, LEAST_SIDE_MM = 1e-9, 1e-6, 1e-4
_Points = NDArray[np.float64]
_Ints = NDArray[np.int64]


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

    The width is taken across the middle of the part, at right angles to the nearest edge; that of a neck between wider
    places, however short, is the least distance between its sides. Corners, where no disc fits although nothing is
    narrow, are left out; so are necks between two right angles that are wider than 0.4 of `width`, which discs on
    either side cover.
    """
    radius = width / 2
    segments = quarter_segments(radius, 0.01)
    each = np.array(region.geoms, dtype=object)
    # Part by part, as many parts take no longer than they are many.
    shrunk = shapely.buffer(each, -radius, quad_segs=segments)
    opened = shapely.buffer(shrunk, radius * REGROWN, quad_segs=segments)
    # Opening without growing anew covers at least so much; what loses less than the smallest thin part has none.
    covered = shapely.area(opened) - AT_MOST_GROWN * (REGROWN - 1) * radius * shapely.length(opened)
    parted = (_counts(shrunk) != _counts(each)).any(axis=1)
    some = parted | (shapely.area(each) - covered >= SMALLEST_THIN * width**2)
    thin, of = shapely.get_parts(shapely.difference(each[some], opened[some]), return_index=True)
    areal = shapely.get_dimensions(thin) == 2
    thin, of = thin[areal], of[areal]
    # A part that is all narrow is a narrow place, however small.
    large = (shapely.area(thin) >= SMALLEST_THIN * width**2) | shapely.is_empty(shrunk[some])[of]
    asked = np.flatnonzero(large | parted[some][of])
    necks = {int(asked[at]): told for at, told in _necks(thin[asked], opened[some]).items()} if len(asked) else {}
    found = [(thin[at], across, where) for at, (across, where) in necks.items()]
    plain = thin[[at for at in np.flatnonzero(large).tolist() if at not in necks]]
    if len(plain):
        circles = shapely.maximum_inscribed_circle(plain, tolerance=np.full(len(plain), 0.01 * width))
        deepest = shapely.get_coordinates(shapely.get_point(circles, 0))
        places = [(float(x), float(y)) for x, y in deepest]
        found += zip(plain.tolist(), _widths_at(region, deepest, width).tolist(), places, strict=True)
    return [(part, across, where) for part, across, where in found if across < NARROWER * width]


def _counts(shapes: NDArray[np.object_]) -> _Ints:
    """How many polygons make up each shape, and how many holes they have, int64 (N, 2)."""
    polygons, of = shapely.get_parts(shapes, return_index=True)
    solid = ~shapely.is_empty(polygons)
    holes = np.bincount(of, shapely.get_num_interior_rings(polygons), len(shapes)).astype(np.int64)
    return np.column_stack([np.bincount(of, solid, len(shapes)).astype(np.int64), holes])


def _necks(thin: NDArray[np.object_], wide: NDArray[np.object_]) -> dict[int, tuple[float, tuple[float, float]]]:
    """Of thin parts that wide ones adjoin at two ends or more, by their number: how wide each is, and where."""
    rings, of = shapely.get_rings(thin, return_index=True)
    starts, ends, ring = _sides_of(rings)
    cuts = shapely.STRtree(
        shapely.linestrings(np.stack(_sides_of(shapely.get_rings(shapely.get_parts(wide)))[:2], axis=1))
    )
    free = np.ones(len(starts), dtype=bool)
    free[cuts.query(shapely.points((starts + ends) / 2), predicate="dwithin", distance=BESIDE_MM)[0]] = False
    first = np.append(True, ring[1:] != ring[:-1])
    run = np.cumsum(free & (first | ~np.append(False, free[:-1])))
    # What runs on over the place where a ring begins is one side.
    begin = np.flatnonzero(first)
    for head, beyond in zip(begin.tolist(), [*begin[1:].tolist(), len(ring)], strict=True):
        if free[head] and free[beyond - 1]:
            own = run[head:beyond]
            own[own == own[-1]] = own[0]
    # Crumbs of rounding where cuts begin are no sides.
    length = np.bincount(run[free], np.linalg.norm(ends - starts, axis=1)[free], int(run.max(initial=0)) + 1)
    free &= length[run] > LEAST_SIDE_MM
    if not free.any():
        return {}
    _, at, run = np.unique(run[free], return_index=True, return_inverse=True)
    lines = shapely.linestrings(np.stack([starts[free], ends[free]], axis=1))
    order = np.argsort(run, kind="stable")
    sides = shapely.multilinestrings(lines[order], indices=run[order])
    part_of = of[ring[free][at]]
    found = {}
    for part in np.flatnonzero(np.bincount(part_of) > 1).tolist():
        mine = sides[part_of == part]
        one, other = np.triu_indices(len(mine), 1)
        away = shapely.distance(mine[one], mine[other])
        least = int(np.argmin(away))
        x, y = shapely.get_coordinates(shapely.shortest_line(mine[one[least]], mine[other[least]])).mean(axis=0)
        found[part] = float(away[least]), (float(x), float(y))
    return found


def _sides_of(rings: NDArray[np.object_]) -> tuple[_Points, _Points, _Ints]:
    """Where every side of rings begins and ends, float64 (S, 2), and the number of its ring."""
    places, of = shapely.get_coordinates(rings, return_index=True)
    within = of[1:] == of[:-1]
    return places[:-1][within], places[1:][within], of[:-1][within]


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
