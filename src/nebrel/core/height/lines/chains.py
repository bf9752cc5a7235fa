"""Jumps between neighbouring samples, chained.

A jump crosses the link between two samples. Every square of four samples has four links; where two of them are crossed,
a chain passes through the square, where one is, it ends there, and where three are, three chains meet. So chains come
from the samples alone, as contours do by marching squares, but may end and branch.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.sharpen import STEEPER, Sharpened
from nebrel.core.jit import compiled

# Chains are begun by jumps of the least size, and go on through those of so much of it.
GOES_ON = 0.5
NOWHERE, ENDS = -1, -2
# Where a chain runs along a link and not across it, the crossing tells little.
ALONG = 0.45
_Floats = NDArray[np.float32]
_Ints = NDArray[np.int64]


class Chains(NamedTuple):
    """Chains of places where jumps run.

    Attributes:
        places: float64 (N, 2), column and row.
        beside: int64 (N, 2), the samples on either side of each, by number: to the left and to the right, as seen with
            Y upwards.
        jumps: float32 (N,) mm, how large each jump is.
        told: bool (N,), whether the samples along the link tell the place; elsewhere it is just halfway.
        hard: bool (N,), whether they have nothing between both sides, so that it may lie anywhere between two samples.
        starts: int64 (K + 1,), where each chain begins among them.
        closed: bool (K,).
        ends: int64 (K, 2), the meeting at which a chain begins and ends, by number; -1 for none.
        meetings: float64 (M, 2), column and row.
    """

    places: NDArray[np.float64]
    beside: _Ints
    jumps: _Floats
    told: NDArray[np.bool_]
    hard: NDArray[np.bool_]
    starts: _Ints
    closed: NDArray[np.bool_]
    ends: _Ints
    meetings: NDArray[np.float64]


def broken_links(sharp: Sharpened, least: float, where: NDArray[np.bool_]) -> tuple[NDArray[np.bool_], ...]:
    """Between which samples heights jump: towards the right and towards the next row, bool (H, W) each.

    Args:
        sharp: heights.
        least: mm that a jump has at least, beyond what the slopes beside it explain.
        where: bool (H, W), samples that may have one.
    """
    heights = sharp.heights
    across = np.zeros(heights.shape, dtype=np.bool_)
    _break_rows(heights, where, np.float32(least), across)
    down = np.zeros(heights.shape[::-1], dtype=np.bool_)
    _break_rows(np.ascontiguousarray(heights.T), np.ascontiguousarray(where.T), np.float32(least), down)
    return across, np.ascontiguousarray(down.T)


def chains_of(sharp: Sharpened, across: NDArray[np.bool_], down: NDArray[np.bool_]) -> Chains:
    """The chains through broken links, as `broken_links` gives them."""
    number = np.full((2, *across.shape), NOWHERE, dtype=np.int64)
    count = int(across.sum())
    number[0][across] = np.arange(count)
    number[1][down] = count + np.arange(int(down.sum()))
    places, beside, jumps, told, hard = _crossings(sharp, across, down)
    following = np.full((len(places), 2), ENDS, dtype=np.int64)
    meetings = np.empty((len(places) + 1, 2))
    met = _join(sharp.heights, number, places, following, meetings)
    order, starts, closed, ends = _walk(following)
    return Chains(
        places[order],
        _left_first(places[order], beside[order], starts, closed, across.shape[1]),
        jumps[order],
        told[order],
        hard[order],
        starts,
        closed,
        ends,
        meetings[:met],
    )


def _crossings(
    sharp: Sharpened, across: NDArray[np.bool_], down: NDArray[np.bool_]
) -> tuple[NDArray[np.float64], _Ints, _Floats, NDArray[np.bool_], NDArray[np.bool_]]:
    heights, columns = sharp.heights, sharp.heights.shape[1]
    parts = []
    for broken, crossing, step in ((across, sharp.across, (0, 1)), (down, sharp.down, (1, 0))):
        rows, cols = np.nonzero(broken)
        at = crossing[rows, cols].astype(np.float64)
        known = ~np.isnan(at)
        at[~known] = 0.5
        places = np.column_stack([cols + step[1] * at, rows + step[0] * at])
        here, there = rows * columns + cols, (rows + step[0]) * columns + cols + step[1]
        jumps = np.abs(heights[rows + step[0], cols + step[1]] - heights[rows, cols])
        parts.append((places, np.column_stack([here, there]), jumps, known, known & (at == 0.5)))
    places, beside, jumps, told, hard = (np.concatenate(both) for both in zip(*parts, strict=True))
    return places, beside, jumps, told, hard


def _left_first(
    places: NDArray[np.float64], beside: _Ints, starts: _Ints, closed: NDArray[np.bool_], columns: int
) -> _Ints:
    """The samples beside every place of chains, those to the left first, as seen with Y upwards.

    The next place lies on another link of the same square, so it tells on which side of a link the chain goes on.
    """
    ahead = np.arange(1, len(places) + 1)
    ahead[starts[1:] - 1] = np.where(closed, starts[:-1], starts[1:] - 1)
    way = places[ahead] - places
    last = starts[1:][~closed] - 1
    way[last] = places[last] - places[np.maximum(last - 1, 0)]
    there = np.column_stack([beside[:, 1] % columns, beside[:, 1] // columns]) - places
    left = way[:, 0] * there[:, 1] - way[:, 1] * there[:, 0] < 0
    return np.where(left[:, np.newaxis], beside[:, ::-1], beside)


@compiled
def _break_rows(heights, where, least, broken):
    rows, columns = heights.shape
    for y in range(rows):
        for link in range(columns - 1):
            step = heights[y, link + 1] - heights[y, link]
            size = abs(step)
            if size < least or not (where[y, link] and where[y, link + 1]):
                continue
            sign = np.float32(1.0) if step > 0 else np.float32(-1.0)
            outside = np.float32(0.0)
            if link > 0:
                outside = max(outside, (heights[y, link] - heights[y, link - 1]) * sign)
            if link < columns - 2:
                outside = max(outside, (heights[y, link + 2] - heights[y, link + 1]) * sign)
            broken[y, link] = size - outside >= least and size >= STEEPER * outside


@compiled
def _join(heights, number, places, following, meetings):
    """Set which crossing follows on which through every square; crossings that meet in one lead to the meeting."""
    rows, columns = heights.shape
    met = 0
    found, crossed = np.empty(4, dtype=np.int64), np.empty(4, dtype=np.int64)
    for y in range(rows - 1):
        for x in range(columns - 1):
            # Clockwise with rows downwards: above, to the right, below, to the left.
            found[0], found[1] = number[0, y, x], number[1, y, x + 1]
            found[2], found[3] = number[0, y + 1, x], number[1, y, x]
            count = 0
            for k in range(4):
                if found[k] >= 0:
                    crossed[count] = found[k]
                    count += 1
            if count == 2:
                _link(following, crossed[0], crossed[1])
            elif count == 4 and _is_saddle(heights, y, x):
                # Two across from each other are higher than both others; those nearer in height hold together.
                one = abs(heights[y, x] - heights[y + 1, x + 1]) <= abs(heights[y, x + 1] - heights[y + 1, x])
                _link(following, found[0], found[1 if one else 3])
                _link(following, found[2], found[3 if one else 1])
            elif count > 2:
                _meet(following, crossed[:count], places, meetings, met)
                met += 1
    return met


@compiled
def _is_saddle(heights, y, x):
    """Whether two samples of a square that stand across from each other are higher, or lower, than both others."""
    low = min(heights[y, x], heights[y + 1, x + 1])
    high = max(heights[y, x], heights[y + 1, x + 1])
    beside_low = min(heights[y, x + 1], heights[y + 1, x])
    beside_high = max(heights[y, x + 1], heights[y + 1, x])
    return low > beside_high or high < beside_low


@compiled
def _meet(following, crossed, places, meetings, met):
    meetings[met, 0] = meetings[met, 1] = 0.0
    for one in crossed:
        meetings[met, 0] += places[one, 0] / len(crossed)
        meetings[met, 1] += places[one, 1] / len(crossed)
        _lead(following, one, ENDS - 1 - met)


@compiled
def _link(following, one, two):
    _lead(following, one, two)
    _lead(following, two, one)


@compiled
def _lead(following, one, to):
    if following[one, 0] == ENDS:
        following[one, 0] = to
    else:
        following[one, 1] = to


@compiled
def _walk(following):
    """Crossings chain by chain, where each begins, whether it is closed, and the meetings at its ends."""
    count = len(following)
    order, seen = np.empty(count, dtype=np.int64), np.zeros(count, dtype=np.bool_)
    starts, closed = np.zeros(count + 1, dtype=np.int64), np.zeros(count, dtype=np.bool_)
    ends = np.full((count, 2), NOWHERE, dtype=np.int64)
    made, chains = 0, 0
    for turn in range(2):
        for first in range(count):
            if seen[first]:
                continue
            open_side = -1
            for k in range(2):
                if following[first, k] < 0:
                    open_side = k
            if turn == 0 and open_side < 0:
                continue
            # Open chains are walked from an end, what is left are rings.
            came = following[first, open_side] if open_side >= 0 else following[first, 1]
            if open_side >= 0 and came < ENDS:
                ends[chains, 0] = ENDS - 1 - came
            closed[chains] = open_side < 0
            at, before = first, came
            while True:
                seen[at] = True
                order[made] = at
                made += 1
                onward = following[at, 0] if following[at, 1] == before else following[at, 1]
                if onward < 0:
                    if onward < ENDS:
                        ends[chains, 1] = ENDS - 1 - onward
                    break
                if seen[onward]:
                    break
                at, before = onward, at
            chains += 1
            starts[chains] = made
    return order[:made], starts[: chains + 1], closed[:chains], ends[:chains]
