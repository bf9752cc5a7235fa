"""What is to be printed of a lithophane, as its audit sees it."""

from collections.abc import Callable

import numpy as np

from nebrel.core.bent.forms import Form
from nebrel.core.bent.parts import plan_of
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.contact import Contact, contact_of
from nebrel.core.proof.lit import shown_contrast, shown_tones
from nebrel.core.proof.transmission_audit import CONTACT_LINES, Wall
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.shown import Size
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.sheet import Wanted, rim_mm

# Findings on pictures that speak of heights and strokes; light needs neither flat grounds nor wide lines.
OF_RELIEFS = (
    "near-black", "near-white", "thin-stroke", "thin-gap", "busy-background", "specks", "low-resolution", "oversampled",
    "brightness-not-height",
)  # fmt: skip
# Forms whose lower edge leans.
LEANING = ("cone", "sphere", "dome")


def wall_of(document: LithophaneDocument, wanted: Wanted, size: Size, contact: Contact | None) -> Wall:
    """The wall of a document; `size` is that of its solid, mm, `contact` what it touches the bed with."""
    rule, form = document.glow.to_core(), wanted.form
    width, depth, thick = size
    low, high = wanted.sheet.window[1], wanted.sheet.window[3]
    stance, upright = _stance_mm(document, form, size)
    return Wall(
        form=document.form.words + (", relief inside" if document.form.inside else ""),
        size=(width, depth, thick),
        standing=form.standing,
        stance=stance,
        upright=upright,
        thinnest=rule.thinnest,
        thickest=rule.thickest,
        contrast=rule.contrast,
        shown_contrast=shown_contrast(shown_tones(rule.thickness(wanted.tones), rule.material, rule.thinnest)),
        tones_lost=float((wanted.tones < rule.darkest_tone).mean()),
        pitch=document.width_mm / (extent_of(document).shape[1] - 1),
        cropped=wanted.cropped,
        smallest_scale=float(form.scale(np.array([low, (low + high) / 2, high])).min()),
        seam_step=wanted.seam_step,
        blanks=wanted.blanks,
        steepest=_steepest_deg(form),
        covered=_covered_mm(document),
        contact=contact,
    )


def contact_below(document: LithophaneDocument, mesh: Callable[[], TriMesh]) -> Contact | None:
    """What the solid of a document touches the bed with, where its lower edge leans and nothing is under it."""
    parts = document.parts
    if document.form.kind not in LEANING or parts.foot.on or parts.bottom.on:
        return None
    return contact_of(mesh(), CONTACT_LINES * document.maker.to_core().line_width)


def _stance_mm(document: LithophaneDocument, form: Form, size: Size) -> tuple[float, float]:
    """How deep it stands, and how high."""
    width, depth, thick = size
    foot = 2 * document.parts.foot.margin_mm if document.parts.foot.on else 0.0
    if document.form.kind == "flat":
        return rim_mm(document) + foot, depth
    if document.form.kind == "arc":
        return min(width, depth), thick
    left, front, right, back = plan_of(form, rim_mm(document)).bounds
    return min(right - left, back - front) + foot, thick


def _steepest_deg(form: Form) -> float:
    """How far a standing form leans from upright where it leans most, degrees."""
    if not form.standing:
        return 0.0
    v = np.linspace(0, form.height, 200)
    _, normals, _ = form.at(np.zeros_like(v), v)
    return float(np.degrees(np.arcsin(np.abs(normals[:, 1]).max())))


def _covered_mm(document: LithophaneDocument) -> float:
    """How much of the picture's height parts stand behind, beyond the borders."""
    parts, rim = document.parts.to_core(), document.parts.rim
    above = rim.width_mm if rim.on and rim.top else 0.0
    below = rim.width_mm if rim.on and rim.bottom else 0.0
    lid = 0.0 if parts.lid is None else max(0.0, parts.lid.reaches - above)
    return lid + (0.0 if parts.bottom is None else max(0.0, parts.bottom.thickness - below))
