"""A sheet to begin with: blank or of one tone, with lettering in its middle."""

from fractions import Fraction
from pathlib import Path

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.picture.ops import compose
from nebrel.core.picture.picture import Picture, SourceFacts

BIT_DEPTH = 16
LARGEST_SHARE = 0.92
# So many pixels lie across the thinnest line of the maker.
PX_A_LINE = 4
FINEST_SHARE, MORE_PIXELS = 1000, 1.5


def new_sheet(wide: float, tall: float, pitch: float, ground: float | None) -> Picture:
    """A sheet of one tone.

    Args:
        wide, tall: mm between the first and the last of its pixels.
        pitch: mm between pixels, about.
        ground: its tone, 0 black to 1 white; None for blank.
    """
    columns, rows = _pixels(wide, tall, pitch)
    tones = np.full((rows, columns), 0.0 if ground is None else ground, dtype=np.float32)
    coverage = np.full((rows, columns), 0.0 if ground is None else 1.0, dtype=np.float32)
    return Picture(tones, coverage, SourceFacts("new", columns, rows, BIT_DEPTH, "gray", 25.4 / pitch))


def _pixels(wide: float, tall: float, pitch: float) -> tuple[int, int]:
    """Columns and rows; square pixels fit both sides exactly where their ratio lets them."""
    ratio = Fraction(wide).limit_denominator(FINEST_SHARE) / Fraction(tall).limit_denominator(FINEST_SHARE)
    across, up = ratio.as_integer_ratio()
    times = max(1, round(wide / pitch / across))
    if max(across, up) * times <= MORE_PIXELS * max(wide, tall) / pitch:
        return across * times + 1, up * times + 1
    columns, rows = (max(2, round(side / pitch) + 1) for side in (wide, tall))
    return columns, rows


def lettered(
    sheet: Picture, pitch: float, text: str, font: Path, tone: float, height: float | None = None
) -> tuple[Picture, float, float]:
    """The sheet with lettering in its middle, and how wide and tall that is, mm.

    Args:
        sheet: to letter.
        pitch: mm between its pixels.
        text: lines of it.
        font: file of the typeface.
        tone: of the letters.
        height: of the whole lettering, mm; as large as fits when None.

    Raises:
        BadValueError: it is empty, or does not fit.
    """
    layer = compose.lettering_layer(text, font, tone)
    room_tall, room_wide = ((side - 1) * pitch for side in sheet.shape)
    wide, tall = lettering_mm(layer, (room_wide, room_tall), height)
    place = compose.Place((sheet.shape[1] - 1) / 2, (sheet.shape[0] - 1) / 2, wide / pitch, tall / pitch)
    return compose.lay(sheet, layer, place, "replace"), wide, tall


def lettering_mm(layer: compose.Overlay, room: tuple[float, float], height: float | None) -> tuple[float, float]:
    """Width and height of lettering on a sheet.

    Args:
        layer: the lettering.
        room: width and height of the sheet, mm.
        height: of the whole lettering, mm; as large as fits when None.

    Raises:
        BadValueError: it does not fit, or has no height.
    """
    rows, columns = layer.cover.shape
    room_wide, room_tall = room
    fits = min(LARGEST_SHARE * room_tall, LARGEST_SHARE * room_wide * rows / columns)
    tall = fits if height is None else height
    wide = tall * columns / rows
    if tall > room_tall or wide > room_wide:
        raise BadValueError(
            f"Lettering {tall:g} mm tall would be {wide:.1f} mm wide, on a sheet of {room_wide:.0f} × "
            f"{room_tall:.0f} mm; up to {min(room_tall, room_wide * rows / columns):.1f} mm tall would be accepted."
        )
    if not tall > 0:
        raise BadValueError(f"Lettering {tall:g} mm tall cannot be seen; more than 0 is needed.")
    return wide, tall
