"""Ways to lay a piece on the plate, side by side."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from nebrel.core.layers.turns import Turn, TurnWeights, measured_turns, ranked
from nebrel.core.mesh.shading import shade
from nebrel.core.proof.makeable import fits_bed
from nebrel.core.proof.render import Viewpoint, render
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.evaluation.shown import png_of
from nebrel.piece.parts.printing import Direction
from nebrel.piece.printing.laid import in_layers, set_on_plate
from nebrel.piece.printing.maps import show_side
from nebrel.piece.printing.report import TurnedReport

TURNS_VERSION, PICTURE_VERSION = 1, 1
BEST = 3
# Directions that are as near as this are one.
ALIKE = 1 - 1e-6
PICTURE_PX = (260, 200)
# Seen from above and aside, as one stands before a printer.
VIEW = Viewpoint(turn_deg=-28.0, tilt_deg=66.0, upright=True)


@dataclass(frozen=True)
class Way:
    """A way to lay a piece.

    Attributes:
        names: what people call it: as made, lying, standing, best and so on.
        turn: what was estimated from faces; its score by the weights.
        taken: whether it is the one that the document tells.
        fits: whether it fits the bed so.
        built: what its layers tell.
    """

    names: tuple[str, ...]
    turn: Turn
    taken: bool
    fits: bool
    built: TurnedReport


def ways_to_lay(
    evaluator: PieceEvaluator[Any], weights: TurnWeights, longest_px: int, progress: Progress = quiet
) -> list[Way]:
    """The one that is taken, as it was made, lying, standing, and the best by some weights, each once.

    Args:
        evaluator: of the piece.
        weights: how much each measure counts.
        longest_px: of the preview; `FULL` for the finished solid.
        progress: hears how far it is.

    Raises:
        BadMeshError: the solid is open.
    """
    document = evaluator.document
    printing, maker = document.printing, document.maker
    progress("Turning it", 0.0)
    order = ranked(_candidates(evaluator, longest_px), weights)
    called: dict[Direction, list[str]] = {}
    for name, turn in (
        ("taken", next(turn for turn in order if _alike(turn.down, printing.down))),
        ("as made", next(turn for turn in order if turn.own)),
        ("lying", _lying(order)),
        ("standing", _standing(order)),
        *((f"best but {at}" if at else "best", turn) for at, turn in enumerate(order[:BEST])),
    ):
        called.setdefault(turn.down, []).append(name)
    ways = []
    for at, (down, names) in enumerate(called.items()):
        progress("Cutting into layers", at / len(called))
        turn = next(turn for turn in order if turn.down == down)
        printed = in_layers(evaluator, longest_px, down=down)
        fits = fits_bed(printed.study.slices.size, maker.bed_mm)
        told = tuple(name for name in names if name != "taken")
        ways.append(Way(told, turn, "taken" in names, fits, TurnedReport.of(printed.study)))
    return ways


def _candidates(evaluator: PieceEvaluator[Any], longest_px: int) -> list[Turn]:
    """What is compared, measured; as the document tells, too."""
    printing, layer = evaluator.document.printing, evaluator.document.maker.layer_mm
    show = show_side(evaluator)
    return evaluator.derived(
        "turns",
        TURNS_VERSION,
        [layer, printing.steepest_deg, show, printing.down],
        longest_px,
        lambda: measured_turns(evaluator.mesh(longest_px), layer, printing.steepest_deg, show, printing.down),
    )


def best_turn(evaluator: PieceEvaluator[Any], longest_px: int, weights: TurnWeights | None = None) -> Turn:
    """The best candidate by some weights."""
    return ranked(_candidates(evaluator, longest_px), weights)[0]


def turned_picture(evaluator: PieceEvaluator[Any], down: Direction, longest_px: int) -> bytes:
    """A small PNG of a piece as it would stand on the plate."""

    def paint() -> bytes:
        mesh = set_on_plate(evaluator.pictured(longest_px), down)
        return png_of(render(shade(mesh), *PICTURE_PX, VIEW))

    told = [down, evaluator.paint_key, evaluator.bands_key]
    return evaluator.derived("turned-picture", PICTURE_VERSION, told, longest_px, paint)


def _lying(turns: Sequence[Turn]) -> Turn:
    """The lowest that stands by itself."""
    return min(_steady(turns), key=lambda turn: (round(turn.height_mm, 3), turn.score))


def _standing(turns: Sequence[Turn]) -> Turn:
    """The highest that stands by itself."""
    return max(_steady(turns), key=lambda turn: (round(turn.height_mm, 3), -turn.score))


def _steady(turns: Sequence[Turn]) -> Sequence[Turn]:
    return [turn for turn in turns if turn.tips_deg > 1] or turns


def _alike(one: Direction, other: Direction) -> bool:
    return float(np.dot(one, other)) > ALIKE
