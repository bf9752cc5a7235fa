"""What bits cannot reach into: the heights closed by a bit's shape, less the heights."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit


@dataclass(frozen=True)
class Reach:
    """What stays where bits have been everywhere they can.

    Attributes:
        all: float64 (H, W) mm that all bits together leave, top row first as in pictures; NaN beside the piece.
        most, share: the most of it, and the share of the piece where more than was asked about stays.
        each_most, each_share: the same for every bit on its own.
    """

    all: NDArray[np.float64]
    most: float
    share: float
    each_most: tuple[float, ...]
    each_share: tuple[float, ...]


def cannot_reach(asked: Asked, bit: Bit) -> NDArray[np.float64]:
    """What a bit leaves at best over the heights, float64 (H, W) mm, 0 where it reaches; NaN beside the piece."""
    return np.where(asked.there, asked.left_by(bit.profile) - asked.heights, np.nan)


def reach_of(asked: Asked, bits: tuple[Bit, ...], over: float) -> Reach:
    """What bits leave, each and all together.

    Args:
        asked: the heights.
        bits: one or more.
        over: leftovers of more than this are counted, mm.
    """
    each = [cannot_reach(asked, bit) for bit in bits]
    together = np.fmin.reduce(each)
    rows, columns = np.flatnonzero(asked.there.any(axis=1)), np.flatnonzero(asked.there.any(axis=0))
    shown = together[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1][::-1]
    counted = [left[asked.there] for left in (together, *each)]
    most = [float(left.max()) for left in counted]
    share = [float((left > over).mean()) for left in counted]
    return Reach(shown, most[0], share[0], tuple(most[1:]), tuple(share[1:]))
