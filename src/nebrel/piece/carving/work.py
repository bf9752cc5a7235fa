"""What a router is to do with a piece: carve its heights, or sink its outlines into the face of the stock."""

from dataclasses import dataclass
from typing import Any, Protocol, cast

import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.carve.asked import Asked, asked_of
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.sunk.sinking import Sinking
from nebrel.core.height import HeightField
from nebrel.core.proof.carving import Carved, Progress, Seen, carve, finest_pitch
from nebrel.core.proof.sinking import carve_outlines
from nebrel.core.region.curves import figure_region
from nebrel.piece.evaluation.abilities import HasOutlines, has, having
from nebrel.piece.evaluation.evaluator import PieceEvaluator
from nebrel.piece.parts.carving import CarvingPart

CHORD = 0.002


class CarvingWork(Protocol):
    """Work for a router; `size` and `thickness` of the piece in mm."""

    @property
    def size(self) -> tuple[float, float]: ...

    @property
    def thickness(self) -> float: ...

    def carve(self, progress: Progress, seen: Seen) -> Carved:
        """Plan it, write its programs, and run them on the simulated router."""
        ...


@dataclass(frozen=True)
class ReliefWork:
    """Heights to be carved."""

    field: HeightField
    carving: CarvingPart
    title: str

    @property
    def size(self) -> tuple[float, float]:
        """Of the heights."""
        return self.field.width, self.field.depth

    @property
    def thickness(self) -> float:
        """Of the whole piece."""
        return self.field.highest

    def carve(self, progress: Progress, seen: Seen) -> Carved:
        """All passes over the heights."""
        carving = self.carving
        job = carving.to_core(self.thickness)
        machine, post = carving.router.to_core(), carving.post.to_core()
        stock = carving.stock.to_core()
        return carve(self.field, self.thickness, job, stock, machine, post, self.title, progress, seen)


@dataclass(frozen=True)
class OutlineWork:
    """Outlines to be sunk; the lower left corner of the piece is the origin of `region`."""

    region: MultiPolygon
    size: tuple[float, float]
    carving: CarvingPart
    title: str

    @property
    def thickness(self) -> float:
        """How deep they go."""
        return self.sinking.deepest

    @property
    def sinking(self) -> Sinking:
        """How they are sunk."""
        return self.carving.to_sinking()

    def carve(self, progress: Progress, seen: Seen) -> Carved:
        """All passes into the outlines."""
        carving = self.carving
        machine, post = carving.router.to_core(), carving.post.to_core()
        stock = carving.stock.to_core()
        return carve_outlines(self.region, self.size, self.sinking, stock, machine, post, self.title, progress, seen)


def work_of(evaluator: PieceEvaluator[Any]) -> CarvingWork:
    """The work that a piece is for a router, as its document says.

    Raises:
        BadValueError: it cannot be, with the bits that it has.
    """
    carving: CarvingPart = evaluator.document.carving
    title = evaluator.document.title
    if is_sunk(evaluator):
        carving.to_sinking()
        return OutlineWork(*sunk_region(evaluator), carving, title)
    pitch = finest_pitch(carving.to_core().bits)
    return ReliefWork(evaluator.heights_to_carve(pitch), carving, title)


def is_sunk(evaluator: PieceEvaluator[Any]) -> bool:
    """Whether the outlines of a piece are sunk."""
    return has(evaluator, HasOutlines) and evaluator.document.carving.outlines.way != "raised"


def refuse_unready(evaluator: PieceEvaluator[Any]) -> None:
    """Refuse bits that cannot do the work.

    Raises:
        BadValueError: by which one.
    """
    carving: CarvingPart = evaluator.document.carving
    if is_sunk(evaluator):
        carving.to_sinking()
    else:
        carving.to_core()


def finest_bit(evaluator: PieceEvaluator[Any]) -> Bit:
    """The bit that comes nearest to the asked surface."""
    carving: CarvingPart = evaluator.document.carving
    if not is_sunk(evaluator):
        return carving.to_core().bits[-1]
    sinking = carving.to_sinking()
    return sinking.v_bit or (*sinking.drills, *sinking.flats)[-1]


def seen_by_bits(evaluator: PieceEvaluator[Any], longest_px: int) -> tuple[Asked, tuple[Bit, ...], list[str]]:
    """What a preview asks for, with the bits that make its surface and their names."""
    carving: CarvingPart = evaluator.document.carving
    if is_sunk(evaluator):
        sinking = carving.to_sinking()
        region, size = sunk_region(evaluator)
        return (
            sinking.outline(region, size).asked(1.5 * sinking.widest),
            sinking.bits,
            [bit.name for bit in carving.bits],
        )
    bits = carving.to_core().bits
    asked = asked_of(evaluator.heights_seen(longest_px), 1.5 * max(bit.radius for bit in bits))
    return asked, bits, [bit.name for bit in carving.finishing]


def sunk_region(evaluator: PieceEvaluator[Any]) -> tuple[MultiPolygon, tuple[float, float]]:
    """The outlines of a piece in the middle of it, and its width and depth, mm."""
    outlines = having(evaluator, HasOutlines, "is carved in outlines")
    region = figure_region(outlines.outlines().figure.drawn, CHORD)
    low_x, low_y, high_x, high_y = region.bounds if not region.is_empty else (0.0, 0.0, 0.0, 0.0)
    width, depth, _ = evaluator.size_mm
    size = max(width, high_x - low_x), max(depth, high_y - low_y)
    moved = shapely.affinity.translate(region, (size[0] - low_x - high_x) / 2, (size[1] - low_y - high_y) / 2)
    return cast(MultiPolygon, moved), size
