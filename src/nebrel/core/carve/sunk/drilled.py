"""Round holes that a drill is as wide as, bored in steps."""

import math

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon, Polygon

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.program import Pass, Way
from nebrel.core.carve.standing import CLEAR

ROUND, FITS = 0.97, 0.03
STEP_SHARE = 1.0


def holes_for(region: MultiPolygon, drill: Bit) -> list[Polygon]:
    """Parts of a region that are round and as wide as a drill; a hair wider ones too, never narrower ones."""
    found = []
    for part in region.geoms:
        radius = float(shapely.minimum_bounding_radius(part))
        is_round = not part.interiors and part.area >= ROUND * math.pi * radius**2
        if is_round and -1e-3 <= radius - drill.radius <= max(FITS * drill.radius, 0.02):
            found.append(part)
    return found


def drilled(holes: list[Polygon], depth: float, drill: Bit) -> Pass:
    """Bore holes: down by a step, out for the chips, down again.

    Args:
        holes: round parts.
        depth: of the point, mm.
        drill: no step is deeper than its diameter or its deepest layer.
    """
    step = min(STEP_SHARE * drill.diameter, drill.step_down)
    steps = max(1, math.ceil(depth / step - 1e-9))
    heights = [CLEAR]
    for number in range(1, steps + 1):
        heights += [-depth * number / steps, CLEAR]
    ways = []
    for x, y in in_row([_middle(hole) for hole in holes]):
        path = np.column_stack([np.full(len(heights), x), np.full(len(heights), y), heights])
        ways.append(Way(path[:-1], CLEAR))
    return Pass("drill", drill, tuple(ways))


def without(region: MultiPolygon, holes: list[Polygon]) -> MultiPolygon:
    """A region's parts that are not among the holes."""
    left = [part for part in region.geoms if not any(part is hole for hole in holes)]
    return MultiPolygon(left)


def in_row(places: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Places so that each is the nearest to the one before."""
    left = np.array(places)
    ordered: list[tuple[float, float]] = []
    at: NDArray[np.float64] = left.min(axis=0)
    while len(left):
        nearest = int(np.argmin(np.hypot(*(left - at).T)))
        at = left[nearest]
        ordered.append((float(at[0]), float(at[1])))
        left = np.delete(left, nearest, axis=0)
    return ordered


def _middle(hole: Polygon) -> tuple[float, float]:
    circle = shapely.minimum_bounding_circle(hole)
    return circle.centroid.x, circle.centroid.y
