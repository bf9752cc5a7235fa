"""What is said about decorations on a model."""

import math
from collections.abc import Sequence
from itertools import zip_longest

from nebrel.core.proof.finding import Finding, Fix
from nebrel.core.surface.layout_error import NOTICED_OFF
from nebrel.core.surface.outcome import Decorated, Outcome

NOTICED_STRETCH = 0.08
BAD_STRETCH = 0.3
NOTICED_MISSING = 0.005
# Between samples a depth may be off by a little more than at them.
UNTRUE_TIMES = 3.0
TOLD_WALL_MM = 30.0
LEAST_TOLD_MM = 0.005


UNCURVED = Finding(
    "note",
    "Walls of a picture follow its pixels: along curves its depths would have been less true.",
    "A smoother picture with clear edges, or a coarser tolerance, lets walls follow curves.",
    "uncurved",
)


def decoration_findings(
    decorated: Decorated,
    names: list[str],
    thinnest: float,
    tolerance: float,
    round_edges: Sequence[Fix | None] = (),
    repair: Fix | None = None,
) -> tuple[Finding, ...]:
    """Findings about a decorated model.

    Args:
        decorated: what came of it.
        names: of the decorations, for people.
        thinnest: mm of wall that sunk decorations are to leave.
        tolerance: mm that depths may be off.
        round_edges: for every decoration, what lets it go on round a sharp edge, where that can be pressed.
        repair: what mends the model first.
    """
    found: list[Finding] = []
    for name, outcome, round_edge in zip_longest(names, decorated.outcomes, round_edges):
        found += [*_outcome_findings(name, outcome, round_edge), *_place_findings(name, outcome)]
    found += [*_limit_findings(decorated), *_wall_findings(decorated, thinnest), *_join_findings(decorated, repair)]
    return (*found, *_depth_findings(decorated, tolerance), *([UNCURVED] if decorated.uncurved else []))


def _depth_findings(decorated: Decorated, tolerance: float) -> list[Finding]:
    off = 0.0 if decorated.deviation is None else decorated.deviation.max
    if off <= UNTRUE_TIMES * tolerance:
        return []
    return [
        Finding(
            "caution",
            f"Somewhere a decoration is {off:.2g} mm off its depth, where {tolerance:g} mm was asked.",
            "Depths are taken back where the skin would run through itself, at creases and at its ends; a smoother "
            "place, less depth or a smaller width keeps them.",
            "depth_off",
            value=round(off, 4),
            unit="mm",
        )
    ]


def _outcome_findings(name: str, outcome: Outcome, round_edge: Fix | None) -> list[Finding]:
    found = []
    if outcome.missing > NOTICED_MISSING:
        why = (
            "The skin bends sharply there, and what is beyond that edge is left out; it can go on round the edge."
            if outcome.rim
            else "The skin ends there, at an edge or a hole; what has no skin under it is left out."
            if outcome.open_edge
            else "The model is smaller than the decoration there, or its skin meets itself; what has no skin under it "
            "is left out. A smaller width or another place would show all of it."
        )
        found.append(
            Finding(
                "caution",
                f"{outcome.missing:.0%} of “{name}” reaches beyond the skin.",
                why,
                "beyond_skin",
                outcome.where,
                100 * outcome.missing,
                "%",
                round_edge if outcome.rim else None,
            )
        )
    found += _layout_findings(name, outcome)
    if outcome.covered < 1 - NOTICED_MISSING:
        what, why = (
            (
                f"Rows of “{name}” end at {outcome.row_ends:,} places and fade out there; it covers "
                f"{outcome.covered:.0%} of what is meant.",
                "The skin narrows there, or bends both ways, so that rows of equal tiles cannot all go on; smaller "
                "tiles, another direction, or wrapping it leave less bare.",
            )
            if outcome.row_ends
            else (
                f"“{name}” covers {outcome.covered:.0%} of what is meant.",
                "It fades out at sharp edges over which its rows do not go on."
                if outcome.follows
                else "The rest has another shape, or looks away; a texture that follows the skin covers all of it.",
            )
        )
        where, share = outcome.where, 100 * outcome.covered
        found.append(Finding("note", what, why, "covered_skin", where, share, "%"))
    if outcome.most_stretch > NOTICED_STRETCH:
        bad = outcome.most_stretch > BAD_STRETCH
        found.append(
            Finding(
                "caution" if bad else "note",
                f"“{name}” is stretched or squeezed by up to {outcome.most_stretch:.0%} where it lies.",
                "The skin curves both ways there, so no flat picture fits it exactly; a smaller width stretches less.",
                "stretch",
                outcome.where,
                100 * outcome.most_stretch,
                "%",
            )
        )
    if outcome.creased is not None:
        found.append(
            Finding(
                "caution",
                f"“{name}” lies over a sharp crease and follows it.",
                "Its depth is the same on both sides; at the crease itself the edge stands out further. Move it aside "
                "if that is not wanted.",
                "crease",
                outcome.creased,
            )
        )
    return found


