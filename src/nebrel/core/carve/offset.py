"""The tool-offset surface: how low the tip of a bit may go over every place without cutting into the heights.

It is the grayscale dilation of the heights by the bit's shape. Tiles of places are worked out against blocks of samples
by branch and bound: what a block can raise a tile to is at most its highest sample less the bit's height at the
distance between both, so blocks are taken from the highest bound down, until none can raise the tile any more. Flat
bits are maxima over the chords of a disc, each of two windows whose length is a power of two (Urbach and Wilkinson
2008).
"""

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.bits import Profile, profile_table, rise
from nebrel.core.cores import cores
from nebrel.core.jit import compiled

BLOCK = 4
TILE = 8
STRIP = 8
GROUP = 16
AT_ONCE = min(4, cores())

Heights = NDArray[np.float64]


def lowest_tips(
    heights: Heights, pitch: float, profile: Profile, rows: NDArray[np.int64] | None = None
) -> NDArray[np.float64]:
    """The lowest that the tip may stand over every sample, or over every sample of some rows.

    Args:
        heights: float64 (H, W) mm, finite; -inf where there is nothing to spare.
        pitch: mm between samples.
        profile: the bit.
        rows: int64 (N,), rising; None for all rows.

    Returns:
        float64 (H, W) or (N, W) mm, exact at the samples: nothing outside of the grid holds the bit up.
    """
    heights = np.ascontiguousarray(heights, dtype=np.float64)
    wanted = np.arange(len(heights), dtype=np.int64) if rows is None else np.asarray(rows, dtype=np.int64)
    out = np.empty((len(wanted), heights.shape[1]))
    if profile.flat_to >= profile.radius:
        _by_chords(heights, pitch, profile, wanted, out)
    else:
        _by_tiles(heights, pitch, profile, wanted, out)
    return out


def highest_left(tips: Heights, pitch: float, profile: Profile) -> NDArray[np.float64]:
    """What a bit leaves standing that has been everywhere with its tip at `tips`, float64 (H, W) mm."""
    return -lowest_tips(-tips, pitch, profile)


def lowest_tips_at(
    heights: Heights, maxima: Heights, pitch: float, profile: Profile, places: NDArray[np.float64]
) -> NDArray[np.float64]:
    """The lowest that the tip may stand over places anywhere.

    Args:
        heights: float64 (H, W) mm.
        maxima: of `block_maxima`.
        pitch: mm between samples.
        profile: the bit.
        places: float64 (N, 2), column and row, in samples; those that follow each other should lie close together.

    Returns:
        float64 (N,) mm; -inf where nothing is under the bit.
    """
    out = np.empty(len(places))
    lengths = [value / pitch for value in profile[:5]]
    scaled = Profile(lengths[0], lengths[1], lengths[2], lengths[3], lengths[4], profile.slope)

    def work(first: int, last: int) -> None:
        raise_places(heights, maxima, pitch, scaled, places[first:last], out[first:last])

    in_bands(len(places), GROUP * 64, work)
    return out


