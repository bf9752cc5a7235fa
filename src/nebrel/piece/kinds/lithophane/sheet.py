"""The sheet of a lithophane before it is bent: the picture as thicknesses, its borders, the name on them."""

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.forms import Flat, Form
from nebrel.core.bent.lined import lined
from nebrel.core.bent.sheet import Border, Sheet, inscribe, lay_out
from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField
from nebrel.core.height.modelling import worked
from nebrel.core.height.transmission import close_seam
from nebrel.core.picture.ops.compose import lettering_layer
from nebrel.core.proof.transmitted_thickness import OFF_U, OFF_V
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.coloured import LaidColours, lay_colours
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
        colours: the filters behind it; None without any.
        unlined: the sheet without lines where it has some, None where it has none.
        crowded: share of its jumps that are those of noise, which no line is drawn for.
    """

    sheet: Sheet
    form: Form
    tones: NDArray[np.float32]
    low: float
    seam_step: float
    blanks: bool
    cropped: float
    colours: LaidColours | None = None
    unlined: Sheet | None = None
    crowded: float = 0.0


def lit_size(form: Form, longest_px: int) -> tuple[int, int]:
    """Rows and columns of the grid that a sheet is looked at on."""
    most = LIT_PX if longest_px == FULL else min(longest_px, LIT_PX)
    scale = most / max(form.width, form.height)
    return max(16, round(form.height * scale)), max(16, round(form.width * scale))


def rim_mm(document: LithophaneDocument) -> float:
    """Thickness of the border, mm; as the thickest wall where there is none."""
    rim = document.parts.rim
    return rim.thickness_mm if rim.on else document.glow.thickest_mm


def covered_mm(document: LithophaneDocument) -> float:
    """How much of the picture's height parts stand behind, beyond the borders."""
    parts, rim = document.parts.to_core(), document.parts.rim
    above = rim.width_mm if rim.on and rim.top else 0.0
    below = rim.width_mm if rim.on and rim.bottom else 0.0
    lid = 0.0 if parts.lid is None else max(0.0, parts.lid.reaches - above)
    return lid + (0.0 if parts.bottom is None else max(0.0, parts.bottom.thickness - below))


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


def wanted_sheet(
    document: LithophaneDocument,
    tones: NDArray[np.float32],
    blanks: bool,
    rgb: NDArray[np.float32] | None,
    tolerance: float,
) -> Wanted:
    """The sheet of a picture whose blanks are white.

    Args:
        document: of the piece.
        tones: of the picture, float32 (H, W).
        blanks: whether some of it is blank.
        rgb: its colours where it has some.
        tolerance: mm, how true lines along which thickness jumps are to be.

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
    pitch = document.width_mm / (tones.shape[1] - 1)
    spread_px = glow.spread_mm / pitch if glow.sharpen else 0.0
    colours = lay_colours(document, tones, rgb, pitch)
    passed = None if colours is None else colours.passed
    thickness = glow.to_core().thickness(tones, spread_px, form.around, passed)
    thickness = _by_hand(thickness, document, form, (left, low), pitch)
    reach = float(max(thickness.max(), border.thickness)) * (-1 if document.form.inside else 1)
    sheet = lay_out(thickness, form.width, form.height, border, low, form.corners(reach))
    if form.around:
        sheet.thickness[:, -1] = sheet.thickness[:, 0]
    if document.parts.name.on:
        sheet = _add_name(sheet, form, document.parts.name, border)
    if colours is not None:
        sheet = replace(sheet, thickness=sheet.thickness + np.float32(document.behind_mm))
    cropped = max(0.0, 1 - (sheet.window[3] - sheet.window[1]) / max(height, 1e-9))
    plain = Wanted(sheet, form, tones, low, seam_step, blanks, cropped, colours)
    if not document.edges.on:
        return plain
    walled = lined(sheet, form, tolerance)
    unlined = None if walled.sheet.lines is None else sheet
    return replace(plain, sheet=walled.sheet, unlined=unlined, crowded=walled.crowded)


def _by_hand(
    thickness: NDArray[np.float32], document: LithophaneDocument, form: Form, corner: tuple[float, float], pitch: float
) -> NDArray[np.float32]:
    """Thickness after strokes over the sheet, between the thinnest and the thickest; round a form they come round.

    Args:
        thickness: of the picture, mm.
        document: of the piece.
        form: whose sheet the strokes lie on, in shares of it.
        corner: the picture's lower left corner on the sheet, mm.
        pitch: mm from sample to sample.
    """
    strokes = document.hand.to_core(form.width, form.height)
    if not strokes:
        return thickness
    turns = (-form.width, 0.0, form.width) if form.around else (0.0,)
    laid = [
        replace(stroke, places=stroke.places + np.array([turn - corner[0], -corner[1], 0.0]))
        for stroke in strokes
        for turn in turns
    ]
    field = worked(HeightField(thickness, np.ones_like(thickness), pitch), laid)
    return np.clip(field.heights, document.glow.thinnest_mm, document.glow.thickest_mm).astype(np.float32)


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


def beside_lines(sheet: Sheet, form: Form, size_px: tuple[int, int]) -> NDArray[np.bool_]:
    """Which cells of a grid over the sheet lie so near to lines that nothing is asked between samples there."""
    if sheet.lines is None:
        return np.zeros(size_px, dtype=np.bool_)
    return near_lines_at(sheet, *np.meshgrid(*_cells(form, size_px)))


def near_lines_at(sheet: Sheet, u: NDArray[np.float64], v: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which places of a sheet, mm, have a sample beside them that a line passes."""
    if sheet.lines is None:
        return np.zeros(u.shape, dtype=np.bool_)
    rows, columns = sheet.lines.crossed.shape
    column = np.clip(np.interp(u, sheet.u, np.arange(columns)).astype(np.int64), 0, columns - 2)
    row = np.clip(np.interp(-v, -sheet.v, np.arange(rows)).astype(np.int64), 0, rows - 2)
    near = sheet.lines.crossed | sheet.lines.free
    found: NDArray[np.bool_] = np.logical_or.reduce([near[row + y, column + x] for y in (0, 1) for x in (0, 1)])
    return found


