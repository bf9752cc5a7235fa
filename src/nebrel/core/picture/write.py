"""Prepared pictures as files: 16 bits deep, with their size."""

import io
import struct
import zlib
from typing import BinaryIO, Literal

import numpy as np
import tifffile
from imagecodecs import png_encode

from nebrel.core.picture.picture import Picture

PictureFormat = Literal["png", "tiff"]
_HEADER_END = 8 + 25


def write_picture(picture: Picture, file: BinaryIO, form: PictureFormat, mm_per_px: float) -> None:
    """Gray tones of 16 bits, with alpha where something is blank, and the resolution that makes it true size.

    Args:
        picture: to write.
        file: open for writing.
        form: `png` (with a pHYs chunk) or `tiff` (deflate).
        mm_per_px: distance between pixels on the piece.
    """
    tones = np.round(np.clip(picture.tones, 0, 1) * 65_535).astype(np.uint16)
    blank = bool((picture.coverage < 1).any())
    if blank:
        alpha = np.round(np.clip(picture.coverage, 0, 1) * 65_535).astype(np.uint16)
        tones = np.dstack([tones, alpha])
    if form == "png":
        file.write(_with_resolution(bytes(png_encode(tones, level=3)), mm_per_px))
        return
    per_cm = 10 / mm_per_px
    held = io.BytesIO()
    tifffile.imwrite(
        held,
        tones,
        photometric="minisblack",
        extrasamples=["unassalpha"] if blank else None,
        compression="zlib",
        predictor=True,
        resolution=(per_cm, per_cm),
        resolutionunit="CENTIMETER",
    )
    file.write(held.getbuffer())


def colour_png(picture: Picture) -> bytes:
    """The picture as an 8-bit PNG for looking at, in colour where it has any."""
    shown = np.dstack([picture.tones] * 3) if picture.rgb is None else picture.rgb
    samples = np.dstack([shown, picture.coverage])
    return bytes(png_encode(np.round(np.clip(samples, 0, 1) * 255).astype(np.uint8), level=1))


def _with_resolution(png: bytes, mm_per_px: float) -> bytes:
    """The file with a pHYs chunk after its header (PNG specification, 11.3.5.3)."""
    per_metre = round(1000 / mm_per_px)
    body = b"pHYs" + struct.pack(">IIB", per_metre, per_metre, 1)
    chunk = struct.pack(">I", 9) + body + struct.pack(">I", zlib.crc32(body))
    return png[:_HEADER_END] + chunk + png[_HEADER_END:]
