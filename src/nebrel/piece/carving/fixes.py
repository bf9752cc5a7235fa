"""What would let bits reach more of a piece, each tried on its preview and measured before it is offered."""

import secrets
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import map_coordinates

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.reach import Reach, reach_of
from nebrel.piece.carving.work import is_sunk, seen_by_bits
from nebrel.piece.documents.document import Document, PicturedDocument
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.parts.carving import BitPart
from nebrel.piece.registry import merge

WORTH = 0.8
ENOUGH = 0.002
MOST_TRIED = 6
LARGER, LEAST_LARGER = 1.5, 1.1
SOFTER, ENOUGH_SOFTENED = (1 / 32, 1 / 16, 1 / 8), 0.5
# A drill cuts no surface; a V bit would need thousands of lines.
NO_FINISHERS = ("drill", "v")
Opened = Callable[[Document], PieceEvaluator[Any]]


@dataclass(frozen=True)
class ReachFix:
    """A change to a document, and what it does.

    Attributes:
        words: what it is.
        change: to the document.
        most, share: what bits would leave then: mm at most, and the share that is too much.
        moved: by how much it moves the surface itself, RMS mm.
    """

    words: str
    change: dict[str, object]
    most: float
    share: float
    moved: float = 0.0


def reach_fixes(document: Document, rack: list[BitPart], opened: Opened, longest_px: int) -> list[ReachFix]:
    """A finer bit, a larger piece, a softer picture: those that help, as measured on the preview.

    Args:
        document: of a piece for a router.
        rack: bits that could be taken.
        opened: gives the evaluator of a document.
        longest_px: of the preview.
    """
    before = _reach(opened(document), longest_px)
    fixes = [
        _bit_fix(document, rack, opened, longest_px),
        _larger_fix(document, opened, longest_px),
        _softer_fix(document, opened, longest_px),
    ]
    return [fix for fix in fixes if fix is not None and fix.share <= WORTH * before.share]


def _reach(evaluator: PieceEvaluator[Any], longest_px: int) -> Reach:
    asked, bits, _ = seen_by_bits(evaluator, longest_px)
    return reach_of(asked, bits, evaluator.document.carving.passes.rest_mm)


def _bit_fix(document: Document, rack: list[BitPart], opened: Opened, longest_px: int) -> ReachFix | None:
    """The coarsest bit of the rack that reaches nearly everything, else the one that reaches most."""
    evaluator = opened(document)
    if is_sunk(evaluator):
        return None
    carving = document.carving
    asked, bits, _ = seen_by_bits(evaluator, longest_px)
    finest = min(_fineness(bit) for bit in bits)
    finer = [
        bit
        for bit in rack
        if bit.role == "finish" and bit.kind not in NO_FINISHERS and _fineness(bit.to_core()) < finest
    ]
    best: ReachFix | None = None
    for bit in sorted(finer, key=lambda one: -_fineness(one.to_core()))[:MOST_TRIED]:
        found = reach_of(asked, (*bits, bit.to_core()), carving.passes.rest_mm)
        if best is None or found.share < best.share:
            rows = [one.model_dump(mode="json") for one in (*carving.bits, bit)]
            best = ReachFix(f"Take {bit.name}", {"carving": {"bits": rows}}, found.most, found.share)
        if found.share <= ENOUGH:
            break
    return best


def _fineness(bit: Bit) -> float:
    return 0.0 if bit.kind == "v" else bit.diameter if bit.kind == "flat" else 2 * bit.tip


def _larger_fix(document: Document, opened: Opened, longest_px: int) -> ReachFix | None:
    """As much larger as the stock lets it be."""
    at = document.width_at
    if at is None:
        return None
    size = opened(document).size_mm
    stock = document.carving.stock
    times = min(LARGER, stock.width_mm / size[0], stock.depth_mm / size[1])
    if times < LEAST_LARGER:
        return None
    values: Any = document.model_dump(mode="json")
    for name in at:
        values = values[name]
    wide = round(float(values) * times - 0.05, 1)
    change: dict[str, object] = {at[-1]: wide}
    for name in reversed(at[:-1]):
        change = {name: change}
    found = _reach(opened(merge(document, change)), longest_px)
    return ReachFix(f"Make it {wide:g} mm wide", change, found.most, found.share)


def _softer_fix(document: Document, opened: Opened, longest_px: int) -> ReachFix | None:
    """Blurred as little as gets rid of half of what is left, up to half the radius of the finest tip."""
    if not isinstance(document, PicturedDocument) or document.width_at is None:
        return None
    evaluator = opened(document)
    if is_sunk(evaluator):
        return None
    asked, bits, _ = seen_by_bits(evaluator, longest_px)
    over = document.carving.passes.rest_mm
    enough = ENOUGH_SOFTENED * reach_of(asked, bits, over).share
    finest = min(_fineness(bit) for bit in bits)
    best: ReachFix | None = None
    for part in SOFTER:
        radius = round(max(0.05, part * finest), 2)
        op = {"kind": "gaussian", "radius_mm": radius, "id": secrets.token_hex(4)}
        change: dict[str, object] = {"ops": [*(one.model_dump(mode="json") for one in document.ops), op]}
        softer, _, _ = seen_by_bits(opened(merge(document, change)), longest_px)
        found = reach_of(softer, bits, over)
        moved = float(np.sqrt(np.mean((_at_samples(softer, asked) - asked.heights)[asked.there] ** 2)))
        best = ReachFix(f"Blur the picture by {radius:g} mm", change, found.most, found.share, moved)
        if found.share <= enough:
            break
    return best


def _at_samples(found: Asked, of: Asked) -> NDArray[np.float64]:
    """Heights at the samples of another grid: where the outline of a piece moves, so do its size and its rim."""
    if found.heights.shape == of.heights.shape and (found.left, found.low) == (of.left, of.low):
        return found.heights
    # Pieces keep their middle.
    aside = [(mine - its) / 2 for mine, its in zip(found.size, of.size, strict=True)]
    columns = (of.left + aside[0] - found.left + of.pitch * np.arange(of.heights.shape[1])) / found.pitch
    rows = (of.low + aside[1] - found.low + of.pitch * np.arange(of.heights.shape[0])) / found.pitch
    places = np.meshgrid(rows, columns, indexing="ij")
    return np.asarray(map_coordinates(found.heights, places, order=1, mode="nearest"), dtype=np.float64)
