"""Changing outlines: every function takes a figure and gives another. Curves are numbered through all layers."""

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.region.curves import (
    Curve,
    Figure,
    Layer,
    bounds_of,
    circle,
    figure_region,
    flatten,
    layer_region,
    polygon_curve,
    quarter_segments,
    stroke_region,
)
from nebrel.core.region.drawing import chain
from nebrel.core.region.fit import fit_closed
from nebrel.core.region.flaws import touching_places
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.rings import rings_of
from nebrel.core.region.trace import dense

Join = Literal["round", "mitre", "bevel"]
Combining = Literal["union", "difference", "crossing"]
Side = Literal["left", "middle", "right", "bottom", "centre", "top"]
FIT_PITCH = 0.05
FIT_MM = 0.004
# For edges that are made anew of curves which were exact.
FINE_CHORD_MM, FINE_FIT_MM, FITTED_NODES = 0.0005, 0.002, 4_000
# As wide as that a region is fitted so closely; a smaller one more closely by as much.
FINE_OF_MM = 100.0
MITRE_LIMIT = 5.0
_Chosen = Collection[int]
_Points = NDArray[np.float64]


def curves_of_region(region: MultiPolygon, tolerance: float = FIT_MM, finest: float = FIT_PITCH) -> list[Curve]:
    """Few Béziers round a region, no further than `tolerance` mm from it; corners stay corners.

    What is finer than `finest` mm is evened out.
    """
    pitch = max(finest, tolerance / 0.1 * 0.5)
    return [Curve(fit_closed(dense(ring, True, pitch), tolerance, pitch)) for ring in rings_of(region)]


def edges_of(region: MultiPolygon) -> list[Curve]:
    """Curves round a region: straight where it has few corners, fitted where it has many."""
    rings = rings_of(region)
    if sum(map(len, rings)) > FITTED_NODES or all(len(ring) <= 12 for ring in rings):
        return [polygon_curve(ring) for ring in rings]
    low_x, low_y, high_x, high_y = region.bounds
    share = _closer(max(high_x - low_x, high_y - low_y))
    return curves_of_region(region, FINE_FIT_MM * share, FIT_PITCH * share)


def fine_chord(extent: float) -> float:
    """How far chords may be from curves of a drawing of `extent` mm, mm."""
    return FINE_CHORD_MM * _closer(extent)


def _closer(extent: float) -> float:
    """What is small is made more closely, as it may be enlarged afterwards."""
    return min(1.0, extent / FINE_OF_MM)


def only(figure: Figure, chosen: _Chosen) -> Figure:
    """The chosen curves alone."""
    return _each(figure, lambda number, curve: [curve] if number in chosen else [])


def leave_out(figure: Figure, chosen: _Chosen) -> Figure:
    """All but the chosen curves."""
    return _each(figure, lambda number, curve: [] if number in chosen else [curve])


def move(figure: Figure, chosen: _Chosen, matrix: _Points) -> Figure:
    """The chosen curves under an affine map, float64 (2, 3)."""
    return _each(figure, lambda number, curve: [curve.moved(matrix) if number in chosen else curve])


def repeat(figure: Figure, chosen: _Chosen, matrices: list[_Points]) -> Figure:
    """The chosen curves, and a copy of them under every further map; each copy is a part of its own."""
    step = 1 + max((curve.part for curve in figure.curves), default=0)

    def copies(number: int, curve: Curve) -> list[Curve]:
        if number not in chosen:
            return [curve]
        return [
            curve,
            *(replace(curve.moved(matrix), part=curve.part + step * at) for at, matrix in enumerate(matrices, start=1)),
        ]

    return _each(figure, copies)


def about(x: float, y: float, linear: _Points) -> _Points:
    """The affine map that applies `linear`, float64 (2, 2), about a place."""
    centre = np.array([x, y])
    return np.column_stack([linear, centre - linear @ centre])


def shift(x: float, y: float) -> _Points:
    """The affine map that moves by (`x`, `y`) mm."""
    return np.array([[1.0, 0.0, x], [0.0, 1.0, y]])


def turn(angle_deg: float) -> _Points:
    """The linear map that turns counter-clockwise."""
    angle = np.radians(angle_deg)
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def row_of(count: int, x: float, y: float) -> list[_Points]:
    """Maps for the further copies of a row of `count`, each (`x`, `y`) mm from the one before."""
    return [shift(x * at, y * at) for at in range(1, count)]


def grid_of(columns: int, rows: int, x: float, y: float) -> list[_Points]:
    """Maps for the further copies of a grid, `x` and `y` mm from one to the next."""
    return [shift(x * column, y * row) for row in range(rows) for column in range(columns) if row or column]


def ring_of(count: int, x: float, y: float) -> list[_Points]:
    """Maps for the further copies of a ring of `count` about a place, evenly turned."""
    return [about(x, y, turn(360 * at / count)) for at in range(1, count)]


