"""Picture files to samples as they are stored, with what the file says of them."""

import contextlib
import io
from dataclasses import dataclass

import imagecodecs
import numpy as np
import tifffile
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from nebrel.core.errors import BadPictureError, TooLargeError
from nebrel.core.picture import exr, jpeg_xl
from nebrel.core.picture.colour_profile import deep_in_srgb, from_inks, from_lab, from_luma, in_srgb

ACCEPTED = ("PNG", "JPEG", "TIFF", "WEBP", "BMP", "GIF", "AVIF")
ACCEPTED_IN_WORDS = "PNG, JPEG, TIFF, WebP, BMP, GIF, AVIF, HEIC, JPEG XL and EXR are accepted"
_HEIC_BRANDS = (b"heic", b"heix", b"heim", b"heis", b"hevc", b"hevx", b"mif1", b"msf1")
_ORIENTATION_TAG, _NO_DATA_TAG = 274, 42113
_CM_PER_INCH = 2.54
_PNG_SIGN = b"\x89PNG\r\n\x1a\n"
# Compressions whose decoder gives RGB for YCbCr.
_TURNED_BY_DECODER = (tifffile.COMPRESSION.JPEG, tifffile.COMPRESSION.OJPEG)
_TIFF_PHOTOMETRICS = (
    tifffile.PHOTOMETRIC.MINISBLACK,
    tifffile.PHOTOMETRIC.MINISWHITE,
    tifffile.PHOTOMETRIC.RGB,
    tifffile.PHOTOMETRIC.PALETTE,
    tifffile.PHOTOMETRIC.YCBCR,
    tifffile.PHOTOMETRIC.SEPARATED,
    tifffile.PHOTOMETRIC.CIELAB,
    tifffile.PHOTOMETRIC.ICCLAB,
)


# Sizes are checked here, by limits of our own, before anything is decoded.
Image.MAX_IMAGE_PIXELS = None


@dataclass(frozen=True)
class ReadLimits:
    """How large a picture may be before it is refused unread."""

    bytes: int = 256 * 2**20
    pixels: int = 100_000_000
    side_px: int = 16_384


@dataclass(frozen=True)
class RawPicture:
    """Samples of a file.

    Attributes:
        samples: (H, W) or (H, W, channels), as stored.
        format, bit_depth, channels, orientation, dpi: as the file says.
        white_is_zero: whether low samples are bright.
        blank: bool (H, W), where there is no data; None where there is everywhere.
        premultiplied: whether colours are multiplied with their opacity.
        more: what is said about frames or pages that are not read.
    """

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


def decode(data: bytes, name: str, limits: ReadLimits) -> RawPicture:
    """The samples of a file, whatever its format; decoders raise what they do where it is damaged.

    Raises:
        BadPictureError: no format that is read, or one of its kinds that is not.
        TooLargeError: it declares more than is accepted.
    """
    if data[:4] in (b"II*\0", b"MM\0*", b"II+\0", b"MM\0+"):
        return _decode_tiff(data, name, limits)
    if data[4:8] == b"ftyp" and data[8:12] in _HEIC_BRANDS and b"avif" not in data[8:32]:
        return _decode_heic(data, name, limits)
    if data.startswith(jpeg_xl.SIGNS):
        return _decode_jpeg_xl(data, name, limits)
    if data.startswith(exr.SIGN):
        return _decode_exr(data, name, limits)
    try:
        image = Image.open(io.BytesIO(data), formats=[form for form in ACCEPTED if form != "TIFF"])
    except UnidentifiedImageError as cause:
        raise BadPictureError(f"{name} is not a picture that Nebrel can read; {ACCEPTED_IN_WORDS}.") from cause
    with image:
        _check_size(image.width, image.height, name, limits)
        deep = image.format == "PNG" and data[24] == 16
        # Pillow looks for them by decoding all of the picture, with eight bits a sample.
        exif = _exif_of_png(data) if deep else image.getexif()
        orientation = int(exif.get(_ORIENTATION_TAG, 1))
        dpi = _plausible_dpi(image.info.get("dpi", (None,))[0])
        form = image.format or ""
        more = _more(getattr(image, "n_frames", 1), "frame")
        if deep:
            samples: NDArray[np.generic] = imagecodecs.png_decode(data)
            samples, told = _turned(samples, image.info.get("icc_profile"))
            remarks = _joined(more, told)
            return RawPicture(samples, form, 16, _channel_words(samples), orientation, dpi, more=remarks)
        return _of_eight_bits(image, form, orientation, dpi, more)


def _exif_of_png(data: bytes) -> Image.Exif:
    """What a PNG says of how it was taken, wherever in the file that stands."""
    exif, at = Image.Exif(), len(_PNG_SIGN)
    while at + 8 <= len(data):
        length, kind = int.from_bytes(data[at : at + 4]), data[at + 4 : at + 8]
        if kind == b"eXIf":
            exif.load(data[at + 8 : at + 8 + length])
            break
        at += length + 12
    return exif


def _decode_heic(data: bytes, name: str, limits: ReadLimits) -> RawPicture:
    import pillow_heif

    opened = pillow_heif.open_heif(io.BytesIO(data))
    _check_size(opened.size[0], opened.size[1], name, limits)
    # What the file says of its orientation is done by the decoder.
    return _of_eight_bits(opened.to_pillow(), "HEIC", 1, None, _more(len(opened), "picture"))


def _decode_jpeg_xl(data: bytes, name: str, limits: ReadLimits) -> RawPicture:
    _check_size(*jpeg_xl.declared_size(data), name, limits)
    samples = jpeg_xl.samples_of(data)
    return RawPicture(samples, "JPEG XL", 8 * samples.dtype.itemsize, _channel_words(samples), 1, None)