def tones_at(wanted: Wanted, size_px: tuple[int, int]) -> NDArray[np.float32]:
    """Tones that are wanted at the cells of a grid over the sheet; NaN on the border."""
    return _at_cells(wanted, wanted.tones, size_px, np.nan)


def colours_at(wanted: Wanted, size_px: tuple[int, int]) -> NDArray[np.float32] | None:
    """Linear colours that are wanted there, float32 (h, w, 3), white on the border; None without filters."""
    if wanted.colours is None:
        return None
    aimed = wanted.colours.wanted
    return np.stack([_at_cells(wanted, aimed[..., part], size_px, 1.0) for part in range(3)], axis=-1)


def filters_at(wanted: Wanted, size_px: tuple[int, int]) -> NDArray[np.float32] | None:
    """Filters that are to lie there, float32 (h, w, K) mm; None without any."""
    if wanted.colours is None:
        return None
    laid = wanted.colours.filters
    return np.stack([_at_cells(wanted, laid[..., at], size_px, 0.0, 0) for at in range(laid.shape[2])], axis=-1)


def _at_cells(
    wanted: Wanted, values: NDArray[np.float32], size_px: tuple[int, int], beside: float, order: Literal[0, 1] = 1
) -> NDArray[np.float32]:
    """Values at samples of the picture as they are at the cells of a grid over the sheet; `beside` on the border."""
    from scipy import ndimage

    u, v = _cells(wanted.form, size_px)
    left, bottom, right, top = wanted.sheet.window
    rows, pitch = len(values), wanted.sheet.pitch
    grid = np.meshgrid(rows - 1 - (v - wanted.low) / pitch, (u - left) / pitch, indexing="ij")
    found = np.asarray(ndimage.map_coordinates(values, grid, order=order, mode="nearest"), dtype=np.float32)
    found[~_within(v, bottom, top), :] = beside
    found[:, ~_within(u, left, right)] = beside
    return found


def _within(lines: NDArray[np.float64], low: float, high: float) -> NDArray[np.bool_]:
    """Which lines lie in a span; the one nearest to it where it is narrower than the lines are apart."""
    inside = (lines >= low) & (lines <= high)
    if not inside.any():
        inside[np.abs(lines - (low + high) / 2).argmin()] = True
    return inside