def block_maxima(heights: Heights) -> NDArray[np.float64]:
    """The highest of every block of 4 x 4 samples, float64 (ceil(H / 4), ceil(W / 4))."""
    rows, columns = heights.shape
    padded = np.full((-(-rows // BLOCK) * BLOCK, -(-columns // BLOCK) * BLOCK), -np.inf)
    padded[:rows, :columns] = heights
    return padded.reshape(len(padded) // BLOCK, BLOCK, -1, BLOCK).max(axis=(1, 3))


def in_bands(count: int, least: int, work: Callable[[int, int], None]) -> None:
    """Have threads do `work(first, last)` over parts of `count` things; parts start at multiples of `least`."""
    parts = min(AT_ONCE * 4, -(-count // least))
    if parts <= 1:
        work(0, count)
        return
    step = -(-count // (parts * least)) * least
    with ThreadPoolExecutor(AT_ONCE) as threads:
        list(threads.map(lambda first: work(first, min(first + step, count)), range(0, count, step)))


def _by_tiles(
    heights: Heights, pitch: float, profile: Profile, wanted: NDArray[np.int64], out: NDArray[np.float64]
) -> None:
    whole = len(wanted) == len(heights)
    table, reach = profile_table(profile, pitch, STRIP + BLOCK)
    maxima = block_maxima(heights)
    tall, wide = (TILE, TILE) if whole else (1, STRIP)

    def work(first: int, last: int) -> None:
        starts = wanted[first:last:tall]
        raise_tiles(heights, maxima, table, reach, starts, tall, wide, out[first:last])

    in_bands(len(wanted), tall, work)


def _by_chords(
    heights: Heights, pitch: float, profile: Profile, wanted: NDArray[np.int64], out: NDArray[np.float64]
) -> None:
    reach = int(np.floor(profile.radius / pitch + 1e-9))
    across = np.arange(reach + 1)
    halves = np.floor(np.sqrt(np.maximum((profile.radius / pitch) ** 2 - across**2, 0)) + 1e-9).astype(np.int64)

    def work(first: int, last: int) -> None:
        at_row = np.full(len(heights), -1, dtype=np.int64)
        at_row[wanted[first:last]] = np.arange(last - first)
        lowest, highest = int(wanted[first]), int(wanted[last - 1])
        raise_chords(heights, halves, at_row, lowest, highest, out[first:last])

    in_bands(len(wanted), TILE, work)


@compiled
def raise_tiles(heights, maxima, table, reach, starts, tall, wide, out):
    rows, columns = heights.shape
    middle = len(table) // 2
    across = (2 * reach + max(tall, wide)) // BLOCK + 3
    bounds = np.empty(across * across)
    block_y = np.empty(across * across, dtype=np.int64)
    block_x = np.empty(across * across, dtype=np.int64)
    chosen = np.empty(across * across, dtype=np.int64)
    chosen_bounds = np.empty(across * across)
    room_for_lows = np.empty(tall + 1)
    for k in range(len(starts)):
        y0 = starts[k]
        y1 = min(y0 + tall, rows)
        at = k * tall
        for x0 in range(0, columns, wide):
            x1 = min(x0 + wide, columns)
            tile = out[at : at + y1 - y0, x0:x1]
            tile[:] = heights[y0:y1, x0:x1]
            lows = room_for_lows[: y1 - y0 + 1]
            find_lows(tile, lows)
            least = lows[y1 - y0]
            count = 0
            best = 0
            for by in range(max(0, y0 - reach) // BLOCK, min(rows - 1, y1 - 1 + reach) // BLOCK + 1):
                gap_y = max(0, by * BLOCK - (y1 - 1), y0 - (by * BLOCK + BLOCK - 1))
                for bx in range(max(0, x0 - reach) // BLOCK, min(columns - 1, x1 - 1 + reach) // BLOCK + 1):
                    gap_x = max(0, bx * BLOCK - (x1 - 1), x0 - (bx * BLOCK + BLOCK - 1))
                    bound = maxima[by, bx] - table[middle + gap_y, middle + gap_x]
                    if bound > least:
                        bounds[count] = bound
                        block_y[count] = by
                        block_x[count] = bx
                        if bound > bounds[best]:
                            best = count
                        count += 1
            if count == 0:
                continue
            raise_tile(heights, table, middle, y0, x0, tile, lows, block_y[best], block_x[best])
            bounds[best] = -np.inf
            left = 0
            for i in range(count):
                if bounds[i] > lows[y1 - y0]:
                    chosen[left] = i
                    chosen_bounds[left] = -bounds[i]
                    left += 1
            for i in np.argsort(chosen_bounds[:left]):
                if -chosen_bounds[i] <= lows[y1 - y0]:
                    break
                block = chosen[i]
                raise_tile(heights, table, middle, y0, x0, tile, lows, block_y[block], block_x[block])


@compiled
def raise_tile(heights, table, middle, y0, x0, tile, lows, by, bx):
    """Raise a tile by a block of samples; `lows` is the least of every row of the tile, and the least of all last."""
    rows, columns = heights.shape
    tall, wide = tile.shape
    for sy in range(by * BLOCK, min(by * BLOCK + BLOCK, rows)):
        gap_y = max(0, sy - (y0 + tall - 1), y0 - sy)
        for sx in range(bx * BLOCK, min(bx * BLOCK + BLOCK, columns)):
            top = heights[sy, sx]
            gap_x = max(0, sx - (x0 + wide - 1), x0 - sx)
            if top - table[middle + gap_y, middle + gap_x] <= lows[tall]:
                continue
            for y in range(tall):
                line = table[middle + y0 + y - sy]
                if top - line[middle + gap_x] <= lows[y]:
                    continue
                first = middle + x0 - sx
                row = tile[y]
                for x in range(wide):
                    tip = top - line[first + x]
                    row[x] = tip if tip > row[x] else row[x]
    find_lows(tile, lows)


@compiled
def find_lows(tile, lows):
    tall, wide = tile.shape
    lows[tall] = np.inf
    for y in range(tall):
        lows[y] = np.inf
        for x in range(wide):
            lows[y] = min(lows[y], tile[y, x])
        lows[tall] = min(lows[tall], lows[y])


@compiled
def raise_chords(heights, halves, at_row, lowest, highest, out):
    rows, columns = heights.shape
    reach = len(halves) - 1
    out[:] = -np.inf
    powers = 1
    while (2 << powers) <= 2 * reach + 1:
        powers += 1
    # windows[k, x] is the highest of the 2^k samples from x - reach on.
    windows = np.full((powers + 1, columns + 2 * reach), -np.inf)
    chord = np.empty(columns)
    for sy in range(max(0, lowest - reach), min(rows, highest + reach + 1)):
        windows[0, reach : reach + columns] = heights[sy]
        fill_windows(windows)
        done = -1
        for away in range(reach + 1):
            above, below = sy - away, sy + away
            up = above >= 0 and at_row[above] >= 0
            down = away > 0 and below < rows and at_row[below] >= 0
            if not up and not down:
                continue
            half = halves[away]
            if half != done:
                k = 0
                while (2 << k) <= 2 * half + 1:
                    k += 1
                first, second = windows[k], windows[k]
                left, right = reach - half, reach + half + 1 - (1 << k)
                for x in range(columns):
                    chord[x] = max(first[left + x], second[right + x])
                done = half
            if up:
                raise_row(out[at_row[above]], chord)
            if down:
                raise_row(out[at_row[below]], chord)


@compiled
def fill_windows(windows):
    for k in range(1, len(windows)):
        half = 1 << (k - 1)
        for x in range(windows.shape[1] - 2 * half + 1):
            windows[k, x] = max(windows[k - 1, x], windows[k - 1, x + half])


@compiled
def raise_row(row, chord):
    for x in range(len(row)):
        row[x] = max(row[x], chord[x])


@compiled
def raise_places(heights, maxima, pitch, profile, places, out):
    # Lengths of `profile` and places are in samples here, heights in mm.
    rows, columns = heights.shape
    reach = profile.radius
    across = int((2 * reach + 64) / BLOCK) + 4
    room = across * across
    bounds = np.empty(room)
    block_y = np.empty(room, dtype=np.int64)
    block_x = np.empty(room, dtype=np.int64)
    first = 0
    while first < len(places):
        low_x = high_x = places[first, 0]
        low_y = high_y = places[first, 1]
        last = first + 1
        while last < len(places) and last - first < GROUP:
            x, y = places[last, 0], places[last, 1]
            if max(high_x, x) - min(low_x, x) > 60 or max(high_y, y) - min(low_y, y) > 60:
                break
            low_x, high_x = min(low_x, x), max(high_x, x)
            low_y, high_y = min(low_y, y), max(high_y, y)
            last += 1
        tips = out[first:last]
        tips[:] = -np.inf
        box = (low_x, low_y, high_x, high_y)
        count = 0
        best = 0
        for by in range(max(0, int(np.ceil(low_y - reach))) // BLOCK, min(rows - 1, int(high_y + reach)) // BLOCK + 1):
            gap_y = max(0.0, by * BLOCK - high_y, low_y - (by * BLOCK + BLOCK - 1))
            for bx in range(
                max(0, int(np.ceil(low_x - reach))) // BLOCK, min(columns - 1, int(high_x + reach)) // BLOCK + 1
            ):
                gap_x = max(0.0, bx * BLOCK - high_x, low_x - (bx * BLOCK + BLOCK - 1))
                bounds[count] = maxima[by, bx] - pitch * rise(profile, gap_x * gap_x + gap_y * gap_y)
                block_y[count] = by
                block_x[count] = bx
                if bounds[count] > bounds[best]:
                    best = count
                count += 1
        if count > 0 and bounds[best] > -np.inf:
            here = places[first:last]
            least = raise_group(heights, pitch, profile, here, box, tips, block_y[best], block_x[best], -np.inf)
            bounds[best] = -np.inf
            left = 0
            for i in range(count):
                if bounds[i] > least:
                    bounds[left], block_y[left], block_x[left] = bounds[i], block_y[i], block_x[i]
                    left += 1
            for i in np.argsort(-bounds[:left]):
                if bounds[i] <= least:
                    break
                least = raise_group(heights, pitch, profile, here, box, tips, block_y[i], block_x[i], least)
        first = last


@compiled
def raise_group(heights, pitch, profile, places, box, tips, by, bx, least):
    rows, columns = heights.shape
    for sy in range(by * BLOCK, min(by * BLOCK + BLOCK, rows)):
        gap_y = max(0.0, sy - box[3], box[1] - sy)
        for sx in range(bx * BLOCK, min(bx * BLOCK + BLOCK, columns)):
            top = heights[sy, sx]
            gap_x = max(0.0, sx - box[2], box[0] - sx)
            if top - pitch * rise(profile, gap_x * gap_x + gap_y * gap_y) <= least:
                continue
            for i in range(len(places)):
                over, up = places[i, 0] - sx, places[i, 1] - sy
                tips[i] = max(tips[i], top - pitch * rise(profile, over * over + up * up))
    lowest = np.inf
    for i in range(len(places)):
        lowest = min(lowest, tips[i])
    return lowest
