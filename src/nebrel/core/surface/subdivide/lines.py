"""Outlines drawn through the pieces of a skin; see `pieces.py` for the arrays.

A line is followed from piece to piece. What it crosses is turned where it may be, after Sloan (1993), and divided where
it is a side of a face or was drawn before. Where the chart comes round, the line goes on with a shift.
"""

import numpy as np

from nebrel.core.jit import compiled
from nebrel.core.surface.subdivide.subtriangles import (
    DONE,
    FREE,
    FULL,
    KEPT,
    LINE,
    SIDE,
    SPARE,
    corner_of,
    cross,
    find_piece,
    flip,
    legalise,
    put_point,
    side_to,
    split_side,
)  # fmt: skip

OUTSIDE, REACHED, ALONG, INTO = 2, 3, 4, 5
MOST_ROUND = 10_000
MOST_STEPS = 200_000
ROOM_A_LINE = 8192


@compiled
def _mark(t, i, tn, tv, tk):
    """Side `i` of `t` is part of a line, on both its sides."""
    if tk[t, i] != KEPT:
        tk[t, i] = LINE if tk[t, i] != SIDE else SIDE
    o = tn[t, i]
    if o >= 0:
        p = side_to(tn, o, t, tv, tv[t, (i + 1) % 3])
        if p >= 0 and tk[o, p] == FREE:
            tk[o, p] = LINE


@compiled
def _enter(a, t, goal_x, goal_y, shift, near, tv, tn, tu):
    """Turn round vertex `a`, from piece `t` on, to the piece that a line to the goal enters.

    Gives what was found (`REACHED` where `a` is the goal, `ALONG` a side, `INTO` a piece, or `OUTSIDE`), the piece, and
    the side that the line runs along.
    """
    first, way = t, 0
    for turned in range(MOST_ROUND):
        i = corner_of(tv, t, a)
        j, k = (i + 1) % 3, (i + 2) % 3
        wx, wy = goal_x - shift[0] - tu[t, i, 0], goal_y - shift[1] - tu[t, i, 1]
        w_len = np.sqrt(wx * wx + wy * wy)
        if w_len <= near:
            return REACHED, t, 0
        ex, ey = tu[t, j, 0] - tu[t, i, 0], tu[t, j, 1] - tu[t, i, 1]
        fx, fy = tu[t, k, 0] - tu[t, i, 0], tu[t, k, 1] - tu[t, i, 1]
        e_len, f_len = np.sqrt(ex * ex + ey * ey), np.sqrt(fx * fx + fy * fy)
        off_e = cross(ex, ey, wx, wy) / max(e_len, 1e-300)
        off_f = cross(wx, wy, fx, fy) / max(f_len, 1e-300)
        if abs(off_e) * min(1.0, e_len / w_len) <= near and ex * wx + ey * wy > 0:
            return ALONG, t, i
        if abs(off_f) * min(1.0, f_len / w_len) <= near and fx * wx + fy * wy > 0:
            return ALONG, t, k
        if off_e > 0 and off_f > 0:
            return INTO, t, j
        # Counter-clockwise first; where the chart ends, back to the start and the other way round.
        step = tn[t, k] if way == 0 else tn[t, i]
        if step < 0 or np.isnan(tu[step, 0, 0]):
            if way == 1:
                break
            step, way = first, 1
        elif way == 0 and step == first and turned > 0:
            break
        at = corner_of(tv, step, a)
        shift[0] += tu[t, i, 0] - tu[step, at, 0]
        shift[1] += tu[t, i, 1] - tu[step, at, 1]
        t = step
    return OUTSIDE, t, 0


