"""Chains of places that lie halfway between samples, made to run as the edge may have run."""

import math

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.region.corners import corners_of, lengths

# How far along the chain a place looks, in samples: for corners, and for the way that it runs between them, the longest
# that leaves them where they may be.
FOR_CORNERS_PX = 1.2
BETWEEN_PX = (1.2, 2.0, 3.5, 6.0, 10.0, 16.0)
REACH = 2.5
AROUND = 1.5
_Points = NDArray[np.float64]


def smooth_stairs(places: _Points, closed: bool, within: NDArray[np.float64]) -> _Points:
    """The places of a stair of samples on a smooth way, with its corners kept.

    Local regression (Cleveland, "Robust Locally Weighted Regression", 1979) along the chain, by parabolas, which keep
    bends as round as they are; never past a corner.

    Args:
        places: float64 (N, 2), in samples, about one a sample.
        closed: whether the first follows on the last.
        within: float64 (N,), how far each may be moved, in samples.
    """
    if len(places) < 5:
        return places
    along = lengths(places, closed)
    corners = corners_of(_regressed(places, along, closed, np.empty(0, np.int64), FOR_CORNERS_PX, False), along, closed)
    smoothed: _Points = places
    for sigma in BETWEEN_PX:
        wider = np.asarray(_regressed(places, along, closed, corners, sigma, True))
        strayed = np.linalg.norm(wider - places, axis=1) > within
        held = ~_near(strayed, along, closed, AROUND * sigma)
        if not held.any():
            break
        smoothed = np.where(held[:, np.newaxis], wider, smoothed)
    return smoothed


@compiled
def _near(marked, along, closed, reach):
    """Which places lie within `reach` along the chain of a marked one."""
    count, whole = len(marked), along[-1]
    near = np.zeros(count, dtype=np.bool_)
    for i in range(count):
        if not marked[i]:
            continue
        for way in (-1, 1):
            for k in range(count):
                j = i + way * k
                if j < 0 or j >= count:
                    if not closed:
                        break
                    j %= count
                away = abs(along[j] - along[i])
                if closed:
                    away = min(away, whole - away)
                if away > reach:
                    break
                near[j] = True
    return near


@compiled
def _regressed(places, along, closed, corners, sigma, bent):
    count, whole = len(places), along[-1]
    out = np.empty((count, 2))
    corner = np.zeros(count, dtype=np.bool_)
    for k in corners:
        corner[k] = True
    for i in range(count):
        m0, m1, m2, m3, m4 = 0.0, 0.0, 0.0, 0.0, 0.0
        x0, x1, x2, y0, y1, y2 = 0.0, 0.0, 0.0, 0.0, 0.0, 0.0
        for way in (-1, 1):
            j = i if way < 0 else i + 1
            turns = 0
            if way > 0 and corner[i]:
                continue
            while True:
                if j < 0 or j >= count:
                    if not closed or turns:
                        break
                    j, turns = j % count, 1
                s = along[j] - along[i]
                if turns:
                    s += way * whole
                if abs(s) > REACH * sigma or (corner[j] and j != i):
                    break
                w = math.exp(-s * s / (2 * sigma * sigma))
                x, y = places[j, 0] - places[i, 0], places[j, 1] - places[i, 1]
                m0 += w
                m1 += w * s
                m2 += w * s * s
                m3 += w * s**3
                m4 += w * s**4
                x0 += w * x
                x1 += w * x * s
                x2 += w * x * s * s
                y0 += w * y
                y1 += w * y * s
                y2 += w * y * s * s
                j += way
        # The value at s = 0 of the parabola, or of the straight line, of least squares.
        flat = m0 * m2 - m1 * m1
        full = m0 * (m2 * m4 - m3 * m3) - m1 * (m1 * m4 - m2 * m3) + m2 * (m1 * m3 - m2 * m2)
        if bent and full > 1e-3 * m0 * m2 * m4 and not corner[i]:
            c0, c1, c2 = m2 * m4 - m3 * m3, m2 * m3 - m1 * m4, m1 * m3 - m2 * m2
            out[i, 0] = places[i, 0] + (c0 * x0 + c1 * x1 + c2 * x2) / full
            out[i, 1] = places[i, 1] + (c0 * y0 + c1 * y1 + c2 * y2) / full
        elif flat > 1e-9 * m0 * m2 and not corner[i]:
            out[i, 0] = places[i, 0] + (m2 * x0 - m1 * x1) / flat
            out[i, 1] = places[i, 1] + (m2 * y0 - m1 * y1) / flat
        else:
            out[i, 0], out[i, 1] = places[i, 0], places[i, 1]
    return out
