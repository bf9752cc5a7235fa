"""Insertion of samples into a Delaunay triangulation of a grid.

The two loops that are called from outside take records. The helpers inside take their arrays one by one: handed on as
records, numba counts references at every call, and the whole was 1.35 times as slow.
"""

import numpy as np

from nebrel.core.heap import sift_down, sift_up
from nebrel.core.heightfield.greedy_scan import scan, scan_bent
from nebrel.core.jit import compiled

# Products of four differences of places up to that many steps apart fit into 64 bits.
EXACT_STEPS = 2**15
ROUNDING = 1e-13


@compiled
def begin(target, first_rows, first_columns, mesh):
    """Two triangles between each pair of neighbouring rows and columns to start from."""
    columns, rows, levels, spots, corners, opposite, _, error, heap, place, pending, counts = mesh
    across, down = len(first_columns), len(first_rows)
    for i in range(down):
        for j in range(across):
            columns[i * across + j] = first_columns[j] * target.fine
            rows[i * across + j] = first_rows[i] * target.fine
            levels[i * across + j] = target.heights[first_rows[i], first_columns[j]]
            if len(spots):
                spots[i * across + j] = target.places[first_rows[i], first_columns[j], :3]
    counts[0] = across * down
    for i in range(down - 1):
        for j in range(across - 1):
            at = i * across + j
            lower = 2 * (i * (across - 1) + j)
            left = 3 * (lower - 1) + 2 if j > 0 else -1
            above = 3 * (lower - 2 * (across - 1)) + 1 if i > 0 else -1
            set_triangle(
                lower, at, at + across + 1, at + across, -1, -1, left,
                corners, opposite, heap, place, error, pending, counts,
            )  # fmt: skip
            set_triangle(
                lower + 1, at + across + 1, at, at + 1, 3 * lower, above, -1,
                corners, opposite, heap, place, error, pending, counts,
            )  # fmt: skip


@compiled
def look(target, mesh):
    """Look for the furthest sample of every triangle that has changed."""
    columns, rows, levels, spots, corners, _, candidate, error, heap, place, pending, counts = mesh
    bent = (target.places, target.tangential_slack, target.bound, spots, target.fine)
    seen = (target.wanted, target.fine)
    _flush(seen, bent, columns, rows, levels, corners, candidate, error, heap, place, pending, counts)


@compiled
def insert_until(target, most, mesh):
    """Insert at most `most` samples; True when none is further away than `bound`."""
    columns, rows, levels, spots, corners, opposite, candidate, error, heap, place, pending, counts = mesh
    bent = (target.places, target.tangential_slack, target.bound, spots, target.fine)
    heights, seen, fine = target.heights, (target.wanted, target.fine), target.fine
    stack = np.empty(4096, dtype=np.int32)
    width = heights.shape[1]
    for _ in range(most):
        worst = heap[0]
        if error[worst] <= target.bound:
            return True
        y, x = candidate[worst] // width, candidate[worst] % width
        levels[counts[0]] = heights[y, x]
        if len(spots):
            spots[counts[0]] = bent[0][y, x, :3]
        insert_at(
            worst, x * fine, y * fine, stack, columns, rows, corners, opposite, heap, place, error, pending, counts
        )
        _flush(seen, bent, columns, rows, levels, corners, candidate, error, heap, place, pending, counts)
    return False


