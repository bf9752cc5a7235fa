"""Outlines as curves: chains of cubic Béziers, closed around an area or open along a stroke."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import pairwise
from typing import Literal

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.grid import polygons_of
from nebrel.core.region.rings import following

FillRule = Literal["nonzero", "evenodd"]
CHORD_MM = 0.002
MOST_CHORDS = 200
MOST_EXACT = 400
EXTREME_FROM = 1e-6
FINER = 4
CIRCLE_HANDLE = 0.5522847498
_RULES = {"nonzero": manifold3d.FillRule.NonZero, "evenodd": manifold3d.FillRule.EvenOdd}
_Points = NDArray[np.float64]


@dataclass(frozen=True)
class Curve:
    """One chain of cubic Béziers.

    Attributes:
        knots: float64 (N, 3, 2) mm: of every node the handle before it, the node itself and the handle after it. A side
            whose two handles lie on their nodes is straight.
        closed: whether the last node is joined to the first.
        width: of the stroke along it in mm, or None for the edge of an area.
        part: edges of one part make holes in each other; parts are joined.
    """

    knots: _Points
    closed: bool = True
    width: float | None = None
    part: int = 0

    @property
    def nodes(self) -> _Points:
        """Float64 (N, 2) mm."""
        return self.knots[:, 1]

    @property
    def sides(self) -> _Points:
        """Float64 (S, 4, 2) mm: the control points of every side."""
        ahead = np.roll(self.knots, -1, axis=0)
        sides = np.stack([self.knots[:, 1], self.knots[:, 2], ahead[:, 0], ahead[:, 1]], axis=1)
        return sides if self.closed else sides[:-1]

    def moved(self, matrix: _Points) -> "Curve":
        """The curve under an affine map, float64 (2, 3); a stroke's width follows the map's mean scale."""
        knots = self.knots @ matrix[:, :2].T + matrix[:, 2]
        if self.width is None:
            return replace(self, knots=knots)
        return replace(self, knots=knots, width=self.width * float(abs(np.linalg.det(matrix[:, :2]))) ** 0.5)

    def turned(self) -> "Curve":
        """The same curve, run the other way."""
        return replace(self, knots=self.knots[::-1, ::-1].copy())


@dataclass(frozen=True)
class Layer:
    """Curves that belong together: the areas of one tone, or one layer of a drawing.

    Attributes:
        name: for people.
        curves: edges of areas, and strokes.
        tone: 0 black to 1 white, where the layer comes from a picture.
        rule: how areas follow from edges that lie in each other.
        ground: whether it is the paper around what is drawn.
    """

    name: str
    curves: tuple[Curve, ...]
    tone: float | None = None
    rule: FillRule = "evenodd"
    ground: bool = False

    @cached_property
    def is_straight(self) -> bool:
        """Whether all its outlines are straight, and none is a stroke; then no chord changes its area."""
        if not self.curves or any(curve.width is not None for curve in self.curves):
            return not self.curves
        knots = np.concatenate([curve.knots for curve in self.curves])
        return bool((knots == knots[:, 1:2]).all())

    @cached_property
    def straight_region(self) -> MultiPolygon:
        """The area inside straight outlines, worked out once."""
        return _region_of(self, CHORD_MM)


@dataclass(frozen=True)
class Figure:
    """Everything that a picture or a drawing gave, layer by layer."""

    layers: tuple[Layer, ...]

    @property
    def curves(self) -> list[Curve]:
        """All curves of all layers, in order."""
        return [curve for layer in self.layers for curve in layer.curves]

    @property
    def drawn(self) -> "Figure":
        """The same without its ground; all of it where there is nothing else."""
        return Figure(tuple(layer for layer in self.layers if not layer.ground) or self.layers)


def polygon_curve(points: _Points, closed: bool = True, width: float | None = None) -> Curve:
    """Straight sides through `points`, float64 (N, 2) mm."""
    return Curve(np.repeat(np.asarray(points, np.float64)[:, np.newaxis], 3, axis=1), closed, width)


def circle(x: float, y: float, radius: float) -> Curve:
    """A circle in four sides, within 0.03 % of its radius."""
    turns = np.radians([0.0, 90.0, 180.0, 270.0])
    out = np.column_stack([np.cos(turns), np.sin(turns)])
    along = CIRCLE_HANDLE * np.column_stack([-np.sin(turns), np.cos(turns)])
    return Curve(np.array([x, y]) + radius * np.stack([out - along, out, out + along], axis=1))


def is_straight(side: _Points) -> bool:
    """Whether a side, float64 (4, 2), is a straight line: its handles lie on its nodes."""
    return bool((side[0] == side[1]).all() and (side[2] == side[3]).all())


def flatten(curve: Curve, chord: float = CHORD_MM, finer: int = 1) -> _Points:
    """The curve as a chain of places no further than `chord` mm from it, float64 (K, 2); the first is not repeated.

    The number of chords of a side follows from its second differences (Wang's bound, 1984). With `finer` there are so
    many times as many, and the places without it are among them to the last bit.
    """
    if finer == 1 and (curve.knots == curve.knots[:, 1:2]).all():
        return curve.nodes
    sides = curve.sides
    if len(sides) == 0:
        return curve.nodes
    points, _ = _flatten_sides(sides, chord, finer)
    return points if curve.closed else np.vstack([points, curve.nodes[-1:]])


def flatten_each(curves: list[Curve], chord: float = CHORD_MM) -> list[_Points]:
    """As `flatten`, of many closed curves at once."""
    if not curves:
        return []
    knots, sizes = np.concatenate([curve.knots for curve in curves]), [len(curve.knots) for curve in curves]
    after = following(sizes)
    sides = np.stack([knots[:, 1], knots[:, 2], knots[after, 0], knots[after, 1]], axis=1)
    points, of_side = _flatten_sides(sides, chord, 1)
    bounds = np.searchsorted(of_side, np.cumsum([0, *sizes])).tolist()
    return [points[start:end] for start, end in pairwise(bounds)]


def flatten_all(curves: Sequence[Curve], chord: float = CHORD_MM) -> list[_Points]:
    """As `flatten`, of many curves, closed or not."""
    closed = iter(flatten_each([curve for curve in curves if curve.closed], chord))
    return [next(closed) if curve.closed else flatten(curve, chord) for curve in curves]


def _flatten_sides(sides: _Points, chord: float, finer: int) -> tuple[_Points, NDArray[np.int64]]:
    """Places along sides, the last of each left out, and the number of the side of each; sides may be turned."""
    straight = (sides[:, 0] == sides[:, 1]).all(axis=1) & (sides[:, 2] == sides[:, 3]).all(axis=1)
    bend = np.linalg.norm(sides[:, :-2] - 2 * sides[:, 1:-1] + sides[:, 2:], axis=2).max(axis=1)
    bend[straight] = 0.0
    counts = np.clip(np.ceil(np.sqrt(0.75 * bend / chord)), 1, MOST_CHORDS).astype(np.int64) * finer
    # Sides are always run from their lower left end, so that both sides of a shared border agree to the last bit.
    starts, ends = sides[:, 0], sides[:, 3]
    back = (ends[:, 0] < starts[:, 0]) | ((ends[:, 0] == starts[:, 0]) & (ends[:, 1] < starts[:, 1]))
    sides[back] = sides[back][:, ::-1]
    step = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    whole, turned = np.repeat(counts, counts), np.repeat(back, counts)
    of_side, t = np.repeat(np.arange(len(sides)), counts), np.where(turned, whole - step, step) / whole
    # What goes straight from its end to its end reaches furthest there.
    bent = np.flatnonzero(~straight)
    at, extreme = _extremes(sides[bent])
    at = bent[at]
    of_side, t = np.concatenate([of_side, at]), np.concatenate([t, extreme])
    order = np.lexsort((np.where(back[of_side], -t, t), of_side))
    of_side, t = of_side[order], t[order, np.newaxis]
    a, b, c, d = sides[of_side].swapaxes(0, 1)
    points: _Points = (1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d
    return points, of_side


def evenly(curve: Curve, count: int) -> _Points:
    """`count` places on every side of a closed curve, evenly by parameter, float64 (S * count, 2)."""
    t = (np.arange(count) / count)[:, np.newaxis]
    shares = np.hstack([(1 - t) ** 3, 3 * (1 - t) ** 2 * t, 3 * (1 - t) * t**2, t**3])
    points: _Points = (shares @ curve.sides).reshape(-1, 2)
    return points


def _extremes(sides: _Points) -> tuple[NDArray[np.int64], _Points]:
    """Where sides reach furthest to the left, right, up or down: numbers of sides and parameters inside (0, 1).

    With them among its corners a chain is as wide and as high as its curve, however coarse it is.
    """
    one, two, three = 3 * np.diff(sides, axis=1).swapaxes(0, 1)
    square, linear = one - 2 * two + three, 2 * (two - one)
    with np.errstate(divide="ignore", invalid="ignore"):
        under = np.sqrt(linear**2 - 4 * square * one)
        flat = np.abs(square) < 1e-12 * np.maximum(np.abs(linear), 1e-300)
        roots = np.stack([np.where(flat, -one / linear, (-linear + sign * under) / (2 * square)) for sign in (1, -1)])
    number = np.broadcast_to(np.arange(len(sides))[:, np.newaxis], roots.shape)
    inside = (roots > EXTREME_FROM) & (roots < 1 - EXTREME_FROM)
    # Of a straight derivative both roots are the same.
    inside[1] &= ~flat
    return number[inside].astype(np.int64), roots[inside]


def flattening_error(figure: Figure, chord: float) -> tuple[float, float]:
    """How far chains flattened to within `chord` mm really are from their curves: largest and RMS, mm.

    Measured at four times as many places as there are chords.
    """
    away = [np.zeros(1)]
    for curve in figure.curves:
        coarse = flatten(curve, chord)
        ends = np.vstack([coarse, coarse[:1]]) if curve.closed else coarse
        if len(ends) > 1:
            line = shapely.LineString(ends)
            shapely.prepare(line)
            away.append(shapely.distance(line, shapely.points(flatten(curve, chord, FINER))))
    every = np.concatenate(away)
    return float(every.max()), float(np.sqrt((every**2).mean()))


def layer_region(layer: Layer, chord: float = CHORD_MM) -> MultiPolygon:
    """The area of a layer, mm: inside its closed edges by its rule, together with its strokes at their widths.

    Open edges without a width enclose nothing.
    """
    return layer.straight_region if layer.is_straight else _region_of(layer, chord)


def _region_of(layer: Layer, chord: float) -> MultiPolygon:
    parts: dict[int, list[_Points]] = {}
    edges = [curve for curve in layer.curves if curve.closed and curve.width is None]
    for curve, points in zip(edges, flatten_each(edges, chord), strict=True):
        parts.setdefault(curve.part, []).append(points)
    areas: list[shapely.Polygon | MultiPolygon] = []
    single = [rings[0] for rings in parts.values() if len(rings) == 1 and len(rings[0]) >= 3]
    crossed = single
    if len(single) > 1:
        # Many plain rings at once; they are closed as they are made.
        numbers = np.repeat(np.arange(len(single)), [len(ring) for ring in single])
        made = shapely.polygons(shapely.linearrings(np.concatenate(single), indices=numbers))
        plain = shapely.is_valid(made)
        areas += made[plain].tolist()
        crossed = [ring for ring, good in zip(single, plain.tolist(), strict=True) if not good]
    areas += [fill([ring], layer.rule) for ring in crossed]
    areas += [fill(rings, layer.rule) for rings in parts.values() if len(rings) > 1]
    areas += [stroke_region(curve, chord) for curve in layer.curves if curve.width is not None]
    return polygons_of(areas[0] if len(areas) == 1 else shapely.disjoint_subset_union_all(areas))


def figure_region(figure: Figure, chord: float = CHORD_MM) -> MultiPolygon:
    """The areas of all layers together, mm."""
    areas = [layer_region(layer, chord) for layer in figure.layers]
    return areas[0] if len(areas) == 1 else polygons_of(shapely.union_all(areas))


def stroke_region(curve: Curve, chord: float = CHORD_MM) -> MultiPolygon:
    """The area that a round pen of the curve's width draws along it, mm."""
    radius = (curve.width or 0.0) / 2
    points = flatten(curve, chord)
    line = shapely.LineString(np.vstack([points, points[:1]]) if curve.closed else points)
    return polygons_of(line.buffer(radius, quad_segs=quarter_segments(radius, chord)))


def quarter_segments(radius: float, chord: float = CHORD_MM) -> int:
    """Chords to a quarter turn of `radius` mm so that none is further than `chord` mm from it."""
    step = 2 * np.arccos(max(0.0, 1 - chord / max(radius, chord)))
    return int(np.clip(np.ceil(np.pi / 2 / max(step, 1e-3)), 4, MOST_CHORDS))


def fill(rings: list[_Points], rule: FillRule) -> MultiPolygon:
    """The area inside `rings`, each float64 (K, 2) mm, which may cross themselves and each other."""
    kept = [ring for ring in rings if len(ring) >= 3]
    if not kept:
        return shapely.MultiPolygon()
    plain = shapely.MultiPolygon([shapely.Polygon(kept[0])]) if len(kept) == 1 else None
    if plain is not None and plain.is_valid:
        return plain
    exact = _even_odd(kept) if rule == "evenodd" else None
    if exact is not None:
        return exact
    section = manifold3d.CrossSection(kept, _RULES[rule])
    parts = [_nest(part.to_polygons()) for part in section.decompose()]
    return polygons_of(shapely.union_all(parts))


def _even_odd(rings: list[_Points]) -> MultiPolygon | None:
    """What lies inside an odd number of rings, their corners as they are to the last bit; None where it takes long."""
    lines = shapely.MultiLineString([np.vstack([ring, ring[:1]]) for ring in rings])
    if lines.is_simple:
        return polygons_of(shapely.build_area(lines))
    if len(rings) > MOST_EXACT:
        return None
    whole = shapely.MultiPolygon()
    for ring in rings:
        whole = whole.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
    return polygons_of(whole)


def _nest(rings: list[_Points]) -> shapely.Polygon:
    """A polygon of an outer ring, the one of the largest area, and its holes."""
    areas = [abs(shapely.Polygon(ring).area) for ring in rings]
    outer = int(np.argmax(areas))
    return shapely.Polygon(rings[outer], [ring for at, ring in enumerate(rings) if at != outer])


def bounds_of(figure: Figure) -> tuple[float, float, float, float]:
    """Lowest and highest X and Y of the figure, strokes at their widths: (x, y, x, y) in mm."""
    boxes = boxes_of(figure.curves)
    low, high = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def boxes_of(curves: Sequence[Curve]) -> _Points:
    """The same of every curve, float64 (N, 4)."""
    return boxes_round(curves, flatten_all(curves))


def boxes_round(curves: Sequence[Curve], lines: Sequence[_Points]) -> _Points:
    """The same of curves that are flattened already; however coarse that is, they are as wide and as high."""
    starts = np.cumsum([0, *map(len, lines[:-1])])
    points, reach = np.vstack(lines), np.array([(curve.width or 0.0) / 2 for curve in curves])[:, np.newaxis]
    return np.hstack([np.minimum.reduceat(points, starts) - reach, np.maximum.reduceat(points, starts) + reach])


def map_figure(figure: Figure, matrix: _Points) -> Figure:
    """The figure under an affine map, float64 (2, 3)."""
    curves = figure.curves
    if not curves:
        return figure
    # All knots at once, as figures may have very many curves.
    knots = np.concatenate([curve.knots for curve in curves]) @ matrix[:, :2].T + matrix[:, 2]
    ends = np.cumsum([0, *(len(curve.knots) for curve in curves)]).tolist()
    own = (knots[start:end] for start, end in pairwise(ends))
    size = float(abs(np.linalg.det(matrix[:, :2]))) ** 0.5

    def mapped(curve: Curve) -> Curve:
        return Curve(next(own), curve.closed, None if curve.width is None else curve.width * size, curve.part)

    return Figure(tuple(replace(layer, curves=tuple(map(mapped, layer.curves))) for layer in figure.layers))
