"""Parts of a picture on a skin between the lines along which its depths jump, each with depths that go on beyond it."""

from dataclasses import dataclass

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.height.field import HeightField
from nebrel.core.height.lined import with_lines
from nebrel.core.height.lines.network import HeightLines
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.region.grid import polygons_of

# More parts than that are those of noise and grain, which stay as their samples are.
MOST_CELLS = 300
# A part of fewer samples than that is none: it belongs to what is beside it.
LEAST_PX = 6.0
# Depths go on by a plane through samples so near, with slopes held a little.
WINDOW_PX, HELD = 2, 0.02
# How far beyond its own samples a part is asked about.
BEYOND_PX = 3
_Floats = NDArray[np.float32]
_Reals = NDArray[np.float64]
_Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Cell:
    """One part.

    Attributes:
        region: mm, the middle of the picture at the origin, Y up.
        depths: float32 (rows, columns) mm, of a piece of the picture's grid.
        first: row and column of its first sample in the picture's grid.
    """

    region: MultiPolygon
    depths: _Floats
    first: tuple[int, int]


def cells_of(depths: _Floats, region: MultiPolygon, pitch: float, tolerance: float) -> tuple[Cell, ...]:
    """The parts of a picture of depths; none where nothing jumps, or so much does that it is noise.

    Lines that end within the picture part nothing, and stay slopes.

    Args:
        depths: float32 (H, W) mm.
        region: mm, where it is, the middle of the picture at the origin, Y up.
        pitch: mm between samples.
        tolerance: mm that depths may be off.
    """
    rows, columns = depths.shape
    middle = np.array([(columns - 1) / 2, (rows - 1) / 2])
    x, y = (np.arange(columns) - middle[0]) * pitch, (middle[1] - np.arange(rows)) * pitch
    shapely.prepare(region)
    covered = shapely.contains_xy(region.buffer(pitch), *np.meshgrid(x, y))
    lines = with_lines(HeightField(depths, covered.astype(np.float32), pitch), tolerance).lines
    if lines is None:
        return ()
    places = (lines.places - middle) * [pitch, -pitch]
    drawn = [shapely.linestrings(places[lines.pieces]), shapely.boundary(shapely.get_parts(region))]
    found = shapely.get_parts(shapely.polygonize(shapely.get_parts(shapely.union_all(np.concatenate(drawn)))))
    within = shapely.point_on_surface(found)
    found = found[shapely.contains_xy(region, shapely.get_x(within), shapely.get_y(within))]
    if not 1 < len(found) <= MOST_CELLS:
        return ()
    joined = _without_slivers(found, LEAST_PX * pitch**2)
    return tuple(_cell(whole, part, depths, lines, (x, y)) for whole, part in joined) if len(joined) > 1 else ()


def _without_slivers(parts: NDArray[np.object_], least: float) -> list[tuple[shapely.Polygon, shapely.Polygon]]:
    """Parts that are no smaller than `least` mm², with those that are, each joined to what it borders on most, where
    that leaves one piece; and each part as it was before."""
    large = [part for part in parts if part.area >= least]
    waiting = [part for part in parts if part.area < least]
    whole, progress = list(large), True
    while waiting and progress:
        progress, left = False, []
        for part in waiting:
            shared = [shapely.length(shapely.intersection(part, other)) for other in whole]
            at = int(np.argmax(shared)) if shared else 0
            if not shared or shared[at] <= 0:
                left.append(part)
                continue
            joined = shapely.union(whole[at], part)
            progress |= joined.geom_type == "Polygon"
            whole[at] = joined if joined.geom_type == "Polygon" else whole[at]
        waiting = left
    return [*zip(whole, large, strict=True), *((part, part) for part in waiting)]


def _cell(
    whole: shapely.Polygon, part: shapely.Polygon, depths: _Floats, lines: HeightLines, axes: tuple[_Reals, _Reals]
) -> Cell:
    """A part, its depths those of the picture but near to its lines, where they are sharp.

    Args:
        whole, part: mm, what it covers, and what of it tells how deep it is.
        depths: of the picture.
        lines: in it.
        axes: where columns and rows lie, mm.
    """
    x, y = axes
    low_x, low_y, high_x, high_y = whole.bounds
    pitch = float(x[1] - x[0])
    columns = np.flatnonzero((x >= low_x - BEYOND_PX * pitch) & (x <= high_x + BEYOND_PX * pitch))
    rows = np.flatnonzero((y >= low_y - BEYOND_PX * pitch) & (y <= high_y + BEYOND_PX * pitch))
    piece = np.ix_(rows, columns)
    shapely.prepare(part)
    inside = shapely.contains_xy(part, *np.meshgrid(x[columns], y[rows]))
    # Where lines end within the part nothing is parted, and depths are as they came.
    window = np.ones((2 * WINDOW_PX + 1,) * 2, np.uint8)
    edge = inside & (cv2.erode(inside.astype(np.uint8), window) == 0)
    sharp = np.where(edge, lines.heights[piece], depths[piece])
    depths = _going_on(sharp, inside & ~(edge & lines.free[piece]), lines.heights)
    return Cell(polygons_of(whole), depths, (int(rows[0]), int(columns[0])))


def _going_on(depths: _Floats, own: _Flags, every: _Floats) -> _Floats:
    """Depths beyond a part's own samples by planes of least squares through those near to each."""
    if not own.any():
        return depths
    away = np.arange(-WINDOW_PX, WINDOW_PX + 1, dtype=np.float64)
    side = np.ones_like(away)
    known = own.astype(np.float64)
    # Heights from the middle of what there is, so that little is lost by rounding.
    base = float(depths[own].mean())
    seen = np.where(own, depths - base, 0.0)

    def summed(values: _Reals, across: _Reals, down: _Reals) -> _Reals:
        return np.asarray(cv2.sepFilter2D(values, cv2.CV_64F, across, down, borderType=cv2.BORDER_CONSTANT))

    near = cv2.dilate(own.astype(np.uint8), np.ones((2 * WINDOW_PX + 1,) * 2, np.uint8)) > 0
    asked = near & ~own
    count = summed(known, side, side)[asked]
    sums = {
        name: summed(known, across, down)[asked]
        for name, across, down in (
            ("x", away, side), ("y", side, away), ("xx", away**2, side), ("yy", side, away**2), ("xy", away, away),
        )
    }  # fmt: skip
    of = [summed(seen, across, down)[asked] for across, down in ((side, side), (away, side), (side, away))]
    held = HELD * count
    matrix = np.array(
        [
            [count, sums["x"], sums["y"]],
            [sums["x"], sums["xx"] + held, sums["xy"]],
            [sums["y"], sums["xy"], sums["yy"] + held],
        ]
    ).transpose(2, 0, 1)
    plane = np.linalg.solve(matrix, np.array(of).T[..., np.newaxis])[:, 0, 0]
    found = fill_from_nearest(own, depths)
    found[asked] = np.clip(base + plane, float(every.min()), float(every.max()))
    return found
