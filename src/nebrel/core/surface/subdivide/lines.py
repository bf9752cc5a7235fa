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
def _mark(t, i, pieces):
    """Side `i` of `t` is part of a line, on both its sides."""
    corner_vertex, neighbour, side_kind = pieces.corner_vertex, pieces.neighbour, pieces.side_kind
    if side_kind[t, i] != KEPT:
        side_kind[t, i] = LINE if side_kind[t, i] != SIDE else SIDE
    o = neighbour[t, i]
    if o >= 0:
        p = side_to(neighbour, o, t, corner_vertex, corner_vertex[t, (i + 1) % 3])
        if p >= 0 and side_kind[o, p] == FREE:
            side_kind[o, p] = LINE


@compiled
def _enter(a, t, goal, shift, near, pieces):
    """Turn round vertex `a`, from piece `t` on, to the piece that a line to the goal enters.

    Gives what was found (`REACHED` where `a` is the goal, `ALONG` a side, `INTO` a piece, or `OUTSIDE`), the piece, and
    the side that the line runs along.
    """
    corner_vertex, neighbour, corner_place = pieces.corner_vertex, pieces.neighbour, pieces.corner_place
    first, way = t, 0
    for turned in range(MOST_ROUND):
        i = corner_of(corner_vertex, t, a)
        j, k = (i + 1) % 3, (i + 2) % 3
        wx, wy = goal[0] - shift[0] - corner_place[t, i, 0], goal[1] - shift[1] - corner_place[t, i, 1]
        w_len = np.sqrt(wx * wx + wy * wy)
        if w_len <= near:
            return REACHED, t, 0
        ex, ey = corner_place[t, j, 0] - corner_place[t, i, 0], corner_place[t, j, 1] - corner_place[t, i, 1]
        fx, fy = corner_place[t, k, 0] - corner_place[t, i, 0], corner_place[t, k, 1] - corner_place[t, i, 1]
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
        step = neighbour[t, k] if way == 0 else neighbour[t, i]
        if step < 0 or np.isnan(corner_place[step, 0, 0]):
            if way == 1:
                break
            step, way = first, 1
        elif way == 0 and step == first and turned > 0:
            break
        at = corner_of(corner_vertex, step, a)
        shift[0] += corner_place[t, i, 0] - corner_place[step, at, 0]
        shift[1] += corner_place[t, i, 1] - corner_place[step, at, 1]
        t = step
    return OUTSIDE, t, 0


@compiled
def _run_along(a, t, side, goal, shift, near, pieces):
    """Mark a side of `t` that the line runs along, cut where the line ends on it.

    Gives the vertex and piece that were reached, and whether the line ends there.
    """
    corner_vertex, neighbour, corner_place = pieces.corner_vertex, pieces.neighbour, pieces.corner_place
    i = corner_of(corner_vertex, t, a)
    ahead = side == i
    to = (i + 1) % 3 if ahead else (i + 2) % 3
    ex, ey = corner_place[t, to, 0] - corner_place[t, i, 0], corner_place[t, to, 1] - corner_place[t, i, 1]
    length = np.sqrt(ex * ex + ey * ey)
    w_len = np.sqrt(
        (goal[0] - shift[0] - corner_place[t, i, 0]) ** 2 + (goal[1] - shift[1] - corner_place[t, i, 1]) ** 2
    )
    if w_len < length - near:
        share = w_len / length
        split_side(t, side, share if ahead else 1 - share, pieces)
        if not ahead:
            # The half at the end of the side is the new piece.
            t = neighbour[t, (side + 1) % 3]
        i = corner_of(corner_vertex, t, a)
        side = i if ahead else (i + 2) % 3
    _mark(t, side, pieces)
    return corner_vertex[t, (i + 1) % 3] if ahead else corner_vertex[t, (i + 2) % 3], t, w_len <= length + near


