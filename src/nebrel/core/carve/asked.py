"""The heights that are to be left, laid out for planning: Y up, the highest at 0, and a rim to run out over."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.bits import Profile
from nebrel.core.carve.offset import block_maxima, highest_left, lowest_tips, lowest_tips_at
from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.height.nearest_fill import fill_from_nearest

MOST_SAMPLES = 30_000_000


@dataclass(frozen=True)
class Asked:
    """Heights over a grid, with a rim around the piece on which the heights of its edge go on.

    Attributes:
        heights: float64 (H, W) mm, 0 at the highest place, row 0 at the least Y.
        there: bool (H, W), what belongs to the piece.
        pitch: mm between samples.
        left, low: X and Y of the first sample; the lower left corner of the piece is the origin.
        size: width and depth of the piece, mm.
    """

    heights: NDArray[np.float64]
    there: NDArray[np.bool_]
    pitch: float
    left: float
    low: float
    size: tuple[float, float]

    @cached_property
    def maxima(self) -> NDArray[np.float64]:
        """Of blocks of samples."""
        return block_maxima(self.heights)

    @property
    def deepest(self) -> float:
        """The lowest of the piece, mm below its highest place."""
        return -float(self.heights.min(where=self.there, initial=0.0))

    def samples(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Columns and rows, float64 (N, 2), of places in mm."""
        return (places[:, :2] - np.array([self.left, self.low])) / self.pitch

    def tips_at(self, places: NDArray[np.float64], profile: Profile) -> NDArray[np.float64]:
        """The lowest that a tip may stand at places, float64 (N, 2) mm."""
        return lowest_tips_at(self.heights, self.maxima, self.pitch, profile, self.samples(places))

    def tips(self, profile: Profile) -> NDArray[np.float64]:
        """The lowest that a tip may stand over every sample."""
        return lowest_tips(self.heights, self.pitch, profile)

    def left_by(self, profile: Profile) -> NDArray[np.float64]:
        """What a bit leaves standing at best, float64 (H, W) mm; never below `heights`."""
        return np.maximum(highest_left(self.tips(profile), self.pitch, profile), self.heights)

    def every(self, step: int) -> "Asked":
        """Every so many samples only, for maps."""
        if step == 1:
            return self
        return Asked(
            np.ascontiguousarray(self.heights[::step, ::step]),
            np.ascontiguousarray(self.there[::step, ::step]),
            self.pitch * step,
            self.left,
            self.low,
            self.size,
        )


def asked_of(field: HeightField, rim: float, finest: float = 0.0) -> Asked:
    """The heights of a piece as work for bits.

    Args:
        field: heights, blank where the piece has no material; a bit may come close there.
        rim: mm around the piece that bits may reach over.
        finest: samples are laid closer until they are this near, mm; 0 leaves them as they are.

    Raises:
        BadValueError: it has no material, or would have too many samples.
    """
    material = np.ascontiguousarray(field.material[::-1])
    if not material.any():
        raise BadValueError("There is nothing to carve: the whole picture is blank; a part with material is needed.")
    heights = np.where(material, field.heights[::-1].astype(np.float64), np.nan)
    heights -= np.nanmax(heights)
    if not material.all():
        heights = fill_from_nearest(material, heights)
    times = max(1, int(np.ceil(field.pitch / finest - 1e-9))) if finest > 0 else 1
    while times > 1 and heights.size * times * times > MOST_SAMPLES / 4:
        times -= 1
    if times > 1:
        heights, material = _closer(heights, times), _closer(material.astype(np.float64), times) >= 0.5
    pitch = field.pitch / times
    pad = int(np.ceil(rim / pitch)) + 1
    if (heights.shape[0] + 2 * pad) * (heights.shape[1] + 2 * pad) > MOST_SAMPLES:
        raise BadValueError(
            f"The heights have {heights.shape[1]} × {heights.shape[0]} samples; up to {MOST_SAMPLES / 1e6:.0f} million "
            "with their rim would be accepted. Make the picture smaller."
        )
    return Asked(
        np.pad(heights, pad, mode="edge"),
        np.pad(material, pad),
        pitch,
        -pad * pitch,
        -pad * pitch,
        (field.width, field.depth),
    )


def _closer(values: NDArray[np.float64], times: int) -> NDArray[np.float64]:
    """Values with `times` - 1 further ones between neighbours, linear along both sides."""
    for axis in (0, 1):
        count = values.shape[axis]
        at = np.arange((count - 1) * times + 1) / times
        first = np.minimum(at.astype(np.int64), count - 2)
        part = (at - first).reshape((-1, 1) if axis == 0 else (1, -1))
        values = np.take(values, first, axis) * (1 - part) + np.take(values, first + 1, axis) * part
    return values