@compiled
def _run_along(a, t, side, goal_x, goal_y, shift, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """Mark a side of `t` that the line runs along, cut where the line ends on it.

    Gives the vertex and piece that were reached, and whether the line ends there.
    """
    i = corner_of(tv, t, a)
    ahead = side == i
    to = (i + 1) % 3 if ahead else (i + 2) % 3
    ex, ey = tu[t, to, 0] - tu[t, i, 0], tu[t, to, 1] - tu[t, i, 1]
    length = np.sqrt(ex * ex + ey * ey)
    w_len = np.sqrt((goal_x - shift[0] - tu[t, i, 0]) ** 2 + (goal_y - shift[1] - tu[t, i, 1]) ** 2)
    if w_len < length - near:
        share = w_len / length
        split_side(t, side, share if ahead else 1 - share, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
        if not ahead:
            # The half at the end of the side is the new piece.
            t = tn[t, (side + 1) % 3]
        i = corner_of(tv, t, a)
        side = i if ahead else (i + 2) % 3
    _mark(t, side, tn, tv, tk)
    return tv[t, (i + 1) % 3] if ahead else tv[t, (i + 2) % 3], t, w_len <= length + near


@compiled
def _end_inside(a, t, goal_x, goal_y, shift, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """A new vertex at the goal inside piece `t`, joined to `a`; gives the vertex and a piece of it."""
    v = put_point(t, goal_x - shift[0], goal_y - shift[1], 0.0, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
    at = t
    for piece in (t, size[0] - 2, size[0] - 1):
        i = corner_of(tv, piece, a)
        if tv[piece, i] != a:
            continue
        for side in (i, (i + 2) % 3):
            if tv[piece, side] == v or tv[piece, (side + 1) % 3] == v:
                _mark(piece, side, tn, tv, tk)
                at = piece
    stack[0], stack[1], stack[2] = at, size[0] - 2, size[0] - 1
    legalise(stack, 3, touched, tv, tn, tk, tb, tu, tp, vt)
    # Turning sides may have moved the piece away from v.
    at = _piece_at(v, at, tv, tn, tu, vt)
    i = corner_of(tv, at, v)
    shift[0], shift[1] = goal_x - tu[at, i, 0], goal_y - tu[at, i, 1]
    return v, at


@compiled
def _pass_through(a, t, beyond, goal_x, goal_y, shift, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """Take a line from `a` across the far side of `t`; gives the vertex and whether it ends there."""
    i = corner_of(tv, t, a)
    j, k = (i + 1) % 3, (i + 2) % 3
    wx, wy = goal_x - shift[0] - tu[t, i, 0], goal_y - shift[1] - tu[t, i, 1]
    ex, ey = tu[t, j, 0] - tu[t, i, 0], tu[t, j, 1] - tu[t, i, 1]
    gx, gy = tu[t, k, 0] - tu[t, j, 0], tu[t, k, 1] - tu[t, j, 1]
    length = np.sqrt(gx * gx + gy * gy)
    turn = cross(gx, gy, wx, wy)
    share = min(1.0, max(0.0, cross(wx, wy, ex, ey) / turn if turn != 0 else 0.5))
    if min(share, 1 - share) * length <= near:
        # Through a corner: along the side to it, although it is up to `near` off.
        to = j if share * length <= near else k
        _mark(t, i if to == j else k, tn, tv, tk)
        x, y = tu[t, to, 0] + shift[0] - goal_x, tu[t, to, 1] + shift[1] - goal_y
        return tv[t, to], abs(beyond) <= near and x * x + y * y <= 4 * near * near
    if tk[t, j] == FREE and beyond < -near and flip(t, j, tv, tn, tk, tb, tu, tp, vt):
        return a, False
    v = split_side(t, j, share, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
    # t has corners a, the start of the side, and v now: its side from v to a is new.
    _mark(t, (corner_of(tv, t, a) + 2) % 3, tn, tv, tk)
    return v, abs(beyond) <= near


@compiled
def draw_line(a, t, goal_x, goal_y, shift, near, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """Draw from vertex `a` to a place in the plane; sides that are crossed are turned or divided.

    Args:
        a: vertex to start from.
        t: a piece at `a` inside the chart.
        goal_x, goal_y: the place, in the plane as it is seen from the first point of the line.
        shift: float64 (2,), what is added to the places of piece `t` to see them so; follows the line.

    Returns:
        What happened, the vertex that was reached, and a piece of it inside the chart.
    """
    for _ in range(MOST_STEPS):
        if size[0] + SPARE > len(tv) or size[1] + SPARE > len(vt):
            return FULL, a, t
        found, t, side = _enter(a, t, goal_x, goal_y, shift, near, tv, tn, tu)
        if found == REACHED:
            return DONE, a, t
        if found == OUTSIDE:
            return OUTSIDE, a, t
        if found == ALONG:
            a, t, there = _run_along(a, t, side, goal_x, goal_y, shift, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
        else:
            # How far inside the piece's far side the goal lies.
            j, k = side, (side + 1) % 3
            gx, gy = tu[t, k, 0] - tu[t, j, 0], tu[t, k, 1] - tu[t, j, 1]
            beyond = cross(gx, gy, goal_x - shift[0] - tu[t, j, 0], goal_y - shift[1] - tu[t, j, 1])
            beyond /= max(np.sqrt(gx * gx + gy * gy), 1e-300)
            if beyond > near:
                a, t = _end_inside(
                    a, t, goal_x, goal_y, shift, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size
                )
                return DONE, a, t
            a, there = _pass_through(
                a, t, beyond, goal_x, goal_y, shift, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size
            )
        if there:
            return DONE, a, t
    return OUTSIDE, a, t


@compiled
def _piece_at(v, t, tv, tn, tu, vt):
    """A piece of vertex `v` inside the chart."""
    for piece in (t, vt[v]):
        if tv[piece, corner_of(tv, piece, v)] == v and not np.isnan(tu[piece, 0, 0]):
            return piece
    return vt[v]


@compiled
def _begin(x, y, period, near, reached, progress, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """A vertex at a place, which the next line starts from."""
    seen = x
    t = find_piece(x, y, reached[1], tu, size[0])
    for turn in (period, -period):
        if t < 0 and turn != 0.0:
            seen = x - turn
            t = find_piece(seen, y, reached[1], tu, size[0])
    reached[0] = -1
    if t < 0:
        reached[3] += 1
        return
    before = size[0]
    v = put_point(t, seen, y, near, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
    stack[0], top = t, 1
    for piece in range(before, size[0]):
        stack[top] = piece
        top += 1
    legalise(stack, top, touched, tv, tn, tk, tb, tu, tp, vt)
    reached[0], reached[1] = v, _piece_at(v, t, tv, tn, tu, vt)
    progress[2], progress[3] = x - seen, 0.0


@compiled
def draw_rings(places, starts, period, near, reached, progress, tv, tn, tk, tb, tu, tp, tf, ti, vt, size):
    """Draw closed rings, `starts` telling where each begins in `places`; picks up at `progress` when called again.

    Args:
        places: float64 (K, 2) mm.
        period: mm after which the chart comes round, or 0.
        reached: int64 (4,): vertex, piece and first vertex of the ring that is being drawn, and how often a line left
            the chart.
        progress: float64 (4,): ring, place within it, and the shift of its piece.

    Returns:
        FULL when the arrays have to grow first, else DONE.
    """
    stack = np.empty(4096, dtype=np.int64)
    touched = np.empty(4096, dtype=np.int64)
    shift = np.empty(2, dtype=np.float64)
    while progress[0] < len(starts) - 1:
        ring = int(progress[0])
        low, high = starts[ring], starts[ring + 1]
        count = high - low
        while progress[1] <= count:
            if size[0] + ROOM_A_LINE > len(tv) or size[1] + ROOM_A_LINE > len(vt):
                return FULL
            at = int(progress[1])
            x, y = places[low + at % count, 0], places[low + at % count, 1]
            if at == 0 or reached[0] < 0:
                # A ring begins, or goes on after it left the chart.
                _begin(x, y, period, near, reached, progress, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size)
                if at > 0 and reached[0] >= 0:
                    # From where it came in, back to the edge of the chart.
                    shift[0], shift[1] = progress[2], progress[3]
                    x, y = places[low + at - 1, 0], places[low + at - 1, 1]
                    draw_line(
                        reached[0], reached[1], x, y, shift, near, stack, touched,
                        tv, tn, tk, tb, tu, tp, tf, ti, vt, size,
                    )  # fmt: skip
                    reached[1] = _piece_at(reached[0], reached[1], tv, tn, tu, vt)
                progress[1] += 1
                continue
            shift[0], shift[1] = progress[2], progress[3]
            told, v, t = draw_line(
                reached[0], reached[1], x, y, shift, near, stack, touched, tv, tn, tk, tb, tu, tp, tf, ti, vt, size
            )
            reached[0], reached[1] = v, t
            progress[2], progress[3] = shift[0], shift[1]
            if told == FULL:
                return FULL
            if told != DONE:
                reached[0] = -1
                reached[3] += 1
            progress[1] += 1
        progress[0] += 1
        progress[1] = 0
        reached[0] = -1
    return DONE
