"""Bytes of a picture file to tones, without losing depth."""

import contextlib
import io
import struct
import warnings
from collections.abc import Callable
from dataclasses import dataclass

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.jit import compiled
from nebrel.core.picture.picture import Picture, SourceFacts
from nebrel.core.progress_estimate import beating

ACCEPTED = ("PNG", "JPEG", "TIFF", "WEBP", "BMP")
ACCEPTED_IN_WORDS = "PNG, JPEG, TIFF, WebP and BMP are accepted"
# Of Rec. 709.
RED, GREEN, BLUE = np.float32(0.2126), np.float32(0.7152), np.float32(0.0722)
# Shares of the time that reading takes.
DECODED, SCALED = 0.6, 0.8
# About how fast files are decoded, to tell how far a decoder is that does not tell it itself.
BYTES_A_SECOND = 60e6
_ORIENTATION_TAG, _NO_DATA_TAG = 274, 42113
_CM_PER_INCH = 2.54
_TIFF_PHOTOMETRICS = (
    tifffile.PHOTOMETRIC.MINISBLACK,
    tifffile.PHOTOMETRIC.MINISWHITE,
    tifffile.PHOTOMETRIC.RGB,
    tifffile.PHOTOMETRIC.PALETTE,
    tifffile.PHOTOMETRIC.YCBCR,
)


@dataclass(frozen=True)
class ReadLimits:
    """How large a picture may be before it is refused unread."""

    bytes: int = 256 * 2**20
    pixels: int = 100_000_000
    side_px: int = 16_384


@dataclass(frozen=True)
class _Raw:
    samples: NDArray[np.generic]
    format: str
    bit_depth: int
    channels: str
    orientation: int
    dpi: float | None
    white_is_zero: bool = False
    blank: NDArray[np.bool_] | None = None
    premultiplied: bool = False
    more: str = ""


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
            raw = _decode(data, name, limits)
    except (BadPictureError, TooLargeError):
        raise
    except (
        OSError,
        ValueError,
        TypeError,
        KeyError,
        IndexError,
        SyntaxError,
        ArithmeticError,
        RuntimeError,
        MemoryError,
        AttributeError,
        AssertionError,
        struct.error,
    ) as cause:
        raise BadPictureError(
            f"{name} is damaged or ends too early; please copy or export it again ({ACCEPTED_IN_WORDS})."
        ) from cause
    progress(DECODED)
    return _picture(raw, name, progress)


