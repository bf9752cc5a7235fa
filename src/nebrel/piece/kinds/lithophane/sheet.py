"""The sheet of a lithophane before it is bent: the picture as thicknesses, its borders, the name on them."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.forms import Flat, Form
from nebrel.core.bent.sheet import Border, Sheet, inscribe, lay_out
from nebrel.core.errors import BadValueError
from nebrel.core.height.spread import spread_light
from nebrel.core.height.transmission import close_seam
from nebrel.core.picture.ops.compose import lettering_layer
from nebrel.core.proof.transmitted_thickness import OFF_U, OFF_V
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.abilities import LitView
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.parts import NameText
from nebrel.piece.ops.compose import font_file

LIT_PX = 720
FEWEST_COLUMNS = 128


@dataclass(frozen=True)
class Wanted:
    """A sheet with the tones that it is to show.

    Attributes:
        sheet, form: what is made.
        tones: float32 (H, W) of the picture, top row first, its ends eased into each other where it runs round.
        low: v of the picture's lower edge, mm.
        seam_step: largest jump of tones between its ends before that.
        blanks: whether some of the picture is blank.
        cropped: share of its height that has no room.
    """

    sheet: Sheet
    form: Form
    tones: NDArray[np.float32]
    low: float
    seam_step: float
    blanks: bool
    cropped: float


def lit_size(form: Form, longest_px: int) -> tuple[int, int]:
    """Rows and columns of the grid that a sheet is looked at on."""
    most = LIT_PX if longest_px == FULL else min(longest_px, LIT_PX)
    scale = most / max(form.width, form.height)
    return max(16, round(form.height * scale)), max(16, round(form.width * scale))


def rim_mm(document: LithophaneDocument) -> float:
    """Thickness of the border, mm; as the thickest wall where there is none."""
    rim = document.parts.rim
    return rim.thickness_mm if rim.on else document.glow.thickest_mm


def form_of(document: LithophaneDocument) -> tuple[Form, float, float, float]:
    """The form, the height of the picture on it, and the borders below and on top, mm."""
    rim = document.parts.rim
    top = rim.width_mm if rim.on and rim.top else 0.0
    bottom = rim.width_mm if rim.on and rim.bottom else 0.0
    rows, columns = extent_of(document).shape
    picture = document.width_mm * (rows - 1) / max(columns - 1, 1)
    form = document.form.to_core(picture + top + bottom)
    if document.form.upright_mm is not None:
        bottom, top = form.up_from(0.0, bottom), form.height - form.up_from(form.height, -top)
        if form.pole:
            top = 0.0
    return form, picture, bottom, top


def wanted_sheet(document: LithophaneDocument, tones: NDArray[np.float32], blanks: bool) -> Wanted:
    """The sheet of a picture whose blanks are white.

    Raises:
        BadValueError: the borders leave nothing, or the name has no room.
    """
    form, height, bottom, top = form_of(document)
    seam_step = 0.0
    if not isinstance(form, Flat):
        tones = _fine(tones)
    if form.around:
        seam_step = float(np.abs(tones[:, 0] - tones[:, -1]).max())
        tones = close_seam(tones, document.form.seam_mm / form.width * tones.shape[1])
    left, right = document.side_borders_mm
    border = Border(left, right, top, bottom, rim_mm(document))
    low = document.form.picture_low(form, height, bottom)
    glow = document.glow
    spread_px = glow.spread_mm * (tones.shape[1] - 1) / document.width_mm if glow.sharpen else 0.0
    thickness = glow.to_core().thickness(tones, spread_px, form.around)
    reach = float(max(thickness.max(), border.thickness)) * (-1 if document.form.inside else 1)
    sheet = lay_out(thickness, form.width, form.height, border, low, form.corners(reach))
    if form.around:
        sheet.thickness[:, -1] = sheet.thickness[:, 0]
    if document.parts.name.on:
        sheet = _add_name(sheet, form, document.parts.name, border)
    shown = sheet.window[3] - sheet.window[1]
    return Wanted(sheet, form, tones, low, seam_step, blanks, max(0.0, 1 - shown / max(height, 1e-9)))


def _fine(tones: NDArray[np.float32]) -> NDArray[np.float32]:
    """The picture with lines between its own, where it has too few for a wall to bend."""
    from scipy import ndimage

    rows, columns = tones.shape
    times = math.ceil(FEWEST_COLUMNS / (columns - 1))
    if times == 1:
        return tones
    down, across = (np.arange((side - 1) * times + 1) / times for side in (rows, columns))
    at = np.meshgrid(down, across, indexing="ij")
    return np.asarray(ndimage.map_coordinates(tones, at, order=1, mode="nearest"), dtype=np.float32)


def _add_name(sheet: Sheet, form: Form, name: NameText, border: Border) -> Sheet:
    width = border.bottom if name.side == "bottom" else border.top
    if width <= 0:
        raise BadValueError("The name needs a border on its side; switch the border on, or choose the other side.")
    if name.height_mm > width:
        raise BadValueError(
            f"The letters are {name.height_mm:g} mm high, the border {width:g} mm; letters up to {width:g} mm fit."
        )
    layer = lettering_layer(name.text or "", font_file("plain"), 1.0)
    rows, columns = layer.cover.shape
    long = name.height_mm * columns / rows
    room = form.width / 2 if form.around else form.width - 2 * max(border.left, border.right, 1.0)
    if long > room:
        raise BadValueError(
            f"The name is {long:.1f} mm long and the border has room for {room:.1f} mm; "
            f"letters up to {name.height_mm * room / long:.1f} mm high, or a shorter name, would fit."
        )
    middle = width / 2 if name.side == "bottom" else form.height - width / 2
    box = (
        form.width / 2 - long / 2, middle - name.height_mm / 2, form.width / 2 + long / 2, middle + name.height_mm / 2,
    )  # fmt: skip
    return inscribe(sheet, layer.cover, box, -name.depth_mm if name.sunk else name.depth_mm)


def _cells(form: Form, size_px: tuple[int, int]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    rows, columns = size_px
    u = (np.arange(columns) + 0.5 + OFF_U) * form.width / columns
    v = form.height - (np.arange(rows) + 0.5 + OFF_V) * form.height / rows
    return u, v


def on_cells(sheet: Sheet, form: Form, size_px: tuple[int, int]) -> NDArray[np.float32]:
    """Thickness that is asked for at the cells of a grid over the sheet, mm."""
    from scipy import ndimage

    u, v = _cells(form, size_px)
    column = np.interp(u, sheet.u, np.arange(len(sheet.u)))
    row = np.interp(-v, -sheet.v, np.arange(len(sheet.v)))
    grid = np.meshgrid(row, column, indexing="ij")
    return np.asarray(ndimage.map_coordinates(sheet.thickness, grid, order=1, mode="nearest"), dtype=np.float32)


def tones_at(wanted: Wanted, size_px: tuple[int, int]) -> NDArray[np.float32]:
    """Tones that are wanted at the cells of a grid over the sheet; NaN on the border."""
    from scipy import ndimage

    u, v = _cells(wanted.form, size_px)
    left, bottom, right, top = wanted.sheet.window
    rows, _ = wanted.tones.shape
    pitch = wanted.sheet.pitch
    grid = np.meshgrid(rows - 1 - (v - wanted.low) / pitch, (u - left) / pitch, indexing="ij")
    tones = ndimage.map_coordinates(wanted.tones, grid, order=1, mode="nearest").astype(np.float32)
    tones[~_within(v, bottom, top), :] = np.nan
    tones[:, ~_within(u, left, right)] = np.nan
    return tones


def _within(lines: NDArray[np.float64], low: float, high: float) -> NDArray[np.bool_]:
    """Which lines lie in a span; the one nearest to it where it is narrower than the lines are apart."""
    inside = (lines >= low) & (lines <= high)
    if not inside.any():
        inside[np.abs(lines - (low + high) / 2).argmin()] = True
    return inside


def lit_view(
    document: LithophaneDocument, through: NDArray[np.float32], tones: NDArray[np.float32], form: Form
) -> LitView:
    """A sheet in light that spreads in the wall as far as the document says.

    Args:
        document: the piece.
        through: float32 (h, w) mm of material on the way of the light.
        tones: float32 (h, w) that are wanted there.
        form: that the sheet is bent over.
    """
    size, radius, seen = (form.width, form.height), document.glow.spread_mm, through
    if radius > 0:
        rows, columns = through.shape
        attenuation = np.float32(document.glow.material.attenuation_per_mm)
        there = np.isfinite(through) & (through > 0)
        light = np.exp(-attenuation * np.where(there, through, 0)).astype(np.float32)
        radius_px = (radius * columns / form.width, radius * rows / form.height)
        spread = spread_light(light, radius_px, there, form.around)
        seen = np.where(there, -np.log(np.maximum(spread, 1e-30)) / attenuation, through).astype(np.float32)
    return LitView(through, seen, tones, size)
