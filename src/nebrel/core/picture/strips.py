"""Decoded samples as tones, a strip of rows at a time, so that no second copy of a large picture is ever made."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.jit import compiled
from nebrel.core.picture.decode import RawPicture
from nebrel.core.picture.picture import SourceFacts

# Of Rec. 709.
RED, GREEN, BLUE = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
# About so many samples are worked on at once.
AT_ONCE = 4_000_000


@dataclass(frozen=True)
class Strip:
    """Some rows of a picture as they are stored.

    Attributes:
        top: which row is the first.
        tones, coverage: float32 (h, W).
        colours: float32 (h, W, 1 or 3).
    """

    top: int
    tones: NDArray[np.float32]
    coverage: NDArray[np.float32]
    colours: NDArray[np.float32]


class Strips:
    """The strips of a picture, from its first row to its last. Its facts are complete once all have been gone through.

    Raises:
        BadPictureError: samples are not numbers; or, after the last strip, all of it is transparent.
    """

    def __init__(self, raw: RawPicture, name: str) -> None:
        self._raw = raw
        self._name = name
        samples = raw.samples
        self._samples = samples if samples.ndim == 3 else samples[..., np.newaxis]
        self._rows = max(1, AT_ONCE // max(1, self._samples.shape[1] * self._samples.shape[2]))
        self._low, self._full, self._told = self._range()
        count = self._samples.shape[-1]
        self._has_alpha = count in (2, 4)
        self._colours = min(count - self._has_alpha, 3)

    @property
    def gray(self) -> bool:
        """Whether it has no colours."""
        return self._colours < 3

    @property
    def facts(self) -> SourceFacts:
        """What the file says of itself, and what was done to it."""
        raw = self._raw
        height, width = self._samples.shape[:2]
        if raw.orientation >= 5:
            height, width = width, height
        remarks = [self._told, raw.more]
        if self._has_alpha and raw.premultiplied:
            remarks.append("Its colours were multiplied with their opacity; that was undone.")
        if raw.blank is not None:
            remarks.append(f"{int(raw.blank.sum()):,} pixels without data are blank.")
        told = tuple(remark for remark in remarks if remark)
        return SourceFacts(raw.format, width, height, raw.bit_depth, raw.channels, raw.dpi, told)

    def __iter__(self) -> Iterator[Strip]:
        """Go through them."""
        seen = False
        for top in range(0, len(self._samples), self._rows):
            strip = self._strip(top)
            seen = seen or bool((strip.coverage > 0).any())
            yield strip
        if not seen:
            raise BadPictureError(f"{self._name} is transparent everywhere; at least some of it must be visible.")

    def _strip(self, top: int) -> Strip:
        raw = self._raw
        values = self._scaled(self._samples[top : top + self._rows])
        colours = values[..., : self._colours]
        coverage = values[..., -1] if self._has_alpha else np.ones(values.shape[:2], dtype=np.float32)
        if self._has_alpha and raw.premultiplied:
            shares = np.maximum(coverage, 1e-6)[..., np.newaxis]
            colours = np.where(coverage[..., np.newaxis] > 0, colours / shares, 0.0)
            colours = np.clip(colours, 0.0, 1.0).astype(np.float32)
        if raw.blank is not None:
            coverage = np.where(raw.blank[top : top + self._rows], np.float32(0), coverage)
        if raw.white_is_zero:
            colours = 1 - colours
        tones = colours[..., 0] if self.gray else _luma(colours)
        return Strip(top, tones, coverage, colours)

    def _scaled(self, samples: NDArray[np.generic]) -> NDArray[np.float32]:
        """Samples in 0..1."""
        if samples.dtype == np.bool_:
            return samples.astype(np.float32)
        if np.issubdtype(samples.dtype, np.unsignedinteger) and not self._told:
            return np.divide(samples, self._full, dtype=np.float32, casting="unsafe")
        values = samples.astype(np.float64)
        if self._told:
            values = (values - self._low) / self._full if self._full > 0 else np.zeros_like(values)
        return values.astype(np.float32)

    def _range(self) -> tuple[float, float, str]:
        """The sample that is black, how far above it white is, and what is said of it where they were stretched."""
        raw, dtype = self._raw, self._samples.dtype
        if dtype == np.bool_:
            return 0.0, 1.0, ""
        if np.issubdtype(dtype, np.unsignedinteger):
            if dtype.itemsize >= 4:
                top = max(float(self._samples.max()), 1.0)
                if top < 2**16:
                    # Of so wide numbers the lowest hundredth of a thousandth would all be black.
                    told = f"Tones stretched to 0..1 from 0..{top:g}, the largest of its {raw.bit_depth}-bit samples."
                    return 0.0, top, told
            packed = raw.format == "TIFF" and raw.channels != "palette"
            return 0.0, 2**raw.bit_depth - 1 if packed else int(np.iinfo(dtype.name).max), ""
        if not np.issubdtype(dtype, np.number) or np.issubdtype(dtype, np.complexfloating):
            raise BadPictureError(f"{self._name} holds {dtype} samples; whole numbers and floats are accepted.")
        bad, lowest, highest = 0, np.inf, -np.inf
        for top in range(0, len(self._samples), self._rows):
            values = self._samples[top : top + self._rows].astype(np.float64)
            bad += int(values.size - np.isfinite(values).sum())
            lowest, highest = min(lowest, float(values.min())), max(highest, float(values.max()))
        if bad:
            raise BadPictureError(
                f"{self._name} holds {bad:,} samples that are not numbers (NaN or infinite); every sample must be a "
                "number."
            )
        if lowest >= 0 and highest <= 1:
            return 0.0, 1.0, ""
        return lowest, highest - lowest, f"Tones stretched to 0..1 from {lowest:g}..{highest:g}."


@compiled
def _luma(rgb):
    """The weighted sum of three channels, and the tone itself where they are alike, float32 (H, W)."""
    tones = np.empty(rgb.shape[:2], dtype=np.float32)
    for row in range(rgb.shape[0]):
        for column in range(rgb.shape[1]):
            red, green, blue = rgb[row, column, 0], rgb[row, column, 1], rgb[row, column, 2]
            if red == green and green == blue:
                tones[row, column] = red
            else:
                tones[row, column] = RED * red + GREEN * green + BLUE * blue
    return tones
