"""Terraces: every tone gets one height, and edges between them keep their place to a fraction of a pixel."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.height.nearest_fill import nearest_known
from nebrel.core.picture import Picture
from nebrel.core.picture.ops.purify import found_tones

BINS = 256
LEAST_SHARE = 0.01
NEAR_BINS = 5
MOST_FOUND = 12
FEWEST_PLAIN = 0.6
FALLBACK_COUNT = 5
MOST_LEVELS = 64


@dataclass(frozen=True)
class Terraces:
    """Which terrace every sample belongs to, and how far it has gone over to the next one.

    Attributes:
        levels: float64 (K,) mm above the backing, rising.
        low, high: uint8 (H, W), the lowest and the highest terrace next to a sample.
        part: float32 (H, W), 0 on the lower of the two to 1 on the higher; edges run where it is one half.
        soften_px: standard deviation of a Gaussian that rounds the edges.
    """

    levels: NDArray[np.float64]
    low: NDArray[np.uint8]
    high: NDArray[np.uint8]
    part: NDArray[np.float32]
    soften_px: float = 0.0

    def coverage(self, terrace: int) -> NDArray[np.float32]:
        """Float32 (H, W), 1 on this terrace and those above it, 0 below; edges of several agree where they meet."""
        from scipy import ndimage

        across = (self.low < terrace) & (terrace <= self.high)
        sharp = np.where(across, self.part, (terrace <= self.low).astype(np.float32))
        return ndimage.gaussian_filter(sharp, self.soften_px, mode="nearest") if self.soften_px else sharp

    @property
    def labels(self) -> NDArray[np.uint8]:
        """Uint8 (H, W): the terrace of every sample."""
        if not self.soften_px:
            return np.where(self.part >= 0.5, self.high, self.low)
        above = [self.coverage(terrace) >= 0.5 for terrace in range(1, len(self.levels))]
        return np.sum(above, axis=0).astype(np.uint8)

    @property
    def settled(self) -> NDArray[np.bool_]:
        """True (H, W) where a sample and all around it belong to one terrace."""
        from scipy import ndimage

        if not self.soften_px:
            return self.low == self.high
        labels = self.labels
        return ndimage.minimum_filter(labels, 3, mode="nearest") == ndimage.maximum_filter(labels, 3, mode="nearest")

    @property
    def blended(self) -> NDArray[np.float32]:
        """Float32 (H, W) mm: heights that go over from terrace to terrace within a sample."""
        if self.soften_px:
            return self.levels[self.labels].astype(np.float32)
        lower, upper = self.levels[self.low], self.levels[self.high]
        return (lower + (upper - lower) * self.part).astype(np.float32)


def terraces_of(picture: Picture, table: Sequence[tuple[float, float]]) -> Terraces:
    """The terraces of a picture by a table of tones and heights; every sample goes to the nearest tone.

    Samples on the soft edge between two tones lie between them in tone and would come to lie on a terrace in between;
    where a terrace is less than three samples wide and has a lower one on one side and a higher one on the other, it is
    taken for such an edge and given to its neighbours.

    Args:
        picture: prepared.
        table: (tone 0..1, mm above the backing), tones strictly rising; equal heights make one terrace.

    Raises:
        BadValueError: tones that do not rise, or fewer than two different heights.
        BadPictureError: the picture shows only one of the tones.
    """
    from scipy import ndimage

    tones, heights = check_table(table)
    levels, terrace_of_tone = np.unique(heights, return_inverse=True)
    nearest = np.searchsorted((tones[1:] + tones[:-1]) / 2, picture.tones.ravel(), side="right")
    labels = terrace_of_tone.astype(np.uint8)[nearest].reshape(picture.shape)
    tone_of_sample = nearest.astype(np.uint8).reshape(picture.shape)
    material = picture.coverage >= 0.5
    used = np.unique(labels[material])
    if len(used) < 2:
        raise BadPictureError(
            "Every visible pixel falls on one step of the table, so nothing would stand out; set its tones "
            "apart, or choose a picture with lighter and darker parts."
        )
    core = _cores(labels, material)
    index = nearest_known(core)
    labels, tone_of_sample = labels[index], tone_of_sample[index]
    low = ndimage.minimum_filter(labels, 3, mode="nearest")
    high = ndimage.maximum_filter(labels, 3, mode="nearest")
    return Terraces(levels, low, high, _parts(picture.tones, labels, tone_of_sample, tones, low, high))


def check_table(table: Sequence[tuple[float, float]]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Tones and heights of a table, float64 (K,) each.

    Raises:
        BadValueError: tones that do not rise, too few or too many steps, or all of one height.
    """
    tones = np.array([tone for tone, _ in table], dtype=np.float64)
    heights = np.array([mm for _, mm in table], dtype=np.float64)
    if len(table) < 2 or len(table) > MOST_LEVELS:
        raise BadValueError(f"The table has {len(table)} steps; 2 to {MOST_LEVELS} would be accepted.")
    if (np.diff(tones) <= 0).any():
        raise BadValueError("The tones of the steps are not in order; each must be brighter than the one before.")
    if (heights == heights[0]).all():
        raise BadValueError("All steps have the same height, so nothing would stand out; at least one must differ.")
    return tones, heights


