"""Which sample of a triangle over a height grid is furthest from it."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

# Samples on an edge must be seen from both sides; any other sample is at least 1/16,384 of a pixel away from it.
ON_EDGE_PX = 1e-7
# A triangle that stands nearly along a sample's normal tells no distance; it counts as this steep.
LEAST_FACING = np.float32(0.05)


class GridTarget(NamedTuple):
    """The samples that triangles are to follow, as kernels read them.

    Attributes:
        heights: float32 (H, W) mm.
        wanted: float32 (H, W): `heights`, NaN where samples are free, infinite where they become vertices.
        places: float32 (H, W, 6), places and normals of a bent grid; empty over a plane.
        tangential_slack: float32 (H,) mm, of a bent grid: see `Bent`.
        bound: float32, how far samples may be away, mm.
        fine: how many steps of the vertices' grid there are to a sample; 1 where all vertices are samples.
    """

    heights: NDArray[np.float32]
    wanted: NDArray[np.float32]
    places: NDArray[np.float32]
    tangential_slack: NDArray[np.float32]
    bound: np.float32
    fine: np.int64


class GrowingTriangles(NamedTuple):
    """Growing arrays of a triangulation; `counts` holds vertices, triangles, pending triangles, heap size.

    Attributes:
        columns, rows: int32 (N,), of every vertex, in steps of its grid.
        levels: float32 (N,) mm, how high it is.
        spots: float32 (N, 3) mm, where it lies over a bent grid; empty over a plane.
        corners: int32 (3 M,), three vertices a triangle.
        opposite: int32 (3 M,), the half-edge on the other side of every half-edge; -1 at the border.
        candidate: int32 (M,), the sample of every triangle that is furthest from it.
        error: float32 (M,) mm, how far.
        heap: int32 (M,), triangles, the largest error first.
        place: int32 (M,), where in the heap each triangle is; -1 when it is new, -2 when it is pending.
        pending: int32 (M,), triangles to scan.
        counts: int64 (4,).
    """

    columns: NDArray[np.int32]
    rows: NDArray[np.int32]
    levels: NDArray[np.float32]
    spots: NDArray[np.float32]
    corners: NDArray[np.int32]
    opposite: NDArray[np.int32]
    candidate: NDArray[np.int32]
    error: NDArray[np.float32]
    heap: NDArray[np.int32]
    place: NDArray[np.int32]
    pending: NDArray[np.int32]
    counts: NDArray[np.int64]


@compiled
def scan(wanted, fine, triangle, columns, rows, levels, corners, candidate, error):
    """Find the sample of one triangle that is furthest from its plane."""
    a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
    ax, ay, bx, by, cx, cy = corners_of(a, b, c, columns, rows, fine)
    za, zb, zc = np.float64(levels[a]), np.float64(levels[b]), np.float64(levels[c])
    slope_x, slope_y = slopes_of(ax, ay, bx, by, cx, cy, zb - za, zc - za)
    top, bottom = int(np.ceil(min(ay, by, cy))), int(np.floor(max(ay, by, cy)))
    slants = slants_of(ax, ay, bx, by, cx, cy)
    worst = np.float32(0.0)
    worst_x, worst_y = 0, 0
    step = np.float32(slope_x)
    for y in range(top, bottom + 1):
        first, last = row_between(ax, ay, bx, by, cx, cy, slants, y)
        base = np.float32(za + slope_y * (y - ay) + slope_x * (first - ax))
        for i in range(last - first + 1):
            away = abs(wanted[y, first + i] - (base + step * np.float32(i)))
            if away > worst:
                worst = away
                worst_x, worst_y = first + i, y
    if (worst_x == ax and worst_y == ay) or (worst_x == bx and worst_y == by) or (worst_x == cx and worst_y == cy):
        worst = np.float32(0.0)
    candidate[triangle] = worst_y * wanted.shape[1] + worst_x
    error[triangle] = worst


@compiled
def slopes_of(ax, ay, bx, by, cx, cy, to_b, to_c):
    """How much a plane over a triangle rises by column and by row, from how much higher b and c are than a."""
    area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
    return (to_b * (cy - ay) - to_c * (by - ay)) / area, (to_c * (bx - ax) - to_b * (cx - ax)) / area


@compiled
def slants_of(ax, ay, bx, by, cx, cy):
    """Columns a row of the three sides of a triangle; 0 where a side is level."""
    return (
        (bx - ax) / (by - ay) if by != ay else 0.0,
        (cx - bx) / (cy - by) if cy != by else 0.0,
        (ax - cx) / (ay - cy) if ay != cy else 0.0,
    )


@compiled
def row_between(ax, ay, bx, by, cx, cy, slants, y):
    """The first and last sample of row `y` in a triangle, by the slants of its sides."""
    left, right = np.float64(min(ax, bx, cx)), np.float64(max(ax, bx, cx))
    if by > ay:
        right = min(right, ax + slants[0] * (y - ay))
    elif by < ay:
        left = max(left, ax + slants[0] * (y - ay))
    if cy > by:
        right = min(right, bx + slants[1] * (y - by))
    elif cy < by:
        left = max(left, bx + slants[1] * (y - by))
    if ay > cy:
        right = min(right, cx + slants[2] * (y - cy))
    elif ay < cy:
        left = max(left, cx + slants[2] * (y - cy))
    return int(np.ceil(left - ON_EDGE_PX)), int(np.floor(right + ON_EDGE_PX))


@compiled
def corners_of(a, b, c, columns, rows, fine):
    """Column and row of three vertices, in samples."""
    step_px = 1.0 / fine
    return (
        columns[a] * step_px, rows[a] * step_px, columns[b] * step_px,
        rows[b] * step_px, columns[c] * step_px, rows[c] * step_px,
    )  # fmt: skip


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
def plane_through(spots, a, b, c):
    """A place and the normal of the triangle over three vertices, turned as the samples' own normals are."""
    a0, a1, a2 = spots[a, 0], spots[a, 1], spots[a, 2]
    u0, u1, u2 = spots[b, 0] - a0, spots[b, 1] - a1, spots[b, 2] - a2
    v0, v1, v2 = spots[c, 0] - a0, spots[c, 1] - a1, spots[c, 2] - a2
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
def scan_bent(wanted, bent, triangle, columns, rows, corners, candidate, error):
    """Like `scan`, over a bent grid; what must become a vertex comes first."""
    places, slack, bound, spots, fine = bent
    a, b, c = corners[3 * triangle], corners[3 * triangle + 1], corners[3 * triangle + 2]
    ax, ay, bx, by, cx, cy = corners_of(a, b, c, columns, rows, fine)
    p0, p1, p2, m0, m1, m2 = plane_through(spots, a, b, c)
    # Where the triangle has a sample: one step to the right and one down.
    area = np.float32((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))
    u0, u1, u2 = spots[b, 0] - p0, spots[b, 1] - p1, spots[b, 2] - p2
    v0, v1, v2 = spots[c, 0] - p0, spots[c, 1] - p1, spots[c, 2] - p2
    uy, ux, vy, vx = np.float32(by - ay), np.float32(bx - ax), np.float32(cy - ay), np.float32(cx - ax)
    r0, r1, r2 = (u0 * vy - v0 * uy) / area, (u1 * vy - v1 * uy) / area, (u2 * vy - v2 * uy) / area
    d0, d1, d2 = (v0 * ux - u0 * vx) / area, (v1 * ux - u1 * vx) / area, (v2 * ux - u2 * vx) / area
    worst = np.float32(0.0)
    worst_x, worst_y = np.int64(0), np.int64(0)
    for y in range(int(np.ceil(min(ay, by, cy))), int(np.floor(max(ay, by, cy))) + 1):
        first, last = row_of_triangle(ax, ay, bx, by, cx, cy, y)
        allowed = slack[y] * slack[y]
        per_slack = bound / slack[y]
        down = np.float32(y - ay)
        for x in range(first, last + 1):
            mark = wanted[y, x]
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
                away = max(away, np.sqrt(beside) * per_slack)
            if np.isinf(mark):
                away = np.float32(np.inf)
            if away > worst and not ((x == ax and y == ay) or (x == bx and y == by) or (x == cx and y == cy)):
                worst = away
                worst_x, worst_y = np.int64(x), np.int64(y)
    candidate[triangle] = worst_y * wanted.shape[1] + worst_x
    error[triangle] = worst
