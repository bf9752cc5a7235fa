"""What is said about pieces made of outlines before they are built."""

from nebrel.core.picture.ink import InkGuess
from nebrel.core.proof import Finding
from nebrel.core.proof.finding import Fix
from nebrel.core.proof.makeable import bed_findings
from nebrel.core.proof.outline_audit import Use, crumbs, edge_findings, region_findings
from nebrel.core.region.curves import Figure
from nebrel.piece.kinds.outline.document import CutterPart, OutlineDocument, RaisedPart, TracedDocument
from nebrel.piece.kinds.outline.solids import MadeOfOutlines, cut_region, drawn_region

UNTRUE_TIMES = 1.5
TEARS_MM = {"cutter": 1.0, "stamp": 0.6}


def outline_findings(document: OutlineDocument, figure: Figure, made: MadeOfOutlines) -> tuple[Finding, ...]:
    """Findings about the curves, the areas between them and the solid made of them."""
    solid, line = document.solid, document.line_mm
    region = cut_region(figure, solid) if isinstance(solid, CutterPart) else drawn_region(figure)
    based = isinstance(solid, RaisedPart) and (solid.base.kind != "none" or solid.inlay)
    use = Use("based" if based else solid.kind, line, TEARS_MM.get(solid.kind, 0.0))
    return (
        *(crumbs(region) if isinstance(document, TracedDocument) else ()),
        *edge_findings(figure, line),
        *region_findings(region, use),
        *made.findings,
        *bed_findings(made.mesh, document.maker.to_core()),
    )


def close_call(guess: InkGuess | None) -> tuple[Finding, ...]:
    """What is to be told where the tone that is drawn was guessed, and the other one is nearly as likely."""
    if guess is None or not guess.close:
        return ()
    other = "bright" if guess.ink == "dark" else "dark"
    return (
        Finding(
            "caution",
            f"What is {guess.ink} is taken for what is drawn, but it may as well be what is {other}.",
            f"Both reach the picture's rim, and what is not drawn is left out. Sure by {guess.sure:.0%}.",
            "ink",
            value=round(guess.sure, 2),
            fix=Fix("ink", {"ink": other}, f"Take what is {other}"),
        ),
    )


def off_the_lines(off_mm: float, line_mm: float) -> tuple[Finding, ...]:
    """What is to be told where strokes along middles of lines do not cover what was drawn, measured on the strokes."""
    if off_mm <= line_mm / 2:
        return ()
    return (
        Finding(
            "caution",
            f"Strokes along the middles of lines are up to {off_mm:.2f} mm off what is drawn.",
            "Blots, wedges and filled areas are no lines; following one edge keeps their shape.",
            "off_the_lines",
            value=round(off_mm, 3),
            unit="mm",
        ),
    )


def left_out(remarks: tuple[str, ...]) -> tuple[Finding, ...]:
    """What of a drawing was not read."""
    return tuple(Finding("note", remark, "Everything else of the drawing is there.", "left_out") for remark in remarks)


def untrue(off_mm: float, tolerance_mm: float) -> tuple[Finding, ...]:
    """What is to be told of a solid that is off its curves by more than was asked, measured on the finished mesh."""
    if off_mm <= UNTRUE_TIMES * tolerance_mm:
        return ()
    return (
        Finding(
            "caution",
            f"Somewhere the solid is {off_mm:.2g} mm off its outlines, where {tolerance_mm:g} mm was asked.",
            "In very narrow places slopes and walls vanish; dropping specks or widening what is thin there would help.",
            "untrue",
            value=round(off_mm, 4),
            unit="mm",
        ),
    )
