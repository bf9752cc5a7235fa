"""Pieces of a skin made finer until they follow a field of depths to within a tolerance."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.surface.subdivide.subtriangles import FREE, FULL, SPARE, legalise, split_inside, split_side

HIGHEST, SUM, LAST = 0, 1, 2
SMALLEST_SIDE = 1.5
TOO_NEAR = 0.15
MOST_ALONG = 4000
ON_SIDE = 1e-7
STOPPED = 4
DONE = 0


class WantedDepths(NamedTuple):
    """Depths over the plane that pieces are laid in.

    Attributes:
        depths: float32 (rows, columns) mm, raised above 0, sunk below.
        to_grid: float64 (2, 3): from places of the plane to column and row.
        pitch: mm between samples.
        tiled: whether it starts again beyond its edges.
        period: mm to the right after which the plane comes round to the same place; 0 where it does not.
        overlap: HIGHEST, SUM or LAST.
        local: int64 (F,), which row of `share` belongs to a face of the skin; empty where all carry all of it.
        share: float64 (K, 3), how much of the field the corners of faces carry.
    """

    depths: NDArray[np.float32]
    to_grid: NDArray[np.float64]
    pitch: float
    tiled: bool
    period: float
    overlap: int
    local: NDArray[np.int64]
    share: NDArray[np.float64]


@compiled
def combine(before, depth, overlap):
    """The depth where a decoration lies over what was there."""
    if overlap == SUM:
        return before + depth
    if overlap == LAST:
        return depth
    return depth if abs(depth) > abs(before) else before


@compiled
def depth_at(column, row, field, tiled):
    """A field between its samples, bilinear; beyond its edge as at its edge, or from the start where it is tiled."""
    rows, columns = field.shape
    if tiled:
        column, row = column % columns, row % rows
        j, i = int(column), int(row)
        j, i = min(j, columns - 1), min(i, rows - 1)
        x, y = column - j, row - i
        k, h = (j + 1) % columns, (i + 1) % rows
    else:
        column = min(max(column, 0.0), columns - 1.0)
        row = min(max(row, 0.0), rows - 1.0)
        j, i = min(int(column), max(columns - 2, 0)), min(int(row), max(rows - 2, 0))
        x, y = column - j, row - i
        k, h = min(j + 1, columns - 1), min(i + 1, rows - 1)
    return (1 - y) * ((1 - x) * field[i, j] + x * field[i, k]) + y * ((1 - x) * field[h, j] + x * field[h, k])


@compiled
def turn_of(t, corner_place, to_grid, shape, period):
    """How far the chart has to be shifted so that piece `t` lies on the field: 0, the period, or minus the period."""
    if period == 0.0:
        return 0.0
    u = (corner_place[t, 0, 0] + corner_place[t, 1, 0] + corner_place[t, 2, 0]) / 3
    v = (corner_place[t, 0, 1] + corner_place[t, 1, 1] + corner_place[t, 2, 1]) / 3
    best, found = np.inf, 0.0
    for turn in (0.0, period, -period):
        column = to_grid[0, 0] * (u + turn) + to_grid[0, 1] * v + to_grid[0, 2]
        row = to_grid[1, 0] * (u + turn) + to_grid[1, 1] * v + to_grid[1, 2]
        beyond = max(-column, column - (shape[1] - 1), 0.0) + max(-row, row - (shape[0] - 1), 0.0)
        if beyond < best:
            best, found = beyond, turn
    return found


@compiled
def carried(t, i, wanted, pieces):
    """How much of the field a corner of piece `t` carries."""
    if len(wanted.local) == 0:
        return 1.0
    row = wanted.local[pieces.face_of[t]]
    one, two = pieces.corner_share[t, i, 0], pieces.corner_share[t, i, 1]
    share = wanted.share
    return (1.0 - one - two) * share[row, 0] + one * share[row, 1] + two * share[row, 2]


@compiled
def corner_depths(chosen, wanted, pieces):
    """What the corners of chosen pieces get, float64 (K, 3) mm."""
    corner_place, corner_depth = pieces.corner_place, pieces.corner_depth
    field, to_grid, tiled, period, overlap = wanted.depths, wanted.to_grid, wanted.tiled, wanted.period, wanted.overlap
    found = np.empty((len(chosen), 3), dtype=np.float64)
    for at in range(len(chosen)):
        t = chosen[at]
        turn = 0.0 if tiled else turn_of(t, corner_place, to_grid, field.shape, period)
        for i in range(3):
            u, v = corner_place[t, i, 0] + turn, corner_place[t, i, 1]
            column = to_grid[0, 0] * u + to_grid[0, 1] * v + to_grid[0, 2]
            row = to_grid[1, 0] * u + to_grid[1, 1] * v + to_grid[1, 2]
            depth = carried(t, i, wanted, pieces) * depth_at(column, row, field, tiled)
            found[at, i] = combine(corner_depth[t, i], depth, overlap)
    return found


@compiled
def _span(x, base1, step1, base2, step2):
    """First and last column of a row where all three shares are at least 0, by more than rounding."""
    low, high = x.min(), x.max()
    for base, step in ((base1, step1), (base2, step2), (1.0 - base1 - base2, -step1 - step2)):
        if step > 0:
            low = max(low, -(base + ON_SIDE) / step)
        elif step < 0:
            high = min(high, -(base + ON_SIDE) / step)
        elif base < -ON_SIDE:
            high = low - 1
    # A sample on a side counts for both pieces.
    return int(np.ceil(low - ON_SIDE)), int(np.floor(high + ON_SIDE))


@compiled
def _worst(t, wanted, pieces):
    """The largest error in piece `t`, at samples and along kept sides, and the shares of two corners there."""
    field, to_grid, tiled, period, overlap = wanted.depths, wanted.to_grid, wanted.tiled, wanted.period, wanted.overlap
    corner_place, corner_depth = pieces.corner_place, pieces.corner_depth
    turn = 0.0 if tiled else turn_of(t, corner_place, to_grid, field.shape, period)
    rows, columns = field.shape
    x = np.empty(3, dtype=np.float64)
    y = np.empty(3, dtype=np.float64)
    d = np.empty(3, dtype=np.float64)
    c = np.empty(3, dtype=np.float64)
    for i in range(3):
        c[i] = carried(t, i, wanted, pieces)
        u, v = corner_place[t, i, 0] + turn, corner_place[t, i, 1]
        x[i] = to_grid[0, 0] * u + to_grid[0, 1] * v + to_grid[0, 2]
        y[i] = to_grid[1, 0] * u + to_grid[1, 1] * v + to_grid[1, 2]
        d[i] = combine(corner_depth[t, i], c[i] * depth_at(x[i], y[i], field, tiled), overlap)
    whole = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0])
    worst, best1, best2 = 0.0, 0.0, 0.0
    if whole == 0:
        return worst, best1, best2
    low_y, high_y = int(np.ceil(y.min() - ON_SIDE)), int(np.floor(y.max() + ON_SIDE))
    if not tiled:
        low_y, high_y = max(low_y, 0), min(high_y, rows - 1)
    # Shares along a row are linear in the column.
    step1, step2 = (y[2] - y[0]) / whole, -(y[1] - y[0]) / whole
    for row in range(low_y, high_y + 1):
        base1 = ((0.0 - x[0]) * (y[2] - y[0]) - (row - y[0]) * (x[2] - x[0])) / whole
        base2 = ((x[1] - x[0]) * (row - y[0]) - (y[1] - y[0]) * (0.0 - x[0])) / whole
        first, last = _span(x, base1, step1, base2, step2)
        if not tiled:
            first, last = max(first, 0), min(last, columns - 1)
        for column in range(first, last + 1):
            w1, w2 = base1 + step1 * column, base2 + step2 * column
            w0 = 1.0 - w1 - w2
            target = field[row % rows, column % columns] if tiled else field[row, column]
            target *= w0 * c[0] + w1 * c[1] + w2 * c[2]
            before = w0 * corner_depth[t, 0] + w1 * corner_depth[t, 1] + w2 * corner_depth[t, 2]
            off = abs(combine(before, target, overlap) - (w0 * d[0] + w1 * d[1] + w2 * d[2]))
            if off > worst:
                worst, best1, best2 = off, w1, w2
    return _worst_along(t, (worst, best1, best2), (x, y, d, c), wanted, pieces.side_kind, corner_depth)


@compiled
def _worst_along(t, found, corners, wanted, side_kind, corner_depth):
    """The worst found so far, or a worse one on a side of `t` that is kept."""
    field, tiled, overlap = wanted.depths, wanted.tiled, wanted.overlap
    worst, best1, best2 = found
    x, y, d, c = corners
    for i in range(3):
        if side_kind[t, i] == FREE:
            continue
        j = (i + 1) % 3
        steps = int(np.ceil(np.sqrt((x[j] - x[i]) ** 2 + (y[j] - y[i]) ** 2)))
        for step in range(1, min(steps, MOST_ALONG)):
            s = step / min(steps, MOST_ALONG)
            target = depth_at((1 - s) * x[i] + s * x[j], (1 - s) * y[i] + s * y[j], field, tiled)
            target *= (1 - s) * c[i] + s * c[j]
            before = (1 - s) * corner_depth[t, i] + s * corner_depth[t, j]
            off = abs(combine(before, target, overlap) - ((1 - s) * d[i] + s * d[j]))
            if off > worst:
                worst = off
                best1 = (1 - s if i == 1 else 0.0) + (s if j == 1 else 0.0)
                best2 = (1 - s if i == 2 else 0.0) + (s if j == 2 else 0.0)
    return worst, best1, best2


@compiled
def refine(first, tolerance, near, wanted, errors, level, pieces):
    """Add points until every sample inside the decoration is within `tolerance` mm.

    Args:
        first: whether all pieces are to be measured first; not when it goes on after the arrays have grown.
        near: mm within which places are one.
        wanted: what corners are to have.
        errors: float64 (T, 3) of every piece: the largest error, and where.
        level: float64 (1,): what is being worked on; errors are halved from level to level, so that points come nearly
            in the order of their errors.

    Returns:
        FULL when the arrays have to grow first, else DONE.
    """
    corner_vertex, flags, piece_at, size = pieces.corner_vertex, pieces.flags, pieces.piece_at, pieces.size
    pitch = wanted.pitch
    if first:
        level[0] = _measure_all(errors, wanted, pieces) / 2
    stack = np.empty(4096, dtype=np.int64)
    touched = np.empty(8192, dtype=np.int64)
    while True:
        level[0] = max(level[0], tolerance)
        waiting = np.flatnonzero(errors[: size[0], 0] > level[0])
        if len(waiting) == 0:
            if level[0] <= tolerance:
                return DONE
            level[0] /= 2
            continue
        for t in waiting:
            if errors[t, 0] <= level[0]:
                continue
            if size[0] + SPARE > len(corner_vertex) or size[1] + SPARE > len(piece_at):
                return FULL
            changed = _put_and_turn(t, errors, pitch, near, stack, touched, pieces)
            for i in range(changed):
                errors[touched[i], 0] = -1.0
            for i in range(changed):
                piece = touched[i]
                if errors[piece, 0] < 0:
                    errors[piece, 0] = 0.0
                    if flags[piece] & 1:
                        errors[piece] = _worst(piece, wanted, pieces)


@compiled
def _measure_all(errors, wanted, pieces):
    """The error of every piece; gives the largest."""
    flags, size = pieces.flags, pieces.size
    largest = 0.0
    for t in range(size[0]):
        errors[t, 0] = 0.0
        if flags[t] & 1:
            errors[t] = _worst(t, wanted, pieces)
            largest = max(largest, errors[t, 0])
    return largest


@compiled
def _put_and_turn(t, errors, pitch, near, stack, touched, pieces):
    """A point where piece `t` is worst; gives how many pieces changed, which are noted in `touched`."""
    size = pieces.size
    before = size[0]
    other = _put_worst(t, errors[t, 1], errors[t, 2], pitch, near, pieces)
    if other == -2:
        errors[t, 0] = 0.0
        return 0
    stack[0], top = t, 1
    if other >= 0:
        stack[top] = other
        top += 1
    for piece in range(before, size[0]):
        stack[top] = piece
        top += 1
    touched[:top] = stack[:top]
    return top + legalise(stack, top, touched[top:], pieces)


@compiled
def _put_worst(t, w1, w2, pitch, near, pieces):
    """A point inside piece `t`, or on a side of it that it would crowd.

    Gives the other piece that was cut, -1 where there is none, or -2 where no point has room.
    """
    neighbour, side_kind, corner_place = pieces.neighbour, pieces.side_kind, pieces.corner_place
    w0 = 1.0 - w1 - w2
    x = w0 * corner_place[t, 0, 0] + w1 * corner_place[t, 1, 0] + w2 * corner_place[t, 2, 0]
    y = w0 * corner_place[t, 0, 1] + w1 * corner_place[t, 1, 1] + w2 * corner_place[t, 2, 1]
    nearest, side, share, length = np.inf, -1, 0.0, 0.0
    for i in range(3):
        j = (i + 1) % 3
        ex, ey = corner_place[t, j, 0] - corner_place[t, i, 0], corner_place[t, j, 1] - corner_place[t, i, 1]
        px, py = x - corner_place[t, i, 0], y - corner_place[t, i, 1]
        long = np.sqrt(ex * ex + ey * ey)
        gone = (ex * py - ey * px) / max(long, 1e-300)
        s = (px * ex + py * ey) / max(long * long, 1e-300)
        if px * px + py * py < 16 * near * near:
            return -2
        kept = side_kind[t, i] != FREE
        crowded = kept and s * (1 - s) * long * long > gone * gone and long > SMALLEST_SIDE * pitch
        close = gone < 8 * near or (kept and gone < TOO_NEAR * min(pitch, long))
        if (crowded or close) and gone < nearest:
            nearest, side, share, length = gone, i, s, long
    if side < 0:
        split_inside(t, w1, w2, pieces)
        return -1
    if length < 32 * near:
        return -2
    room = 8 * near / length if side_kind[t, side] == FREE else max(0.2, 8 * near / length)
    other = neighbour[t, side]
    split_side(t, side, min(1 - room, max(room, share)), pieces)
    return other if other >= 0 else -1