@compiled
def _end_inside(a, t, goal, shift, room, pieces):
    """A new vertex at the goal inside piece `t`, joined to `a`; gives the vertex and a piece of it."""
    stack, touched = room
    corner_vertex, corner_place, size = pieces.corner_vertex, pieces.corner_place, pieces.size
    v = put_point(t, goal[0] - shift[0], goal[1] - shift[1], 0.0, pieces)
    at = t
    for piece in (t, size[0] - 2, size[0] - 1):
        i = corner_of(corner_vertex, piece, a)
        if corner_vertex[piece, i] != a:
            continue
        for side in (i, (i + 2) % 3):
            if corner_vertex[piece, side] == v or corner_vertex[piece, (side + 1) % 3] == v:
                _mark(piece, side, pieces)
                at = piece
    stack[0], stack[1], stack[2] = at, size[0] - 2, size[0] - 1
    legalise(stack, 3, touched, pieces)
    # Turning sides may have moved the piece away from v.
    at = _piece_at(v, at, pieces)
    i = corner_of(corner_vertex, at, v)
    shift[0], shift[1] = goal[0] - corner_place[at, i, 0], goal[1] - corner_place[at, i, 1]
    return v, at


@compiled
def _pass_through(a, t, beyond, goal, shift, near, pieces):
    """Take a line from `a` across the far side of `t`; gives the vertex and whether it ends there."""
    corner_vertex, side_kind, corner_place = pieces.corner_vertex, pieces.side_kind, pieces.corner_place
    i = corner_of(corner_vertex, t, a)
    j, k = (i + 1) % 3, (i + 2) % 3
    wx, wy = goal[0] - shift[0] - corner_place[t, i, 0], goal[1] - shift[1] - corner_place[t, i, 1]
    ex, ey = corner_place[t, j, 0] - corner_place[t, i, 0], corner_place[t, j, 1] - corner_place[t, i, 1]
    gx, gy = corner_place[t, k, 0] - corner_place[t, j, 0], corner_place[t, k, 1] - corner_place[t, j, 1]
    length = np.sqrt(gx * gx + gy * gy)
    turn = cross(gx, gy, wx, wy)
    share = min(1.0, max(0.0, cross(wx, wy, ex, ey) / turn if turn != 0 else 0.5))
    if min(share, 1 - share) * length <= near:
        # Through a corner: along the side to it, although it is up to `near` off.
        to = j if share * length <= near else k
        _mark(t, i if to == j else k, pieces)
        x, y = corner_place[t, to, 0] + shift[0] - goal[0], corner_place[t, to, 1] + shift[1] - goal[1]
        return corner_vertex[t, to], abs(beyond) <= near and x * x + y * y <= 4 * near * near
    if side_kind[t, j] == FREE and beyond < -near and flip(t, j, pieces):
        return a, False
    v = split_side(t, j, share, pieces)
    # t has corners a, the start of the side, and v now: its side from v to a is new.
    _mark(t, (corner_of(corner_vertex, t, a) + 2) % 3, pieces)
    return v, abs(beyond) <= near


@compiled
def draw_line(a, t, goal, shift, near, room, pieces):
    """Draw from vertex `a` to a place in the plane; sides that are crossed are turned or divided.

    Args:
        a: vertex to start from.
        t: a piece at `a` inside the chart.
        goal: (x, y) mm, the place, in the plane as it is seen from the first point of the line.
        shift: float64 (2,), what is added to the places of piece `t` to see them so; follows the line.
        near: mm within which places are one.
        room: int64 (N,) twice, for pieces that wait and for those that change.

    Returns:
        What happened, the vertex that was reached, and a piece of it inside the chart.
    """
    corner_vertex, _, _, _, corner_place, _, _, _, piece_at, size = pieces
    for _ in range(MOST_STEPS):
        if size[0] + SPARE > len(corner_vertex) or size[1] + SPARE > len(piece_at):
            return FULL, a, t
        found, t, side = _enter(a, t, goal, shift, near, pieces)
        if found == REACHED:
            return DONE, a, t
        if found == OUTSIDE:
            return OUTSIDE, a, t
        if found == ALONG:
            a, t, there = _run_along(a, t, side, goal, shift, near, pieces)
        else:
            # How far inside the piece's far side the goal lies.
            j, k = side, (side + 1) % 3
            gx, gy = corner_place[t, k, 0] - corner_place[t, j, 0], corner_place[t, k, 1] - corner_place[t, j, 1]
            beyond = cross(
                gx, gy, goal[0] - shift[0] - corner_place[t, j, 0], goal[1] - shift[1] - corner_place[t, j, 1]
            )
            beyond /= max(np.sqrt(gx * gx + gy * gy), 1e-300)
            if beyond > near:
                a, t = _end_inside(a, t, goal, shift, room, pieces)
                return DONE, a, t
            a, there = _pass_through(a, t, beyond, goal, shift, near, pieces)
        if there:
            return DONE, a, t
    return OUTSIDE, a, t


