"""Rings of lines moved until they cover of every sample what the heights say.

A sample at an edge has as much of the height on one side as that side covers of it. So the curves of closed lines
follow from all samples beside them, as the curves of outlines do from pixels.
"""

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.sides import Ground, heights_beside
from nebrel.core.region.curves import Curve
from nebrel.core.region.refine import refine

# Samples beside a line tell what it covers where the heights on both sides are so far apart, of all heights.
AROUND_PX, LEAST_SHARE = 2, 0.01
# A ring that was moved further than that followed something else.
FURTHEST_PX = 1.0
_Points = NDArray[np.float64]
_Floats = NDArray[np.float32]
_Bools = NDArray[np.bool_]


def closer_rings(
    curves: list[Curve],
    chains: list[_Points],
    samples: list[NDArray[np.int64]],
    heights: _Floats,
    ground: Ground,
) -> list[Curve]:
    """Closed curves that cover what the samples beside them show, in samples: column and row.

    Args:
        curves: closed, fitted to the chains.
        chains: float64 (N, 2) each, the places of every ring on the links that it crosses.
        samples: int64 (N, 2) each, beside those: left and right, seen with Y upwards.
        heights: float32 (H, W) mm, as they are.
        ground: the same with their jumps between neighbours.
    """
    shape = heights.shape
    share, near = np.zeros(shape, dtype=np.float32), np.zeros(shape, dtype=np.uint8)
    upright, ways = [], []
    for curve, chain, beside in zip(curves, chains, samples, strict=True):
        # With Y upwards parts run counter-clockwise, so what they hold lies to their left.
        turned = _area(chain) > 0
        ways.append(turned)
        upright.append(_flipped(curve.turned() if turned else curve, shape))
        _add_ring(chain, beside[:, ::-1] if turned else beside, heights, ground, share, near)
    closer = refine(upright, share, near == 1, 1.0)
    found = []
    for curve, before, after, turned in zip(curves, upright, closer, ways, strict=True):
        moved = float(np.linalg.norm(after.nodes - before.nodes, axis=1).max())
        back = _flipped(after.turned() if turned else after, shape, back=True)
        found.append(back if moved <= FURTHEST_PX else curve)
    return found


def _flipped(curve: Curve, shape: tuple[int, ...], back: bool = False) -> Curve:
    """From column and row at the middles of samples to X and Y from the lower left corner of the lower left one."""
    knots = curve.knots + (-0.5 if back else 0.5)
    knots[..., 1] = shape[0] - knots[..., 1] if not back else shape[0] - 1 - knots[..., 1]
    return replace(curve, knots=knots)


def _area(ring: _Points) -> float:
    """Of a ring of columns and rows: above 0 where it runs clockwise with Y upwards."""
    x, y = ring.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def _add_ring(
    chain: _Points,
    beside: NDArray[np.int64],
    shown: _Floats,
    ground: Ground,
    share: _Floats,
    near: NDArray[np.uint8],
) -> None:
    """Add what a ring covers of every sample to `share`, and mark the samples near it; what is near two gets 2."""
    from scipy.spatial import cKDTree

    low = np.asarray(np.maximum(chain.min(axis=0).astype(np.int64) - AROUND_PX, 0))
    high = np.asarray(np.minimum(chain.max(axis=0).astype(np.int64) + AROUND_PX + 2, np.array(shown.shape[::-1])))
    window = (slice(low[1], high[1]), slice(low[0], high[0]))
    covered: _Floats = _inside(chain, low, high).astype(np.float32)
    beside_it = np.zeros(covered.shape, dtype=np.uint8)
    rows, columns = np.divmod(beside.ravel(), shown.shape[1])
    beside_it[rows - low[1], columns - low[0]] = 1
    seen = np.flatnonzero(cv2.dilate(beside_it, np.ones((3, 3), np.uint8)))
    row, column = np.divmod(seen, int(high[0] - low[0]))
    here = np.column_stack([column + low[0], row + low[1]]).astype(np.float64)
    _, nearest = cKDTree(chain).query(here)
    seeds = beside[nearest]
    left, right = (heights_beside(ground, here, seeds[:, side]) for side in (0, 1))
    span = left - right
    wide = np.abs(span) >= LEAST_SHARE * (ground.high - ground.low)
    told = (shown[window].ravel()[seen] - right) / np.where(wide, span, 1.0)
    covered.ravel()[seen[wide]] = np.clip(told[wide], 0, 1)
    share[window] += covered
    marked = np.zeros(covered.size, dtype=np.uint8)
    marked[seen[wide]] = 1
    np.minimum(near[window] + marked.reshape(covered.shape), 2, out=near[window])


def _inside(chain: _Points, low: NDArray[np.int64], high: NDArray[np.int64]) -> _Bools:
    """Which samples of a window a ring goes round: it crosses their rows on links between them."""
    on_row = chain[:, 1] == np.round(chain[:, 1])
    crossed = np.zeros((high[1] - low[1], high[0] - low[0]), dtype=np.int64)
    row, column = chain[on_row, 1].astype(np.int64) - low[1], np.floor(chain[on_row, 0]).astype(np.int64) + 1 - low[0]
    np.add.at(crossed, (row, column), 1)
    return np.asarray(crossed.cumsum(axis=1) % 2 == 1)
