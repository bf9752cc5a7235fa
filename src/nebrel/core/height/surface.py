"""What a surface may be like: how smooth, how steep, how round its upper edges are."""

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.field import HeightField
from nebrel.core.height.lines.lean import NOWHERE, lean_from
from nebrel.core.height.nearest_fill import fill_from_nearest
from nebrel.core.height.smooth import smooth
from nebrel.core.jit import compiled

Where = Literal["all", "slopes", "terraces"]
Progress = Callable[[float], None]
LEVEL_SHARE = 0.01
WIDEST_BALL_PX = 14
SWEEPS = 8
ROWS_AT_ONCE = 64
_Floats = NDArray[np.float32]


def smooth_keeping(field: HeightField, radius: float, edge: float, where: Where = "all") -> HeightField:
    """The field smoothed by `radius` mm where heights differ by less than about `edge` mm; taller edges stay.

    A guided filter with the heights as their own guide (He, Sun and Tang, "Guided Image Filtering", 2010); with
    `edge` 0 a Gaussian, which keeps nothing. Terraces stay level; the curves of their edges are smoothed instead.

    Args:
        field: heights.
        radius: mm, 0 changes nothing.
        edge: mm, the smallest step that is kept; 0 smooths everything.
        where: smooth everything, only what slopes, or only what is level.
    """
    if radius / field.pitch < 1e-3:
        return field
    if field.terraces is not None:
        terraces = replace(field.terraces, soften_px=radius / field.pitch)
        return replace(field, heights=terraces.levels[terraces.labels].astype(np.float32), terraces=terraces)
    soft = smooth(field, radius) if edge <= 0 else replace(field, heights=_smooth_guided(field, radius, edge))
    if where == "all":
        return soft
    level = level_part(field, radius)
    part = level if where == "terraces" else 1 - level
    return replace(field, heights=field.heights + part * (soft.heights - field.heights))


def level_part(field: HeightField, reach: float) -> _Floats:
    """Float32 (H, W), 1 where the surface is level, 0 on slopes, going over within `reach` mm."""
    from scipy import ndimage

    size = 3
    spread = ndimage.maximum_filter(field.heights, size) - ndimage.minimum_filter(field.heights, size)
    flat = (spread < LEVEL_SHARE * field.pitch).astype(np.float32)
    return ndimage.gaussian_filter(flat, max(0.5, reach / field.pitch / 2), mode="nearest")


def add_draft(field: HeightField, steepest_deg: float, progress: Progress = lambda _: None) -> HeightField:
    """The lowest field above this one whose slopes are no steeper than `steepest_deg`, to about a degree.

    Material is added at the foot of walls; their upper edges stay where they are, so a mould comes off and a
    cone-shaped bit gets in. Where the field has lines, walls fall from those. The slope limit is the Eikonal equation
    with an obstacle, solved by sweeps in four directions (Zhao, "A Fast Sweeping Method for Eikonal Equations", 2005).

    Args:
        field: heights.
        steepest_deg: above 0 and below 90 degrees.
        progress: called with the fraction done.
    """
    step = np.float32(math.tan(math.radians(steepest_deg)) * field.pitch)
    material, lines = field.material, field.lines
    if lines is None:
        heights = np.where(material, field.heights, NOWHERE)
    else:
        lines, heights = lean_from(lines, float(step))
        material = np.ones_like(material)
    for sweep in range(SWEEPS):
        down, right = sweep // 2 % 2 == 0, sweep % 2 == 0
        changed = _sweep(heights, material, step, down, right)
        progress((sweep + 1) / SWEEPS)
        if not changed and sweep >= 3:
            break
    leaning = np.where(material, heights, field.heights)
    if lines is not None:
        lines = replace(lines, heights=leaning)
    return replace(field, heights=leaning, steepest_deg=steepest_deg, lines=lines)


def round_edges(field: HeightField, radius: float, progress: Progress = lambda _: None) -> HeightField:
    """The field with its upper edges rounded: what a ball of `radius` mm, rolled under the surface, can reach.

    A grey opening by a ball (Sternberg, "Grayscale Morphology", 1986).
    """
    if radius / field.pitch < 0.5:
        return field
    if field.terraces is not None:
        field = replace(field, heights=field.terraces.blended, terraces=None)
    under = offset_inwards(
        fill_from_nearest(field.material, field.heights), radius, field.pitch, lambda part: progress(part / 2)
    )
    opened = -offset_inwards(-under, radius, field.pitch, lambda part: progress(0.5 + part / 2))
    return replace(field, heights=np.minimum(opened, field.heights))


