"""V-carving: the point of a V bit goes along the medial axis, as deep as both walls let it."""

import math
from functools import partial

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon
from shapely.geometry.base import BaseGeometry

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.entries import eased
from nebrel.core.carve.finish import in_turn, linked
from nebrel.core.carve.paths import follow
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import Standing
from nebrel.core.carve.sunk.medial_axis import medial_axis
from nebrel.core.carve.sunk.outline import SunkOutline, inset, rings_of
from nebrel.core.region.grid import polygons_of

AXIS_TOLERANCE = 0.003
HAIR, STRAIGHT = 0.01, 0.001
STEP = 0.2
LINK = 1.0
SHORTEST = 1e-3
MOST_RINGS = 4000
Line = NDArray[np.float64]


def v_carved(
    outline: SunkOutline,
    bit: Bit,
    cleared: MultiPolygon,
    cusp: float,
    tolerance: float,
    standing: Standing,
) -> Pass | None:
    """Lead a V bit through an outline, in layers no deeper than it takes at once.

    Args:
        outline: with walls that lean as much as the bit's side.
        bit: a V bit, at least as wide as the outline is deep.
        cleared: what of the floor a flat bit has cut already.
        cusp: height of the ridges that may stay on the rest of the floor, mm.
        tolerance: by how much its way may pass over the surface, so that it needs fewer points, mm.
        standing: the stock, which is taken from.
    """
    axis = medial_axis(outline.region, AXIS_TOLERANCE)
    lines = _lines_in(axis.difference(inset(cleared, HAIR)))
    floor = outline.floor
    if not floor.is_empty:
        lines += rings_of(floor)
        left = polygons_of(floor.difference(cleared.buffer(HAIR)))
        lines += _floor_lines(left, 2 * cusp / outline.slope)
    lines = linked(in_turn([_fewer(line) for line in lines]), LINK)
    layers = max(1, math.ceil(outline.depth / bit.step_down - 1e-9))
    ways: list[Way] = []
    for layer in range(1, layers + 1):
        level = -outline.depth * layer / layers
        above = level + outline.depth / layers
        # A layer passes only where the one before did not get all of it.
        deep = lines if layer == 1 else _deeper(lines, outline, above)
        surface = partial(_down_to, outline, level)
        paths = follow(deep, surface, STEP, tolerance, jumps=False)
        for path in paths:
            approach = max(standing.above(path[0], bit.radius), float(path[0, 2]))
            ways.append(Way(eased(path, standing, bit), approach))
        standing.take(paths, bit.profile)
    return Pass("v-carve", bit, tuple(ways)) if ways else None


def _down_to(outline: SunkOutline, level: float, places: NDArray[np.float64]) -> NDArray[np.float64]:
    return np.maximum(outline.heights(places), level)


def _fewer(line: Line) -> Line:
    """A line with fewer corners; how deep it goes is found at each of its places anyway."""
    return np.asarray(shapely.LineString(line).simplify(STRAIGHT).coords)


def _floor_lines(left: MultiPolygon, apart: float) -> list[Line]:
    """Rings over what is left of a floor, from its edge inwards."""
    rings: list[Line] = []
    inner = inset(left, apart / 2)
    for _ in range(MOST_RINGS):
        if inner.is_empty:
            break
        rings += rings_of(inner)
        inner = inset(inner, apart)
    return rings


def _deeper(lines: list[Line], outline: SunkOutline, above: float) -> list[Line]:
    """Parts of lines where the outline is deeper than a height, a little longer so that they come down on air."""
    deep = inset(outline.region, -above / outline.slope - HAIR)
    return [part for line in lines for part in _lines_in(shapely.LineString(line).intersection(deep))]


def _lines_in(shape: BaseGeometry) -> list[Line]:
    """The lines that a shape consists of, float64 (N, 2) mm; specks are left out."""
    merged = shapely.line_merge(shape) if shape.geom_type == "MultiLineString" else shape
    parts = [part for part in shapely.get_parts(merged) if part.geom_type == "LineString" and part.length > SHORTEST]
    return [np.asarray(part.coords)[:, :2] for part in parts]
