"""Where a finer bit is worth its time: only where the coarser one left more than a set amount, in whole islands."""

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.offset import lowest_tips
from nebrel.core.carve.rough import around


def sinking(asked: Asked, left: NDArray[np.float64], bit: Bit) -> NDArray[np.float64]:
    """How deep a bit would sink into what a coarser one left, with its tip over every sample, float64 (H, W) mm.

    Args:
        asked: the heights, on the grid of `left`.
        left: what stands after the coarser bit, float64 (H, W) mm.
        bit: the finer one.
    """
    sinks = lowest_tips(left, asked.pitch, bit.profile) - asked.tips(bit.profile)
    return np.where(around(asked.there, bit.radius / asked.pitch), sinks, 0.0)


def rest_islands(asked: Asked, sinks: NDArray[np.float64], bit: Bit, over: float) -> NDArray[np.bool_]:
    """Where a finer bit goes: where it would sink more than `over` mm, bool (H, W).

    Islands that lie within a tip's diameter become one; those smaller than a tip are not worth a lift.
    """
    tip = max(bit.tip, 0.1 * bit.radius, asked.pitch)
    wide = max(1, round(2 * tip / asked.pitch))
    merged = cv2.morphologyEx((sinks > over).astype(np.uint8), cv2.MORPH_CLOSE, _disc(wide))
    _, labels, stats, _ = cv2.connectedComponentsWithStats(merged, connectivity=8)
    keeps = stats[:, cv2.CC_STAT_AREA] >= np.pi * tip**2 / asked.pitch**2
    keeps[0] = False
    return np.asarray(keeps[labels], dtype=np.bool_)


def _disc(radius: int) -> NDArray[np.uint8]:
    return cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1)).astype(np.uint8)
