"""What is said of a panel's picture, by what its heights follow."""

from dataclasses import replace

from nebrel.core.height.lined import MOST_LINED
from nebrel.core.picture import Picture
from nebrel.core.proof.finding import CHANGE, Finding, Fix
from nebrel.piece.kinds.panel.document import PanelDocument

BRIGHTNESS = "brightness-not-height"
# What is told of tones, which count for nothing where heights follow depth, and little on a form of it.
OF_TONES = (BRIGHTNESS, "tone_range", "near-white", "near-black", "few-levels", "terracing", "clipped")
OF_FINE_TONES = ("noise", "jpeg-blocks", "specks", "low-resolution", "oversampled")
# Steps may take up so much of a relief, and are lowered to so much of it.
MOST_STEP, FEWER_STEP = 0.5, 0.1
FOLLOW_DEPTH = "Take the form from depth"
IDLE = {
    "draft": ("The draft changes nothing: no wall is steeper than it asks for.", "It can be switched off."),
    "rounding": ("The rounding changes nothing: no upper edge is sharper than it asks for.", "It can be switched off."),
}
IN_COLOUR = Finding(
    "caution",
    "Brightness is not height: the picture is a photograph in colour, whose tones are light and paint.",
    "What is dark sinks in and what is bright towers, whatever its form. Heights can follow how near everything is, "
    "with fine form from tones on that.",
    BRIGHTNESS,
)
WHOLE_SCENE = Finding(
    "note",
    "Nothing is cut out of the picture, so all of it is shown as a scene; what takes up much of its edge counts as "
    "what is behind.",
    "One thing before a ground comes out rounder: cut it out. Strokes and the list of parts say what is nearer.",
    "whole_scene",
    fix=Fix("cut-out", {}, "Cut it out"),
)


def with_depth_offered(found: tuple[Finding, ...], document: PanelDocument) -> tuple[Finding, ...]:
    """Findings about a picture; what follows light and paint where its form could be followed offers that."""
    form = document.height.form
    if form.of == "tones":
        fix = Fix(CHANGE, {"height": {"form": {"of": "both", "relief_mm": document.height.tallest_mm}}}, FOLLOW_DEPTH)
        return tuple(replace(each, fix=fix) if each.measure == BRIGHTNESS else each for each in found)
    idle = OF_TONES if form.of == "both" else OF_TONES + OF_FINE_TONES
    return tuple(each for each in found if each.measure not in idle)


def tall_steps(document: PanelDocument) -> tuple[Finding, ...]:
    """What to know where steps leave little or no room for the form."""
    form = document.height.form
    if not form.on or form.step_mm <= MOST_STEP * form.relief_mm:
        return ()
    told = Finding(
        "caution",
        f"Steps of {form.step_mm:g} mm leave little of a relief of {form.relief_mm:g} mm for the form.",
        "Lower steps, or a taller relief, show how parts are rounded.",
        "tall_steps",
        value=form.step_mm,
        unit="mm",
        fix=Fix(CHANGE, {"height": {"form": {"step_mm": round(FEWER_STEP * form.relief_mm, 3)}}}, "Lower the steps"),
    )
    return (told,)


def about_heights(found: tuple[Finding, ...], document: PanelDocument, picture: Picture) -> tuple[Finding, ...]:
    """What was found, with what is said of how its heights come about."""
    return (*with_depth_offered(found, document), *tall_steps(document), *along_pixels(document, picture))


def along_pixels(document: PanelDocument, picture: Picture) -> tuple[Finding, ...]:
    """What is said where a picture is too large for edges as curves."""
    rows, columns = picture.shape
    if not document.height.edges.on or rows * columns <= MOST_LINED:
        return ()
    return (
        Finding(
            "note",
            f"The picture has more than {MOST_LINED // 1_000_000} million pixels; edges follow them, and not curves.",
            "Teeth are as small as its pixels are. A smaller picture gets curves along its edges.",
            "edges-along-pixels",
        ),
    )
