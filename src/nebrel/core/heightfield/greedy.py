"""Error-bounded triangulation of a height grid by greedy insertion.

Garland and Heckbert, "Fast Polygonal Approximation of Terrains and Height Fields", CMU-CS-95-181 (1995): start with
two triangles, insert the sample that is furthest from the surface, restore the Delaunay property around it, repeat
until no sample is further away than the tolerance. Candidates wait in a heap; only new triangles are scanned.
"""

import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.heightfield.heap import sift_down, sift_up
from nebrel.core.jit import compiled

Progress = Callable[[float], None]
_Ints = NDArray[np.int32]
# The first insertions look at the whole grid and are slow, later ones are fast; steps keep progress moving.
STEP_SECONDS = 0.15
FIRST_INSERTIONS = 32
MOST_INSERTIONS = 20_000
FLOAT32_MARGIN = 4e-7
# Samples on an edge must be seen from both sides; any other sample is at least 1/16,384 of a pixel away from it.
ON_EDGE_PX = 1e-7
# A triangle that stands nearly along a sample's normal tells no distance; it counts as this steep.
LEAST_FACING = np.float32(0.05)
_FLAT = np.empty((0, 0, 6), dtype=np.float32)
_NO_SLIP = np.empty(0, dtype=np.float32)


@dataclass(frozen=True)
class GridSurface:
    """Triangles over a grid of samples.

    Attributes:
        columns, rows: int32 (N,) grid position of every vertex; row 0 is the top of the picture.
        faces: int32 (M, 3), turning from +column to +row, so clockwise once Y points up.
    """

    columns: NDArray[np.int32]
    rows: NDArray[np.int32]
    faces: NDArray[np.int32]


@dataclass(frozen=True)
class Bent:
    """A grid whose samples lie anywhere.

    Attributes:
        places: float32 (H, W, 6), place and unit normal of every sample, mm; normals point to where the grid, seen with
            its rows downwards, turns clockwise.
        must: bool (H, W), samples that become vertices whatever their distance.
        slip: float32 (H,), mm that samples of a row may lie beside where their triangle has them, so that none folds.
        lines: rows and columns to start from, int64 rising, the outermost ones included.
    """

    places: NDArray[np.float32]
    must: NDArray[np.bool_]
    slip: NDArray[np.float32]
    lines: tuple[NDArray[np.int64], NDArray[np.int64]]


def triangulate_grid(
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    tolerance: float,
    progress: Progress = lambda _: None,
    most_vertices: int | None = None,
    bent: Bent | None = None,
) -> GridSurface:
    """Triangles over the whole grid with no material sample further than `tolerance` from them, vertically.

    Over a bent grid it is the distance along the normal of each sample that stays within the tolerance.

    Args:
        heights: float32 (H, W) mm, H and W from 2 to 16,384, finite everywhere.
        material: bool (H, W); samples outside it are free to be anywhere.
        tolerance: mm, above 0.
        progress: called with the fraction done, which never falls, several times a second. Work goes as the
            number of vertices, which goes about as one over the error and never passes that of the samples.
        most_vertices: where to stop, whatever the error is then; None for never.
        bent: where the samples lie, when that is not over a plane.
    """
    asked = np.where(material, heights, np.float32(np.nan))
    places, extent, slip = _FLAT, heights, _NO_SLIP
    lines = (np.array([0, heights.shape[0] - 1]), np.array([0, heights.shape[1] - 1]))
    if bent is not None:
        asked[bent.must] = np.inf
        places = extent = bent.places
        slip, lines = bent.slip, bent.lines
    rounding = FLOAT32_MARGIN * float(max(extent.max(), -extent.min()))
    progress(0.0)
    bound = np.float32(max(tolerance - rounding, tolerance * 0.5))
    state = _State.start(heights.shape, len(lines[0]) * len(lines[1]))
    counts = np.zeros(4, dtype=np.int64)
    surface = (places, slip, bound)
    _begin(heights, asked, surface, *lines, *state.arrays, counts)
    progress(1 / heights.size)
    first_error = max(min(float(state.error[state.heap[0]]), float(np.ptp(extent))), tolerance)
    reached, done, insertions = 0.0, False, FIRST_INSERTIONS
    while not done and (most_vertices is None or counts[0] < most_vertices):
        started = time.perf_counter()
        state = state.with_room(counts)
        done = _insert_until(heights, asked, surface, bound, insertions, *state.arrays, counts)
        worst = max(float(state.error[state.heap[0]]) if counts[3] else 0.0, tolerance)
        by_error = (1 / worst - 1 / first_error) / max(1 / tolerance - 1 / first_error, 1e-9)
        reached = max(reached, min(1.0, by_error), counts[0] / heights.size)
        progress(reached if not done else 1.0)
        pace = STEP_SECONDS / max(time.perf_counter() - started, 1e-6)
        insertions = int(min(MOST_INSERTIONS, max(FIRST_INSERTIONS, insertions * min(pace, 4.0))))
        if most_vertices is not None:
            insertions = max(1, min(insertions, most_vertices - int(counts[0])))
    vertices, triangles = int(counts[0]), int(counts[1])
    return GridSurface(
        columns=state.columns[:vertices].copy(),
        rows=state.rows[:vertices].copy(),
        faces=state.corners[: 3 * triangles].reshape(-1, 3).copy(),
    )


