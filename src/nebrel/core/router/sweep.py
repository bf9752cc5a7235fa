"""Bits moved through a stock of material, a height over every cell of a grid."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.router.cutter import Shape

PATCH = 8
NOTHING = 1e-9


class Stock(NamedTuple):
    """Material that is left, as a height over the middle of every cell.

    Attributes:
        tops: float64 (H, W) mm, row 0 at the least Y.
        left, low: X and Y of the first cell's middle, mm.
        cell: mm between middles.
        patches: float64, the highest of every 8 x 8 cells, or more.
    """

    tops: NDArray[np.float64]
    left: float
    low: float
    cell: float
    patches: NDArray[np.float64]


class Cuts(NamedTuple):
    """What every move did.

    Attributes:
        deepest: float64 (N,) mm that it took off at most.
        under: float64 (N,) mm that it took off under the tip's middle.
        shank: float64 (N,) mm by which material stood above the flutes within the bit's reach; 0 where none did.
        lowest_over: float64 (N,), the least height over what was asked for that it left where it cut; inf if nowhere.
    """

    deepest: NDArray[np.float64]
    under: NDArray[np.float64]
    shank: NDArray[np.float64]
    lowest_over: NDArray[np.float64]


def fresh_stock(
    size: tuple[float, float], corner: tuple[float, float], top: float, cell: float, through: tuple[float, float]
) -> Stock:
    """A board before any cut.

    Args:
        size: width and depth, mm.
        corner: X and Y of its lower left corner.
        top: Z of its face.
        cell: mm between cells.
        through: a place that is to be the middle of a cell.
    """
    first = [through[axis] - np.floor((through[axis] - corner[axis]) / cell + 1e-9) * cell for axis in (0, 1)]
    across, up = (int(np.floor((corner[axis] + size[axis] - first[axis]) / cell + 1e-9)) + 1 for axis in (0, 1))
    tops = np.full((up, across), float(top))
    patches = np.full((-(-up // PATCH), -(-across // PATCH)), float(top))
    return Stock(tops, float(first[0]), float(first[1]), cell, patches)


def cut(
    stock: Stock,
    shape: Shape,
    places: NDArray[np.float64],
    flute: float,
    shank: float,
    asked: NDArray[np.float64] | None = None,
) -> Cuts:
    """Move a bit through the stock, which changes.

    Args:
        stock: what is left before; what is left after.
        shape: the bit.
        places: float64 (N + 1, 3) mm of its tip.
        flute: how far over the tip it cuts, mm.
        shank: radius above its flutes, mm.
        asked: float64 (H, W) mm that should be left; NaN where nobody cares.
    """
    count = len(places) - 1
    cuts = Cuts(np.zeros(count), np.zeros(count), np.zeros(count), np.full(count, np.inf))
    wanted = np.full((1, 1), np.nan) if asked is None else asked
    places = np.ascontiguousarray(places, dtype=np.float64)
    checks_shank = bool(stock.tops.size and float(stock.tops.max()) > float(places[:, 2].min()) + flute)
    sweep_all(stock, shape, places, flute, shank if checks_shank else -1.0, wanted, cuts)
    return cuts


@compiled
def lowest_pass(shape, along, aside, length, drop):
    """How low the bit's surface comes over a place, over the height of the move's start; and where on the way.

    `along` and `aside` of the move's start; `drop` is what the tip falls or climbs on `length`.
    """
    room = shape.radius * shape.radius - aside * aside
    if room < 0:
        return np.inf, 0.0
    half = np.sqrt(room)
    first, last = max(0.0, along - half), min(length, along + half)
    if first > last:
        return np.inf, 0.0
    climb = drop / length if length > 0 else 0.0
    if shape.flat:
        best = first if climb >= 0 else last
        return climb * best, best
    best = first
    if shape.ball > 0:
        inner = shape.ball * shape.ball - aside * aside
        best = along - climb * np.sqrt(inner / (1 + climb * climb)) if inner > 0 else along
        best = min(max(best, first), last)
        away = np.sqrt(aside * aside + (along - best) ** 2)
        if away > shape.ball_until and shape.side > 0:
            best = on_side(shape, along, aside, climb, first, last)
    else:
        best = on_side(shape, along, aside, climb, first, last)
    away = np.sqrt(aside * aside + (along - best) ** 2)
    if away <= shape.ball_until:
        up = shape.ball - np.sqrt(max(0.0, shape.ball * shape.ball - away * away))
    else:
        up = shape.side_from + shape.side * (away - shape.ball_until)
    return climb * best + up, best


@compiled
def on_side(shape, along, aside, climb, first, last):
    if abs(climb) >= shape.side:
        return first if climb > 0 else last
    best = along - climb * abs(aside) / np.sqrt(shape.side * shape.side - climb * climb)
    return min(max(best, first), last)


@compiled
def sweep_all(stock, shape, places, flute, shank, asked, cuts):
    tops, patches = stock.tops, stock.patches
    rows, columns = tops.shape
    cares = asked.shape[0] == rows and asked.shape[1] == columns
    reach = max(shape.radius, shank)
    # The middle of the tip: of a flat end a quarter of its radius, of a round one half of that of its ball.
    tip = shape.radius / 2 if shape.flat else shape.ball
    core = max(0.75 * stock.cell, min(tip / 2, 0.5))
    for i in range(len(places) - 1):
        x0, y0, z0 = places[i]
        x1, y1, z1 = places[i + 1]
        over, up = x1 - x0, y1 - y0
        length = np.sqrt(over * over + up * up)
        ox = over / length if length > 0 else 1.0
        oy = up / length if length > 0 else 0.0
        lowest = min(z0, z1)
        if length == 0:
            z0 = z1 = lowest
        first_row = max(0, int(np.ceil((min(y0, y1) - reach - stock.low) / stock.cell)))
        last_row = min(rows - 1, int(np.floor((max(y0, y1) + reach - stock.low) / stock.cell)))
        first_column = max(0, int(np.ceil((min(x0, x1) - reach - stock.left) / stock.cell)))
        last_column = min(columns - 1, int(np.floor((max(x0, x1) + reach - stock.left) / stock.cell)))
        if first_row > last_row or first_column > last_column:
            continue
        for py in range(first_row // PATCH, last_row // PATCH + 1):
            for px in range(first_column // PATCH, last_column // PATCH + 1):
                if patches[py, px] <= lowest:
                    continue
                middle_x = stock.left + (px * PATCH + (PATCH - 1) / 2) * stock.cell
                middle_y = stock.low + (py * PATCH + (PATCH - 1) / 2) * stock.cell
                extent = 0.71 * PATCH * stock.cell
                along = min(max((middle_x - x0) * ox + (middle_y - y0) * oy, 0.0), length)
                away = np.sqrt((middle_x - x0 - along * ox) ** 2 + (middle_y - y0 - along * oy) ** 2) - extent
                if away > reach:
                    continue
                if shank < 0 and away > 0:
                    bottom, _ = lowest_pass(shape, 0.0, away, 0.0, 0.0)
                    if patches[py, px] <= lowest + bottom:
                        continue
                cut_patch(
                    stock, shape, i, py, px, first_row, last_row, first_column, last_column,
                    x0, y0, z0, z1 - z0, length, ox, oy, flute, shank, core, cares, asked, cuts,
                )  # fmt: skip


@compiled
def cut_patch(
    stock, shape, i, py, px, first_row, last_row, first_column, last_column,
    x0, y0, z0, drop, length, ox, oy, flute, shank, core, cares, asked, cuts,
):  # fmt: skip
    tops = stock.tops
    rows, columns = tops.shape
    changed = False
    for row in range(max(first_row, py * PATCH), min(last_row, py * PATCH + PATCH - 1) + 1):
        y = stock.low + row * stock.cell - y0
        for column in range(max(first_column, px * PATCH), min(last_column, px * PATCH + PATCH - 1) + 1):
            x = stock.left + column * stock.cell - x0
            along = x * ox + y * oy
            aside = y * ox - x * oy
            before = tops[row, column]
            if shank >= 0 and before > min(z0, z0 + drop) + flute:
                nearest = min(max(along, 0.0), length)
                if (along - nearest) ** 2 + aside * aside <= max(shape.radius, shank) ** 2:
                    height = z0 + (drop * nearest / length if length > 0 else 0.0) + flute
                    cuts.shank[i] = max(cuts.shank[i], before - height)
            bottom, where = lowest_pass(shape, along, aside, length, drop)
            after = z0 + bottom
            if after < before - NOTHING:
                tops[row, column] = after
                changed = True
                cuts.deepest[i] = max(cuts.deepest[i], before - after)
                if (along - where) ** 2 + aside * aside <= core * core:
                    cuts.under[i] = max(cuts.under[i], before - after)
                if cares and after - asked[row, column] < cuts.lowest_over[i]:
                    cuts.lowest_over[i] = after - asked[row, column]
    if changed:
        highest = -np.inf
        for row in range(py * PATCH, min(rows, py * PATCH + PATCH)):
            for column in range(px * PATCH, min(columns, px * PATCH + PATCH)):
                highest = max(highest, tops[row, column])
        stock.patches[py, px] = highest
