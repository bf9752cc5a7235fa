"""What is said about decorations on a model."""

import math

from nebrel.core.proof.finding import Finding
from nebrel.core.surface.decorate import Decorated, Outcome
from nebrel.core.surface.layout_error import NOTICED_OFF

NOTICED_STRETCH = 0.08
BAD_STRETCH = 0.3
NOTICED_MISSING = 0.005
# Between samples a depth may be off by a little more than at them.
UNTRUE_TIMES = 3.0
TOLD_WALL_MM = 30.0
LEAST_TOLD_MM = 0.005


def decoration_findings(
    decorated: Decorated, names: list[str], thinnest: float, tolerance: float
) -> tuple[Finding, ...]:
    """Findings about a decorated model.

    Args:
        decorated: what came of it.
        names: of the decorations, for people.
        thinnest: mm of wall that sunk decorations are to leave.
        tolerance: mm that depths may be off.
    """
    found: list[Finding] = []
    for name, outcome in zip(names, decorated.outcomes, strict=True):
        found += _outcome_findings(name, outcome)
    found += [*_limit_findings(decorated), *_wall_findings(decorated, thinnest), *_join_findings(decorated)]
    return (*found, *_depth_findings(decorated, tolerance))


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


def _outcome_findings(name: str, outcome: Outcome) -> list[Finding]:
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
            )
        )
    found += _layout_findings(name, outcome)
    if outcome.covered < 1 - NOTICED_MISSING:
        found.append(
            Finding(
                "note",
                f"“{name}” covers {outcome.covered:.0%} of the skin.",
                "The rest has another shape, or cannot be laid flat together with it; the same texture laid there once "
                "more would cover it.",
                "covered_skin",
                outcome.where,
                100 * outcome.covered,
                "%",
            )
        )
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
                f"The skin bends too tightly for the depth; it is {decorated.fold.by:.2f} mm less in places.",
                "Deeper, the skin would fold over itself; a smaller depth or a flatter place keeps it even.",
                "fold",
                decorated.fold.where,
                decorated.fold.by,
                "mm",
            )
        )
    if decorated.eased:
        places = "place" if decorated.eased == 1 else "places"
        found.append(
            Finding(
                "caution",
                f"The depth is taken back at {decorated.eased:,} {places} where the skin would run through itself.",
                "Two moved parts come too near each other there; a smaller depth or another place keeps it even.",
                "fold",
            )
        )
    return found


def _wall_findings(decorated: Decorated, thinnest: float) -> list[Finding]:
    found = []
    wall = decorated.wall
    if wall.corners:
        found.append(
            Finding(
                "caution",
                f"The wall is too thin for the depth; it is up to {wall.by:.2f} mm less, to leave {thinnest:.2f} mm.",
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


def _join_findings(decorated: Decorated) -> list[Finding]:
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
    if not decorated.closed_before:
        found.append(
            Finding(
                "caution",
                "The model is open, so its decorated skin is open too.",
                "It is raised as a surface; repair the model first where a solid is needed.",
                "closed",
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
