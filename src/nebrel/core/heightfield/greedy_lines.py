"""Lines with two heights in a triangulation that is about to grow.

Nodes are inserted like samples, then pieces between them are made sides by flips (Sloan, "A Fast Algorithm for
Generating Constrained Delaunay Triangulations", 1993). Last the triangles on either side of a piece are taken apart:
each side gets vertices of its own, as high as the surface is there, and from then on a piece is a border that nothing
crosses. Where both sides are as high, as at the end of a line, they keep one vertex.
"""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.greedy_insert import in_circle, insert_at, link, orientation
from nebrel.core.heightfield.greedy_scan import GrowingTriangles
from nebrel.core.jit import compiled

NONE = -1
MOST_FLIPS = 200


class Cut(NamedTuple):
    """What became of lines.

    Attributes:
        ends: int32 (K, 2, 2), for the left and the right side of every piece, seen with Y upwards, the vertices at its
            start and its end.
        twin: int32 (N,), for every vertex another one at its place, of another height; -1 after the last.
        first: int32 (K, 2), for the start and the end of every piece the vertex from which `twin` leads to all there.
    """

    ends: NDArray[np.int32]
    twin: NDArray[np.int32]
    first: NDArray[np.int32]


def cut_along(
    mesh: GrowingTriangles, nodes: NDArray[np.int64], pieces: NDArray[np.int64], beside: NDArray[np.float64]
) -> Cut:
    """Set lines into triangles over a grid and take them apart there; `mesh` is changed.

    Args:
        mesh: with room for three vertices to each end of a piece.
        nodes: int64 (M, 2), column and row in steps of the grid; no two are the same, and none is a vertex already.
        pieces: int64 (K, 2), between nodes; they meet at nodes alone.
        beside: float64 (K, 2, 2) mm, the heights to the left and right at the start and at the end of each.

    Raises:
        ValueError: pieces cross each other.
    """
    order = along_a_way(nodes)
    of_node = np.empty(len(nodes), dtype=np.int32)
    of_node[order] = insert_places(nodes[order], mesh)
    piece_of = np.full(len(mesh.corners), NONE, dtype=np.int64)
    start_of = _half_edges(mesh)
    for number in np.argsort(np.minimum(order.argsort()[pieces[:, 0]], order.argsort()[pieces[:, 1]])):
        one, two = of_node[pieces[number]]
        if not _make_side(int(one), int(two), int(number), mesh, piece_of, start_of):
            raise ValueError("The lines of a height field cross each other.")
    twin = np.full(len(mesh.columns), NONE, dtype=np.int32)
    ends = np.full((len(pieces), 2, 2), NONE, dtype=np.int32)
    _take_apart(mesh, piece_of, of_node[pieces].astype(np.int32), beside, twin, ends)
    return Cut(ends, twin, of_node[pieces])


