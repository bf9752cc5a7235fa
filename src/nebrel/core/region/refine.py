"""Curves moved until they cover of every pixel what the pixel shows.

A contour drawn between the middles of pixels runs inside of bends and cuts corners and the ends of lines short. Of a
picture in two tones every pixel at an edge tells more than that: how much of it is inked. By how much a pixel's share
changes when an edge moves is the integral along the edge of how far it moves outwards, so knots and handles follow from
least squares over all pixels at edges: Gauss and Newton, damped as by Levenberg (1944), each step by conjugate
gradients (Hestenes and Stiefel 1952).
"""

import math
from dataclasses import replace
from typing import NamedTuple

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.histogram import usual_beside
from nebrel.core.jit import compiled
from nebrel.core.region.curves import Curve
from nebrel.core.region.pixel_coverage import Sides, add_sides, samples_of, sides_of

ROUNDS = 4
DAMPING = 0.15
STEPS = 12
DONE = 1e-3
WORTH = 0.25
FURTHEST_PX = 1.0
# The level must lie about halfway between both tones, or it was not meant as the middle of the edge.
LEVEL_OFF = 0.08
FAR_PX = 2
PLAIN = 0.1
ODD_SHARE = 0.02
WINDOW_PX = 5
# Of every knot: moved either way; its handle after and its handle before made longer and turned.
UNKNOWNS = 6
SMOOTH = math.cos(math.radians(4))
# How readily a smooth knot slides along its curve, where it changes next to nothing, and how long a handle may be.
SLIDING = 0.25
LONGEST_HANDLE = 0.9
_Floats = NDArray[np.float64]


class Freedom(NamedTuple):
    """What every knot is free to do.

    Attributes:
        ways: float64 (N, 2, 2), the two ways that it moves by its first two unknowns.
        reach: float64 (N, 2), how far its handles after and before it move when turned. Those of a smooth knot turn as
            one.
        unknown: int64 (N, 2), which unknown turns them; -1 for none, as where one goes on a straight side.
    """

    ways: _Floats
    reach: _Floats
    unknown: NDArray[np.int64]


class Shown(NamedTuple):
    """What a picture shows.

    Attributes:
        share: float32 (H, W), the share of every pixel that is inked.
        seen: bool (H, W), pixels whose share counts.
        areas: float64 (H, W + 2), blank, to add sides to.
    """

    share: NDArray[np.float32]
    seen: NDArray[np.bool_]
    areas: _Floats


def inked_share(values: NDArray[np.float32], level: float) -> tuple[NDArray[np.float32], NDArray[np.bool_]] | None:
    """The share of every pixel that is inked, float32 (H, W), and which pixels show it.

    They do where a picture has two tones with the level halfway between; None where it is not. Where there are more
    tones, only those do next to which both are seen.
    """
    inside = values >= level
    if inside.all() or not inside.any():
        return None
    paper, ink = usual_beside(values, level)
    if ink <= paper or abs(level - (ink + paper) / 2) > LEVEL_OFF * (ink - paper):
        return None
    around = np.ones((2 * FAR_PX + 1, 2 * FAR_PX + 1), np.uint8)
    mask = inside.astype(np.uint8)
    near = cv2.dilate(mask, around) != cv2.erode(mask, around)
    share = np.empty(values.shape, dtype=np.float32)
    odd, beside = _set_share(values, near, np.float32(paper), np.float32(ink - paper), share)
    if odd <= ODD_SHARE * beside:
        return share, near
    window = np.ones((WINDOW_PX, WINDOW_PX), np.uint8)
    seen = near & (cv2.dilate(share, window) > 1 - PLAIN) & (cv2.erode(share, window) < PLAIN)
    return share, seen


@compiled
def _set_share(values, near, paper, span, share):
    """Set the inked share of every pixel; how many away from edges are neither ink nor paper, and how many are near."""
    odd, beside = 0, 0
    for row in range(values.shape[0]):
        for column in range(values.shape[1]):
            inked = min(max((values[row, column] - paper) / span, np.float32(0)), np.float32(1))
            share[row, column] = inked
            if near[row, column]:
                beside += 1
            elif PLAIN < inked < 1 - PLAIN:
                odd += 1
    return odd, beside


def refine(curves: list[Curve], share: NDArray[np.float32], seen: NDArray[np.bool_], pitch: float) -> list[Curve]:
    """Closed curves moved by a pixel at the most in each of a few rounds until they cover what is inked.

    They may cross themselves or each other afterwards.

    Args:
        curves: mm, Y up; parts run counter-clockwise, holes clockwise; the lower left corner of the lower left pixel is
            the origin.
        share: of every pixel, float32 (H, W), that is inked, top row first.
        seen: pixels whose share counts.
        pitch: mm that a pixel is wide.
    """
    rows, columns = share.shape
    sides = sides_of(curves, pitch)
    # One row of blank pixels all round holds what ends at the picture's rim there.
    framed: NDArray[np.float32] = np.zeros((rows + 2, columns + 2), dtype=np.float32)
    framed[1:-1, 1:-1] = share
    counts = np.ones(framed.shape, dtype=np.bool_)
    counts[1:-1, 1:-1] = seen
    knots = _fitted(Sides(sides.knots + 1, sides.after), framed, counts) - 1
    knots += (np.clip(knots[:, 1], 0, (columns, rows)) - knots[:, 1])[:, None]
    each = np.split(pitch * knots, np.cumsum([len(curve.knots) for curve in curves])[:-1])
    return [replace(curve, knots=own) for curve, own in zip(curves, each, strict=True)]