def align(figure: Figure, chosen: _Chosen, side: Side) -> Figure:
    """The chosen curves moved so that one side of each, or its middle, lies where that of all of them together is."""
    own = {number: bounds_of(_alone(curve)) for number, curve in enumerate(figure.curves) if number in chosen}
    if not own:
        return figure
    boxes = np.array(list(own.values()))
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    axis = 0 if side in ("left", "middle", "right") else 1
    share = {"left": 0.0, "bottom": 0.0, "middle": 0.5, "centre": 0.5, "right": 1.0, "top": 1.0}[side]
    wanted = low[axis] + share * (high[axis] - low[axis])

    def align(number: int, curve: Curve) -> list[Curve]:
        if number not in own:
            return [curve]
        box = own[number]
        by = wanted - (box[axis] + share * (box[axis + 2] - box[axis]))
        return [curve.moved(shift(by, 0.0) if axis == 0 else shift(0.0, by))]

    return _each(figure, align)


def combine(figure: Figure, chosen: _Chosen, how: Combining) -> Figure:
    """The areas inside the chosen curves made one: all of them, the largest less the others, or what all share.

    Raises:
        BadValueError: fewer than two are chosen, or nothing is left.
    """
    areas = {number: _area(curve) for number, curve in enumerate(figure.curves) if number in chosen}
    if len(areas) < 2:
        raise BadValueError(f"{len(areas)} outlines are chosen; at least two are needed to combine them.")
    order = sorted(areas, key=lambda number: -areas[number].area)
    first, others = areas[order[0]], [areas[number] for number in order[1:]]
    if how == "union":
        whole = shapely.union_all([first, *others])
    elif how == "difference":
        whole = first.difference(shapely.union_all(others))
    else:
        whole = shapely.intersection_all([first, *others])
    made = polygons_of(whole)
    if made.is_empty:
        raise BadValueError("Nothing is left of the chosen outlines when they are combined like this.")
    part = figure.curves[order[0]].part
    curves = [replace(curve, part=part) for curve in curves_of_region(made)]
    return _each(figure, lambda number, curve: curves if number == order[0] else [] if number in areas else [curve])


def offset(figure: Figure, chosen: _Chosen, by: float, join: Join) -> Figure:
    """The areas of the chosen curves grown by `by` mm, or shrunk where it is negative.

    The chosen curves of a layer are taken together, so holes shrink where parts grow.

    Raises:
        BadValueError: nothing would be left.
    """
    layers, number, left = [], 0, False
    for layer in figure.layers:
        mine = [curve for at, curve in enumerate(layer.curves, number) if at in chosen]
        others = [curve for at, curve in enumerate(layer.curves, number) if at not in chosen]
        number += len(layer.curves)
        if not mine:
            layers.append(layer)
            continue
        grown = offset_region(layer_region(replace(layer, curves=tuple(mine))), by, join)
        left = left or not grown.is_empty
        part = mine[0].part
        curves = [replace(curve, part=part) for curve in curves_of_region(grown)]
        layers.append(replace(layer, curves=(*others, *curves)))
    if not left:
        raise BadValueError(f"An offset of {by:g} mm leaves nothing of the outline; a smaller one is needed.")
    return _lean(Figure(tuple(layers)))


def offset_region(region: MultiPolygon, by: float, join: Join) -> MultiPolygon:
    """The region grown by `by` mm all round, or shrunk where it is negative."""
    return polygons_of(region.buffer(by, join_style=join, mitre_limit=MITRE_LIMIT, quad_segs=quarter_segments(abs(by))))


def fill_solid(figure: Figure, chosen: _Chosen) -> Figure:
    """Holes of the chosen curves filled, and chosen strokes made into the area inside them."""
    region = polygons_of(shapely.union_all([_area(curve) for at, curve in enumerate(figure.curves) if at in chosen]))

    def fill(number: int, curve: Curve) -> list[Curve]:
        if number not in chosen:
            return [curve]
        if curve.width is not None:
            return [replace(curve, width=None, closed=True)]
        inside = shapely.Point(curve.nodes[0])
        return [] if _lies_inside(inside, curve, region) else [curve]

    return _lean(_each(figure, fill))


def _lies_inside(place: shapely.Point, curve: Curve, region: MultiPolygon) -> bool:
    grown = region.buffer(-1e-6)
    return bool(grown.contains(place)) and not _area(curve).buffer(1e-6).contains(region)


def simplify_curves(figure: Figure, chosen: _Chosen, tolerance: float) -> Figure:
    """The chosen curves with as few nodes as stay within `tolerance` mm."""

    def simple(number: int, curve: Curve) -> list[Curve]:
        if number not in chosen or not curve.closed:
            return [curve]
        fitted = fit_closed(dense(flatten(curve), True, FIT_PITCH), tolerance, FIT_PITCH)
        return [replace(curve, knots=fitted) if len(fitted) < len(curve.knots) else curve]

    return _each(figure, simple)


