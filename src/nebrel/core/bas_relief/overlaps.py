"""Where one part of a picture hides another, and what a depth does on either side of that."""

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

# A depth leaps within so many samples on either side, since strokes and networks leave it soft.
SOFT = 3
# It leaps by so much of its span, and is so much steeper than beside it, at the least.
LEAST_SHARE, LEAST_SLOPE = 0.025, 2.5
# Along the border of a part it is told as a mean over so many samples.
ALONG = 4.0
# Fewer leaps than that in a row are none.
LEAST_RUN = 16

_Floats = NDArray[np.float64]
_Mask = NDArray[np.bool_]
_Ways = NDArray[np.int8]
_Number = TypeVar("_Number", bound=np.generic)


@dataclass(frozen=True)
class Depths:
    """How near everything is, taken apart: where parts stand, and how they are rounded there.

    Attributes:
        standing: float64 (H, W) mm, nearer above; any number outside.
        rounding: float64 (H, W) mm, what is added to that.
        inside: bool (H, W), where there is anything.
        cut: bool (H, W), where that ends only because the picture does.
        borders: bool (H, W - 1) and (H - 1, W), links in rows and columns that pass from part to part; or None where
            parts are not told.
        behind: bool (H, W), of parts that are behind all others.
    """

    standing: _Floats
    rounding: _Floats
    inside: _Mask
    cut: _Mask
    borders: tuple[_Mask, _Mask] | None = None
    behind: _Mask | None = None


@dataclass(frozen=True)
class AxisLinks:
    """Links between samples beside each other along one axis, with the leaps among them.

    Attributes:
        axis: 1 for samples in a row, 0 for those in a column.
        steps: float64, by how much the second sample of each link is nearer, mm, with every leap drawn together on
            one link.
        linked: bool, both samples are there.
        leap: int8, 1 where the second sample hides what is behind the first, -1 the other way round, 0 elsewhere.
    """

    axis: int
    steps: _Floats
    linked: _Mask
    leap: _Ways


def links_of(depths: Depths) -> tuple[AxisLinks, AxisLinks]:
    """Links along rows and columns.

    A leap is on the border of two parts, where one stands before the other or before what is behind all; or, away from
    such a border, where `standing` changes within a few samples by more than the slopes on both sides explain. There it
    is put on the link that is steepest. The samples round it go on as beyond.
    """
    there = depths.standing[depths.inside]
    whole = (depths.standing + depths.rounding)[depths.inside]
    least = max(LEAST_SHARE * float(np.ptp(whole)), 1e-9) if there.size else 1e-9
    across, up = _along(depths, 1, least), _along(depths, 0, least)
    long = _in_long_runs(across.leap, up.leap)
    return replace(across, leap=across.leap * long[0]), replace(up, leap=up.leap * long[1])


def _in_long_runs(across: _Ways, up: _Ways) -> tuple[_Mask, _Mask]:
    """Which leaps hang together with enough others: a short one is grain."""
    from scipy import ndimage

    links: list[tuple[_Ways, tuple[slice, ...], tuple[slice, ...]]] = [
        (across, np.s_[:, :-1], np.s_[:, 1:]), (up, np.s_[:-1, :], np.s_[1:, :])
    ]  # fmt: skip
    beside = np.zeros((across.shape[0], up.shape[1]), dtype=np.bool_)
    for leap, first, second in links:
        beside[first] |= leap != 0
        beside[second] |= leap != 0
    runs, _ = ndimage.label(beside, structure=np.ones((3, 3)))
    counts = np.zeros(int(runs.max()) + 1, dtype=np.int64)
    for leap, first, _ in links:
        counts += np.bincount(runs[first][leap != 0], minlength=len(counts))
    long = counts >= LEAST_RUN
    return long[runs[:, :-1]], long[runs[:-1]]


def _along(depths: Depths, axis: int, least: float) -> AxisLinks:
    def turned(values: NDArray[_Number]) -> NDArray[_Number]:
        return values if axis == 1 else values.T

    standing, inside = turned(depths.standing), turned(depths.inside)
    steps, linked = np.diff(standing, axis=1), inside[:, :-1] & inside[:, 1:]
    before, after = (_mean_slope(steps, linked, *window) for window in ((-2 * SOFT, -SOFT - 1), (SOFT + 1, 2 * SOFT)))
    leap = _found(steps, linked, before, after, least)
    if depths.borders is not None and depths.behind is not None:
        behind = turned(depths.behind)
        border = linked & turned(depths.borders[0 if axis == 1 else 1])
        # What is known of a border is truer than what is found beside it.
        leap = np.where(_window(border.astype(np.float64), -SOFT, SOFT) > 0, 0, leap).astype(np.int8)
        leap += _at_borders(standing, behind, border, linked, least)
    steps = _drawn_together(steps, linked, leap, before, after) + np.diff(turned(depths.rounding), axis=1)
    return AxisLinks(axis, turned(np.where(linked, steps, 0.0)), turned(linked), turned(leap))


