"""What is looked at of a lithophane's sheet: its plan, thicknesses along a line, how far faces are from it."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.bent.bend import is_out_of_place
from nebrel.core.bent.sheet import Sheet
from nebrel.core.height.transmission import TransmissionRule
from nebrel.core.picture.srgb import encode_srgb
from nebrel.core.proof.lit import Likeness, likeness, shown_tones
from nebrel.core.proof.section import Profile
from nebrel.core.proof.transmitted_thickness import OFF_U, OFF_V
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.abilities import LitView
from nebrel.piece.evaluation.shown import TONES, Plan, SectionCut, SeenThrough, shown_colours
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.sheet import Wanted, near_lines_at
from nebrel.piece.report import LitColoursReport, LitReport

SAMPLES = 500
THICKEST_MM = 40.0
RANGES, STRENGTHS = (0.6, 1.0, 1.5), (0.0, 0.5, 1.0)


def plan_of_sheet(document: LithophaneDocument, sheet: Sheet, view: LitView) -> Plan:
    """The unrolled sheet, its heights the material that light passes."""
    width, height = view.size_mm
    left, bottom, right, _ = sheet.window
    rows, columns = extent_of(document).shape
    tall = document.width_mm * rows / columns
    inside = np.isfinite(view.tones)
    to_sheet = [[(right - left) / width, 0.0, left / width], [0.0, tall / height, bottom / height], [0.0, 0.0, 1.0]]
    return Plan(
        tones=np.round(np.where(inside, view.tones, 0) * TONES).astype(np.uint16),
        heights=view.seen,
        size=(width, height, document.glow.thickest_mm + document.behind_mm),
        pitch=width / view.through.shape[1],
        backing=0.0,
        relief=document.glow.thickest_mm,
        full_px=(columns, rows),
        from_source=np.array(to_sheet),
        window=inside.astype(np.uint8),
        light=SeenThrough(view.through, shown_colours(view.colour), shown_colours(view.wanted)),
    )


def section_through(view: LitView, sheet: Sheet, start: tuple[float, float], end: tuple[float, float]) -> SectionCut:
    """Thickness along a line of the unrolled sheet, mm from its lower left corner, asked and measured through it."""
    from scipy import ndimage

    width, height = view.size_mm
    share = np.linspace(0, 1, SAMPLES)
    u, v = (start[axis] + (end[axis] - start[axis]) * share for axis in (0, 1))
    length = float(np.hypot(end[0] - start[0], end[1] - start[1]))
    asked = _asked(sheet, u, v)
    rows, columns = view.through.shape
    x, y = u / width * columns - 0.5 - OFF_U, (height - v) / height * rows - 0.5 - OFF_V
    made = ndimage.map_coordinates(view.through, [y, x], order=1, mode="nearest")
    along = share * length
    outline = [(0.0, 0.0), *zip(along.tolist(), made.tolist(), strict=True), (length, 0.0), (0.0, 0.0)]
    return SectionCut(length, Profile(along, asked.astype(np.float64)), [outline])


def likeness_of(view: LitView, rule: TransmissionRule) -> Likeness:
    """How well a lit piece matches its picture."""
    shown = shown_tones(view.seen, rule.material, rule.thinnest)
    inside = np.isfinite(view.tones)
    rows, columns = np.flatnonzero(inside.any(axis=1)), np.flatnonzero(inside.any(axis=0))
    part = (slice(rows[0], rows[-1] + 1), slice(columns[0], columns[-1] + 1))
    tones = view.tones[part]
    return likeness(shown[part], encode_srgb(rule.wanted(tones)), tones, rule.darkest_tone)


def lit_report(view: LitView, alike: Likeness, colours: LitColoursReport | None) -> LitReport:
    """Measures of a lit piece."""
    shown = view.through[np.isfinite(view.tones) & (view.through > 0)]
    return LitReport(
        thinnest_mm=round(float(shown.min()), 4),
        thickest_mm=round(float(shown.max()), 4),
        contrast=round(alike.contrast, 3),
        tones_lost=round(alike.tones_lost, 5),
        ssim_within_reach=round(alike.within_reach, 5),
        ssim=round(alike.overall, 5),
        mean_difference=round(alike.mean_difference, 5),
        colours=colours,
    )


def off_sheet(wanted: Wanted, inside: bool, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far places on a solid are from the sheet that was asked for, float64 (N,) mm; NaN where nothing was.

    Args:
        wanted: the sheet and its form.
        inside: whether thickness grows inwards.
        places: float64 (N, 3) mm, as the form is placed.
    """
    form, sheet = wanted.form, wanted.sheet
    u, v, away = form.unrolled(is_out_of_place(form, places)).T
    if inside:
        away = -away
    relief = away > float(sheet.thickness.min()) / 2
    on = (v > 0) & (v < form.height) & (u > 0) & (u < form.width) & (away < float(sheet.thickness.max()) + 0.1)
    on &= ~(relief & near_lines_at(sheet, u, v))
    return np.where(on, np.abs(away - np.where(relief, _asked(sheet, u, v), 0.0)), np.nan)


def _asked(sheet: Sheet, u: NDArray[np.float64], v: NDArray[np.float64]) -> NDArray[np.float32]:
    """Thickness of a sheet at places of it, mm."""
    from scipy import ndimage

    column = np.interp(u, sheet.u, np.arange(len(sheet.u)))
    row = np.interp(-v, -sheet.v, np.arange(len(sheet.v)))
    found: NDArray[np.float32] = ndimage.map_coordinates(sheet.thickness, [row, column], order=1, mode="nearest")
    return found


def varied_documents(document: LithophaneDocument) -> list[LithophaneDocument]:
    """The same with other ranges of thickness, each with several strengths of the light rule."""
    glow, made = document.glow, []
    for spread in RANGES:
        thickest = min(round(glow.thinnest_mm + spread * (glow.thickest_mm - glow.thinnest_mm), 2), THICKEST_MM)
        for strength in STRENGTHS:
            part = glow.model_copy(update={"thickest_mm": thickest, "strength": strength, "rule": "light"})
            made.append(document.model_copy(update={"glow": part}))
    return made
