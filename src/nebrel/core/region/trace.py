"""From a picture's samples to outlines: sub-pixel edges made into curves."""

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from itertools import pairwise

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from nebrel.core.cores import cores
from nebrel.core.errors import TooLargeError
from nebrel.core.jit import compiled
from nebrel.core.region.curves import CHORD_MM, Curve, Layer, evenly, flatten, flatten_each, polygon_curve
from nebrel.core.region.fit import fit_closed, fit_open
from nebrel.core.region.grid import polygons_of
from nebrel.core.region.level_rings import level_rings
from nebrel.core.region.refine import inked_share, refine
from nebrel.core.region.rings import rings_of

FINEST_PX = 0.12
HARD_PX = 0.5
STRAYED_PX = 0.25
SMOOTHEST_PX = 2.0
SMOOTH_POWER = 2.2
FEWEST_PLACES = 6
MEASURED_PX = 0.25
PLACES_A_SIDE = 16
# How often what lies beside crossings is put back before all of a ring is.
CALMED, BESIDE_CHORDS = 3, 4
WORTH_THREADS = 4000
# More knots than any drawing has; noise would take minutes and gigabytes. Edges of so many times as many places are
# not even fitted.
MOST_KNOTS, PLACES_A_KNOT = 100_000, 20
BEHIND, AHEAD = 16, 48
STAIRS_SIGMA_PX = 0.8
HARD_WITHIN = 0.02
BESIDE_PX = 5
HARD_SHARE = 0.005
_Points = NDArray[np.float64]


@dataclass(frozen=True)
class Smoothing:
    """How faithfully edges are followed, and what is too small to keep.

    Attributes:
        smooth: 0 as faithful as the samples are, to 1 for broad strokes.
        tolerance: mm that curves may be off the picture's edge; overrides `smooth` where given.
        smallest_part, smallest_hole: mm², what is less is dropped or filled.
    """

    smooth: float = 0.3
    tolerance: float | None = None
    smallest_part: float = 0.0
    smallest_hole: float = 0.0

    def allowed(self, pitch: float, hard: bool = False) -> float:
        """Mm that curves may be off the samples' edge; never less than what samples can tell.

        Hard edges are told to half a pixel, unless a tolerance is given.
        """
        finest = FINEST_PX * pitch
        if self.tolerance is not None:
            return max(finest, self.tolerance)
        wanted = finest + SMOOTHEST_PX * pitch * self.smooth**SMOOTH_POWER
        return max(wanted, HARD_PX * pitch) if hard else wanted


@dataclass(frozen=True)
class Traced:
    """Curves, and how far they are from the edge that the samples show.

    Attributes:
        layers: one, or one for each tone.
        max_deviation, rms_deviation: mm, of the sampled edge's places from the curves; corners, which samples round,
            are off by the rounding.
    """

    layers: tuple[Layer, ...]
    max_deviation: float
    rms_deviation: float


