"""Lines in the plane that a bit is led along: parallel ones in any direction, and rings."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.paths import Tips, runs_of

Line = NDArray[np.float64]
CHECK, HALO = 0.1, 0.15
LOWEST = -1e6
STEEP_SHARE = 0.97
CLOSEST = 0.2


def scallop_distance(tip: float, scallop: float) -> float:
    """How far apart lines may lie on flat ground so that a ball leaves ridges of `scallop`, mm."""
    deep = min(scallop, tip)
    return 2 * math.sqrt(deep * (2 * tip - deep))


@dataclass(frozen=True)
class Raster:
    """Parallel lines over a part of the heights.

    Attributes:
        ahead, aside: unit vectors, float64 (2,), along and across the lines.
        offsets: of the lines along `aside`, mm, rising.
        first, last: where lines begin and end along `ahead`, mm.
    """

    ahead: NDArray[np.float64]
    aside: NDArray[np.float64]
    offsets: tuple[float, ...]
    first: float
    last: float

    def places(self, offset: float, steps: NDArray[np.float64]) -> NDArray[np.float64]:
        """Places on a line, float64 (N, 2)."""
        return offset * self.aside + steps[:, np.newaxis] * self.ahead


def raster_over(
    asked: Asked, within: NDArray[np.bool_], distance: float, direction_deg: float, slopes: NDArray[np.float64] | None
) -> Raster | None:
    """Where parallel lines are to lie.

    Args:
        asked: the heights.
        within: bool (H, W), over what lines are to go.
        distance: mm between lines on flat ground.
        direction_deg: of the lines, counter-clockwise from X.
        slopes: float64 (2, H, W), the surface's rise along X and Y; lines lie closer where it is steep across them.
            None for even distances.

    Returns:
        None where there is nothing to go over.
    """
    turn = math.radians(direction_deg)
    ahead, aside = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
    rows, columns = np.nonzero(within)
    if not len(rows):
        return None
    x, y = asked.left + columns * asked.pitch, asked.low + rows * asked.pitch
    across = x * aside[0] + y * aside[1]
    along = x * ahead[0] + y * ahead[1]
    steep = (
        None if slopes is None else np.abs(slopes[0][rows, columns] * aside[0] + slopes[1][rows, columns] * aside[1])
    )
    offsets = _offsets(float(across.min()), float(across.max()), distance, across, steep)
    return Raster(ahead, aside, tuple(offsets), float(along.min()), float(along.max()))


def zig_zag(asked: Asked, within: NDArray[np.bool_], over: Raster) -> list[Line]:
    """The lines of a raster as far as they lie within a mask, float64 (2, 2) mm each, there and back."""
    steps = _steps(over, asked.pitch)
    lines: list[Line] = []
    for number, offset in enumerate(over.offsets):
        places = over.places(offset, steps)
        inside = runs_of(_inside(asked, within, places))
        runs = [(places[begin], places[end - 1]) for begin, end in inside if end - begin > 1]
        if number % 2:
            runs = [(end, begin) for begin, end in reversed(runs)]
        lines.extend(np.array(run) for run in runs)
    return lines


def lines_between(
    asked: Asked,
    within: NDArray[np.bool_],
    over: Raster,
    tips: Tips,
    more_than: float,
    halvings: int,
    told: Callable[[float], None] = lambda _: None,
) -> list[Line]:
    """Pieces of lines between those of a raster, where the offset surface hollows out between two.

    A bit that passes a hollow on both sides only leaves what the hollow is deep. Where half-way between two lines the
    offset surface lies deeper than half-way between its heights on both, a line of its own is passed there.

    Args:
        asked: the heights.
        within: bool (H, W), over what lines are to go.
        over: the raster.
        tips: the offset surface at places.
        more_than: hollows of less depth stay, mm.
        halvings: how often gaps may be halved.
        told: told the share that is done.
    """
    steps = _steps(over, max(asked.pitch, CHECK))
    apart = steps[1] - steps[0] if len(steps) > 1 else CHECK
    reach = max(1, round(HALO / apart))
    lines: list[Line] = []
    known: dict[float, NDArray[np.float64]] = {}
    for number, offset in enumerate(over.offsets):
        known[offset] = np.maximum(tips(over.places(offset, steps)), LOWEST)
        told(0.5 * number / len(over.offsets))
    gaps = [
        (low, high, _inside(asked, within, over.places((low + high) / 2, steps)))
        for low, high in pairwise(over.offsets)
    ]
    for halving in range(halvings):
        further = []
        for number, (low, high, open_here) in enumerate(gaps):
            told(0.5 + 0.5 * (halving + number / len(gaps)) / halvings)
            if not open_here.any():
                continue
            middle = (low + high) / 2
            beside = (known[low] + known[high]) / 2
            between = beside.copy()
            between[open_here] = np.maximum(tips(over.places(middle, steps[open_here])), LOWEST)
            known[middle] = between
            hollow = beside - between > more_than
            worth = np.convolve(hollow, np.ones(2 * reach + 1), "same") > 0
            worth &= open_here
            places = over.places(middle, steps)
            ends = [(begin, end) for begin, end in runs_of(worth) if end - begin > 1]
            lines.extend(np.array([places[begin], places[end - 1]]) for begin, end in ends)
            further += [(low, middle, worth), (middle, high, worth)]
        gaps = further
    return lines


def _steps(over: Raster, apart: float) -> NDArray[np.float64]:
    count = max(1, math.ceil((over.last - over.first) / apart - 1e-9))
    return np.linspace(over.first, over.last, count + 1)


def _offsets(
    low: float, high: float, distance: float, across: NDArray[np.float64], steep: NDArray[np.float64] | None
) -> list[float]:
    """Where lines lie, so that their distance along the surface is `distance` at most but for its steepest places."""
    if high - low < 1e-9:
        return [low]
    if steep is None:
        count = max(1, math.ceil((high - low) / distance - 1e-9))
        return [low + (high - low) * i / count for i in range(count + 1)]
    # The slope across that all but the steepest places of a narrow strip keep to.
    strips = max(1, math.ceil((high - low) / (0.5 * distance)))
    strip = np.minimum(((across - low) / (high - low) * strips).astype(np.int64), strips - 1)
    order = np.argsort(strip, kind="stable")
    ends = np.searchsorted(strip[order], np.arange(strips + 1))
    sorted_steep = steep[order]
    slope = np.array(
        [np.quantile(sorted_steep[begin:end], STEEP_SHARE) if end > begin else 0.0 for begin, end in pairwise(ends)]
    )
    closer = np.maximum(1 / np.sqrt(1 + slope**2), CLOSEST)
    # Lines at equal steps of the integral of 1 / (distance on the plan).
    needed = np.concatenate([[0.0], np.cumsum((high - low) / strips / (distance * closer))])
    count = max(1, math.ceil(needed[-1] - 1e-9))
    wanted = np.arange(count + 1) * needed[-1] / count
    return [float(at) for at in np.interp(wanted, needed, np.linspace(low, high, strips + 1))]


def _inside(asked: Asked, within: NDArray[np.bool_], places: NDArray[np.float64]) -> NDArray[np.bool_]:
    spots = np.rint(asked.samples(places)).astype(np.int64)
    rows, columns = within.shape
    on_grid = (spots[:, 0] >= 0) & (spots[:, 0] < columns) & (spots[:, 1] >= 0) & (spots[:, 1] < rows)
    spots = np.clip(spots, 0, [columns - 1, rows - 1])
    return on_grid & within[spots[:, 1], spots[:, 0]]