def _fitted(sides: Sides, share: NDArray[np.float32], seen: NDArray[np.bool_]) -> _Floats:
    """The knots that leave least over."""
    shown = Shown(share, seen, np.zeros((share.shape[0], share.shape[1] + 2)))
    off, other = np.empty((2, *share.shape), dtype=np.float32)
    best, least = sides, _left_over(sides, shown, off)
    for _ in range(ROUNDS):
        freedom = _freedom(best)
        moves = np.clip(_solve(best, freedom, off), -FURTHEST_PX, FURTHEST_PX)
        tried = Sides(_moved(best, moves, freedom), best.after)
        left = _left_over(tried, shown, other)
        if left >= least:
            break
        worth = least - left > WORTH * least
        best, least, off, other = tried, left, other, off
        if not worth:
            break
    return best.knots


def _freedom(sides: Sides) -> Freedom:
    knots, places = sides.knots, sides.knots[:, 1]
    ahead, behind = places[sides.after], np.empty_like(places)
    behind[sides.after] = places
    handles = np.stack([knots[:, 2], knots[:, 0]], axis=1) - places[:, None]
    sizes = np.hypot(handles[..., 0], handles[..., 1])
    bare = sizes == 0
    lines = np.where(bare[..., None], np.stack([ahead, behind], axis=1) - places[:, None], handles)
    lengths = np.hypot(lines[..., 0], lines[..., 1])
    smooth = -(lines[:, 0] * lines[:, 1]).sum(axis=1) > SMOOTH * lengths.prod(axis=1)
    reach = np.where(smooth[:, None], sizes / np.maximum(sizes.max(axis=1, keepdims=True), 1e-12), 1.0)
    unknown = np.tile(np.array([3, 5]), (len(knots), 1))
    unknown[smooth] = 3
    unknown[smooth & bare.any(axis=1)] = -1
    unknown[bare] = -1
    along = lines[:, 0] / lengths[:, :1] - lines[:, 1] / lengths[:, 1:]
    along /= np.maximum(np.hypot(*along.T), 1e-12)[:, None]
    ways = np.stack([SLIDING * along, np.column_stack([-along[:, 1], along[:, 0]])], axis=1)
    ways[~smooth] = np.eye(2)
    return Freedom(ways, reach, unknown)


def _moved(sides: Sides, moves: _Floats, freedom: Freedom) -> _Floats:
    """The knots, each with its own moves, float64 (N, 6), made; none gets a handle longer than its side."""
    knots, (ways, reach, unknown) = sides.knots, freedom
    made = knots + np.einsum("nk,nkx->nx", moves[:, :2], ways)[:, None]
    across_side = np.hypot(*(made[sides.after, 1] - made[:, 1]).T)
    before = np.empty_like(across_side)
    before[sides.after] = across_side
    for end, (at, most) in enumerate(((2, across_side), (0, before))):
        handle = knots[:, at] - knots[:, 1]
        size = np.hypot(*handle.T)
        way = handle / np.maximum(size, 1e-12)[:, None]
        longer = np.maximum(moves[:, 2 + 2 * end], -0.75 * size)
        turned = np.where(unknown[:, end] >= 0, moves[np.arange(len(moves)), unknown[:, end]] * reach[:, end], 0.0)
        across = np.column_stack([-way[:, 1], way[:, 0]])
        handle = handle + longer[:, None] * way + turned[:, None] * across
        held = np.maximum(LONGEST_HANDLE * most, size) / np.maximum(np.hypot(*handle.T), 1e-12)
        made[:, at] = made[:, 1] + handle * np.minimum(1.0, held)[:, None]
    return made


def _left_over(sides: Sides, shown: Shown, off: NDArray[np.float32]) -> float:
    """Set what of every pixel is inked and not covered, or covered and not inked; the sum of its squares."""
    add_sides(sides, shown.areas)
    return float(_take_off(shown, off))


@compiled
def _take_off(shown, off):
    """Areas are blank again afterwards."""
    total = 0.0
    for row in range(off.shape[0]):
        covered = 0.0
        for column in range(off.shape[1]):
            if shown.areas[row, column] != 0:
                covered += shown.areas[row, column]
                shown.areas[row, column] = 0.0
            off[row, column] = 0.0
            if shown.seen[row, column]:
                left = shown.share[row, column] - covered
                off[row, column] = left
                total += left * left
        shown.areas[row, off.shape[1] :] = 0.0
    return total


