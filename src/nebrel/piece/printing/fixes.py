"""What would help a piece to print, each tried on its preview, measured, and offered only where it is better."""

import secrets
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel

from nebrel.core.errors import NebrelError
from nebrel.core.layers.study import LayerStudy
from nebrel.core.layers.walls import WallSpot
from nebrel.piece.documents.document import Document
from nebrel.piece.documents.worked import WorkedDocument
from nebrel.piece.evaluation.evaluator import PieceEvaluator, Progress, quiet
from nebrel.piece.parts.printing import DOWN
from nebrel.piece.printing.laid import in_layers
from nebrel.piece.printing.turns import best_turn
from nebrel.piece.registry import merge

Mends = Literal["walls", "hanging"]
Opened = Callable[[Document], PieceEvaluator[Any]]
# It has to be this much better to be worth a press.
WORTH = 0.8
# Lines may be laid so much narrower or wider than the maker's.
NARROWER, WIDER = 0.8, 1.3
MOST_LARGER = 2.0
# Feet and pegs, of the size of the piece.
FOOT_MM, MARGIN_MM = 1.2, 3.0
PEG_SHARE, LEAST_PEG_MM, MOST_PEG_MM = 0.12, 2.0, 8.0
CUT_AT = (0.5, 0.3)
# So many are offered that change little, and of cuts.
MOST_OFFERED, MOST_CUTS = 4, 1


@dataclass(frozen=True)
class LayerFix:
    """A change to a document, and what it does.

    Attributes:
        mends: what it is for.
        words: what it is.
        change: to the document.
        before, after: mm of thin and awkward walls times layers, or mm³ of support and islands.
        islands: that are left.
    """

    mends: Mends
    words: str
    change: dict[str, object]
    before: float
    after: float
    islands: int


def layer_fixes(document: Document, opened: Opened, longest_px: int, progress: Progress = quiet) -> list[LayerFix]:
    """Other widths, other lines, another size, another side below, a foot, a cut with pegs: those that help.

    Args:
        document: of the piece.
        opened: gives the evaluator of a document.
        longest_px: of the preview.
        progress: hears how far it is.
    """
    evaluator = opened(document)
    study = in_layers(evaluator, longest_px, progress).study
    tried: list[tuple[Mends, str, dict[str, object]]] = [
        *(("walls", words, change) for words, change in _wall_changes(document, evaluator, study)),
        *(("hanging", words, change) for words, change in _hanging_changes(document, evaluator, study, longest_px)),
    ]
    found: list[LayerFix] = []
    for at, (mends, words, change) in enumerate(tried):
        progress("Trying what would help", at / len(tried))
        fix = _measured(mends, words, change, document, opened, study, longest_px)
        if fix is not None:
            found.append(fix)
    return _least_first(found)


def _least_first(found: list[LayerFix]) -> list[LayerFix]:
    """Those for walls, the best first; those for what hangs as they were tried, of cuts the best only."""
    walls = sorted((fix for fix in found if fix.mends == "walls"), key=lambda fix: fix.after)
    hanging = [fix for fix in found if fix.mends == "hanging"]
    cuts = sorted((fix for fix in hanging if _cuts(fix)), key=lambda fix: (fix.islands, fix.after))
    return [*walls[:MOST_OFFERED], *(fix for fix in hanging if not _cuts(fix)), *cuts[:MOST_CUTS]]


def _cuts(fix: LayerFix) -> bool:
    steps = fix.change.get("steps")
    return isinstance(steps, list) and steps[-1]["kind"] == "split"


def awkwardness(study: LayerStudy) -> float:
    """How much of all walls is thin or awkward, mm of outline times layers."""
    return sum(_weight(spot) for spot in study.spots)


def hangs(study: LayerStudy) -> float:
    """What support there would be, mm³."""
    return study.hanging.support_mm3(study.slices.heights)


def _measured(
    mends: Mends,
    words: str,
    change: dict[str, object],
    document: Document,
    opened: Opened,
    before: LayerStudy,
    longest_px: int,
) -> LayerFix | None:
    """What a change does, or None where it is not worth it, or makes anything else worse."""
    try:
        after = in_layers(opened(merge(document, change)), longest_px).study
    except NebrelError:
        return None
    walls, islands = awkwardness(after), len(after.hanging.islands)
    fewer_islands = islands < len(before.hanging.islands)
    if mends == "walls":
        if walls > WORTH * awkwardness(before) or islands > len(before.hanging.islands):
            return None
        return LayerFix(mends, words, change, awkwardness(before), walls, islands)
    if hangs(after) > WORTH * hangs(before) and not (fewer_islands and hangs(after) <= hangs(before)):
        return None
    if islands > len(before.hanging.islands):
        return None
    return LayerFix(mends, words, change, hangs(before), hangs(after), islands)


