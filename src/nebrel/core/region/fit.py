"""Dense chains of places made into few cubic Béziers.

Corners are found first, by how much the chain turns within a few samples, and put where the curves on both sides of
them meet. What lies between is fitted by least squares and halved where that is not close enough, after Schneider, "An
Algorithm for Automatically Fitting Digitized Curves" (Graphics Gems, 1990).
"""

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.region.corners import TRIM, corners_of, lengths, meeting, start_of

ROUNDS = 6
LONGEST_HANDLE = 1.2
WAY_REACH = 10
_Points = NDArray[np.float64]


def fit_closed(ring: _Points, tolerance: float, pitch: float) -> _Points:
    """Knots, float64 (N, 3, 2), of a closed chain of Béziers along `ring`.

    Args:
        ring: float64 (K, 2) mm, the first not repeated, about one place every `pitch`.
        tolerance: mm that the Béziers may be off the places, but for those at corners.
        pitch: mm between samples of what the ring comes from; what bends within a few of them is a corner.
    """
    return _fit_ring(np.ascontiguousarray(ring) / pitch, tolerance / pitch) * pitch


def fit_open(line: _Points, tolerance: float, pitch: float) -> _Points:
    """Knots of an open chain of Béziers from the first to the last place of `line`; as `fit_closed`."""
    return _fit_line(np.ascontiguousarray(line) / pitch, tolerance / pitch) * pitch


@compiled
def _cubic(places, u, start, end, way_in, way_out):
    """The control points of the least squares cubic between two places with given directions."""
    c00, c01, c11, x0, x1 = 0.0, 0.0, 0.0, 0.0, 0.0
    for i in range(len(places)):
        t = u[i]
        b0, b1, b2, b3 = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
        a0x, a0y, a1x, a1y = way_in[0] * b1, way_in[1] * b1, way_out[0] * b2, way_out[1] * b2
        rx = places[i, 0] - (b0 + b1) * start[0] - (b2 + b3) * end[0]
        ry = places[i, 1] - (b0 + b1) * start[1] - (b2 + b3) * end[1]
        c00 += a0x * a0x + a0y * a0y
        c01 += a0x * a1x + a0y * a1y
        c11 += a1x * a1x + a1y * a1y
        x0 += a0x * rx + a0y * ry
        x1 += a1x * rx + a1y * ry
    size = math.sqrt((end[0] - start[0]) ** 2 + (end[1] - start[1]) ** 2)
    det = c00 * c11 - c01 * c01
    one, two = size / 3, size / 3
    if abs(det) > 1e-12:
        first, second = (x0 * c11 - x1 * c01) / det, (c00 * x1 - c01 * x0) / det
        if 1e-3 * size < first < LONGEST_HANDLE * size and 1e-3 * size < second < LONGEST_HANDLE * size:
            one, two = first, second
    controls = np.empty((4, 2))
    for axis in range(2):
        controls[0, axis], controls[1, axis] = start[axis], start[axis] + one * way_in[axis]
        controls[2, axis], controls[3, axis] = end[axis] + two * way_out[axis], end[axis]
    return controls


@compiled
def _at(controls, t):
    a, b, c, d = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
    return (
        a * controls[0, 0] + b * controls[1, 0] + c * controls[2, 0] + d * controls[3, 0],
        a * controls[0, 1] + b * controls[1, 1] + c * controls[2, 1] + d * controls[3, 1],
    )


@compiled
def _refine(controls, places, u):
    """One step of Newton's method towards the nearest parameters."""
    for i in range(len(places)):
        t = u[i]
        x, y = _at(controls, t)
        off = (x - places[i, 0], y - places[i, 1])
        slope, along = 0.0, 0.0
        for axis in range(2):
            p, q, r, s = controls[0, axis], controls[1, axis], controls[2, axis], controls[3, axis]
            first = 3 * ((1 - t) ** 2 * (q - p) + 2 * t * (1 - t) * (r - q) + t * t * (s - r))
            second = 6 * ((1 - t) * (r - 2 * q + p) + t * (s - 2 * r + q))
            slope += first * first + off[axis] * second
            along += off[axis] * first
        if abs(slope) > 1e-12:
            u[i] = min(max(t - along / slope, 0.0), 1.0)


@compiled
def _unit(x, y):
    size = math.sqrt(x * x + y * y)
    return np.array([x / size, y / size]) if size > 0 else np.array([1.0, 0.0])


