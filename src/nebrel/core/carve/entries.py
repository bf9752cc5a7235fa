"""Going down into stock: along ramps there and back, never straight."""

import math

import numpy as np

from nebrel.core.carve.bits import Bit
from nebrel.core.carve.paths import Path, runs_of
from nebrel.core.carve.standing import CLEAR, Standing

RAMP_DEG = 8.0
LONGEST_RAMP = 15.0
FINE = 0.02
DEEPEST_SHARE = 0.17
STEEP = 2.5


def ramped(path: Path, above: float, angle_deg: float = RAMP_DEG, longest: float = LONGEST_RAMP) -> Path:
    """The path with a ramp down to its first place: there and back along its beginning, and over it.

    Args:
        path: float64 (N, 3) mm.
        above: height from which to go down, mm.
        angle_deg: of the ramp at most.
        longest: mm of the path's beginning that are used.
    """
    fall = above - float(path[0, 2])
    if fall <= FINE:
        return path
    lengths = np.linalg.norm(np.diff(path[:, :2], axis=0), axis=1)
    way = np.concatenate([[0.0], np.cumsum(lengths)])
    reach = min(longest, float(way[-1]))
    if reach <= FINE:
        return path
    legs = max(1, math.ceil(fall / (reach * math.tan(math.radians(angle_deg)))))
    legs += legs % 2
    reach = min(reach, fall / (legs * math.tan(math.radians(angle_deg))))
    there = np.concatenate([[0.0], way[(way > 0) & (way < reach)], [reach]])
    # Where the way has two heights (a jump), the upper one counts.
    plan = np.column_stack([np.interp(there, way, path[:, axis]) for axis in range(3)])
    plan[:, 2] = _upper(way, path[:, 2], there)
    share = there / reach
    ramp = []
    for leg in range(legs):
        places = plan if leg % 2 == 0 else plan[::-1]
        gone = share if leg % 2 == 0 else 1 - share[::-1]
        heights = np.maximum(above - fall * (leg + gone) / legs, places[:, 2])
        ramp.append(np.column_stack([places[:, :2], heights]))
    return np.concatenate([*ramp, path])


def eased(path: Path, standing: Standing, bit: Bit) -> Path:
    """The path with ramps wherever it would go straight down through more than `DEEPEST_SHARE` of the bit's diameter.

    Args:
        path: float64 (N, 3) mm.
        standing: the stock before this path.
        bit: that goes along it; its ramps are no longer than its radius.
    """
    deepest = DEEPEST_SHARE * bit.diameter
    steps = np.diff(path, axis=0)
    falls = -steps[:, 2] > STEEP * np.hypot(steps[:, 0], steps[:, 1])
    falls &= steps[:, 2] < 0
    under = standing.at(path) - path[:, 2]
    # Rows of steep moves, by the first and the last place of each.
    cuts = [(begin, end) for begin, end in runs_of(falls) if min(under[end], path[begin, 2] - path[end, 2]) > deepest]
    enters = under[0] > deepest
    if not cuts and not enters:
        return path
    parts = []
    at = 0
    for begin, end in cuts:
        top = min(float(path[begin, 2]), float(path[end, 2] + under[end]) + CLEAR)
        down = path[at : end + 1].copy()
        down[begin - at :, 2] = np.maximum(down[begin - at :, 2], top)
        parts.append(down)
        rest = path[end:]
        ahead = _beginning(rest, bit.radius)
        lead = ramped(ahead, top, 45.0, bit.radius)
        parts.append(lead[: len(lead) - len(ahead)])
        at = end
    parts.append(path[at:])
    whole = np.concatenate(parts)
    if enters:
        ahead = _beginning(whole, LONGEST_RAMP)
        lead = ramped(ahead, float(path[0, 2] + under[0]) + FINE)
        whole = np.concatenate([lead[: len(lead) - len(ahead)], whole])
    return whole


def _beginning(path: Path, length: float) -> Path:
    """The first places of a path, up to the first that is farther along it than `length`."""
    way = np.cumsum(np.linalg.norm(np.diff(path[:4096, :2], axis=0), axis=1))
    count = int(np.searchsorted(way, length)) + 2
    return path[:count]


def _upper(way: Path, heights: Path, at: Path) -> Path:
    """Heights over ways that do not fall, the upper one where the way stands still."""
    first, last = np.searchsorted(way, at, "left"), np.searchsorted(way, at, "right")
    found = np.interp(at, way, heights)
    for i in np.flatnonzero(last - first > 1):
        found[i] = heights[first[i] : last[i]].max()
    return np.asarray(found)