def offset_inwards(heights: _Floats, by: float, pitch: float, progress: Progress = lambda _: None) -> _Floats:
    """The surface `by` mm inside, measured along the normals: where the centre of a ball of that radius can be while it
    stays under the surface. Float32 (H, W) mm.

    Balls wider than 14 samples are rolled on a coarser grid over the lowest heights there, so a large distance costs no
    more than a small one and the distance is never less than asked by more than the coarser grid shows.
    """
    from scipy import ndimage

    step = math.ceil(by / pitch / WIDEST_BALL_PX)
    if step == 1:
        return _ball_under(heights, by, pitch, progress)
    rows, columns = heights.shape
    down, across = -(-(rows - 1) // step) + 1, -(-(columns - 1) // step) + 1
    low = ndimage.minimum_filter(heights, step, mode="nearest")
    y, x = np.linspace(0, rows - 1, down), np.linspace(0, columns - 1, across)
    coarse = low[np.round(y).astype(int)[:, np.newaxis], np.round(x).astype(int)]
    under = _ball_under(np.ascontiguousarray(coarse), by, pitch * (columns - 1) / (across - 1), progress)
    at_y, at_x = np.arange(rows) * (down - 1) / (rows - 1), np.arange(columns) * (across - 1) / (columns - 1)
    return np.asarray(
        ndimage.map_coordinates(under, np.meshgrid(at_y, at_x, indexing="ij"), order=1, mode="nearest"), np.float32
    )


def _ball_under(heights: _Floats, radius: float, pitch: float, progress: Progress) -> _Floats:
    reach = int(radius / pitch)
    profile = _ball(radius, pitch, reach)
    out = np.empty_like(heights)
    for start in range(0, len(heights), ROWS_AT_ONCE):
        _erode(heights, profile, reach, start, min(len(heights), start + ROWS_AT_ONCE), out)
        progress(min(1.0, (start + ROWS_AT_ONCE) / len(heights)))
    return out


def _ball(radius: float, pitch: float, reach: int) -> _Floats:
    across = np.arange(-reach, reach + 1) * pitch
    squared = radius**2 - across[:, np.newaxis] ** 2 - across**2
    return np.where(squared >= 0, np.sqrt(np.maximum(squared, 0)), np.nan).astype(np.float32)


def _smooth_guided(field: HeightField, radius: float, edge: float) -> _Floats:
    from scipy import ndimage

    size = 2 * max(1, round(radius / field.pitch)) + 1
    material = field.material.astype(np.float32)
    weight = np.maximum(ndimage.uniform_filter(material, size, mode="nearest"), 1e-6)

    def mean(values: _Floats) -> _Floats:
        return np.asarray(ndimage.uniform_filter(values * material, size, mode="nearest") / weight, dtype=np.float32)

    middle = float(field.heights.mean())
    heights = field.heights - np.float32(middle)
    average = mean(heights)
    variance = np.maximum(mean(heights * heights) - average * average, 0).astype(np.float32)
    kept = variance / (variance + np.float32((edge / 4) ** 2))
    moved = (average * (1 - kept)).astype(np.float32)
    return mean(kept.astype(np.float32)) * heights + mean(moved) + np.float32(middle)


@compiled
def _sweep(heights, material, step, down, right):
    """One pass of the slope limit from one corner; the larger of the neighbours on either side counts."""
    rows, columns = heights.shape
    changed = False
    for i in range(rows):
        y = i if down else rows - 1 - i
        for j in range(columns):
            x = j if right else columns - 1 - j
            if not material[y, x]:
                continue
            a = np.float32(-1e30)
            if x > 0:
                a = max(a, heights[y, x - 1])
            if x < columns - 1:
                a = max(a, heights[y, x + 1])
            b = np.float32(-1e30)
            if y > 0:
                b = max(b, heights[y - 1, x])
            if y < rows - 1:
                b = max(b, heights[y + 1, x])
            apart = abs(a - b)
            reached = max(a, b) - step if apart >= step else (a + b - np.sqrt(2 * step * step - apart * apart)) / 2
            if reached > heights[y, x] + np.float32(1e-6):
                heights[y, x] = reached
                changed = True
    return changed


@compiled
def _erode(heights, profile, reach, first, last, out):
    rows, columns = heights.shape
    for y in range(first, last):
        for x in range(columns):
            low = np.float32(np.inf)
            for dy in range(-reach, reach + 1):
                yy = min(max(y + dy, 0), rows - 1)
                for dx in range(-reach, reach + 1):
                    rise = profile[dy + reach, dx + reach]
                    if not np.isnan(rise):
                        xx = min(max(x + dx, 0), columns - 1)
                        low = min(low, heights[yy, xx] - rise)
            out[y, x] = low