@compiled
def _way(places, i, widest):
    """Direction of the chain at one of its inner places: the slope of least squares over as many on either side."""
    reach = min(widest, i, len(places) - 1 - i)
    x, y = 0.0, 0.0
    for k in range(1, reach + 1):
        x += k * (places[i + k, 0] - places[i - k, 0])
        y += k * (places[i + k, 1] - places[i - k, 1])
    return _unit(x, y)


@compiled
def _settle(places, i, widest):
    """An inner place without the unevenness of its samples: a parabola of least squares (Savitzky and Golay, 1964)."""
    m = min(widest, i, len(places) - 1 - i)
    if m < 2:
        return places[i].copy()
    whole = (2 * m - 1) * (2 * m + 1) * (2 * m + 3) / 3.0
    x, y = 0.0, 0.0
    for k in range(-m, m + 1):
        weight = (3 * m * m + 3 * m - 1 - 5 * k * k) / whole
        x += weight * places[i + k, 0]
        y += weight * places[i + k, 1]
    return np.array([x, y])


@compiled
def _widest(count):
    """Over how many places on either side a chain of `count` may be evened out without losing its shape."""
    return max(2, min(WAY_REACH, count // 12))


@compiled
def _straight_enough(places, start, end, tolerance):
    d = end - start
    size = math.sqrt(d[0] ** 2 + d[1] ** 2)
    if size == 0:
        return False
    for i in range(len(places)):
        if abs((places[i, 0] - start[0]) * d[1] - (places[i, 1] - start[1]) * d[0]) / size > tolerance:
            return False
    return True


@compiled
def _span(places, ends, ways_in, tolerance, widest, sides, made):
    """Set the control points of Béziers from `start` to `end` along `places` into `sides` from `made` on.

    Ways point into the span, as `ends` are its two ends. Gives how many sides are made then.
    """
    start, end = ends
    way_in, way_out = ways_in
    if len(places) == 0 or _straight_enough(places, start, end, tolerance):
        for axis in range(2):
            sides[made, 0, axis] = sides[made, 1, axis] = start[axis]
            sides[made, 2, axis] = sides[made, 3, axis] = end[axis]
        return made + 1
    chain = np.empty((len(places) + 2, 2))
    bounds, ways = np.empty((len(chain), 2), dtype=np.int64), np.empty((len(chain), 2, 2))
    for axis in range(2):
        chain[0, axis], chain[-1, axis] = start[axis], end[axis]
        ways[0, 0, axis], ways[0, 1, axis] = way_in[axis], way_out[axis]
        for i in range(len(places)):
            chain[i + 1, axis] = places[i, axis]
    bounds[0, 0], bounds[0, 1] = 0, len(chain) - 1
    waiting = 1
    while waiting > 0:
        waiting -= 1
        first, last = bounds[waiting, 0], bounds[waiting, 1]
        one, two = ways[waiting, 0].copy(), ways[waiting, 1].copy()
        part = chain[first : last + 1]
        along = lengths(part, False)
        u = along / max(along[-1], 1e-12)
        controls = _cubic(part, u, part[0].copy(), part[-1].copy(), one, two)
        worst, at = np.inf, 0
        for turn in range(ROUNDS):
            worst, at = 0.0, len(part) // 2
            for i in range(1, len(part) - 1):
                x, y = _at(controls, u[i])
                off = math.sqrt((x - part[i, 0]) ** 2 + (y - part[i, 1]) ** 2)
                if off > worst:
                    worst, at = off, i
            if worst <= tolerance or worst > 8 * tolerance or turn == ROUNDS - 1:
                break
            _refine(controls, part, u)
            controls = _cubic(part, u, part[0].copy(), part[-1].copy(), one, two)
        if worst <= tolerance or last - first < 4:
            for k in range(4):
                sides[made, k, 0], sides[made, k, 1] = controls[k, 0], controls[k, 1]
            made += 1
            continue
        at = min(max(at, 2), len(part) - 3)
        way = _way(chain, first + at, widest)
        middle = _settle(chain, first + at, widest)
        bounds[waiting, 0], bounds[waiting, 1] = first + at, last
        bounds[waiting + 1, 0], bounds[waiting + 1, 1] = first, first + at
        for axis in range(2):
            chain[first + at, axis] = middle[axis]
            ways[waiting, 0, axis], ways[waiting, 1, axis] = way[axis], two[axis]
            ways[waiting + 1, 0, axis], ways[waiting + 1, 1, axis] = one[axis], -way[axis]
        waiting += 2
    return made


@compiled
def _knots_of(sides, closed):
    count = len(sides) if closed else len(sides) + 1
    knots = np.empty((count, 3, 2))
    for axis in range(2):
        for i in range(len(sides)):
            knots[i, 1, axis], knots[i, 2, axis] = sides[i, 0, axis], sides[i, 1, axis]
            knots[(i + 1) % count, 0, axis] = sides[i, 2, axis]
        if not closed:
            knots[0, 0, axis] = sides[0, 0, axis]
            knots[-1, 1, axis] = knots[-1, 2, axis] = sides[-1, 3, axis]
    return knots


@compiled
def _inner(chain):
    """The places of a chain that are further from its ends than the rounding of corners reaches."""
    along = lengths(chain, False)
    trim = min(TRIM, along[-1] / 4)
    first, last = np.searchsorted(along, trim), np.searchsorted(along, along[-1] - trim, side="right")
    return chain[first:last]


@compiled
def _cut(points, first, last, closed, back=False):
    """Places from `first` to `last`, or `back` from the last; of a ring, running over its end where needed."""
    count = len(points)
    length = last - first
    if closed:
        length %= count
        if length == 0:
            length = count
    part = np.empty((length + 1, 2))
    for i in range(length + 1):
        at = (last - i if back else first + i) % count
        part[i, 0], part[i, 1] = points[at, 0], points[at, 1]
    return part


@compiled
def _between_corners(points, cuts, closed, tolerance, sides):
    """Fit what lies between corners; corners go to where both sides of them meet, open ends stay."""
    spans = len(cuts) if closed else len(cuts) - 1
    ends = np.empty((len(cuts), 2))
    for k in range(len(cuts)):
        at = points[cuts[k]].copy()
        if closed or 0 < k < len(cuts) - 1:
            before = _cut(points, cuts[k - 1], cuts[k], closed, True)
            after = _cut(points, cuts[k], cuts[(k + 1) % len(cuts)], closed)
            one, one_way, one_known = start_of(before)
            other, other_way, other_known = start_of(after)
            if one_known and other_known:
                at = meeting(at, one, one_way, other, other_way)
        ends[k, 0], ends[k, 1] = at[0], at[1]
    made, widest = 0, _widest(len(points))
    for k in range(spans):
        chain = _cut(points, cuts[k], cuts[(k + 1) % len(cuts)], closed)
        _, way_in, _ = start_of(chain)
        _, way_out, _ = start_of(_cut(points, cuts[k], cuts[(k + 1) % len(cuts)], closed, True))
        one, two = _unit(way_in[0], way_in[1]), _unit(way_out[0], way_out[1])
        made = _span(
            _inner(chain),
            (ends[k].copy(), ends[(k + 1) % len(cuts)].copy()),
            (one, two),
            tolerance,
            widest,
            sides,
            made,
        )
    return made


@compiled
def _fit_ring(points, tolerance):
    count = len(points)
    along = lengths(points, True)
    corners = corners_of(points, along, True)
    sides = np.empty((count + 8, 4, 2))
    if len(corners) > 0:
        made = _between_corners(points, corners, True, tolerance, sides)
        return _knots_of(sides[:made], True)
    parts = min(4, max(1, count // 3))
    cuts = np.empty(parts, dtype=np.int64)
    for k in range(parts):
        cuts[k] = np.searchsorted(along, along[-1] * k / parts) % count
    widest = _widest(count)
    around = np.empty((count + 2 * WAY_REACH, 2))
    for i in range(len(around)):
        at = (i - WAY_REACH) % count
        around[i, 0], around[i, 1] = points[at, 0], points[at, 1]
    made = 0
    for k in range(parts):
        first, last = cuts[k] + WAY_REACH, cuts[(k + 1) % parts] + WAY_REACH
        chain = _cut(points, cuts[k], cuts[(k + 1) % parts], True)
        start, end = _settle(around, first, widest), _settle(around, last, widest)
        one, two = _way(around, first, widest), _way(around, last, widest)
        made = _span(chain[1:-1], (start, end), (one, -two), tolerance, widest, sides, made)
    return _knots_of(sides[:made], True)


@compiled
def _fit_line(points, tolerance):
    along = lengths(points, False)
    inner = corners_of(points, along, False)
    cuts = np.empty(len(inner) + 2, dtype=np.int64)
    cuts[0], cuts[-1] = 0, len(points) - 1
    for k in range(len(inner)):
        cuts[k + 1] = inner[k]
    sides = np.empty((len(points) + 8, 4, 2))
    made = _between_corners(points, cuts, False, tolerance, sides)
    return _knots_of(sides[:made], False)