def _place_findings(name: str, outcome: Outcome) -> list[Finding]:
    """What is said about where a decoration lies, beside where it was to lie."""
    found = []
    if outcome.undecided or outcome.away > outcome.width:
        found.append(
            Finding(
                "caution",
                f"“{name}” lies {outcome.away:,.1f} mm from the place that was given."
                + (" Other places of the skin were as near to it." if outcome.undecided else ""),
                "The nearest place of the skin is taken; a place on the skin says which one is meant.",
                "place",
                outcome.where,
                outcome.away,
                "mm",
            )
        )
    if outcome.up_says_nothing:
        found.append(
            Finding(
                "caution",
                f"The way up of “{name}” points straight out of the skin there, so it says nothing; Y or X stands in.",
                "A direction along the skin says where its top points.",
                "up",
                outcome.where,
            )
        )
    if outcome.copies < outcome.copies_asked:
        found.append(
            Finding(
                "caution",
                f"{outcome.copies:,} of {outcome.copies_asked:,} copies of “{name}” found room.",
                "The others would lie beyond the end of the skin, or nearer to others than asked; fewer, or smaller "
                "distances, would all be laid.",
                "copies",
                outcome.where,
                outcome.copies,
            )
        )
    return found


def _layout_findings(name: str, outcome: Outcome) -> list[Finding]:
    layout = outcome.layout
    if layout is None or layout.off <= NOTICED_OFF:
        return []
    wide, high = layout.laid_mm
    asked_wide, asked_high = layout.asked_mm
    return [
        Finding(
            "caution",
            f"“{name}” lies {wide:.1f} × {high:.1f} mm on {layout.area:.1%} of its area, where {asked_wide:.1f} × "
            f"{asked_high:.1f} mm was asked.",
            "The skin curves both ways there, or comes round and meets itself, so not all of it keeps its size; a "
            "smaller width, or wrapping it, keeps more.",
            "layout",
            outcome.where,
            100 * layout.off,
            "%",
        )
    ]


def _limit_findings(decorated: Decorated) -> list[Finding]:
    found = []
    if decorated.fold.corners:
        found.append(
            Finding(
                "caution",
                f"The skin bends too tightly for the depth; on {_mm2(decorated.fold.area)} it is up to "
                f"{decorated.fold.by:.2f} mm less.",
                "Deeper, the skin would fold over itself; a smaller depth or a flatter place keeps it even.",
                "fold",
                decorated.fold.where,
                decorated.fold.by,
                "mm",
            )
        )
    if decorated.eased.corners:
        found.append(
            Finding(
                "caution",
                f"On {_mm2(decorated.eased.area)} the depth is up to {decorated.eased.by:.2f} mm less, where the skin "
                "would run through itself.",
                "Two moved parts come too near each other there; a smaller depth or another place keeps it even.",
                "fold",
                decorated.eased.where,
                decorated.eased.by,
                "mm",
            )
        )
    return found


def _mm2(area: float) -> str:
    return f"{area:,.1f} mm²" if area >= 0.1 else f"{area:.2g} mm²"


def _wall_findings(decorated: Decorated, thinnest: float) -> list[Finding]:
    found = []
    wall = decorated.wall
    if wall.corners:
        found.append(
            Finding(
                "caution",
                f"The wall is too thin for the depth; on {_mm2(wall.area)} it is up to {wall.by:.2f} mm less, to leave "
                f"{thinnest:.2f} mm.",
                "Sunk deeper, the wall would be too thin to hold; allow a thinner wall or choose a thicker place.",
                "thinnest_wall",
                wall.where,
                wall.left if math.isfinite(wall.left) else None,
                "mm",
            )
        )
    elif decorated.deepest > LEAST_TOLD_MM and decorated.thinnest_wall < TOLD_WALL_MM:
        found.append(
            Finding(
                "note",
                f"At {decorated.deepest:.2f} mm deep the wall leaves {decorated.thinnest_wall:.2f} mm here.",
                f"At least {thinnest:.2f} mm are kept.",
                "thinnest_wall",
                decorated.thinnest_at,
                decorated.thinnest_wall,
                "mm",
            )
        )
    return found


def _join_findings(decorated: Decorated, repair: Fix | None) -> list[Finding]:
    found = []
    if decorated.joined == "boolean":
        found.append(
            Finding(
                "note",
                "The decoration runs into another part of the model; both are joined by an exact boolean.",
                "It reaches a little below the skin, so no two faces coincide.",
                "joined",
            )
        )
    elif decorated.joined == "displacement":
        found.append(
            Finding(
                "note",
                f"The skin itself is moved; {decorated.untouched:,} triangles stay exactly as they came.",
                "Triangles are added only where the decoration is.",
                "joined",
            )
        )
    if decorated.inside_out:
        found.append(
            Finding(
                "caution",
                "The faces of the model look inwards, so what is raised goes into it.",
                "Repair the model first; that turns its faces.",
                "inside_out",
            )
        )
    came = decorated.came_with
    if came.words:
        found.append(
            Finding(
                "caution",
                f"The model came with {came.words}; decorated, it has them still.",
                "No fault is new. Its skin is raised as a surface; repair the model first where a solid is needed.",
                "closed" if came.open_edges else "manifold",
                fix=repair,
            )
        )
    return found


def stroke_findings(left_out: int) -> tuple[Finding, ...]:
    """What is said about strokes of the brush that could not be followed."""
    if not left_out:
        return ()
    return (
        Finding(
            "caution",
            f"{left_out:,} {'stroke' if left_out == 1 else 'strokes'} of the brush left out.",
            "The surface would have crossed itself there; a weaker or smaller brush would be followed.",
            "strokes",
        ),
    )