def gaps(figure: Figure, reach: float) -> list[tuple[_Points, _Points]]:
    """Pairs of open ends that are no further than `reach` mm from each other, the nearest first; each end once."""
    from scipy.spatial import cKDTree

    ends = np.array([end for curve in _open_curves(figure) for end in (curve.nodes[0], curve.nodes[-1])]).reshape(-1, 2)
    if len(ends) == 0:
        return []
    near = cKDTree(ends).query_pairs(reach, output_type="ndarray")
    away = np.linalg.norm(ends[near[:, 0]] - ends[near[:, 1]], axis=1)
    pairs = near[np.argsort(away, kind="stable")].tolist()
    used: set[int] = set()
    found = []
    for i, j in pairs:
        if i not in used and j not in used:
            used |= {i, j}
            found.append((ends[i], ends[j]))
    return found


def close_gaps(figure: Figure, reach: float) -> Figure:
    """Open edges joined where their ends are no further apart than `reach` mm; strokes keep their width."""

    def join(layer: Layer) -> Layer:
        strokes = {curve.width for curve in layer.curves if not curve.closed}
        curves = [curve for curve in layer.curves if curve.closed]
        for width in sorted(strokes, key=lambda width: width or 0.0):
            bare = [replace(curve, width=None) for curve in layer.curves if not curve.closed and curve.width == width]
            curves += [replace(curve, width=width) for curve in chain(bare, reach)]
        return replace(layer, curves=tuple(curves))

    return Figure(tuple(join(layer) for layer in figure.layers))


def mend_touching(figure: Figure, width: float, join: bool) -> Figure:
    """Where areas of a layer meet in a point only, a round bridge `width` mm wide, or a gap as wide.

    A bridge is a disc of its own, so no edge changes; a gap draws the edges of what it is cut out of anew.
    """
    layers, part = [], 1 + max((curve.part for curve in figure.curves), default=0)
    for layer in figure.layers:
        region = layer_region(layer)
        places = touching_places(region)
        if not len(places):
            layers.append(layer)
        elif join:
            discs = [replace(circle(x, y, width / 2), part=part + at) for at, (x, y) in enumerate(places.tolist())]
            part += len(discs)
            layers.append(replace(layer, curves=(*layer.curves, *discs)))
        else:
            holes = shapely.buffer(shapely.points(places), width / 2, quad_segs=quarter_segments(width / 2))
            left = polygons_of(region.difference(shapely.union_all(holes)))
            layers.append(replace(layer, curves=tuple(curves_of_region(left)), rule="evenodd"))
    return _lean(Figure(tuple(layers)))


def uncross(figure: Figure, chosen: _Chosen) -> Figure:
    """Edges that cross themselves made anew around what they enclose."""

    def uncross(number: int, curve: Curve) -> list[Curve]:
        if number not in chosen or not curve.closed or curve.width is not None:
            return [curve]
        return [replace(made, part=curve.part) for made in curves_of_region(_area(curve))]

    return _lean(_each(figure, uncross))


def with_knots(figure: Figure, number: int, edit: Callable[[Curve], Curve]) -> Figure:
    """One curve edited."""
    return _each(figure, lambda at, curve: [edit(curve) if at == number else curve])


def nearest_curve(figure: Figure, x: float, y: float) -> tuple[int, float]:
    """The number of the curve nearest to a place, and how far it is, mm.

    Raises:
        BadValueError: the figure has no curves.
    """
    return nearest_curves(figure, [(x, y)])[0]


def nearest_curves(figure: Figure, places: Sequence[tuple[float, float]]) -> list[tuple[int, float]]:
    """For every place the number of the curve nearest to it, and how far it is, mm.

    Raises:
        BadValueError: the figure has no curves.
    """
    if not figure.curves:
        raise BadValueError("There are no outlines left to choose from.")
    tree = shapely.STRtree([_line(curve) for curve in figure.curves])
    (_, numbers), away = tree.query_nearest(shapely.points(places), return_distance=True, all_matches=False)
    return [(int(number), float(far)) for number, far in zip(numbers, away, strict=True)]


def _line(curve: Curve) -> shapely.LineString:
    points = flatten(curve, 0.02)
    return shapely.LineString(np.vstack([points, points[:1]]) if curve.closed or len(points) < 2 else points)


def _area(curve: Curve) -> MultiPolygon:
    if curve.width is not None:
        return stroke_region(curve)
    return figure_region(_alone(replace(curve, closed=True)))


def _alone(curve: Curve) -> Figure:
    return Figure((Layer("", (curve,)),))


def _open_curves(figure: Figure) -> list[Curve]:
    return [curve for curve in figure.curves if not curve.closed]


def _each(figure: Figure, change: Callable[[int, Curve], list[Curve]]) -> Figure:
    layers, number = [], 0
    for layer in figure.layers:
        curves: list[Curve] = []
        for curve in layer.curves:
            curves += change(number, curve)
            number += 1
        layers.append(replace(layer, curves=tuple(curves)))
    return _lean(Figure(tuple(layers)))


def _lean(figure: Figure) -> Figure:
    return Figure(tuple(layer for layer in figure.layers if layer.curves))