def trace_level(
    values: NDArray[np.float32],
    level: float,
    pitch: float,
    smoothing: Smoothing,
    progress: Callable[[float], None] = lambda _: None,
) -> Traced:
    """The edges of where `values` reach `level`.

    Args:
        values: float32 (H, W), top row first; edges are interpolated between the middles of pixels and end at the
            outer sides of the outermost ones.
        level: within the values.
        pitch: mm that a pixel is wide; the lower left corner of the lower left one is the origin, Y points up.
        smoothing: how curves follow the edge.
        progress: called with the fraction done.

    Raises:
        TooLargeError: the edges need more nodes than are accepted, as those of noise do.
    """
    softened = soften(values, level)
    rings = _kept(level_rings(softened, level), smoothing, pitch)
    refuse_endless_edges(sum(map(len, rings)) // PLACES_A_KNOT)
    progress(0.4)
    allowed = smoothing.allowed(pitch, hard=softened is not values)

    def fit(ring: _Points) -> Curve:
        return Curve(fit_closed(ring * pitch, allowed, pitch))

    curves = []
    for number, curve in enumerate(_each(fit, rings)):
        curves.append(curve)
        progress(0.4 + 0.5 * (number + 1) / len(rings))
    refuse_endless_edges(sum(len(curve.knots) for curve in curves))
    shown = inked_share(values, level) if curves else None
    closer = refine(curves, *shown, pitch) if shown is not None and shown[1].any() else curves
    chosen, drawn = _without_crossings(
        closer, curves, [ring * pitch for ring in rings], min(allowed, STRAYED_PX * pitch)
    )
    away = [np.zeros(1), *(_beside(ring * pitch, line, True) for ring, line in zip(rings, drawn, strict=True))]
    every = np.concatenate(away)
    worst, rms = float(every.max()), float(np.sqrt((every**2).sum() / max(len(every) - 1, 1)))
    return Traced((Layer("Outline", tuple(chosen)),), worst, rms)


def refuse_endless_edges(knots: int) -> None:
    """Raise a `TooLargeError` where edges need more nodes than are accepted."""
    if knots > MOST_KNOTS:
        raise TooLargeError(
            f"The picture's edges need more than {MOST_KNOTS:,} nodes, as those of noise do, and no more are accepted; "
            "soften the picture, or keep larger parts alone."
        )


def _each(fit: Callable[[_Points], Curve], rings: list[_Points]) -> Iterator[Curve]:
    """Every ring's curve; on all processors where there is enough to do."""
    if sum(map(len, rings)) < WORTH_THREADS:
        yield from map(fit, rings)
        return
    with ThreadPoolExecutor(max_workers=min(8, cores())) as threads:
        yield from threads.map(fit, rings)


def _without_crossings(
    closer: list[Curve], fitted: list[Curve], rings: list[_Points], strayed: float
) -> tuple[list[Curve], list[_Points]]:
    """Of every ring the closest curve that crosses neither itself nor another one, and places along it.

    Tried in turn are what covers best, that with what lies beside its crossings as it was fitted, all of it brought
    halfway back, what was fitted, and the ring itself with fewer places; the ring as it is crosses nothing.
    """
    crossed: dict[int, set[int]] = {}

    def calmed(at: int) -> Curve:
        others = [outlines[other] for other in crossed.get(at, ())]
        return _calmed(chosen[at], fitted[at], outlines[at], others)

    tries: list[Callable[[int], Curve]] = [
        lambda at: closer[at],
        *[calmed] * CALMED,
        lambda at: replace(closer[at], knots=(closer[at].knots + fitted[at].knots) / 2),
        lambda at: fitted[at],
        lambda at: polygon_curve(_fewer_places(rings[at], strayed)),
        lambda at: polygon_curve(rings[at]),
    ]
    chosen, turn = list(closer), np.zeros(len(closer), dtype=int)
    # Drawn as finely as areas are made of them; and once more by parameters, which tells the smallest loops.
    looked_at = [_closed(points) for points in flatten_each(chosen)]
    fresh = np.arange(len(chosen))
    outlines: NDArray[np.object_] = np.empty(len(chosen), dtype=object)
    while len(fresh):
        lines = [looked_at[at] for at in fresh]
        of = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
        outlines[fresh] = shapely.linearrings(np.vstack(lines), indices=of)
        faulty = set(fresh[~shapely.is_simple(outlines[fresh])].tolist())
        lines = [evenly(chosen[at], PLACES_A_SIDE) for at in fresh]
        of = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
        faulty |= set(fresh[~shapely.is_simple(shapely.linearrings(np.vstack(lines), indices=of))].tolist())
        # Whether they meet at all is told much sooner than how.
        one, other = shapely.STRtree(outlines).query(outlines[fresh], predicate="intersects")
        one, other = fresh[one[fresh[one] != other]], other[fresh[one] != other]
        across = shapely.crosses(outlines[one], outlines[other])
        faulty |= {*one[across].tolist(), *other[across].tolist()}
        crossed.clear()
        for here, there in zip(one[across].tolist(), other[across].tolist(), strict=True):
            crossed.setdefault(here, set()).add(there)
            crossed.setdefault(there, set()).add(here)
        fresh = np.array(sorted(at for at in faulty if turn[at] < len(tries) - 1), dtype=np.int64)
        for at in fresh:
            turn[at] += 1
            chosen[at] = tries[turn[at]](at)
            looked_at[at] = _closed(flatten(chosen[at]))
        refuse_endless_edges(sum(len(curve.knots) for curve in chosen))
    return chosen, looked_at


def _calmed(curve: Curve, fitted: Curve, outline: shapely.LinearRing, others: list[shapely.LinearRing]) -> Curve:
    """The curve with all knots beside its crossings, with itself and with others, as they were fitted."""
    pieces = shapely.get_parts(shapely.node(outline))
    ends = shapely.get_coordinates([shapely.get_point(pieces, 0), shapely.get_point(pieces, -1)])
    places, counts = np.unique(ends, axis=0, return_counts=True)
    met = shapely.points(
        np.vstack([places[counts > 2], shapely.get_coordinates(shapely.intersection(outline, others))])
    )
    if not len(met):
        return curve
    around = evenly(curve, PLACES_A_SIDE).reshape(-1, PLACES_A_SIDE, 2)
    sides = shapely.linestrings(np.concatenate([around, np.roll(around, -1, axis=0)[:, :1]], axis=1))
    nearest = np.unique(shapely.STRtree(sides).query(met, predicate="dwithin", distance=BESIDE_CHORDS * CHORD_MM)[1])
    knots = curve.knots.copy()
    beside = np.concatenate([nearest, (nearest + 1) % len(knots)])
    knots[beside] = fitted.knots[beside]
    return replace(curve, knots=knots)


def _fewer_places(ring: _Points, allowed: float) -> _Points:
    points = shapely.get_coordinates(shapely.Polygon(ring).simplify(allowed).exterior)[:-1]
    return points if len(points) > 2 else ring


def _closed(points: _Points) -> _Points:
    return np.vstack([points, points[:1]])


def trace_cells(
    cells: list[tuple[int, shapely.Polygon]], tones: list[float], pitch: float, smoothing: Smoothing
) -> Traced:
    """Curves round areas that share their borders: every border is fitted once, so both its sides agree exactly.

    Args:
        cells: parts with the number of their tone; every two that touch share all corners there (`terrace_cells`).
        tones: 0 black to 1 white, by number; those without a part give no layer.
        pitch: mm between the samples that the parts come from.
        smoothing: how curves follow the edges.
    """
    kept = _merged_small(cells, smoothing)
    lines = shapely.union_all([part.boundary for _, part in kept])
    arcs = [shapely.get_coordinates(line) for line in shapely.get_parts(shapely.line_merge(lines))]
    allowed = smoothing.allowed(pitch)
    fitted, side_of, squares, worst, count = [], {}, 0.0, 0.0, 0
    for number, arc in enumerate(arcs):
        closed = bool((arc[0] == arc[-1]).all())
        places = dense(arc[:-1] if closed else arc, closed, pitch)
        curve = Curve((fit_closed if closed else fit_open)(places, allowed, pitch), closed)
        fitted.append(curve)
        away = _away(places, curve, pitch)
        worst, squares, count = max(worst, float(away.max())), squares + float((away**2).sum()), count + len(away)
        for at, (here, there) in enumerate(pairwise(map(tuple, arc.tolist()))):
            side_of[here, there] = (number, at)
    layers: list[Layer] = []
    for tone in range(len(tones)):
        mine = [part for number, part in kept if number == tone]
        rings = [ring for part in mine for ring in rings_of(shapely.MultiPolygon([part]))]
        curves = [_ring_of_arcs(ring, side_of, fitted) for ring in rings]
        if curves:
            layers.append(Layer(f"Tone {len(layers) + 1}", tuple(curves), tones[tone]))
    return Traced(tuple(layers), worst, (squares / max(count, 1)) ** 0.5)


def _ring_of_arcs(
    ring: _Points, side_of: dict[tuple[tuple[float, ...], tuple[float, ...]], tuple[int, int]], arcs: list[Curve]
) -> Curve:
    """The curve round a ring, put together from the arcs that its sides belong to."""
    places = [tuple(place) for place in ring.tolist()]
    order: list[tuple[int, bool]] = []
    for here, there in zip(places, [*places[1:], places[0]], strict=True):
        ahead = (here, there) in side_of
        number, _ = side_of[here, there] if ahead else side_of[there, here]
        if not order or order[-1] != (number, ahead):
            order.append((number, ahead))
    if len(order) > 1 and order[0] == order[-1]:
        order.pop()
    if len(order) == 1 and arcs[order[0][0]].closed:
        number, ahead = order[0]
        return arcs[number] if ahead else arcs[number].turned()
    chains = [arcs[number] if ahead else arcs[number].turned() for number, ahead in order]
    knots = [chain.knots.copy() for chain in chains]
    for before, after in zip(knots, [*knots[1:], knots[0]], strict=True):
        after[0, 0] = before[-1, 0]
    return Curve(np.vstack([chain[:-1] for chain in knots]))


def _merged_small(cells: list[tuple[int, shapely.Polygon]], smoothing: Smoothing) -> list[tuple[int, shapely.Polygon]]:
    """Cells of one tone made one, and those too small given to the neighbour with which they share most border."""
    least = max(smoothing.smallest_part, smoothing.smallest_hole)
    parts = [(number, part) for number, part in cells if part.area > 0]
    small = [at for at, (_, part) in enumerate(parts) if part.area < least]
    tree = shapely.STRtree([part for _, part in parts])
    for at in sorted(small, key=lambda at: parts[at][1].area):
        _, part = parts[at]
        beside = [int(other) for other in tree.query(part, predicate="touches")]
        shared = [part.boundary.intersection(parts[other][1].boundary).length for other in beside]
        if shared and max(shared) > 0:
            parts[at] = (parts[beside[int(np.argmax(shared))]][0], part)
    merged = []
    for tone in sorted({number for number, _ in parts}):
        whole = shapely.union_all([part for number, part in parts if number == tone])
        merged += [(tone, part) for part in polygons_of(whole).geoms]
    return merged


def _kept(rings: list[_Points], smoothing: Smoothing, pitch: float) -> list[_Points]:
    least_part, least_hole = smoothing.smallest_part / pitch**2, smoothing.smallest_hole / pitch**2
    kept = []
    for ring in rings:
        area = _area(ring)
        if abs(area) >= (least_part if area > 0 else least_hole) and len(ring) >= FEWEST_PLACES:
            kept.append(ring)
    return kept


def dense(points: _Points, closed: bool, pitch: float) -> _Points:
    """The chain with a place at least every `pitch`."""
    ends = np.vstack([points, points[:1]]) if closed else points
    steps = np.linalg.norm(np.diff(ends, axis=0), axis=1)
    counts = np.maximum(1, np.ceil(steps / pitch)).astype(int)
    start = np.repeat(ends[:-1], counts, axis=0)
    step = np.repeat(np.diff(ends, axis=0) / counts[:, np.newaxis], counts, axis=0)
    within = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    dense = start + step * within[:, np.newaxis]
    return dense if closed else np.vstack([dense, ends[-1:]])


def _away(ring: _Points, curve: Curve, pitch: float) -> _Points:
    """How far places of an edge are from the curve fitted to them, mm; both are followed side by side."""
    points = flatten(curve, MEASURED_PX * FINEST_PX * pitch)
    if curve.closed:
        points = np.vstack([points, points[:1]])
    return _beside(ring, points, curve.closed)


@compiled
def _beside(places, line, closed):
    away = np.empty(len(places))
    sides = len(line) - 1
    at = -1
    for i in range(len(places)):
        x, y = places[i, 0], places[i, 1]
        best = np.inf
        first, last = (0, sides) if at < 0 else (at - BEHIND, at + AHEAD)
        for counted in range(first, last):
            side = counted % sides if closed else counted
            if side < 0 or side >= sides:
                continue
            ax, ay = line[side, 0], line[side, 1]
            dx, dy = line[side + 1, 0] - ax, line[side + 1, 1] - ay
            size = dx * dx + dy * dy
            t = min(max(((x - ax) * dx + (y - ay) * dy) / size, 0.0), 1.0) if size > 0 else 0.0
            d = (ax + t * dx - x) ** 2 + (ay + t * dy - y) ** 2
            if d < best:
                best, at = d, side
        away[i] = np.sqrt(best)
    return away


def _area(ring: _Points) -> float:
    x, y = ring.T
    return float(np.dot(x[:-1], y[1:]) - np.dot(y[:-1], x[1:]) + x[-1] * y[0] - y[-1] * x[0]) / 2


def soften(values: NDArray[np.float32], level: float) -> NDArray[np.float32]:
    """The samples, blurred by less than a pixel where the edge is hard, so that it slants and is no stair.

    Smoothed edges have a sample between both their sides nearly everywhere; hard ones have hardly any.
    """
    inside = (values >= level).astype(np.uint8)
    square = np.ones((3, 3), np.uint8)
    rim = np.flatnonzero(cv2.dilate(inside, square) != cv2.erode(inside, square))
    if not len(rim) or _between(values, rim) > HARD_SHARE * len(rim):
        return values
    softened: NDArray[np.float32] = np.empty_like(values)
    cv2.GaussianBlur(values, (0, 0), STAIRS_SIGMA_PX, softened, borderType=cv2.BORDER_REPLICATE)
    return softened


@compiled
def _between(values, rim):
    """How many samples, by number, lie between the least and the largest around them, and are like neither."""
    rows, columns = values.shape
    reach = BESIDE_PX // 2
    count = 0
    for number in rim:
        row, column = number // columns, number % columns
        least = most = values[row, column]
        for other in range(max(row - reach, 0), min(row + reach + 1, rows)):
            for beside in range(max(column - reach, 0), min(column + reach + 1, columns)):
                least, most = min(least, values[other, beside]), max(most, values[other, beside])
        if least + HARD_WITHIN < values[row, column] < most - HARD_WITHIN:
            count += 1
    return count