def _wall_changes(
    document: Document, evaluator: PieceEvaluator[Any], study: LayerStudy
) -> Iterator[tuple[str, dict[str, object]]]:
    if not study.spots:
        return
    line = document.maker.line_width_mm
    walls = dict(_walls_in(document))
    fitted = {at: _fitted(width, line, kind) for at, (width, kind) in walls.items()}
    changed = {at: width for at, width in fitted.items() if abs(width - walls[at][0]) > 1e-6}
    for at, width in changed.items():
        title, _ = _named(document, at)
        yield f"{title} {width:g} mm, whole lines of {line:g} mm", _change_at(at, width)
    if len(changed) > 1:
        whole: dict[str, object] = {}
        for at, width in changed.items():
            whole = _together(whole, _change_at(at, width))
        yield f"All its walls in whole lines of {line:g} mm", whole
    spot = max(study.spots, key=_weight)
    for lines in {max(1, int(spot.lines)), max(1, int(spot.lines) + 1)}:
        other = round(spot.wide / lines, 3)
        if NARROWER * line <= other <= WIDER * line and other >= document.maker.layer_mm:
            yield f"Lay lines {other:g} mm wide, {lines} to such a wall", {"maker": {"line_width_mm": other}}
    times = (int(spot.lines) + 1) * line / spot.wide
    if times <= MOST_LARGER:
        yield from _larger(document, evaluator, times)
    yield from document.wall_changes(line)


def _hanging_changes(
    document: Document, evaluator: PieceEvaluator[Any], study: LayerStudy, longest_px: int
) -> Iterator[tuple[str, dict[str, object]]]:
    if not study.hanging.overhang.any() and not study.hanging.islands:
        return
    best = best_turn(evaluator, longest_px)
    if best.down != document.printing.down:
        words = "Print it lying as it was made" if best.down == DOWN else "Lay it on its best side"
        yield words, {"printing": {"down": list(best.down)}}
    # Decorations lie on the skin that steps leave, so steps are not laid under them.
    if not isinstance(document, WorkedDocument) or document.decorations or not document.printing.as_made:
        return
    yield f"Set it on a foot {FOOT_MM:g} mm high", _with_step(document, "foot", height_mm=FOOT_MM, margin_mm=MARGIN_MM)
    yield "Chamfer what hangs level", _with_step(document, "chamfer-below")
    size = evaluator.size_mm
    peg = round(min(max(PEG_SHARE * min(size), LEAST_PEG_MM), MOST_PEG_MM), 1)
    for axis, long in zip("xyz", size, strict=True):
        for share in CUT_AT:
            at = round(share * long, 1)
            more = {"axis": axis, "at_mm": at, "peg_mm": peg, "peg_length_mm": 2 * peg}
            yield f"Cut it in two across {axis.upper()} at {at:g} mm, with pegs", _with_step(document, "split", **more)


def _larger(
    document: Document, evaluator: PieceEvaluator[Any], times: float
) -> Iterator[tuple[str, dict[str, object]]]:
    at = document.width_at
    if at is not None:
        values: Any = document
        for name in at:
            values = getattr(values, name)
        wide = round(float(values) * times + 0.05, 1)
        yield f"Make it {wide:g} mm wide", _change_at(at, wide)
    elif isinstance(document, WorkedDocument):
        factor = round(times + 0.005, 2)
        yield f"Make it {factor:g} times as large", _with_step(document, "size", by="factor", factor=factor)


def _with_step(document: WorkedDocument, kind: str, **parameters: object) -> dict[str, object]:
    steps = [step.model_dump(mode="json") for step in document.steps]
    return {"steps": [*steps, {"kind": kind, "id": secrets.token_hex(4), **parameters}]}


def _walls_in(part: BaseModel, at: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], tuple[float, str]]]:
    """Where in a document widths of walls stand, and what they are; `line` for those of one printed line."""
    for name, field in type(part).model_fields.items():
        value = getattr(part, name)
        extra = field.json_schema_extra
        told = extra.get("wall") if isinstance(extra, dict) else None
        if isinstance(told, str) and isinstance(value, float):
            yield (*at, name), (value, told)
        elif isinstance(value, BaseModel):
            yield from _walls_in(value, (*at, name))


def _fitted(width: float, line: float, kind: str) -> float:
    """The nearest width that whole lines fill."""
    if kind == "line":
        return line
    return round(max(1, round(width / line)) * line, 4)


def _named(document: BaseModel, at: tuple[str, ...]) -> tuple[str, BaseModel]:
    part: Any = document
    for name in at[:-1]:
        part = getattr(part, name)
    return type(part).model_fields[at[-1]].title or at[-1], part


def _change_at(at: tuple[str, ...], value: object) -> dict[str, object]:
    change: dict[str, object] = {at[-1]: value}
    for name in reversed(at[:-1]):
        change = {name: change}
    return change


def _together(one: dict[str, object], other: dict[str, object]) -> dict[str, object]:
    found = dict(one)
    for name, value in other.items():
        mine = found.get(name)
        found[name] = _together(mine, value) if isinstance(mine, dict) and isinstance(value, dict) else value
    return found


def _weight(spot: WallSpot) -> float:
    return spot.length * (spot.last - spot.first + 1)
