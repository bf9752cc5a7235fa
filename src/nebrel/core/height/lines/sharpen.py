"""Steep places of a grid of heights, made into jumps between two neighbouring samples.

What was drawn with soft edges has one or two samples between both sides of a jump. How much of such a sample each side
covers tells where the jump runs: rows and columns hold as much of either side as their samples add up to (after
Tabatabai and Mitchell, "Edge Location to Subpixel Values in Digital Imagery", 1984), and that is exact for straight
edges of any direction, where the row or column passes all of the slope.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

# Outside of a jump, slopes count as its foot or its brow below this share of it; above, it is a slope of its own.
GENTLE = 0.25
# A link belongs to a jump where it is so many times as steep as what goes on beyond it, and more than a trace of it.
STEEPER, TRACE = 2.5, 0.012
# Of a jump over three links, what the two outer ones may have: more is a slope over three samples.
OUTER_SHARE, LEFT_OVER = 0.45, 0.12
# Jumps run no nearer to a sample than that, in samples.
NEAREST_PX = 0.04
_Floats = NDArray[np.float32]


class Sharpened(NamedTuple):
    """Heights whose jumps lie between neighbours, and where between them.

    Attributes:
        heights: float32 (H, W) mm; samples on the slope of a jump have the height of the side that they lie on.
        across: float32 (H, W), how far from a sample towards the one to its right a jump runs, in samples; NaN where
            there is none.
        down: the same towards the one below.
    """

    heights: _Floats
    across: _Floats
    down: _Floats


def sharpen(heights: _Floats, least: float) -> Sharpened:
    """Heights with every slope that is as steep as a jump made one.

    Args:
        heights: float32 (H, W) mm, finite.
        least: mm that a jump has at least, beyond what the slopes beside it explain.
    """
    first = _sharpened(heights, least)
    # Samples at corners lie on the slopes of two jumps; once the others are sharp, they are on that of one.
    second = _sharpened(first.heights, least)
    return Sharpened(
        second.heights,
        np.where(np.isnan(first.across), second.across, first.across),
        np.where(np.isnan(first.down), second.down, first.down),
    )


def _sharpened(heights: _Floats, least: float) -> Sharpened:
    values, weights, across = _in_rows(heights, least)
    values_down, weights_down, down = _in_rows(np.ascontiguousarray(heights.T), least)
    chosen = np.where(weights < weights_down.T, values_down.T, values)
    sharp = np.clip(np.where(np.isnan(chosen), heights, chosen), heights.min(), heights.max())
    return Sharpened(sharp.astype(np.float32), across, np.ascontiguousarray(down.T))


def _in_rows(heights: _Floats, least: float) -> tuple[_Floats, _Floats, _Floats]:
    """Heights of samples on the slopes of jumps, how steep those are, and where they run; NaN and 0 elsewhere."""
    values, crossings = np.full(heights.shape, np.nan, dtype=np.float32), np.full(heights.shape, np.nan, np.float32)
    weights = np.zeros(heights.shape, dtype=np.float32)
    _along_rows(heights, np.float32(least), values, weights, crossings)
    return values, weights, crossings


@compiled
def _along_rows(heights, least, values, weights, crossings):
    """Find the jumps of every row; `values`, `weights` and `crossings` are filled where there are any."""
    rows, columns = heights.shape
    for y in range(rows):
        row = heights[y]
        for link in range(columns - 1):
            step = row[link + 1] - row[link]
            size = abs(step)
            if size * 3 < least:
                continue
            sign = np.float32(1.0) if step > 0 else np.float32(-1.0)
            before = _step(row, link - 1, sign)
            after = _step(row, link + 1, sign)
            if before > size or after >= size:
                continue
            first, last = link, link
            if before > max(STEEPER * max(_step(row, link - 2, sign), 0.0), TRACE * size):
                first = link - 1
            if after > max(STEEPER * max(_step(row, link + 2, sign), 0.0), TRACE * size):
                last = link + 1
            first, last = _narrowed(row, first, last, size)
            if first <= last:
                _take(row, first, last, link, least, sign, y, values, weights, crossings)


@compiled
def _narrowed(row, first, last, peak):
    """The links of a jump, when they are few enough: of three the two that hold nearly all of it; else none."""
    if last - first < 2:
        return first, last
    jump = abs(row[last + 1] - row[first])
    if jump - peak <= OUTER_SHARE * jump:
        return first, last
    if abs(row[last + 1] - row[last]) <= LEFT_OVER * jump:
        return first, last - 1
    if abs(row[first + 1] - row[first]) <= LEFT_OVER * jump:
        return first + 1, last
    return 1, 0


@compiled
def _step(row, link, sign):
    """How much a link rises in the direction of a jump; 0 beyond the ends of the row."""
    if link < 0 or link >= len(row) - 1:
        return np.float32(0.0)
    return (row[link + 1] - row[link]) * sign


@compiled
def _lean(row, link, beyond, jump):
    """The slope beside a jump: the lesser of two links, where they lean alike and no more than gently."""
    one, two = _step(row, link, np.float32(1.0)), _step(row, beyond, np.float32(1.0))
    if one * two <= 0 or abs(one) > GENTLE * jump:
        return np.float32(0.0)
    return one if abs(one) < abs(two) else two


@compiled
def _take(row, first, last, link, least, sign, y, values, weights, crossings):
    """Note one jump over the links `first` to `last`, when it is one."""
    low, high = row[first], row[last + 1]
    jump = (high - low) * sign
    links = last - first + 1
    outside = max(_step(row, first - 1, sign), _step(row, last + 1, sign), np.float32(0.0))
    if jump - links * outside < least or jump < STEEPER * links * outside:
        return
    peak = abs(row[link + 1] - row[link])
    lean_low, lean_high = _lean(row, first - 1, first - 2, jump), _lean(row, last + 1, last + 2, jump)
    covered = np.float32(0.0)
    for at in range(first + 1, last + 1):
        here_low = low + lean_low * (at - first)
        here_high = high - lean_high * (last + 1 - at)
        span = here_high - here_low
        share = (row[at] - here_low) / span if span * sign > 0.5 * jump else (row[at] - low) / (high - low)
        covered += min(max(share, np.float32(0.0)), np.float32(1.0))
    place = np.float64(last) + 0.5 - covered
    at_link = min(max(int(np.floor(place)), first), last)
    crossings[y, at_link] = min(max(place - at_link, NEAREST_PX), 1.0 - NEAREST_PX)
    weight = peak / jump
    for at in range(first + 1, last + 1):
        if weight > weights[y, at]:
            weights[y, at] = weight
            values[y, at] = low + lean_low * (at - first) if at <= place else high - lean_high * (last + 1 - at)