def _found(steps: _Floats, linked: _Mask, before: _Floats, after: _Floats, least: float) -> _Ways:
    """Leaps that nothing is known of but the depth itself."""
    from scipy import ndimage

    size = np.where(linked, np.abs(steps), 0.0)
    total, count = _window(np.where(linked, steps, 0.0), -SOFT, SOFT), _window(linked.astype(np.float64), -SOFT, SOFT)
    way = np.sign(total)
    explained = count * np.maximum(np.maximum(way * before, way * after), 0)
    peak = size >= ndimage.maximum_filter1d(size, 2 * SOFT + 1, axis=1, mode="constant") - 1e-12
    steep = size > LEAST_SLOPE * np.maximum(np.maximum(np.abs(before), np.abs(after)), 1e-12)
    # Beside the outline everything rounds off steeply.
    whole = count == 2 * SOFT + 1
    found = linked & whole & (way * total - explained > least) & peak & steep & (way * steps > 0)
    return np.where(found, way, 0).astype(np.int8)


def _at_borders(standing: _Floats, behind: _Mask, border: _Mask, linked: _Mask, least: float) -> _Ways:
    """Leaps on the borders of parts, by how they stand a few samples away from them."""
    from scipy import ndimage

    count = border.shape[1]
    one, other = standing[:, :-1].copy(), standing[:, 1:].copy()
    free = linked & ~border
    for side, ahead in ((one, -1), (other, 1)):
        goes_on = border.copy()
        for apart in range(1, SOFT + 1):
            beside = np.clip(np.arange(count) + ahead * apart, 0, count - 1)
            goes_on &= free[:, beside]
            there = np.clip(np.arange(count) + (apart + 1 if ahead > 0 else -apart), 0, count)
            side[goes_on] = standing[:, there][goes_on]
    nearer = np.where(border, other - one, 0.0)
    weight = ndimage.gaussian_filter(border.astype(np.float64), ALONG)
    nearer = ndimage.gaussian_filter(nearer, ALONG) / np.maximum(weight, 1e-9)
    way = np.where(np.abs(nearer) > least, np.sign(nearer), 0.0)
    before_all = behind[:, :-1].astype(np.float64) - behind[:, 1:]
    return np.where(border, np.where(before_all != 0, before_all, way), 0).astype(np.int8)


def _drawn_together(steps: _Floats, linked: _Mask, leap: _Ways, before: _Floats, after: _Floats) -> _Floats:
    """Steps with what is soft about a leap put on its link; the links round it are as steep as beyond."""
    made = steps.copy()
    rows, columns = np.nonzero(leap)
    for apart in range(1, SOFT + 1):
        for way, slope in ((-1, before), (1, after)):
            at = columns + way * apart
            own = (at >= 0) & (at < steps.shape[1])
            row, beside, link = rows[own], at[own], columns[own]
            free = linked[row, beside] & (leap[row, beside] == 0)
            row, beside, link = row[free], beside[free], link[free]
            level = slope[row, link]
            made[row, link] += steps[row, beside] - level
            made[row, beside] = level
    return np.where(linked, made, 0.0)


def _window(values: _Floats, first: int, last: int) -> _Floats:
    """Sums over the links from `first` to `last` beside every one, along the second axis."""
    left, right = max(-first, 0), max(last, 0)
    run = np.pad(np.cumsum(np.pad(values, ((0, 0), (left, right))), axis=1), ((0, 0), (1, 0)))
    start, count = left + first, values.shape[1]
    stop = start + last - first + 1
    return np.asarray(run[:, stop : stop + count] - run[:, start : start + count])


def _mean_slope(steps: _Floats, linked: _Mask, first: int, last: int) -> _Floats:
    total = _window(np.where(linked, steps, 0.0), first, last)
    return np.asarray(total / np.maximum(_window(linked.astype(np.float64), first, last), 1.0))