def _decode_exr(data: bytes, name: str, limits: ReadLimits) -> RawPicture:
    found, more = exr.read_exr(data, lambda width, height: _check_size(width, height, name, limits))
    samples, blank = _without_numberless(found)
    return RawPicture(samples, "EXR", 8 * found.dtype.itemsize, _channel_words(found), 1, None, blank=blank, more=more)


def _of_eight_bits(image: Image.Image, form: str, orientation: int, dpi: float | None, more: str) -> RawPicture:
    depth, words = 1 if image.mode == "1" else 8, MODE_WORDS.get(image.mode, image.mode)
    turned, told = in_srgb(image, image.info.get("icc_profile"))
    samples = _eight_bit_samples(turned)
    return RawPicture(samples, form, depth, words, orientation, dpi, more=_joined(more, told))


def _turned(samples: NDArray[np.generic], profile: bytes | None) -> tuple[NDArray[np.generic], str]:
    """Samples whose colours, if they have any, are in sRGB, and what is said about that."""
    if samples.ndim != 3 or samples.shape[-1] not in (3, 4):
        return samples, ""
    if samples.dtype == np.uint16:
        return deep_in_srgb(samples.astype(np.uint16, copy=False), profile)
    if samples.dtype == np.uint8 and profile:
        image, told = in_srgb(Image.fromarray(np.ascontiguousarray(samples)), profile)
        return np.asarray(image), told
    return samples, ""


def _joined(*remarks: str) -> str:
    return " ".join(each for each in remarks if each)


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


def _decode_tiff(data: bytes, name: str, limits: ReadLimits) -> RawPicture:
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
            raise BadPictureError(
                f"{name} is a {photometric.name} TIFF; gray, RGB, palette, CMYK and Lab TIFF are accepted."
            )
        samples = page.asarray()
        if page.planarconfig == tifffile.PLANARCONFIG.SEPARATE and samples.ndim == 3:
            samples = np.moveaxis(samples, 0, -1)
        samples, blank = _without_no_data(samples, page)
        if photometric == tifffile.PHOTOMETRIC.PALETTE and page.colormap is not None:
            samples = _through_palette(samples, page.colormap)
        if photometric == tifffile.PHOTOMETRIC.YCBCR and page.compression not in _TURNED_BY_DECODER:
            samples = _of_luma(samples, name)
        samples, told = _as_rgb(samples, photometric, page.iccprofile)
        orientation_tag = page.tags.get(_ORIENTATION_TAG)
        return RawPicture(
            samples=samples,
            format="TIFF",
            bit_depth=int(page.bitspersample),
            channels=photometric.name.lower(),
            orientation=int(orientation_tag.value) if orientation_tag else 1,
            dpi=_tiff_dpi(page),
            white_is_zero=photometric == tifffile.PHOTOMETRIC.MINISWHITE,
            blank=blank,
            premultiplied=tifffile.EXTRASAMPLE.ASSOCALPHA in page.extrasamples,
            more=_joined(_more(len(tiff.pages), "page"), told),
        )


def _of_luma(samples: NDArray[np.generic], name: str) -> NDArray[np.generic]:
    if samples.ndim != 3 or samples.shape[-1] != 3 or samples.dtype != np.uint8:
        raise BadPictureError(
            f"{name} is a YCbCr TIFF of another kind than three channels of 8 bits; export it as RGB."
        )
    return from_luma(samples)


def _as_rgb(
    samples: NDArray[np.generic], photometric: tifffile.PHOTOMETRIC, profile: bytes | None
) -> tuple[NDArray[np.generic], str]:
    """Samples of a TIFF as gray or sRGB, with what is said about that."""
    kinds = tifffile.PHOTOMETRIC
    if photometric in (kinds.CIELAB, kinds.ICCLAB) and samples.ndim == 3:
        return from_lab(samples, photometric == kinds.ICCLAB), "Its colours were turned from Lab to sRGB."
    if photometric == kinds.SEPARATED and samples.ndim == 3 and samples.shape[-1] >= 4:
        return from_inks(samples, profile)
    return _turned(samples, profile) if photometric == kinds.RGB else (samples, "")


def _through_palette(samples: NDArray[np.generic], palette: NDArray[np.uint16]) -> NDArray[np.generic]:
    """The colours that numbers stand for; what follows a number at a pixel is its opacity."""
    several = samples.ndim == 3
    numbers = (samples[..., 0] if several else samples).astype(np.int64)
    if not (palette % 256).any():
        # Some writers shift their 8 bits up, which leaves white a little gray.
        palette = palette // 256 * 257
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
    blank = _numberless(samples)
    tag = page.tags.get(_NO_DATA_TAG)
    if tag is not None and np.issubdtype(samples.dtype, np.number):
        with contextlib.suppress(ValueError):
            blank |= samples == float(str(tag.value).strip("\0 "))
    return _filled(samples, blank)


def _without_numberless(samples: NDArray[np.generic]) -> tuple[NDArray[np.generic], NDArray[np.bool_] | None]:
    return _filled(samples, _numberless(samples))


def _numberless(samples: NDArray[np.generic]) -> NDArray[np.bool_]:
    if not np.issubdtype(samples.dtype, np.floating):
        return np.zeros(samples.shape, dtype=bool)
    return np.asarray(np.isnan(samples.astype(np.float64)))


def _filled(
    samples: NDArray[np.generic], blank: NDArray[np.bool_]
) -> tuple[NDArray[np.generic], NDArray[np.bool_] | None]:
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
