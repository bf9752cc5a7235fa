"""Where charts lie over a grid of places, and over how many faces."""

import math
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.jit import compiled
from nebrel.core.surface.parameterize.chart import Chart, Extent, doubled_areas
from nebrel.core.surface.parameterize.lengths import turns_of

SAMPLES_ACROSS = 160
# How many samples beside a region count as close round it.
ROUND_IT = 2.0
# Places of the grid lie beside sides of faces that run straight, which would be counted on both.
ASIDE = (0.5 + 1 / 59, 0.5 + 1 / 61)
_Reals = NDArray[np.float64]


@dataclass(frozen=True)
class Coverage:
    """A grid of places of a chart.

    Attributes:
        x, y: float64 (columns,) and (rows,), mm.
        counts: int32 (rows, columns), over how many faces each place lies.
    """

    x: _Reals
    y: _Reals
    counts: NDArray[np.int32]


def coverage_of(chart: Chart, bounds: tuple[float, float, float, float]) -> Coverage:
    """A chart over a box of it.

    Args:
        bounds: lowest X and Y, highest X and Y, mm.
    """
    low_x, low_y, high_x, high_y = bounds
    pitch = max(high_x - low_x, high_y - low_y, 1e-9) / SAMPLES_ACROSS
    columns, rows = (max(1, math.floor(side / pitch)) for side in (high_x - low_x, high_y - low_y))
    x: _Reals = low_x + (np.arange(columns, dtype=np.float64) + ASIDE[0]) * pitch
    y: _Reals = low_y + (np.arange(rows, dtype=np.float64) + ASIDE[1]) * pitch
    counts = np.zeros((rows, columns), dtype=np.int32)
    plane = chart.plane[doubled_areas(chart.plane) > 0]
    for turn in turns_of(chart):
        _count(plane + turn, np.array([x[0], y[0]]), pitch, counts)
    return Coverage(x, y, counts)


def missing_of_box(chart: Chart, extent: Extent) -> float:
    """Which share of the box of what is laid has no skin under it."""
    return _over_box(chart, extent)[0]


def spoiled_of_box(chart: Chart, extent: Extent) -> float:
    """Which share of the box of what is laid has no skin under it, or the skin of several places."""
    return sum(_over_box(chart, extent))


def _over_box(chart: Chart, extent: Extent) -> tuple[float, float]:
    """Which share of the box of what is laid has no skin under it, and which the skin of several places."""
    corner_x, corner_y = extent.corners(math.radians(chart.upright_deg))
    found = coverage_of(chart, (corner_x.min(), corner_y.min(), corner_x.max(), corner_y.max()))
    angle = math.radians(extent.turn_deg + chart.upright_deg)
    x, y = np.meshgrid(found.x, found.y)
    along, across = math.cos(angle) * x + math.sin(angle) * y, math.cos(angle) * y - math.sin(angle) * x
    wide, high = extent.width or 2 * extent.reach, extent.height or 2 * extent.reach
    counts = found.counts[(np.abs(along) <= wide / 2) & (np.abs(across) <= high / 2)]
    return float((counts == 0).sum()) / max(counts.size, 1), float((counts > 1).sum()) / max(counts.size, 1)


def leaves(chart: Chart, region: MultiPolygon) -> bool:
    """Whether a region or what is close round it reaches beyond a chart."""
    if region.is_empty:
        return False
    low_x, low_y, high_x, high_y = region.bounds
    beside = ROUND_IT * max(high_x - low_x, high_y - low_y) / SAMPLES_ACROSS
    found = coverage_of(chart, (low_x - beside, low_y - beside, high_x + beside, high_y + beside))
    x, y = (each[found.counts == 0] for each in np.meshgrid(found.x, found.y))
    return bool(len(x) and (shapely.distance(region, shapely.points(x, y)) < beside).any())


@compiled
def _count(plane, low, pitch, counts):
    """Add up, at places of a grid, over how many faces they lie."""
    rows, columns = counts.shape
    for k in range(len(plane)):
        ax, ay = plane[k, 0, 0], plane[k, 0, 1]
        bx, by = plane[k, 1, 0], plane[k, 1, 1]
        cx, cy = plane[k, 2, 0], plane[k, 2, 1]
        left = max(0, int(np.ceil((min(ax, bx, cx) - low[0]) / pitch)))
        right = min(columns - 1, int(np.floor((max(ax, bx, cx) - low[0]) / pitch)))
        foot = max(0, int(np.ceil((min(ay, by, cy) - low[1]) / pitch)))
        top = min(rows - 1, int(np.floor((max(ay, by, cy) - low[1]) / pitch)))
        for row in range(foot, top + 1):
            y = low[1] + row * pitch
            for column in range(left, right + 1):
                x = low[0] + column * pitch
                if (bx - ax) * (y - ay) - (by - ay) * (x - ax) < 0:
                    continue
                if (cx - bx) * (y - by) - (cy - by) * (x - bx) < 0:
                    continue
                if (ax - cx) * (y - cy) - (ay - cy) * (x - cx) < 0:
                    continue
                counts[row, column] += 1