def found_steps(picture: Picture, relief: float, most: int = MOST_FOUND) -> list[tuple[float, float, float]]:
    """A table made from the tones present: (tone, mm, share of the picture), heights in proportion to tone.

    Tones that stand out of the histogram are taken; a picture of soft tones gets five that part it well.
    """
    from scipy import ndimage

    material = picture.coverage >= 0.5
    tones = picture.tones[material]
    counts, _ = np.histogram(tones, BINS, (0, 1))
    shares = counts / max(1, counts.sum())
    gathered = ndimage.uniform_filter1d(shares, 3, mode="constant") * 3
    peaks = (gathered >= ndimage.maximum_filter1d(gathered, 2 * NEAR_BINS + 1)) & (gathered >= LEAST_SHARE)
    places = np.flatnonzero(peaks)
    plain = sum(shares[max(0, at - 1) : at + 2].sum() for at in places)
    if len(places) < 2 or plain < FEWEST_PLAIN or len(places) > most:
        found = np.sort(found_tones(picture, FALLBACK_COUNT))
    else:
        found = np.array([_tone_at(tones, int(at)) for at in places])
    found = np.unique(np.round(found, 4))
    low, high = found[0], max(found[-1], found[0] + 1e-6)
    return step_shares(
        picture, [(float(tone), round(float((tone - low) / (high - low) * relief), 3)) for tone in found]
    )


def step_shares(picture: Picture, table: Sequence[tuple[float, float]]) -> list[tuple[float, float, float]]:
    """The rows of a table with the share of the picture nearest to each: (tone, mm, share)."""
    places = np.array([tone for tone, _ in table])
    tones = picture.tones[picture.coverage >= 0.5]
    nearest = np.searchsorted((places[1:] + places[:-1]) / 2, tones, side="right")
    parts = np.bincount(nearest, minlength=len(places)) / max(1, len(tones))
    return [(tone, mm, float(part)) for (tone, mm), part in zip(table, parts, strict=True)]


def _tone_at(tones: NDArray[np.float32], place: int) -> float:
    near = tones[(tones >= (place - 1) / BINS) & (tones <= (place + 2) / BINS)]
    return float(np.median(near))


def _cores(labels: NDArray[np.uint8], material: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Samples that are not the soft edge between a lower and a higher terrace; thin lines are none."""
    from scipy import ndimage

    lowest = ndimage.minimum_filter(labels, 3, mode="nearest")
    highest = ndimage.maximum_filter(labels, 3, mode="nearest")
    core = (lowest == labels) | (labels == highest)
    window = np.ones((3, 3), dtype=bool)
    for label in np.unique(labels):
        here = np.pad(labels == label, 2, mode="edge")
        core |= ndimage.binary_opening(here, window)[2:-2, 2:-2]
    return core & material if (core & material).any() else material


def _parts(
    tones: NDArray[np.float32],
    labels: NDArray[np.uint8],
    tone_of_sample: NDArray[np.uint8],
    table: NDArray[np.float64],
    low: NDArray[np.uint8],
    high: NDArray[np.uint8],
) -> NDArray[np.float32]:
    """How far each sample's tone has gone from that of the lower terrace beside it to that of the higher one."""
    own = table.astype(np.float32)[tone_of_sample]
    scaled = np.full(labels.shape, np.nan, dtype=np.float32)
    lower, upper = _tones_beside(own, labels, low, high)
    across = low != high
    span = upper - lower
    np.divide(tones - lower, span, out=scaled, where=across & (np.abs(span) > 1e-6))
    hard = (labels == high).astype(np.float32)
    return np.where(across & np.isfinite(scaled), np.clip(scaled, 0, 1), hard)


def _tones_beside(
    own: NDArray[np.float32], labels: NDArray[np.uint8], low: NDArray[np.uint8], high: NDArray[np.uint8]
) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """The mean tone of the lower and of the higher terrace in the 3 × 3 samples around each."""
    from scipy import ndimage

    lower, upper = np.zeros_like(own), np.zeros_like(own)
    for label in np.unique(labels):
        there = (labels == label).astype(np.float32)
        weight = np.maximum(ndimage.uniform_filter(there, 3, mode="nearest"), np.float32(1e-3))
        mean = np.asarray(ndimage.uniform_filter(own * there, 3, mode="nearest") / weight, dtype=np.float32)
        np.copyto(lower, mean, where=low == label)
        np.copyto(upper, mean, where=high == label)
    return lower, upper
