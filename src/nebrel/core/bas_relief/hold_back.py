"""A deep form in a shallow relief: what is nearer stays higher where it hides what is behind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bas_relief.overlaps import AxisLinks, Depths, links_of
from nebrel.core.height.compress import STRONGEST

if TYPE_CHECKING:
    from scipy import sparse

# How much a leap of depth wants to be as high as it is deep, against slopes that want to be kept.
LEAP_WEIGHT = 0.05
# How firmly leaps are held to their least step, and how often what they want and may is brought together.
FIRM, ROUNDS = 2.0, 40
ENOUGH = 0.01
# What is left after that is set to its step, with so much weight and so often.
SET, MENDED = 1e4, 6
ANCHOR = 1e-7
LEVEL_MM = 1e-2

_Floats = NDArray[np.float64]
_Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Shallow:
    """What a relief is to be.

    Attributes:
        relief: from the ground, or from the lowest place of a scene, to the highest, mm, above 0.
        strength: 0 holds nothing back but the whole alike, 1 most.
        step: mm, least height of a leap.
        grounded: whether there is a ground round what is inside, before which it stands out by a step, too.
    """

    relief: float
    strength: float
    step: float
    grounded: bool


@dataclass(frozen=True)
class Held:
    """Heights of a relief, and where its parts hide each other.

    Attributes:
        heights: float64 (H, W) mm above the ground or the lowest place; 0 outside.
        links: of the depth, along rows and columns.
    """

    heights: _Floats
    links: tuple[AxisLinks, AxisLinks]


@dataclass(frozen=True)
class _Pairs:
    """Pairs of samples by number, -1 for the ground: by how much the second wants to be higher."""

    first: NDArray[np.int64]
    second: NDArray[np.int64]
    wanted: _Floats

    def apart(self, count: int) -> sparse.csr_matrix:
        """Takes heights of so many samples to how much the second of every pair is higher."""
        from scipy import sparse

        rows = np.arange(len(self.wanted))
        own, other = self.second >= 0, self.first >= 0
        values = np.concatenate([np.ones(int(own.sum())), -np.ones(int(other.sum()))])
        at = np.concatenate([rows[own], rows[other]]), np.concatenate([self.second[own], self.first[other]])
        return sparse.csr_matrix((values, at), shape=(len(rows), count))


def hold_back(
    depths: Depths,
    pitch: float,
    wish: Shallow,
    progress: Callable[[float], None] = lambda _: None,
) -> Held:
    """Heights whose slopes are those of a depth, the steep ones held back, no leap turned round or below a step.

    Slopes are scaled by log(1 + a m) / (a m), with m their size as in `compress_heights`, and integrated again by least
    squares (Weyrich, Deng, Barnes, Rusinkiewicz and Finkelstein, "Digital Bas-Relief from 3D Scenes", 2007). Leaps
    are inequalities: the alternating direction method of multipliers holds each to the least step (Boyd, Parikh, Chu,
    Peleato and Eckstein, "Distributed Optimization and Statistical Learning via ADMM", 2011).

    Args:
        depths: how near everything is; something is there.
        pitch: mm from sample to sample, above 0.
        wish: what the relief is to be.
        progress: called with the fraction done.
    """
    from scipy import sparse
    from scipy.sparse.linalg import splu

    links, level = links_of(depths), _level_behind(depths)
    inside = depths.inside & ~level
    grounded = wish.grounded or bool(level.any())
    number = np.full(inside.shape, -1, dtype=np.int64)
    number[inside] = np.arange(int(inside.sum()))
    kept = _kept_share(links, inside, pitch, wish.strength)
    smooth, leaps = _pairs(links, number, kept, pitch)
    if wish.grounded:
        leaps = _joined(leaps, _rim(depths, number, pitch, kept))
    count = int(inside.sum())
    along, over = smooth.apart(count), leaps.apart(count)
    matrix = along.T @ along + LEAP_WEIGHT * over.T @ over + ANCHOR * sparse.identity(count)
    right = along.T @ smooth.wanted + LEAP_WEIGHT * over.T @ leaps.wanted

    def least_in(heights: _Floats) -> float:
        base, top = _range(heights, grounded)
        return wish.step * (top - base) / wish.relief

    heights, held = _brought_together(matrix, right, over, leaps.wanted, least_in, progress)
    binding = held <= least_in(heights) * (1 + ENOUGH)
    for _ in range(MENDED):
        least = least_in(heights)
        wrong = over @ heights < least * (1 - ENOUGH) - 1e-9
        if not wrong.any():
            break
        # What is still short of its step is set to it.
        binding |= wrong
        set_to = over[binding]
        solve = splu((matrix + SET * set_to.T @ set_to).tocsc(), permc_spec="MMD_AT_PLUS_A").solve
        heights = solve(right + SET * set_to.T @ np.full(set_to.shape[0], least))
    base, top = _range(heights, grounded)
    found = np.zeros(inside.shape)
    found[inside] = np.maximum(heights - base, 0) * (wish.relief / (top - base))
    return Held(found, links)


def _brought_together(
    matrix: sparse.csr_matrix,
    right: _Floats,
    over: sparse.csr_matrix,
    wanted: _Floats,
    least_in: Callable[[_Floats], float],
    progress: Callable[[float], None],
) -> tuple[_Floats, _Floats]:
    """Heights that are least squares with leaps no less than a step, nearly; and what every leap is held to."""
    from scipy.sparse.linalg import splu

    solve = splu((matrix + FIRM * over.T @ over).tocsc(), permc_spec="MMD_AT_PLUS_A").solve
    progress(0.5)
    held, slack = np.maximum(wanted, 0), np.zeros(len(wanted))
    heights = solve(right + FIRM * (over.T @ held))
    for done in range(ROUNDS):
        least = least_in(heights)
        apart = over @ heights
        if done and float((apart - least).min(initial=0.0)) >= -ENOUGH * least - 1e-9:
            break
        held = np.maximum(apart + slack, least)
        slack += apart - held
        heights = solve(right + FIRM * (over.T @ (held - slack)))
        progress(0.5 + 0.5 * (done + 1) / ROUNDS)
    return heights, held


def _level_behind(depths: Depths) -> _Mask:
    """What is behind everything and level, bool (H, W): it is as good as a ground."""
    nothing = np.zeros(depths.inside.shape, dtype=np.bool_)
    if depths.behind is None or not depths.behind.any() or depths.behind[depths.inside].all():
        return nothing
    depth = (depths.standing + depths.rounding)[depths.behind]
    return depths.behind if float(np.ptp(depth)) < LEVEL_MM else nothing


def _kept_share(links: tuple[AxisLinks, AxisLinks], inside: _Mask, pitch: float, strength: float) -> _Kept:
    """How much is kept of a slope, by its size at every sample."""
    squares, weight = np.zeros(inside.shape), 1e-12
    for each in links:
        one, other = _ends(each.axis)
        slope = np.where(each.linked & (each.leap == 0), each.steps / pitch, 0.0)
        squares[one] += slope**2 / 2
        squares[other] += slope**2 / 2
    size = np.sqrt(squares)
    usual = max(float(size[inside].mean()), weight)
    return _Kept(size, STRONGEST * strength * strength / usual)


@dataclass(frozen=True)
class _Kept:
    """Slopes of a depth and by how much they are held back: log(1 + `by` m) / (`by` m) of a slope of size m."""

    size: _Floats
    by: float

    def share(self, slope: _Floats) -> _Floats:
        steep = np.maximum(self.by * slope, 1e-9)
        return np.log1p(steep) / steep


def _ends(axis: int) -> tuple[tuple[slice, ...], tuple[slice, ...]]:
    """Where the first and the second sample of links along an axis are."""
    first, second = slice(None, -1), slice(1, None)
    return ((slice(None), first), (slice(None), second)) if axis == 1 else ((first,), (second,))


def _pairs(
    links: tuple[AxisLinks, AxisLinks], number: NDArray[np.int64], kept: _Kept, pitch: float
) -> tuple[_Pairs, _Pairs]:
    """What goes on evenly, and what leaps, the second sample in front."""
    smooth, leaps = [], []
    for each in links:
        one, other = _ends(each.axis)
        size = (kept.size[one] + kept.size[other]) / 2
        known = (number[one] >= 0) | (number[other] >= 0)
        even = each.linked & (each.leap == 0) & known
        smooth.append(_Pairs(number[one][even], number[other][even], (each.steps * kept.share(size))[even]))
        for way in (1, -1):
            here = (each.leap == way) & known
            first, second = (number[one][here], number[other][here])[::way]
            height = np.maximum(way * each.steps[here], 0)
            leaps.append(_Pairs(first, second, height * kept.share(height / pitch)))
    return _joined(*smooth), _joined(*leaps)


def _rim(depths: Depths, number: NDArray[np.int64], pitch: float, kept: _Kept) -> _Pairs:
    """What is inside beside the ground, before it; the ground is as far as the furthest of that."""
    from scipy import ndimage

    rim = depths.inside & ndimage.binary_dilation(~depths.inside) & ~depths.cut
    if not rim.any():
        rim = depths.inside
    depth = depths.standing + depths.rounding
    height = depth[rim] - float(depth[rim].min())
    return _Pairs(np.full(int(rim.sum()), -1), number[rim], height * kept.share(height / pitch))


def _joined(*pairs: _Pairs) -> _Pairs:
    return _Pairs(
        np.concatenate([each.first for each in pairs]),
        np.concatenate([each.second for each in pairs]),
        np.concatenate([each.wanted for each in pairs]),
    )


def _range(heights: _Floats, grounded: bool) -> tuple[float, float]:
    """The height of what counts as 0, and the highest; nothing sinks into the ground, so all of it may be raised."""
    low, top = float(heights.min()), float(heights.max())
    base = min(low, 0.0) if grounded else low
    return base, max(top, base + 1e-12)
