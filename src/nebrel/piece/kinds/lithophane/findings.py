"""What is to be printed of a lithophane, as its audit sees it."""

import math
from collections.abc import Callable

import numpy as np

from nebrel.core.bent.forms import Form
from nebrel.core.bent.parts import plan_of
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.contact import Contact, contact_of
from nebrel.core.proof.finding import CHANGE, Finding, Fix
from nebrel.core.proof.lit import shown_contrast, shown_tones
from nebrel.core.proof.transmission_audit import CONTACT_LINES, Wall
from nebrel.piece.documents.extent import extent_of
from nebrel.piece.evaluation.shown import Size
from nebrel.piece.kinds.lithophane.coloured import OF_BODIES
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.sheet import Wanted, covered_mm, rim_mm
from nebrel.piece.report import LitColoursReport

# Findings on pictures that speak of heights and strokes; light needs neither flat grounds nor wide lines.
OF_RELIEFS = (
    "near-black", "near-white", "thin-stroke", "thin-gap", "busy-background", "specks", "low-resolution", "oversampled",
    "brightness-not-height",
)  # fmt: skip
# Share of the picture whose colours may be far off.
NOTABLE_FAR = 0.1
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
        covered=covered_mm(document),
        contact=contact,
        behind=document.behind_mm,
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


def colour_findings(
    document: LithophaneDocument, coloured: bool, report: LitColoursReport | None
) -> tuple[Finding, ...]:
    """What to know about colour layers that are switched on.

    Args:
        document: the piece.
        coloured: whether its picture has colours.
        report: what is measured of them, where that is known.
    """
    colours, found = document.colours, []
    if not colours.on:
        return ()
    off = Fix(CHANGE, {"colours": {"on": False}}, "Leave colours out")
    if document.bands is None:
        flat = Fix(CHANGE, {"form": {"kind": "flat"}}, "Make it flat")
        return (
            Finding(
                "caution", f"The {document.form.words.lower()} form has no room for colour layers; it is made without.",
                "They lie flat behind a flat wall.", "colours-bent", fix=flat,
            ),
        )  # fmt: skip
    if not coloured:
        found.append(
            Finding(
                "caution", "The picture is gray, so its colour layers stay empty.",
                "They only make the wall thicker; a colour picture fills them.", "colours-gray", fix=off,
            )
        )  # fmt: skip
    if document.delivery.format not in OF_BODIES:
        fix = Fix(CHANGE, {"delivery": {"format": "3mf"}}, "Deliver 3MF")
        found.append(
            Finding(
                "caution", f"{document.delivery.format.upper()} cannot tell one colour's body from another's.",
                "The file would hold the whole as one body; 3MF, GLB and OBJ keep a body for each colour.",
                "colours-lost", fix=fix,
            )
        )  # fmt: skip
    if not math.isclose(document.maker.layer_mm, colours.layer_mm) and (colours.layer_mm < document.maker.layer_mm):
        found.append(
            Finding(
                "caution",
                f"Colour layers are {colours.layer_mm:g} mm and the maker's layers {document.maker.layer_mm:g} mm.",
                "Print at least the colour layers that thin, or none of them comes out as measured.", "colours-layer",
                value=colours.layer_mm, unit="mm",
            )
        )  # fmt: skip
    unsound = [] if report is None else [body.name for body in report.bodies if not body.sound]
    if unsound:
        found.append(
            Finding(
                "fault", f"The body of {' and that of '.join(unsound)} is not sound by itself.",
                "Another size of dots, or another height of layers, parts them otherwise.", "colours-unsound",
            )
        )  # fmt: skip
    if report is not None and coloured:
        far = report.far_off
        found.append(
            Finding(
                "caution" if far > NOTABLE_FAR else "note",
                f"Lit, its colours are {report.mean_difference:.1f} off on average, and by more than 10 on {far:.0%}.",
                "1 is about the least that the eye sees side by side; more layers, or tints that keep back more, reach "
                "stronger colours.",
                "colours-off", value=report.mean_difference,
            )
        )  # fmt: skip
    return tuple(found)


def colour_rows(document: LithophaneDocument) -> tuple[tuple[str, str], ...]:
    """What the print recipe tells about colour layers."""
    bands = document.bands
    if bands is None:
        return ()
    told = [
        (f"  {each.name[:20]}", f"layers {at * bands.layers + 1} to {(at + 1) * bands.layers} from below")
        for at, each in enumerate(bands.filters)
    ]  # fmt: skip
    return (("Colour layers", f"{len(told) * bands.layers} of {bands.layer:g} mm, lowest"), *told)