def along_a_way(nodes: NDArray[np.int64]) -> NDArray[np.int64]:
    """An order of nodes in which each lies near the one before: strip by strip, there and back."""
    width = max(1, int(np.ptp(nodes[:, 1])) // max(1, int(np.sqrt(len(nodes)))))
    strip = (nodes[:, 1] - nodes[:, 1].min()) // width
    return np.lexsort((np.where(strip % 2 == 0, nodes[:, 0], -nodes[:, 0]), strip))


@compiled
def insert_places(nodes, mesh):
    """Insert places, int64 (M, 2), column and row in steps of the grid; gives the numbers of their vertices."""
    columns, rows, _, _, corners, opposite, _, error, heap, place, pending, counts = mesh
    stack = np.empty(4096, dtype=np.int32)
    made = np.empty(len(nodes), dtype=np.int32)
    triangle = 0
    for i in range(len(nodes)):
        x, y = nodes[i, 0], nodes[i, 1]
        triangle = _triangle_at(triangle, x, y, columns, rows, corners, opposite)
        made[i] = counts[0]
        insert_at(triangle, x, y, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    return made


@compiled
def _triangle_at(triangle, x, y, columns, rows, corners, opposite):
    """The triangle that a place lies in or on, walked to from another one."""
    while True:
        moved = False
        for k in range(3):
            e = 3 * triangle + k
            a, b = corners[e], corners[3 * triangle + (k + 1) % 3]
            if orientation(a, b, x, y, columns, rows) > 0 and opposite[e] >= 0:
                triangle = opposite[e] // 3
                moved = True
                break
        if not moved:
            return triangle


@compiled
def _half_edges(mesh):
    """For every vertex a half-edge that starts there."""
    corners, counts = mesh.corners, mesh.counts
    found = np.full(len(mesh.columns), NONE, dtype=np.int64)
    for e in range(3 * counts[1]):
        found[corners[e]] = e
    return found


@compiled
def _after(e):
    return e - e % 3 + (e + 1) % 3


@compiled
def _before(e):
    return e - e % 3 + (e + 2) % 3


@compiled
def _side_between(p, q, corners, opposite, start_of):
    """The half-edge from p to q; -1 where there is none. At the border it may be the one from q to p, as -2 less it."""
    first = start_of[p]
    e = first
    while True:
        if corners[_after(e)] == q:
            return e
        back = _before(e)
        if corners[back] == q and opposite[back] < 0:
            return -2 - back
        e = opposite[back]
        if e == first:
            return NONE
        if e < 0:
            break
    e = opposite[first]
    while e >= 0:
        e = _after(e)
        if corners[_after(e)] == q:
            return e
        e = opposite[e]
    return NONE


@compiled
def _beyond(p, q, corners, opposite, start_of, columns, rows):
    """The half-edge opposite to p through which the way to q leaves the triangles round p."""
    qx, qy = columns[q], rows[q]
    first = start_of[p]
    e = first
    for turn in range(2):
        while e >= 0:
            w, u = corners[_after(e)], corners[_before(e)]
            if orientation(p, w, qx, qy, columns, rows) < 0 and orientation(u, p, qx, qy, columns, rows) < 0:
                return _after(e)
            if turn == 0:
                e = opposite[_before(e)]
                if e == first:
                    return NONE
            else:
                e = opposite[e]
                if e >= 0:
                    e = _after(e)
        e = opposite[first]
        if e >= 0:
            e = _after(e)
    return NONE


@compiled
def _make_side(p, q, number, mesh, piece_of, start_of):
    """Make the piece from p to q a side of triangles; False where another piece is in the way."""
    columns, rows, _, _, corners, opposite, _, _, _, _, _, _ = mesh
    if _side_between(p, q, corners, opposite, start_of) == NONE:
        pairs = _in_the_way(p, q, corners, opposite, piece_of, start_of, columns, rows)
        if len(pairs) == 0 or not _flip_away(p, q, pairs, mesh, piece_of, start_of):
            return False
    e = _side_between(p, q, corners, opposite, start_of)
    if e <= -2:
        piece_of[-2 - e] = 2 * number + 1
        return True
    if piece_of[e] >= 0:
        return False
    piece_of[e] = 2 * number
    if opposite[e] >= 0:
        piece_of[opposite[e]] = 2 * number + 1
    return True


@compiled
def _in_the_way(p, q, corners, opposite, piece_of, start_of, columns, rows):
    """Pairs of vertices whose sides cross the way from p to q; none where one of them is a piece."""
    pairs = np.empty((16, 2), dtype=np.int64)
    count = 0
    e = _beyond(p, q, corners, opposite, start_of, columns, rows)
    while e >= 0:
        if piece_of[e] >= 0 or opposite[e] < 0:
            return pairs[:0]
        if count == len(pairs):
            longer = np.empty((2 * count, 2), dtype=np.int64)
            longer[:count] = pairs
            pairs = longer
        pairs[count, 0], pairs[count, 1] = corners[e], corners[_after(e)]
        count += 1
        over = opposite[e]
        apex = corners[_before(over)]
        if apex == q:
            return pairs[:count]
        if orientation(p, q, columns[apex], rows[apex], columns, rows) == 0:
            return pairs[:0]
        # The way leaves between the apex and the end of the side that lies on its other side.
        ahead = corners[over]
        same = (orientation(p, q, columns[apex], rows[apex], columns, rows) > 0) == (
            orientation(p, q, columns[ahead], rows[ahead], columns, rows) > 0
        )
        e = _after(over) if same else _before(over)
    return pairs[:0]


@compiled
def _flip_away(p, q, pairs, mesh, piece_of, start_of):
    columns, rows, _, _, corners, opposite, _, _, _, _, _, _ = mesh
    room = MOST_FLIPS * (len(pairs) + 1) + 16
    waiting = np.empty((room, 2), dtype=np.int64)
    waiting[: len(pairs)] = pairs
    first, last = 0, len(pairs)
    made = np.empty((room, 2), dtype=np.int64)
    fresh = 0
    while first < last:
        a, b = waiting[first, 0], waiting[first, 1]
        first += 1
        e = _side_between(a, b, corners, opposite, start_of)
        c, d = corners[_before(e)], corners[_before(opposite[e])]
        convex = (orientation(c, d, columns[a], rows[a], columns, rows) > 0) != (
            orientation(c, d, columns[b], rows[b], columns, rows) > 0
        )
        for v in (a, b):
            convex = convex and orientation(c, d, columns[v], rows[v], columns, rows) != 0
        if convex:
            _flip(e, mesh, piece_of, start_of)
            crosses = _crosses(p, q, c, d, columns, rows)
            if crosses:
                a, b = c, d
            else:
                made[fresh, 0], made[fresh, 1] = c, d
                fresh += 1
        if not convex or crosses:
            if last == room:
                return False
            waiting[last, 0], waiting[last, 1] = a, b
            last += 1
    for k in range(fresh):
        c, d = made[k, 0], made[k, 1]
        if (c == p and d == q) or (c == q and d == p):
            continue
        e = _side_between(c, d, corners, opposite, start_of)
        if e < 0 or opposite[e] < 0 or piece_of[e] >= 0:
            continue
        over = opposite[e]
        if in_circle(corners[_before(e)], corners[e], corners[_after(e)], corners[_before(over)], columns, rows):
            _flip(e, mesh, piece_of, start_of)
    return True


@compiled
def _crosses(p, q, c, d, columns, rows):
    """Whether c and d lie on either side of the line through p and q, and neither of them is an end of it."""
    for v in (c, d):
        if v in (p, q):
            return False
    return (orientation(p, q, columns[c], rows[c], columns, rows) > 0) != (
        orientation(p, q, columns[d], rows[d], columns, rows) > 0
    )


@compiled
def _flip(a, mesh, piece_of, start_of):
    """Put the other diagonal into the two triangles beside a half-edge; pieces stay on their sides."""
    corners, opposite = mesh.corners, mesh.opposite
    b = opposite[a]
    a0, b0 = a - a % 3, b - b % 3
    al, ar, bl, br = _after(a), _before(a), _before(b), _after(b)
    p0, pr, pl, p1 = corners[ar], corners[a], corners[al], corners[bl]
    hal, har, hbl, hbr = opposite[al], opposite[ar], opposite[bl], opposite[br]
    fal, far, fbl, fbr = piece_of[al], piece_of[ar], piece_of[bl], piece_of[br]
    corners[a0], corners[a0 + 1], corners[a0 + 2] = p0, p1, pl
    corners[b0], corners[b0 + 1], corners[b0 + 2] = p1, p0, pr
    link(a0, b0, opposite)
    link(a0 + 1, hbl, opposite)
    link(a0 + 2, hal, opposite)
    link(b0 + 1, har, opposite)
    link(b0 + 2, hbr, opposite)
    piece_of[a0], piece_of[a0 + 1], piece_of[a0 + 2] = NONE, fbl, fal
    piece_of[b0], piece_of[b0 + 1], piece_of[b0 + 2] = NONE, far, fbr
    start_of[p0], start_of[p1], start_of[pl], start_of[pr] = a0, a0 + 1, a0 + 2, b0 + 2


@compiled
def _take_apart(mesh, piece_of, pieces, beside, twin, ends):
    columns, rows, levels, _, corners, opposite, _, _, _, _, _, counts = mesh
    half_edges = 3 * counts[1]
    on_line = np.zeros(len(columns), dtype=np.bool_)
    for e in range(half_edges):
        if piece_of[e] >= 0:
            opposite[e] = NONE
            on_line[corners[e]] = on_line[corners[_after(e)]] = True
    seen = np.zeros(half_edges, dtype=np.bool_)
    known = np.zeros(len(columns), dtype=np.bool_)
    fan = np.empty(half_edges, dtype=np.int64)
    for first in range(half_edges):
        v = corners[first]
        if seen[first] or not on_line[v]:
            continue
        size, level, told = _fan_at(first, v, corners, opposite, piece_of, pieces, beside, seen, fan)
        to = v
        if told and not known[v]:
            known[v] = True
            levels[v] = level
        elif told:
            while levels[to] != level and twin[to] >= 0:
                to = twin[to]
            if levels[to] != level:
                fresh = counts[0]
                counts[0] += 1
                twin[to] = fresh
                columns[fresh], rows[fresh], levels[fresh] = columns[v], rows[v], level
                to = fresh
        for k in range(size):
            corners[fan[k]] = to
    for e in range(half_edges):
        if piece_of[e] >= 0:
            number, against = piece_of[e] // 2, piece_of[e] % 2
            side = 0 if against else 1
            ends[number, side, 0] = corners[_after(e)] if against else corners[e]
            ends[number, side, 1] = corners[e] if against else corners[_after(e)]


@compiled
def _fan_at(first, v, corners, opposite, piece_of, pieces, beside, seen, fan):
    """The half-edges round v from one piece or border to the next, among them `first`: into `fan`.

    Gives how many they are, how high the surface is there, and whether a piece tells that.
    """
    e = first
    while opposite[e] >= 0 and _after(opposite[e]) != first:
        e = _after(opposite[e])
    size, level, told = 0, np.float32(0.0), False
    while e >= 0 and not seen[e]:
        seen[e] = True
        fan[size] = e
        size += 1
        for h in (e, _before(e)):
            if piece_of[h] >= 0:
                number, against = piece_of[h] // 2, piece_of[h] % 2
                end = 0 if pieces[number, 0] == v else 1
                # Triangles turn clockwise with Y upwards, so each lies to the right of its sides.
                level, told = np.float32(beside[number, end, 0 if against else 1]), True
        e = opposite[_before(e)]
    return size, level, told