@dataclass(frozen=True)
class _State:
    """Growing arrays of the triangulation; `counts` holds vertices, triangles, pending triangles, heap size."""

    columns: NDArray[np.int32]
    rows: NDArray[np.int32]
    corners: NDArray[np.int32]
    opposite: NDArray[np.int32]
    candidate: NDArray[np.int32]
    error: NDArray[np.float32]
    heap: NDArray[np.int32]
    place: NDArray[np.int32]
    pending: NDArray[np.int32]

    @property
    def arrays(self) -> tuple[_Ints, _Ints, _Ints, _Ints, _Ints, NDArray[np.float32], _Ints, _Ints, _Ints]:
        return (
            self.columns,
            self.rows,
            self.corners,
            self.opposite,
            self.candidate,
            self.error,
            self.heap,
            self.place,
            self.pending,
        )

    @classmethod
    def start(cls, shape: tuple[int, ...], begun: int) -> "_State":
        vertices = min(shape[0] * shape[1], 2 * MOST_INSERTIONS) + begun + 8
        return cls.sized(vertices)

    @classmethod
    def sized(cls, vertices: int) -> "_State":
        triangles = 2 * vertices
        return cls(
            columns=np.empty(vertices, dtype=np.int32),
            rows=np.empty(vertices, dtype=np.int32),
            corners=np.empty(3 * triangles, dtype=np.int32),
            opposite=np.empty(3 * triangles, dtype=np.int32),
            candidate=np.empty(triangles, dtype=np.int32),
            error=np.empty(triangles, dtype=np.float32),
            heap=np.empty(triangles, dtype=np.int32),
            place=np.empty(triangles, dtype=np.int32),
            pending=np.empty(triangles, dtype=np.int32),
        )

    def with_room(self, counts: NDArray[np.int64]) -> "_State":
        """This state, with space for one more step of insertions."""
        have = len(self.columns)
        if counts[0] + MOST_INSERTIONS + 8 <= have:
            return self
        larger = _State.sized(max(have + have // 2, have + 2 * MOST_INSERTIONS))
        for old, new in zip(self.arrays, larger.arrays, strict=True):
            new[: len(old)] = old
        return larger


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
def _scan(heights, asked, triangle, columns, rows, corners, candidate, error):
    """Find the sample of one triangle that is furthest from its plane."""
    a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
    ax, ay, bx, by, cx, cy = (
        np.int64(columns[a]), np.int64(rows[a]), np.int64(columns[b]),
        np.int64(rows[b]), np.int64(columns[c]), np.int64(rows[c]),
    )  # fmt: skip
    za, zb, zc = np.float64(heights[ay, ax]), np.float64(heights[by, bx]), np.float64(heights[cy, cx])
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    slope_x = ((zb - za) * (cy - ay) - (zc - za) * (by - ay)) / area
    slope_y = ((zc - za) * (bx - ax) - (zb - za) * (cx - ax)) / area
    top, bottom = min(ay, by, cy), max(ay, by, cy)
    far_left, far_right = min(ax, bx, cx), max(ax, bx, cx)
    run_ab = (bx - ax) / (by - ay) if by != ay else 0.0
    run_bc = (cx - bx) / (cy - by) if cy != by else 0.0
    run_ca = (ax - cx) / (ay - cy) if ay != cy else 0.0
    worst = np.float32(0.0)
    worst_x, worst_y = ax, ay
    step = np.float32(slope_x)
    for y in range(top, bottom + 1):
        left, right = np.float64(far_left), np.float64(far_right)
        if by > ay:
            right = min(right, ax + run_ab * (y - ay))
        elif by < ay:
            left = max(left, ax + run_ab * (y - ay))
        if cy > by:
            right = min(right, bx + run_bc * (y - by))
        elif cy < by:
            left = max(left, bx + run_bc * (y - by))
        if ay > cy:
            right = min(right, cx + run_ca * (y - cy))
        elif ay < cy:
            left = max(left, cx + run_ca * (y - cy))
        first, last = int(np.ceil(left - ON_EDGE_PX)), int(np.floor(right + ON_EDGE_PX))
        base = np.float32(za + slope_y * (y - ay) + slope_x * (first - ax))
        for i in range(last - first + 1):
            away = abs(asked[y, first + i] - (base + step * np.float32(i)))
            if away > worst:
                worst = away
                worst_x, worst_y = np.int64(first + i), np.int64(y)
    if (worst_x == ax and worst_y == ay) or (worst_x == bx and worst_y == by) or (worst_x == cx and worst_y == cy):
        worst = np.float32(0.0)
    candidate[triangle] = worst_y * heights.shape[1] + worst_x
    error[triangle] = worst


@compiled
def row_of_triangle(ax, ay, bx, by, cx, cy, y):
    """The first and last sample of row `y` in a triangle of a grid."""
    left, right = np.float64(min(ax, bx, cx)), np.float64(max(ax, bx, cx))
    for edge in range(3):
        if edge == 0:
            x, top, end_x, end_y = ax, ay, bx, by
        elif edge == 1:
            x, top, end_x, end_y = bx, by, cx, cy
        else:
            x, top, end_x, end_y = cx, cy, ax, ay
        if end_y > top:
            right = min(right, x + (end_x - x) / (end_y - top) * (y - top))
        elif end_y < top:
            left = max(left, x + (end_x - x) / (end_y - top) * (y - top))
    return int(np.ceil(left - ON_EDGE_PX)), int(np.floor(right + ON_EDGE_PX))


@compiled
def plane_through(places, ax, ay, bx, by, cx, cy):
    """A place and the normal of the triangle over three samples, turned as the samples' own normals are."""
    a0, a1, a2 = places[ay, ax, 0], places[ay, ax, 1], places[ay, ax, 2]
    u0, u1, u2 = places[by, bx, 0] - a0, places[by, bx, 1] - a1, places[by, bx, 2] - a2
    v0, v1, v2 = places[cy, cx, 0] - a0, places[cy, cx, 1] - a1, places[cy, cx, 2] - a2
    m0, m1, m2 = v1 * u2 - v2 * u1, v2 * u0 - v0 * u2, v0 * u1 - v1 * u0
    length = np.sqrt(m0 * m0 + m1 * m1 + m2 * m2)
    if length > 0:
        m0, m1, m2 = m0 / length, m1 / length, m2 / length
    return a0, a1, a2, m0, m1, m2


@compiled
def off_plane(places, y, x, plane):
    """Distance of a sample from a plane along its own normal."""
    a0, a1, a2, m0, m1, m2 = plane
    b0, b1, b2 = a0 - places[y, x, 0], a1 - places[y, x, 1], a2 - places[y, x, 2]
    off = abs(m0 * b0 + m1 * b1 + m2 * b2)
    facing = m0 * places[y, x, 3] + m1 * places[y, x, 4] + m2 * places[y, x, 5]
    if m0 == 0 and m1 == 0 and m2 == 0:
        off = np.sqrt(b0 * b0 + b1 * b1 + b2 * b2)
    return off / max(facing, LEAST_FACING)


@compiled
def _scan_bent(asked, surface, triangle, columns, rows, corners, candidate, error):
    """Like `_scan`, over a bent grid; what must become a vertex comes first."""
    places, slip, bound = surface
    a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
    ax, ay, bx, by, cx, cy = (
        np.int64(columns[a]), np.int64(rows[a]), np.int64(columns[b]),
        np.int64(rows[b]), np.int64(columns[c]), np.int64(rows[c]),
    )  # fmt: skip
    _, _, _, m0, m1, m2 = plane_through(places, ax, ay, bx, by, cx, cy)
    # Where the triangle has a sample: one step to the right and one down.
    area = np.float32((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
    p0, p1, p2 = places[ay, ax, 0], places[ay, ax, 1], places[ay, ax, 2]
    u0, u1, u2 = places[by, bx, 0] - p0, places[by, bx, 1] - p1, places[by, bx, 2] - p2
    v0, v1, v2 = places[cy, cx, 0] - p0, places[cy, cx, 1] - p1, places[cy, cx, 2] - p2
    uy, ux, vy, vx = np.float32(by - ay), np.float32(bx - ax), np.float32(cy - ay), np.float32(cx - ax)
    r0, r1, r2 = (u0 * vy - v0 * uy) / area, (u1 * vy - v1 * uy) / area, (u2 * vy - v2 * uy) / area
    d0, d1, d2 = (v0 * ux - u0 * vx) / area, (v1 * ux - u1 * vx) / area, (v2 * ux - u2 * vx) / area
    worst = np.float32(0.0)
    worst_x, worst_y = ax, ay
    for y in range(min(ay, by, cy), max(ay, by, cy) + 1):
        first, last = row_of_triangle(ax, ay, bx, by, cx, cy, y)
        allowed = slip[y] * slip[y]
        per_slip = bound / slip[y]
        down = np.float32(y - ay)
        for x in range(first, last + 1):
            mark = asked[y, x]
            if np.isnan(mark):
                continue
            right = np.float32(x - ax)
            e0 = p0 + right * r0 + down * d0 - places[y, x, 0]
            e1 = p1 + right * r1 + down * d1 - places[y, x, 1]
            e2 = p2 + right * r2 + down * d2 - places[y, x, 2]
            n0, n1, n2 = places[y, x, 3], places[y, x, 4], places[y, x, 5]
            away = abs(m0 * e0 + m1 * e1 + m2 * e2) / max(m0 * n0 + m1 * n1 + m2 * n2, LEAST_FACING)
            up = e0 * n0 + e1 * n1 + e2 * n2
            beside = e0 * e0 + e1 * e1 + e2 * e2 - up * up
            if beside > allowed:
                away = max(away, np.sqrt(beside) * per_slip)
            if np.isinf(mark):
                away = np.float32(np.inf)
            if away > worst and not ((x == ax and y == ay) or (x == bx and y == by) or (x == cx and y == cy)):
                worst = away
                worst_x, worst_y = np.int64(x), np.int64(y)
    candidate[triangle] = worst_y * asked.shape[1] + worst_x
    error[triangle] = worst


@compiled
def _flush(heights, asked, surface, columns, rows, corners, candidate, error, heap, place, pending, counts):
    for i in range(counts[2]):
        triangle = pending[i]
        if surface[0].shape[0]:
            _scan_bent(asked, surface, triangle, columns, rows, corners, candidate, error)
        else:
            _scan(heights, asked, triangle, columns, rows, corners, candidate, error)
        heap[counts[3]] = triangle
        counts[3] += 1
        sift_up(heap, place, error, counts[3] - 1)
    counts[2] = 0


@compiled
def _link(edge, other, opposite):
    opposite[edge] = other
    if other >= 0:
        opposite[other] = edge


@compiled
def _set(triangle, a, b, c, ab, bc, ca, corners, opposite, heap, place, error, pending, counts):
    """Write the corners of a triangle and its three neighbouring half-edges, and note it for a scan."""
    edge = 3 * triangle
    corners[edge], corners[edge + 1], corners[edge + 2] = a, b, c
    _link(edge, ab, opposite)
    _link(edge + 1, bc, opposite)
    _link(edge + 2, ca, opposite)
    if triangle == counts[1]:
        counts[1] += 1
        place[triangle] = -1
    _withdraw(triangle, heap, place, error, pending, counts)


@compiled
def _in_circle(a, b, c, p, columns, rows):
    """Whether p lies inside the circle through a, b, c; exact in int64 up to 16,384 samples a side."""
    dx, dy = np.int64(columns[a]) - columns[p], np.int64(rows[a]) - rows[p]
    ex, ey = np.int64(columns[b]) - columns[p], np.int64(rows[b]) - rows[p]
    fx, fy = np.int64(columns[c]) - columns[p], np.int64(rows[c]) - rows[p]
    ap, bp, cp = dx * dx + dy * dy, ex * ex + ey * ey, fx * fx + fy * fy
    return dx * (ey * cp - bp * fy) - dy * (ex * cp - bp * fx) + ap * (ex * fy - ey * fx) > 0


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
        if not _in_circle(p0, pr, pl, p1, columns, rows):
            continue
        hal, har, hbl, hbr = opposite[al], opposite[ar], opposite[bl], opposite[br]
        _set(a0 // 3, p0, p1, pl, -1, hbl, hal, corners, opposite, heap, place, error, pending, counts)
        _set(b0 // 3, p1, p0, pr, a0, har, hbr, corners, opposite, heap, place, error, pending, counts)
        stack[size] = a0 + 1
        stack[size + 1] = b0 + 2
        size += 2


@compiled
def _orientation(a, b, x, y, columns, rows):
    return (np.int64(columns[b]) - x) * (np.int64(rows[a]) - y) - (np.int64(rows[b]) - y) * (np.int64(columns[a]) - x)


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
        _set(t1, p, p0, pr, -1, har, -1, corners, opposite, heap, place, error, pending, counts)
        _set(a0 // 3, p0, p, pl, 3 * t1, -1, hal, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t1 + 1, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(a0 + 2, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        return
    b0 = other - other % 3
    bl, br = b0 + (other + 2) % 3, b0 + (other + 1) % 3
    p1 = corners[bl]
    hbl, hbr = opposite[bl], opposite[br]
    t1 = counts[1]
    _set(t1, p, p0, pr, -1, har, -1, corners, opposite, heap, place, error, pending, counts)
    t2 = counts[1]
    _set(t2, p, pr, p1, 3 * t1 + 2, hbr, -1, corners, opposite, heap, place, error, pending, counts)
    _set(a0 // 3, p, pl, p0, -1, hal, 3 * t1, corners, opposite, heap, place, error, pending, counts)
    _set(b0 // 3, p, p1, pl, 3 * t2 + 2, hbl, a0, corners, opposite, heap, place, error, pending, counts)
    for e in (3 * t1 + 1, 3 * t2 + 1, a0 + 1, b0 + 1):
        _legalize(e, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)


@compiled
def _insert(triangle, x, y, stack, columns, rows, corners, opposite, heap, place, error, pending, counts):
    """Insert the sample (x, y), which lies in or on `triangle`, as a vertex."""
    edge = 3 * triangle
    a, b, c = corners[edge], corners[edge + 1], corners[edge + 2]
    p = counts[0]
    columns[p], rows[p] = x, y
    counts[0] += 1
    if _orientation(a, b, x, y, columns, rows) == 0:
        _split_edge(edge, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    elif _orientation(b, c, x, y, columns, rows) == 0:
        _split_edge(edge + 1, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    elif _orientation(c, a, x, y, columns, rows) == 0:
        _split_edge(edge + 2, p, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
    else:
        hab, hbc, hca = opposite[edge], opposite[edge + 1], opposite[edge + 2]
        t1, t2 = counts[1], counts[1] + 1
        _set(triangle, a, b, p, hab, -1, -1, corners, opposite, heap, place, error, pending, counts)
        _set(t1, b, c, p, hbc, -1, edge + 1, corners, opposite, heap, place, error, pending, counts)
        _set(t2, c, a, p, hca, edge + 2, 3 * t1 + 1, corners, opposite, heap, place, error, pending, counts)
        _legalize(edge, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t1, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _legalize(3 * t2, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)


@compiled
def _begin(
    heights, asked, surface, first_rows, first_columns,
    columns, rows, corners, opposite, candidate, error, heap, place, pending, counts,
):  # fmt: skip
    """Two triangles between each pair of neighbouring rows and columns to start from."""
    across, down = len(first_columns), len(first_rows)
    for i in range(down):
        for j in range(across):
            columns[i * across + j], rows[i * across + j] = first_columns[j], first_rows[i]
    counts[0] = across * down
    for i in range(down - 1):
        for j in range(across - 1):
            at = i * across + j
            lower = 2 * (i * (across - 1) + j)
            left = 3 * (lower - 1) + 2 if j > 0 else -1
            above = 3 * (lower - 2 * (across - 1)) + 1 if i > 0 else -1
            _set(
                lower, at, at + across + 1, at + across, -1, -1, left,
                corners, opposite, heap, place, error, pending, counts,
            )  # fmt: skip
            _set(
                lower + 1, at + across + 1, at, at + 1, 3 * lower, above, -1,
                corners, opposite, heap, place, error, pending, counts,
            )  # fmt: skip
    _flush(heights, asked, surface, columns, rows, corners, candidate, error, heap, place, pending, counts)


@compiled
def _insert_until(
    heights,
    asked,
    surface,
    bound,
    most,
    columns,
    rows,
    corners,
    opposite,
    candidate,
    error,
    heap,
    place,
    pending,
    counts,
):
    """Insert at most `most` samples; True when none is further away than `bound`."""
    stack = np.empty(4096, dtype=np.int32)
    width = heights.shape[1]
    for _ in range(most):
        worst = heap[0]
        if error[worst] <= bound:
            return True
        y, x = candidate[worst] // width, candidate[worst] % width
        _insert(worst, x, y, stack, columns, rows, corners, opposite, heap, place, error, pending, counts)
        _flush(heights, asked, surface, columns, rows, corners, candidate, error, heap, place, pending, counts)
    return False