@compiled
def _piece_at(v, t, pieces):
    """A piece of vertex `v` inside the chart."""
    corner_vertex, corner_place, piece_at = pieces.corner_vertex, pieces.corner_place, pieces.piece_at
    for piece in (t, piece_at[v]):
        if corner_vertex[piece, corner_of(corner_vertex, piece, v)] == v and not np.isnan(corner_place[piece, 0, 0]):
            return piece
    return piece_at[v]


@compiled
def _begin(place, period, near, reached, progress, room, pieces):
    """A vertex at a place, which the next line starts from."""
    x, y = place
    stack, touched = room
    corner_place, size = pieces.corner_place, pieces.size
    seen = x
    t = find_piece(x, y, reached[1], corner_place, size[0])
    for turn in (period, -period):
        if t < 0 and turn != 0.0:
            seen = x - turn
            t = find_piece(seen, y, reached[1], corner_place, size[0])
    reached[0] = -1
    if t < 0:
        reached[3] += 1
        return
    before = size[0]
    v = put_point(t, seen, y, near, pieces)
    stack[0], top = t, 1
    for piece in range(before, size[0]):
        stack[top] = piece
        top += 1
    legalise(stack, top, touched, pieces)
    reached[0], reached[1] = v, _piece_at(v, t, pieces)
    progress[2], progress[3] = x - seen, 0.0


@compiled
def draw_rings(places, starts, period, near, reached, progress, pieces):
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
    corner_vertex, piece_at, size = pieces.corner_vertex, pieces.piece_at, pieces.size
    room = np.empty(4096, dtype=np.int64), np.empty(4096, dtype=np.int64)
    shift = np.empty(2, dtype=np.float64)
    while progress[0] < len(starts) - 1:
        ring = int(progress[0])
        low, high = starts[ring], starts[ring + 1]
        count = high - low
        while progress[1] <= count:
            if size[0] + ROOM_A_LINE > len(corner_vertex) or size[1] + ROOM_A_LINE > len(piece_at):
                return FULL
            at = int(progress[1])
            x, y = places[low + at % count, 0], places[low + at % count, 1]
            if at == 0 or reached[0] < 0:
                # A ring begins, or goes on after it left the chart.
                _begin((x, y), period, near, reached, progress, room, pieces)
                if at > 0 and reached[0] >= 0:
                    # From where it came in, back to the edge of the chart.
                    shift[0], shift[1] = progress[2], progress[3]
                    x, y = places[low + at - 1, 0], places[low + at - 1, 1]
                    draw_line(reached[0], reached[1], (x, y), shift, near, room, pieces)
                    reached[1] = _piece_at(reached[0], reached[1], pieces)
                progress[1] += 1
                continue
            shift[0], shift[1] = progress[2], progress[3]
            found, v, t = draw_line(reached[0], reached[1], (x, y), shift, near, room, pieces)
            reached[0], reached[1] = v, t
            progress[2], progress[3] = shift[0], shift[1]
            if found == FULL:
                return FULL
            if found != DONE:
                reached[0] = -1
                reached[3] += 1
            progress[1] += 1
        progress[0] += 1
        progress[1] = 0
        reached[0] = -1
    return DONE
