"""A whole job: roughing, finishing, and finer bits where the coarser ones left something."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from functools import partial

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.cut_out import CutOut, cut_out
from nebrel.core.carve.entries import DEEPEST_SHARE
from nebrel.core.carve.finish import (
    MAP_PITCH,
    AnyNumber,
    Field,
    Finishing,
    led_along,
    line_distance,
    raster,
    rings,
    slopes_of,
    spread_over,
)
from nebrel.core.carve.program import Pass
from nebrel.core.carve.rest import rest_islands, sinking
from nebrel.core.carve.rough import Roughing, around, rough
from nebrel.core.carve.run_out import SHARES, RunOut
from nebrel.core.carve.standing import Standing
from nebrel.core.carve.steep import STEEP, along_contours, steep_places
from nebrel.core.errors import BadValueError
from nebrel.core.units import in_range

LAYER_TOLERANCE, REST_TOLERANCE_SHARE = 0.1, 0.3
Progress = Callable[[str, float], None]


@dataclass(frozen=True)
class Job:
    """What is to be done.

    Attributes:
        bits: for finishing, from coarse to fine.
        rough_bit: for roughing; None for no roughing.
        roughing, finishing: how.
        rest_over: a finer bit goes where the coarser one left more than this, mm.
        cut_out: how the piece is cut out at the end, by the bit for roughing; None leaves it in its stock.
    """

    bits: tuple[Bit, ...]
    rough_bit: Bit | None = None
    roughing: Roughing = field(default_factory=Roughing)
    finishing: Finishing = field(default_factory=Finishing)
    rest_over: float = 0.05
    cut_out: CutOut | None = None

    def __post_init__(self) -> None:
        in_range(self.rest_over, "What finer bits may leave", 0.001, 5)
        for bit in (*self.bits, self.rough_bit):
            if bit is not None and bit.kind == "drill":
                raise BadValueError(f"The {bit.name} bit bores round holes of outlines; it cannot carve a surface.")

    @property
    def widest(self) -> float:
        """The largest radius of all bits, mm."""
        return max(bit.radius for bit in (*self.bits, *([self.rough_bit] if self.rough_bit else [])))


def plan(asked: Asked, job: Job, progress: Progress = lambda *_: None) -> tuple[Pass, ...]:
    """All passes in their order."""
    return _Planner(asked, job, progress).passes()


class _Planner:
    """One job: what stands of the stock goes from pass to pass; maps are on every so many samples."""

    def __init__(self, asked: Asked, job: Job, progress: Progress) -> None:
        self._asked, self._job, self._progress = asked, job, progress
        self._standing = Standing(asked)
        self._step = max(1, round(MAP_PITCH / asked.pitch))
        self._coarse = asked.every(self._step)

    def passes(self) -> tuple[Pass, ...]:
        job = self._job
        self._progress("Finding what bits reach", 0.0)
        left = self._coarse.left_by(job.bits[0].profile)
        run_out = RunOut(self._coarse, left)
        passes = [self._rough(run_out.most), *self._finish(job.bits[0], left, run_out)]
        for number, bit in enumerate(job.bits[1:], start=1):
            self._progress("Finding what bits reach", number / len(job.bits))
            passes += self._rest(bit, left)
            left = np.minimum(left, self._coarse.left_by(bit.profile))
        if job.cut_out is not None:
            self._progress("Cutting out", 0.0)
            passes.append(cut_out(self._asked, job.rough_bit or job.bits[0], job.cut_out, self._standing))
        self._progress("Planning", 1.0)
        return tuple(one for one in passes if one is not None)

    def _rough(self, run_out: float) -> Pass | None:
        job = self._job
        if job.rough_bit is None:
            return None
        widest = max(bit.radius for bit in job.bits)
        beyond = max(0.0, widest - job.rough_bit.radius) + run_out * widest + 2 * self._asked.pitch
        told = partial(self._progress, "Roughing")
        return rough(self._asked, job.rough_bit, job.roughing, beyond, self._standing, told)

    def _finish(self, bit: Bit, could: NDArray[np.float64], run_out: RunOut) -> list[Pass | None]:
        asked, how = self._asked, self._job.finishing
        within = around(asked.there, SHARES[0] * bit.radius / asked.pitch + 1) | self._spread(run_out.places(bit.tip))
        slopes = self._slopes(bit, could)
        steep = np.zeros_like(self._coarse.there)
        if how.steep == "contours" and bit.tip > 0 and slopes is not None:
            steep = steep_places(self._coarse.tips(bit.profile), self._coarse.there, self._coarse.pitch, bit)
            apart = line_distance(bit, how.scallop) / self._coarse.pitch
            all_steep = self._spread(steep)
            within &= around(~all_steep, apart * self._step) | ~asked.there
            # Lines that still pass over them need lie no closer than for the least steep of them.
            less = np.where(all_steep, np.minimum(1.0, STEEP / np.maximum(np.hypot(*slopes), 1e-9)), 1.0)
            slopes = slopes * less
        over = Field(asked, within, slopes)
        directions = (0.0, 90.0) if how.direction == "crossed" else (how.direction,)
        made: list[Pass | None] = []
        for number, direction in enumerate(directions):
            self._progress("Finishing", number / len(directions))
            told = partial(self._progress, "Laying out lines")
            if isinstance(direction, str):
                lines = rings(bit, how, over)
            else:
                lines = raster(bit, how, over, direction, told=told)
            told = partial(self._progress, "Finishing")
            made.append(led_along(asked, bit, lines, self._standing, "finish", how.tolerance, told=told))
        told = partial(self._progress, "Going round steep places")
        made.append(along_contours(asked, self._coarse, bit, how, steep, self._standing, told))
        return made

    def _rest(self, bit: Bit, left: NDArray[np.float64]) -> list[Pass | None]:
        """Layers where the bit would sink in too deep at once, then the surface itself."""
        asked, how, coarse = self._asked, self._job.finishing, self._coarse
        sinks = sinking(coarse, left, bit)
        islands = rest_islands(coarse, sinks, bit, self._job.rest_over)
        direction = 0.0 if isinstance(how.direction, str) else how.direction
        layer = DEEPEST_SHARE * bit.diameter
        made: list[Pass | None] = []
        tops = sinks + coarse.tips(bit.profile)
        wide = replace(how, scallop=bit.tip / 2 if bit.tip > 0 else how.scallop)
        for number in range(1, math.ceil(float(sinks[islands].max(initial=0.0)) / layer)):
            self._progress("Layers of finer bits", 0.0)
            deep = rest_islands(coarse, np.where(islands, sinks, 0.0), bit, number * layer)
            over = Field(asked, self._spread(deep))
            lines = raster(bit, wide, over, direction, islands=True)
            floor = partial(_at_nearest, tops - number * layer, coarse)
            made.append(led_along(asked, bit, lines, self._standing, "rest-layer", LAYER_TOLERANCE, floor))
        self._progress("Finer bits", 0.5)
        # What may stay between lines is what may stay at all: even distances, and hollows that are deeper than that.
        lines = raster(
            bit,
            how,
            Field(asked, self._spread(islands)),
            direction,
            True,
            self._job.rest_over,
            partial(self._progress, "Laying out finer lines"),
        )
        tolerance = max(how.tolerance, REST_TOLERANCE_SHARE * self._job.rest_over)
        made.append(
            led_along(asked, bit, lines, self._standing, "rest", tolerance, told=partial(self._progress, "Finer bits"))
        )
        return made

    def _slopes(self, bit: Bit, could: NDArray[np.float64]) -> NDArray[np.float64] | None:
        return None if bit.tip <= 0 else self._spread(slopes_of(could, self._coarse.pitch))

    def _spread(self, values: NDArray[AnyNumber]) -> NDArray[AnyNumber]:
        return spread_over(values, self._step, self._asked.heights.shape)


def _at_nearest(values: NDArray[np.float64], on: Asked, places: NDArray[np.float64]) -> NDArray[np.float64]:
    spots = np.clip(np.rint(on.samples(places)).astype(np.int64), 0, [values.shape[1] - 1, values.shape[0] - 1])
    return np.asarray(values[spots[:, 1], spots[:, 0]])