@compiled
def insert_at(triangle, x, y, stack, columns, rows, corners, opposite, heap, place, error, pending, counts):
    """Insert the place (x, y), which lies in or on `triangle`, as a vertex."""
    edge = 3 * triangle
    a, b, c = corners[edge], corners[edge + 1], corners[edge + 2]
    p = counts[0]
    columns[p], rows[p] = x, y
    counts[0] += 1
    if orientation(a, b, x, y, columns, rows) == 0:
        _split_edge(edge, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    elif orientation(b, c, x, y, columns, rows) == 0:
        _split_edge(edge + 1, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    elif orientation(c, a, x, y, columns, rows) == 0:
        _split_edge(edge + 2, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    else:
        hab, hbc, hca = opposite[edge], opposite[edge + 1], opposite[edge + 2]
        t1, t2 = counts[1], counts[1] + 1
        set_triangle(triangle, a, b, p, hab, -1, -1, corners, opposite, heap, place, error, pending, counts)
        set_triangle(t1, b, c, p, hbc, -1, edge + 1, corners, opposite, heap, place, error, pending, counts)
        set_triangle(t2, c, a, p, hca, edge + 2, 3 * t1 + 1, corners, opposite, heap, place, error, pending, counts)
        _legalize(edge, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t1, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t2, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)


@compiled
def _split_edge(edge, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts):
    """Insert vertex p on half-edge `edge`, splitting the one or two triangles beside it."""
    a0 = edge - edge % 3
    al, ar = a0 + (edge + 1) % 3, a0 + (edge + 2) % 3
    p0, pr, pl = corners[ar], corners[edge], corners[al]
    hal, har = opposite[al], opposite[ar]
    other = opposite[edge]
    if other < 0:
        t1 = counts[1]
        set_triangle(t1, p, p0, pr, -1, har, -1, corners, opposite, heap, place, error, pending, counts)
        set_triangle(a0 // 3, p0, p, pl, 3 * t1, -1, hal, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t1 + 1, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(a0 + 2, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        return
    b0 = other - other % 3
    bl, br = b0 + (other + 2) % 3, b0 + (other + 1) % 3
    p1 = corners[bl]
    hbl, hbr = opposite[bl], opposite[br]
    t1 = counts[1]
    set_triangle(t1, p, p0, pr, -1, har, -1, corners, opposite, heap, place, error, pending, counts)
    t2 = counts[1]
    set_triangle(t2, p, pr, p1, 3 * t1 + 2, hbr, -1, corners, opposite, heap, place, error, pending, counts)
    set_triangle(a0 // 3, p, pl, p0, -1, hal, 3 * t1, corners, opposite, heap, place, error, pending, counts)
    set_triangle(b0 // 3, p, p1, pl, 3 * t2 + 2, hbl, a0, corners, opposite, heap, place, error, pending, counts)
    for e in (3 * t1 + 1, 3 * t2 + 1, a0 + 1, b0 + 1):
        _legalize(e, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)


@compiled
def _legalize(first, stack, columns, rows, corners, opposite, heap, place, error, pending, counts):
    """Flip edges, starting with half-edge `first`, until the neighbourhood is Delaunay again."""
    size = 1
    stack[0] = first
    while size > 0:
        size -= 1
        a = stack[size]
        b = opposite[a]
        if b < 0:
            continue
        a0, b0 = a - a % 3, b - b % 3
        al, ar = a0 + (a + 1) % 3, a0 + (a + 2) % 3
        bl, br = b0 + (b + 2) % 3, b0 + (b + 1) % 3
        p0, pr, pl, p1 = corners[ar], corners[a], corners[al], corners[bl]
        if not in_circle(p0, pr, pl, p1, columns, rows):
            continue
        hal, har, hbl, hbr = opposite[al], opposite[ar], opposite[bl], opposite[br]
        set_triangle(a0 // 3, p0, p1, pl, -1, hbl, hal, corners, opposite, heap, place, error, pending, counts)
        set_triangle(b0 // 3, p1, p0, pr, a0, har, hbr, corners, opposite, heap, place, error, pending, counts)
        stack[size] = a0 + 1
        stack[size + 1] = b0 + 2
        size += 2


@compiled
def in_circle(a, b, c, p, columns, rows):
    """Whether p lies inside the circle through a, b, c; exact where they are within 32,768 steps of each other."""
    dx, dy = np.int64(columns[a]) - columns[p], np.int64(rows[a]) - rows[p]
    ex, ey = np.int64(columns[b]) - columns[p], np.int64(rows[b]) - rows[p]
    fx, fy = np.int64(columns[c]) - columns[p], np.int64(rows[c]) - rows[p]
    if max(abs(dx), abs(dy), abs(ex), abs(ey), abs(fx), abs(fy)) > EXACT_STEPS:
        return _far_in_circle(1.0 * dx, 1.0 * dy, 1.0 * ex, 1.0 * ey, 1.0 * fx, 1.0 * fy)
    ap, bp, cp = dx * dx + dy * dy, ex * ex + ey * ey, fx * fx + fy * fy
    return dx * (ey * cp - bp * fy) - dy * (ex * cp - bp * fx) + ap * (ex * fy - ey * fx) > 0


@compiled
def _far_in_circle(dx, dy, ex, ey, fx, fy):
    """The same in doubles; what they cannot tell does not count as inside, so that no two sides flip for ever."""
    ap, bp, cp = dx * dx + dy * dy, ex * ex + ey * ey, fx * fx + fy * fy
    one, two, three = dx * (ey * cp - bp * fy), dy * (ex * cp - bp * fx), ap * (ex * fy - ey * fx)
    return one - two + three > ROUNDING * (abs(one) + abs(two) + abs(three))


@compiled
def orientation(a, b, x, y, columns, rows):
    return (np.int64(columns[b]) - x) * (np.int64(rows[a]) - y) - (np.int64(rows[b]) - y) * (np.int64(columns[a]) - x)


@compiled
def set_triangle(triangle, a, b, c, ab, bc, ca, corners, opposite, heap, place, error, pending, counts):
    """Write the corners of a triangle and its three neighbouring half-edges, and note it for a scan."""
    edge = 3 * triangle
    corners[edge], corners[edge + 1], corners[edge + 2] = a, b, c
    link(edge, ab, opposite)
    link(edge + 1, bc, opposite)
    link(edge + 2, ca, opposite)
    if triangle == counts[1]:
        counts[1] += 1
        place[triangle] = -1
    _withdraw(triangle, heap, place, error, pending, counts)


@compiled
def link(edge, other, opposite):
    opposite[edge] = other
    if other >= 0:
        opposite[other] = edge


@compiled
def _withdraw(triangle, heap, place, error, pending, counts):
    """Take a triangle that is about to change out of the heap, and note it for a new scan."""
    at = place[triangle]
    if at == -2:
        return
    if at >= 0:
        last = counts[3] - 1
        counts[3] = last
        if at < last:
            heap[at] = heap[last]
            place[heap[at]] = at
            sift_up(heap, place, error, at)
            sift_down(heap, place, error, place[heap[at]], last)
    place[triangle] = -2
    pending[counts[2]] = triangle
    counts[2] += 1


@compiled
def _flush(seen, bent, columns, rows, levels, corners, candidate, error, heap, place, pending, counts):
    for i in range(counts[2]):
        triangle = pending[i]
        if bent[0].shape[0]:
            scan_bent(seen[0], bent, triangle, columns, rows, corners, candidate, error)
        else:
            scan(seen[0], seen[1], triangle, columns, rows, levels, corners, candidate, error)
        heap[counts[3]] = triangle
        counts[3] += 1
        sift_up(heap, place, error, counts[3] - 1)
    counts[2] = 0
