"""What is wrong with outlines before anything is made of them."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.region.curves import Curve, Figure, boxes_round, flatten, flatten_all
from nebrel.core.region.grid import grid_for, on_grid
from nebrel.core.region.rings import rings_of

DOUBLE_MM = 0.01
LOOK_CHORD = 0.01
# Of more rings than so many, those alone are found to touch that share a corner.
MOST_NODED = 2_000
FlawKind = Literal["open", "crossing", "double", "tiny"]


@dataclass(frozen=True)
class Flaw:
    """One fault.

    Attributes:
        kind: an edge with open ends, one that crosses itself, one that is there twice, or one round very little.
        curve: its number.
        where: a place on it, mm.
        size: mm between its ends for `open`, mm² for `tiny`, else 0.
    """

    kind: FlawKind
    curve: int
    where: tuple[float, float]
    size: float


def find_flaws(figure: Figure, smallest: float) -> list[Flaw]:
    """Faults of a figure's edges; those around less than `smallest` mm² count as tiny. Strokes may be open."""
    flaws = []
    curves = figure.curves
    lines = flatten_all(curves, LOOK_CHORD)
    around = [at for at, curve in enumerate(curves) if curve.closed and curve.width is None and len(lines[at]) > 2]
    simple, areas = _looked_at([lines[at] for at in around])
    told = dict(zip(around, zip(simple.tolist(), areas.tolist(), strict=True), strict=True))
    for number, (curve, points) in enumerate(zip(curves, lines, strict=True)):
        where = (float(points[0, 0]), float(points[0, 1]))
        if not curve.closed and curve.width is None:
            flaws.append(Flaw("open", number, where, float(np.hypot(*(curve.nodes[0] - curve.nodes[-1])))))
        if number not in told:
            continue
        is_simple, area = told[number]
        if not is_simple:
            flaws.append(Flaw("crossing", number, _crossing(points, where), 0.0))
        if area < smallest:
            flaws.append(Flaw("tiny", number, where, area))
    return flaws + _doubles(figure, lines)


def _looked_at(outlines: list[NDArray[np.float64]]) -> tuple[NDArray[np.bool_], NDArray[np.float64]]:
    """Whether each crosses itself nowhere, and its area in mm²."""
    if not outlines:
        return np.empty(0, dtype=np.bool_), np.empty(0)
    of = np.repeat(np.arange(len(outlines)), [len(points) for points in outlines])
    rings = shapely.linearrings(np.vstack(outlines), indices=of)
    return shapely.is_simple(rings), shapely.area(shapely.polygons(rings))


def touching_places(region: MultiPolygon) -> NDArray[np.float64]:
    """Where parts of a region, or a hole and what is round it, meet in a point only, float64 (K, 2) mm.

    Looked for on the grid on which solids are made, so what is nearer than that counts as met.
    """
    if region.is_empty:
        return np.empty((0, 2))
    snapped = on_grid(region, grid_for(max(abs(bound) for bound in region.bounds)))
    rings = rings_of(snapped)
    if not rings:
        return np.empty((0, 2))
    if len(rings) > MOST_NODED:
        x, y = np.vstack(rings).T
        # As complex numbers they are sorted in a tenth of the time.
        found, counts = np.unique(x + 1j * y, return_counts=True)
        return np.column_stack([found.real, found.imag])[counts > 1]
    # Noded, a ring that nothing touches is one closed line; where something does, more than two ends meet.
    lines = shapely.get_parts(shapely.node(snapped.boundary))
    ends = shapely.get_coordinates([shapely.get_point(lines, 0), shapely.get_point(lines, -1)])
    places, counts = np.unique(ends, axis=0, return_counts=True)
    return places[counts > 2]


def _crossing(points: np.ndarray, otherwise: tuple[float, float]) -> tuple[float, float]:
    reason = shapely.is_valid_reason(shapely.Polygon(points))
    if "[" not in reason:
        return otherwise
    x, y = reason.split("[")[1].rstrip("]").split()[:2]
    return float(x), float(y)


def _doubles(figure: Figure, lines: list[NDArray[np.float64]]) -> list[Flaw]:
    """Areas of different layers may share an edge; within a layer it is there once too often."""
    flaws, number = [], 0
    for layer in figure.layers:
        by_box: dict[tuple[int, ...], list[Curve]] = {}
        if not layer.curves:
            continue
        mine = lines[number : number + len(layer.curves)]
        keys = np.round(boxes_round(layer.curves, mine) / (10 * DOUBLE_MM)).astype(np.int64).tolist()
        for curve, key in zip(layer.curves, keys, strict=True):
            alike = by_box.setdefault(tuple(key), [])
            if any(_alike(other, curve) for other in alike):
                flaws.append(Flaw("double", number, (float(curve.nodes[0, 0]), float(curve.nodes[0, 1])), 0.0))
            alike.append(curve)
            number += 1
    return flaws


def _alike(one: Curve, other: Curve) -> bool:
    first, second = (shapely.LineString(flatten(curve, LOOK_CHORD)) for curve in (one, other))
    return bool(shapely.hausdorff_distance(first, second) <= DOUBLE_MM)
