"""Corners of dense chains of places: where they are, and where the curves on both sides of them meet.

The samples of a picture round corners off, so a corner is put where its sides would meet without that.
"""

import math

import numpy as np

from nebrel.core.jit import compiled

CORNER_REACH = 4.0
CORNER_TURN = math.radians(32)
SUDDEN = 0.7
TRIM = 1.3
LOOK = 8.0
LONG_LOOK = 30.0
FURTHEST_CORNER = 2.5
STRAIGHT_FIT = 0.12


@compiled
def lengths(points, closed):
    """How far along the chain each place is; one more than there are places when it is closed."""
    count = len(points)
    along = np.zeros(count + 1 if closed else count)
    for i in range(1, len(along)):
        x, y = points[i % count, 0] - points[i - 1, 0], points[i % count, 1] - points[i - 1, 1]
        along[i] = along[i - 1] + math.sqrt(x * x + y * y)
    return along


@compiled
def _turns(points, along, closed, reach):
    """By how many radians the way turns at every place, seen over `reach` before and after; 0 near open ends."""
    count, whole = len(points), along[-1]
    turns = np.zeros(count)
    behind, ahead = 0, 0
    if closed:
        behind = -1
        while behind > -count and along[behind % count] - whole > -reach:
            behind -= 1
    for i in range(count):
        s = along[i]
        if not closed and (s < reach / 2 or s > whole - reach / 2):
            continue
        low, high = s - reach, s + reach
        if not closed:
            low, high = max(low, 0.0), min(high, whole)
        # `behind` is the last place at or before `low`, `ahead` the last at or before `high`.
        while _length_at(along, count, whole, behind + 1) <= low:
            behind += 1
        while _length_at(along, count, whole, ahead + 1) <= high and (closed or ahead + 1 < count):
            ahead += 1
        bx, by = _interpolate(points, along, count, whole, behind, low, closed)
        ax, ay = _interpolate(points, along, count, whole, ahead, high, closed)
        x, y = points[i, 0], points[i, 1]
        one_x, one_y, two_x, two_y = x - bx, y - by, ax - x, ay - y
        turns[i] = abs(math.atan2(one_x * two_y - one_y * two_x, one_x * two_x + one_y * two_y))
    return turns


@compiled
def _length_at(along, count, whole, i):
    """Length at a place that may be counted on past either end of a closed chain."""
    if len(along) == count:
        return along[min(max(i, 0), count - 1)] if 0 <= i < count else (np.inf if i >= count else -np.inf)
    turn = i // count
    return along[i - turn * count] + turn * whole


@compiled
def _interpolate(points, along, count, whole, i, s, closed):
    """The place at length `s` between place `i` and the next."""
    here = _length_at(along, count, whole, i)
    if not closed and i >= count - 1:
        return points[count - 1, 0], points[count - 1, 1]
    step = _length_at(along, count, whole, i + 1) - here
    t = (s - here) / step if step > 0 else 0.0
    a, b = i % count, (i + 1) % count
    return points[a, 0] * (1 - t) + points[b, 0] * t, points[a, 1] * (1 - t) + points[b, 1] * t


@compiled
def corners_of(points, along, closed):
    """Numbers of the places that are corners."""
    count, whole = len(points), along[-1]
    reach = min(CORNER_REACH, whole / 8)
    turns = _turns(points, along, closed, reach)
    sudden = _turns(points, along, closed, reach / 2) / np.maximum(turns, 1e-9)
    found, number = np.empty(count, dtype=np.int64), 0
    for i in range(count):
        if turns[i] < CORNER_TURN or sudden[i] < SUDDEN:
            continue
        score, highest = turns[i] * sudden[i], True
        for way in (-1, 1):
            j = i + way
            away = 0.0
            while highest:
                if closed:
                    j %= count
                elif j < 0 or j >= count:
                    break
                away = abs(along[j] - along[i])
                if closed:
                    away = min(away, whole - away)
                if away > reach * 0.75 or j == i:
                    break
                other = turns[j] * sudden[j]
                if other > score or (other == score and j < i):
                    highest = False
                j += way
        if highest:
            found[number] = i
            number += 1
    return found[:number]


