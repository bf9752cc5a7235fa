"""Bytes of a picture file to tones, without losing depth."""

import struct
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.jit import compiled
from nebrel.core.picture.decode import ACCEPTED_IN_WORDS, RawPicture, ReadLimits, decode
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.progress_estimate import beating

# Of Rec. 709.
RED, GREEN, BLUE = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
# Shares of the time that reading takes.
DECODED, SCALED = 0.6, 0.8
# About how fast files are decoded, to tell how far a decoder is that does not tell it itself.
BYTES_A_SECOND = 60e6


def read_picture(
    data: bytes,
    name: str = "The picture",
    limits: ReadLimits | None = None,
    progress: Callable[[float], None] = lambda _: None,
) -> Picture:
    """The picture in `data`, recognised by its content, upright by its EXIF orientation.

    Gray stays gray; colour becomes tone by the Rec. 709 luma of the encoded values. Integers are divided by
    their full scale, so a 16-bit ramp keeps its 65,536 levels. Float samples inside 0..1 are kept; a wider
    range is stretched to 0..1 and remarked in the facts.

    Args:
        data: the whole file.
        name: what the person calls the file, for the refusals.
        limits: the size at which a picture is refused before it is decoded.
        progress: called with the fraction done: decoded, scaled, upright.

    Raises:
        BadPictureError: not a picture, damaged, empty, of one pixel, all blank, or with samples that are not numbers.
        TooLargeError: past one of the limits.
    """
    limits = limits or ReadLimits()
    if not data:
        raise BadPictureError(f"{name} is an empty file; {ACCEPTED_IN_WORDS}.")
    if len(data) > limits.bytes:
        raise TooLargeError(
            f"{name} has {len(data) / 2**20:,.0f} MiB; up to {limits.bytes / 2**20:,.0f} MiB are accepted."
        )
    try:
        with beating(progress, DECODED, len(data) / BYTES_A_SECOND):
            raw = decode(data, name, limits)
    except (BadPictureError, TooLargeError):
        raise
    except MemoryError as cause:
        raise TooLargeError(f"{name} takes more memory than there is; a picture of fewer pixels is needed.") from cause
    except (
        OSError,
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        SyntaxError,
        ArithmeticError,
        RuntimeError,
        AttributeError,
        AssertionError,
        struct.error,
    ) as cause:
        raise BadPictureError(
            f"{name} is damaged or ends too early; please copy or export it again ({ACCEPTED_IN_WORDS})."
        ) from cause
    progress(DECODED)
    return _picture(raw, name, progress)


def _picture(raw: RawPicture, name: str, progress: Callable[[float], None]) -> Picture:
    samples, remarks = _to_unit_range(raw, name)
    progress(SCALED)
    samples = _upright(samples, raw.orientation)
    remarks = (*remarks, *([raw.more] if raw.more else []))
    if samples.ndim == 2:
        samples = samples[..., np.newaxis]
    count = samples.shape[-1]
    has_alpha = count in (2, 4)
    colours = samples[..., : min(count - has_alpha, 3)]
    coverage = samples[..., -1] if has_alpha else np.ones(samples.shape[:2], dtype=np.float32)
    if has_alpha and raw.premultiplied:
        colours = np.where(coverage[..., np.newaxis] > 0, colours / np.maximum(coverage, 1e-6)[..., np.newaxis], 0.0)
        colours = np.clip(colours, 0.0, 1.0).astype(np.float32)
        remarks = (*remarks, "Its colours were multiplied with their opacity; that was undone.")
    if raw.blank is not None:
        blank = _upright(raw.blank.astype(np.float32), raw.orientation) > 0
        coverage = np.where(blank, np.float32(0), coverage)
        remarks = (*remarks, f"{int(blank.sum()):,} pixels without data are blank.")
    if raw.white_is_zero:
        colours = 1 - colours
    if not (coverage > 0).any():
        raise BadPictureError(f"{name} is transparent everywhere; at least some of it must be visible.")
    gray = colours.shape[-1] < 3
    tones = colours[..., 0] if gray else _luma(colours)
    height, width = tones.shape
    facts = SourceFacts(raw.format, width, height, raw.bit_depth, raw.channels, raw.dpi, remarks)
    return Picture(
        tones=np.ascontiguousarray(tones),
        coverage=np.ascontiguousarray(coverage),
        facts=facts,
        rgb=None if gray else np.ascontiguousarray(colours),
    )


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


def _to_unit_range(raw: RawPicture, name: str) -> tuple[NDArray[np.float32], tuple[str, ...]]:
    samples = raw.samples
    if samples.dtype == np.bool_:
        return samples.astype(np.float32), ()
    if np.issubdtype(samples.dtype, np.unsignedinteger):
        wide = samples.astype(np.float64) if samples.dtype.itemsize >= 4 else None
        if wide is not None and wide.max() < 2**16:
            # Of so wide numbers the lowest hundredth of a thousandth would all be black.
            top = max(float(wide.max()), 1.0)
            told = f"Tones stretched to 0..1 from 0..{top:g}, the largest of its {raw.bit_depth}-bit samples."
            return (wide / top).astype(np.float32), (told,)
        packed = raw.format == "TIFF" and raw.channels != "palette"
        full_scale = 2**raw.bit_depth - 1 if packed else int(np.iinfo(samples.dtype.name).max)
        return np.divide(samples, full_scale, dtype=np.float32, casting="unsafe"), ()
    if not np.issubdtype(samples.dtype, np.number) or np.issubdtype(samples.dtype, np.complexfloating):
        raise BadPictureError(f"{name} holds {samples.dtype} samples; whole numbers and floats are accepted.")
    values = samples.astype(np.float64)
    bad = int(values.size - np.isfinite(values).sum())
    if bad:
        raise BadPictureError(
            f"{name} holds {bad:,} samples that are not numbers (NaN or infinite); every sample must be a number."
        )
    lowest, highest = float(values.min()), float(values.max())
    if lowest >= 0 and highest <= 1:
        return values.astype(np.float32), ()
    spread = highest - lowest
    scaled = (values - lowest) / spread if spread > 0 else np.zeros_like(values)
    return scaled.astype(np.float32), (f"Tones stretched to 0..1 from {lowest:g}..{highest:g}.",)


def _upright(samples: NDArray[np.float32], orientation: int) -> NDArray[np.float32]:
    if orientation >= 5:
        samples = np.swapaxes(samples, 0, 1)
        orientation = {5: 1, 6: 2, 7: 3, 8: 4}[orientation] if orientation <= 8 else 1
    if orientation in (2, 3):
        samples = samples[:, ::-1]
    if orientation in (3, 4):
        samples = samples[::-1]
    return samples
