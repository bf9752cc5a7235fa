"""Bytes of a picture file to tones, without losing depth."""

import struct
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.picture.decode import ACCEPTED_IN_WORDS, RawPicture, ReadLimits, decode
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.picture.reduction import Reduction
from nebrel.core.picture.resample import shrink_to
from nebrel.core.picture.strips import Strips
from nebrel.core.progress_estimate import beating

# From so many pixels on a picture is made smaller while it is read.
LARGE_PIXELS = 24_000_000
# Share of the time that decoding takes.
DECODED = 0.6
# About how fast files are decoded, to tell how far a decoder is that does not tell it itself.
BYTES_A_SECOND = 60e6


def read_picture(
    data: bytes,
    name: str = "The picture",
    limits: ReadLimits | None = None,
    progress: Callable[[float], None] = lambda _: None,
    longest_px: int | None = None,
    colour: bool = True,
) -> Picture:
    """The picture in `data`, recognised by its content, upright by its EXIF orientation.

    Gray stays gray; colour becomes tone by the Rec. 709 luma of the encoded values. Integers are divided by
    their full scale, so a 16-bit ramp keeps its 65,536 levels. Float samples inside 0..1 are kept; a wider
    range is stretched to 0..1 and remarked in the facts.

    Args:
        data: the whole file.
        name: what the person calls the file, for the refusals.
        limits: the size at which a picture is refused before it is decoded.
        progress: called with the fraction done.
        longest_px: to which the longer side is reduced as by `shrink_to`, with large pictures while they are read; the
            facts tell of the file.
        colour: whether colours are wanted too.

    Raises:
        BadPictureError: not a picture, damaged, empty, of one pixel, all blank, or with samples that are not numbers.
        TooLargeError: past one of the limits.
    """
    return _picture(_decoded(data, name, limits, progress), name, progress, longest_px, colour)


def read_facts(data: bytes, name: str = "The picture", limits: ReadLimits | None = None) -> SourceFacts:
    """What a file says of itself, all of it read and refused as by `read_picture`, in less memory."""
    raw = _decoded(data, name, limits, lambda _: None)
    strips = Strips(raw, name)
    for _ in strips:
        pass
    return strips.facts


def _decoded(data: bytes, name: str, limits: ReadLimits | None, progress: Callable[[float], None]) -> RawPicture:
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
    return raw


def _picture(
    raw: RawPicture, name: str, progress: Callable[[float], None], longest_px: int | None, colour: bool
) -> Picture:
    strips = Strips(raw, name)
    shape = raw.samples.shape[:2]
    colours = 3 if colour and not strips.gray else 0
    small = None
    if longest_px is not None and max(shape) > longest_px and shape[0] * shape[1] > LARGE_PIXELS:
        small = Reduction(shape, longest_px, colours)
    if small is None:
        planes = np.empty((2, *shape), dtype=np.float32)
        rgb = np.empty((*shape, 3), dtype=np.float32) if colours else None
        for strip in strips:
            rows = slice(strip.top, strip.top + len(strip.tones))
            planes[0, rows], planes[1, rows] = strip.tones, strip.coverage
            if rgb is not None:
                rgb[rows] = strip.colours
            progress(DECODED + (1 - DECODED) * rows.stop / shape[0])
        tones, coverage = planes
    else:
        for strip in strips:
            small.add(strip.tones, strip.coverage, strip.colours if colours else None)
            progress(DECODED + (1 - DECODED) * small.share)
        tones, coverage, rgb = small.finished()
    upright = [_upright(plane, raw.orientation) for plane in (tones, coverage)]
    made = Picture(
        tones=np.ascontiguousarray(upright[0]),
        coverage=np.ascontiguousarray(upright[1]),
        facts=strips.facts,
        rgb=None if rgb is None else np.ascontiguousarray(_upright(rgb, raw.orientation)),
    )
    return made if longest_px is None else shrink_to(made, longest_px)


def _upright(samples: NDArray[np.float32], orientation: int) -> NDArray[np.float32]:
    if orientation >= 5:
        samples = np.swapaxes(samples, 0, 1)
        orientation = {5: 1, 6: 2, 7: 3, 8: 4}[orientation] if orientation <= 8 else 1
    if orientation in (2, 3):
        samples = samples[:, ::-1]
    if orientation in (3, 4):
        samples = samples[::-1]
    return samples