def _decode(data: bytes, name: str, limits: ReadLimits) -> _Raw:
    if data[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return _decode_tiff(data, name, limits)
    with warnings.catch_warnings():
        warnings.simplefilter("ignore", Image.DecompressionBombWarning)
        try:
            image = Image.open(io.BytesIO(data), formats=[form for form in ACCEPTED if form != "TIFF"])
        except Image.DecompressionBombError as cause:
            raise _too_many_pixels(name, limits) from cause
        except UnidentifiedImageError as cause:
            raise BadPictureError(f"{name} is not a picture that Nebrel can read; {ACCEPTED_IN_WORDS}.") from cause
        with image:
            _check_size(image.width, image.height, name, limits)
            orientation = int(image.getexif().get(_ORIENTATION_TAG, 1))
            dpi = _plausible_dpi(image.info.get("dpi", (None,))[0])
            form = image.format or ""
            more = _more(getattr(image, "n_frames", 1), "frame")
            if form == "PNG" and data[24] == 16:
                samples: NDArray[np.generic] = imagecodecs.png_decode(data)
                return _Raw(samples, form, 16, _channel_words(samples), orientation, dpi, more=more)
            samples = _eight_bit_samples(image)
            depth = 1 if image.mode == "1" else 8
            return _Raw(samples, form, depth, MODE_WORDS.get(image.mode, image.mode), orientation, dpi, more=more)


def _more(count: int, what: str) -> str:
    """What is said about frames or pages after the first, which are not read."""
    return "" if count < 2 else f"The first of {count:,} {what}s is read."


MODE_WORDS = {"L": "gray", "1": "gray", "LA": "gray and alpha", "P": "palette"}


def _eight_bit_samples(image: Image.Image) -> NDArray[np.generic]:
    if image.mode in ("L", "LA", "RGB", "RGBA") and "transparency" not in image.info:
        return np.asarray(image)
    if image.mode in ("P", "PA") or "transparency" in image.info:
        return np.asarray(image.convert("RGBA"))
    if image.mode == "1":
        return np.asarray(image.convert("L"))
    return np.asarray(image.convert("RGB"))


def _decode_tiff(data: bytes, name: str, limits: ReadLimits) -> _Raw:
    with tifffile.TiffFile(io.BytesIO(data)) as tiff:
        page = tiff.pages[0]
        assert isinstance(page, tifffile.TiffPage)
        _check_size(page.imagewidth, page.imagelength, name, limits)
        if page.samplesperpixel > 8 or page.imagedepth > 1:
            raise BadPictureError(
                f"{name} holds {page.samplesperpixel} channels; gray, RGB and palette TIFF, with or without alpha, "
                "are accepted."
            )
        photometric = tifffile.PHOTOMETRIC(page.photometric)
        if photometric not in _TIFF_PHOTOMETRICS:
            raise BadPictureError(f"{name} is a {photometric.name} TIFF; gray, RGB and palette TIFF are accepted.")
        samples = page.asarray()
        if page.planarconfig == tifffile.PLANARCONFIG.SEPARATE and samples.ndim == 3:
            samples = np.moveaxis(samples, 0, -1)
        samples, blank = _without_no_data(samples, page)
        if photometric == tifffile.PHOTOMETRIC.PALETTE and page.colormap is not None:
            samples = _through_palette(samples, page.colormap)
        orientation_tag = page.tags.get(_ORIENTATION_TAG)
        return _Raw(
            samples=samples,
            format="TIFF",
            bit_depth=int(page.bitspersample),
            channels=photometric.name.lower(),
            orientation=int(orientation_tag.value) if orientation_tag else 1,
            dpi=_tiff_dpi(page),
            white_is_zero=photometric == tifffile.PHOTOMETRIC.MINISWHITE,
            blank=blank,
            premultiplied=tifffile.EXTRASAMPLE.ASSOCALPHA in page.extrasamples,
            more=_more(len(tiff.pages), "page"),
        )


def _through_palette(samples: NDArray[np.generic], palette: NDArray[np.uint16]) -> NDArray[np.generic]:
    """The colours that numbers stand for; what follows a number at a pixel is its opacity."""
    several = samples.ndim == 3
    numbers = (samples[..., 0] if several else samples).astype(np.int64)
    colours = np.moveaxis(palette[:, np.minimum(numbers, palette.shape[1] - 1)], 0, -1)
    if not several or samples.shape[-1] < 2:
        return colours
    opacity = samples[..., -1].astype(np.float64)
    full = 1.0 if samples.dtype == np.bool_ else float(np.iinfo(samples.dtype.name).max)
    opaque = np.round(opacity / full * np.iinfo(np.uint16).max).astype(np.uint16)
    return np.concatenate([colours, opaque[..., np.newaxis]], axis=-1)


def _without_no_data(
    samples: NDArray[np.generic], page: tifffile.TiffPage
) -> tuple[NDArray[np.generic], NDArray[np.bool_] | None]:
    """Samples, and where there are none: where a float is no number, or any has the value that the file names for it.

    Such samples become the lowest of the others.
    """
    blank = np.zeros(samples.shape, dtype=bool)
    if np.issubdtype(samples.dtype, np.floating):
        blank |= np.isnan(samples.astype(np.float64))
    tag = page.tags.get(_NO_DATA_TAG)
    if tag is not None and np.issubdtype(samples.dtype, np.number):
        with contextlib.suppress(ValueError):
            blank |= samples == float(str(tag.value).strip("\0 "))
    if not blank.any() or blank.all():
        return samples, None
    filled = samples.copy()
    filled[blank] = samples[~blank].min()
    return filled, np.asarray(blank.any(axis=-1) if samples.ndim == 3 else blank)


def _tiff_dpi(page: tifffile.TiffPage) -> float | None:
    unit = page.tags.get("ResolutionUnit")
    if unit is None or int(unit.value) not in (2, 3):
        return None
    per_unit = float(page.get_resolution()[0])
    return _plausible_dpi(per_unit * _CM_PER_INCH if int(unit.value) == 3 else per_unit)


def _plausible_dpi(dpi: float | None) -> float | None:
    return round(float(dpi), 2) if dpi and 1 < float(dpi) < 100_000 else None


def _check_size(width: int, height: int, name: str, limits: ReadLimits) -> None:
    if width * height > limits.pixels or max(width, height) > limits.side_px:
        raise _too_many_pixels(name, limits, f"{width:,} × {height:,} pixels")
    if min(width, height) < 2:
        raise BadPictureError(
            f"{name} is {width} × {height} pixels; at least 2 × 2 pixels are needed to make a relief."
        )


def _too_many_pixels(name: str, limits: ReadLimits, size: str = "too many pixels") -> TooLargeError:
    return TooLargeError(
        f"{name} declares {size}; up to {limits.pixels / 1e6:,.0f} megapixels and {limits.side_px:,} pixels a side "
        "are accepted."
    )


def _channel_words(samples: NDArray[np.generic]) -> str:
    count = 1 if samples.ndim == 2 else samples.shape[-1]
    return {1: "gray", 2: "gray and alpha", 3: "RGB", 4: "RGBA"}.get(count, f"{count} channels")


def _picture(raw: _Raw, name: str, progress: Callable[[float], None]) -> Picture:
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


def _to_unit_range(raw: _Raw, name: str) -> tuple[NDArray[np.float32], tuple[str, ...]]:
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