@compiled
def _solve(sides, freedom, off):
    """The moves, float64 (N, 6), of least squares that cover what is left over."""
    knots, after = sides
    rows, columns = off.shape
    count = len(knots)
    total = 0
    for i in range(count):
        total += samples_of(knots, i, after[i])
    # Of every run of samples within a pixel its number, its unknowns and their weights; numbered as they are met.
    pixel, of, weight = np.empty(total, np.int32), np.empty((total, 8), np.int32), np.zeros((total, 8))
    number = np.full((rows, columns), -1, dtype=np.int32)
    left, sums = np.empty(total), np.empty((4, 2))
    made, pixels = 0, 0
    for i in range(count):
        j = after[i]
        a, b, c, d = knots[i, 1], knots[i, 2], knots[j, 0], knots[j, 1]
        samples = samples_of(knots, i, j)
        within = -1
        for s in range(samples):
            t = (s + 0.5) / samples
            b0, b1, b2, b3 = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
            d0, d1, d2 = 3 * (1 - t) ** 2 / samples, 6 * t * (1 - t) / samples, 3 * t * t / samples
            x, y = b0 * a[0] + b1 * b[0] + b2 * c[0] + b3 * d[0], b0 * a[1] + b1 * b[1] + b2 * c[1] + b3 * d[1]
            row, column = math.floor(rows - y), math.floor(x)
            here = row * columns + column if 0 <= row < rows and 0 <= column < columns else -1
            if here != within:
                if within >= 0:
                    _weigh(knots, (i, j), sums, freedom, of[made], weight[made])
                    made += 1
                sums[:] = 0.0
                within = here
                if here >= 0:
                    if number[row, column] < 0:
                        number[row, column] = pixels
                        left[pixels] = off[row, column]
                        pixels += 1
                    pixel[made] = number[row, column]
            # Outwards, times the length of the sample: its way along turned to the right.
            out_x = d0 * (b[1] - a[1]) + d1 * (c[1] - b[1]) + d2 * (d[1] - c[1])
            out_y = -(d0 * (b[0] - a[0]) + d1 * (c[0] - b[0]) + d2 * (d[0] - c[0]))
            for k, part in enumerate((b0 + b1, b1, b2 + b3, b2)):
                sums[k, 0] += part * out_x
                sums[k, 1] += part * out_y
        if within >= 0:
            _weigh(knots, (i, j), sums, freedom, of[made], weight[made])
            made += 1
    return _conjugate(pixel[:made], of[:made], weight[:made], left[:pixels], UNKNOWNS * count).reshape(count, UNKNOWNS)


@compiled
def _weigh(knots, ends, sums, freedom, of, weight):
    """What the four unknowns of either end of a side do to what it covers of a pixel."""
    ways, reach, unknown = freedom
    for end in range(2):
        knot, handle, at = ends[end], 2 if end == 0 else 0, 4 * end
        first, whole, part = UNKNOWNS * knot, sums[2 * end], sums[2 * end + 1]
        for k in range(4):
            of[at + k] = first + min(k, 1)
        for k in range(2):
            weight[at + k] = whole[0] * ways[knot, k, 0] + whole[1] * ways[knot, k, 1]
        x, y = knots[knot, handle, 0] - knots[knot, 1, 0], knots[knot, handle, 1] - knots[knot, 1, 1]
        size = math.sqrt(x * x + y * y)
        if size > 0:
            of[at + 2] = first + 2 + 2 * end
            weight[at + 2] = (part[0] * x + part[1] * y) / size
            if unknown[knot, end] >= 0:
                of[at + 3] = first + unknown[knot, end]
                weight[at + 3] = reach[knot, end] * (part[1] * x - part[0] * y) / size


@compiled
def _conjugate(pixel, of, weight, left, count):
    """Damped least squares of what is left over, by conjugate gradients on the normal equations."""
    found, slope, way = np.zeros(count), np.zeros(count), np.zeros(count)
    spread = np.empty(len(left))
    _gather(pixel, of, weight, left, slope)
    way[:] = slope
    size = np.dot(slope, slope)
    first = size
    for _ in range(STEPS):
        if size <= DONE * first or size == 0:
            break
        spread[:] = 0.0
        for s in range(len(pixel)):
            for k in range(8):
                spread[pixel[s]] += weight[s, k] * way[of[s, k]]
        step = size / (np.dot(spread, spread) + DAMPING**2 * np.dot(way, way))
        found += step * way
        left -= step * spread
        _gather(pixel, of, weight, left, slope)
        slope -= DAMPING**2 * found
        before, size = size, np.dot(slope, slope)
        way[:] = slope + size / before * way
    return found


@compiled
def _gather(pixel, of, weight, left, slope):
    slope[:] = 0.0
    for s in range(len(pixel)):
        for k in range(8):
            slope[of[s, k]] += weight[s, k] * left[pixel[s]]