@compiled
def _parabola(places, s, bent):
    """Least squares a + b s, or a + b s + c s² where `bent`: a, b as places, and the largest residual."""
    count = len(s)
    mean, mean_x, mean_y = 0.0, 0.0, 0.0
    for i in range(count):
        mean += s[i] / count
        mean_x += places[i, 0] / count
        mean_y += places[i, 1] / count
    m2, m3, m4, x1, y1, x2, y2 = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
    for i in range(count):
        t = s[i] - mean
        x, y = places[i, 0] - mean_x, places[i, 1] - mean_y
        m2 += t * t
        m3 += t**3
        m4 += t**4
        x1 += t * x
        y1 += t * y
        x2 += t * t * x
        y2 += t * t * y
    m2 = max(m2, 1e-12)
    # With t centred, the straight and the bent part follow from two equations.
    det = m2 * (m4 - m2 * m2 / count) - m3 * m3
    if bent and det > 1e-9 * m2**3:
        cx, cy = (m2 * x2 - m3 * x1) / det, (m2 * y2 - m3 * y1) / det
    else:
        cx, cy = 0.0, 0.0
    bx, by = (x1 - m3 * cx) / m2, (y1 - m3 * cy) / m2
    ax, ay = mean_x - cx * m2 / count, mean_y - cy * m2 / count
    worst = 0.0
    for i in range(count):
        t = s[i] - mean
        x, y = ax + bx * t + cx * t * t - places[i, 0], ay + by * t + cy * t * t - places[i, 1]
        worst = max(worst, math.sqrt(x * x + y * y))
    start = np.array([ax - bx * mean + cx * mean * mean, ay - by * mean + cy * mean * mean])
    return start, np.array([bx - 2 * cx * mean, by - 2 * cy * mean]), worst


@compiled
def start_of(places):
    """Where a span that leaves a corner would begin without the rounding of the samples there, and its direction."""
    s = np.zeros(len(places))
    for i in range(1, len(places)):
        d = places[i] - places[i - 1]
        s[i] = s[i - 1] + math.sqrt(d[0] ** 2 + d[1] ** 2)
    whole = s[-1]
    low = min(TRIM, whole / 4)
    first = np.searchsorted(s, low)
    # The unevenness of samples averages out over a long straight stretch; where it bends, a short one has to do.
    for look in (LONG_LOOK, LOOK):
        last = np.searchsorted(s, min(low + look, whole - low), side="right")
        if last > len(places) or last - first < 2:
            continue
        start, way, off = _parabola(places[first:last], s[first:last], False)
        if off <= STRAIGHT_FIT:
            return start, way, True
    last = np.searchsorted(s, min(low + LOOK, whole - low), side="right")
    if last > len(places) or last - first < 2:
        return places[0].copy(), places[-1] - places[0], False
    start, way, _ = _parabola(places[first:last], s[first:last], last - first >= 5)
    return start, way, True


@compiled
def meeting(at, one, one_way, other, other_way):
    """Where two lines meet, or the place itself where they run alike or meet too far from it."""
    cross = one_way[0] * other_way[1] - one_way[1] * other_way[0]
    lengths = math.sqrt((one_way[0] ** 2 + one_way[1] ** 2) * (other_way[0] ** 2 + other_way[1] ** 2))
    if abs(cross) < 0.2 * lengths or lengths == 0:
        return at
    t = ((other[0] - one[0]) * other_way[1] - (other[1] - one[1]) * other_way[0]) / cross
    x, y = one[0] + t * one_way[0], one[1] + t * one_way[1]
    if (x - at[0]) ** 2 + (y - at[1]) ** 2 > FURTHEST_CORNER**2:
        return at
    return np.array([x, y])
