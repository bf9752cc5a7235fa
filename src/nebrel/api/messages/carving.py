"""Carving: bits of the rack, and what a job of it left behind."""

from typing import Literal

from pydantic import BaseModel

from nebrel.core.proof.carving import PassReport
from nebrel.piece.parts.carving import BitPart

CarvingShown = Literal["stock", "left", "reach"]


class RackBitView(BaseModel):
    """A bit of the rack."""

    id: int
    bit: BitPart


class CarvedFacts(BaseModel):
    """What was measured on the simulated stock."""

    gouge_max_mm: float
    left_max_mm: float
    left_rms_mm: float
    left_over_reachable_max_mm: float
    cannot_reach_max_mm: float
    rapids_in_stock: int
    steep_entries: int
    minutes: float


class CarvedProgram(BaseModel):
    """A program that is offered."""

    name: str
    key: str
    minutes: float


class CarvingResult(BaseModel):
    """What a carving job left behind; no programs where there are faults."""

    view_key: str
    file_key: str
    sheet_key: str
    file_name: str
    facts: CarvedFacts
    passes: list[PassReport]
    faults: list[str]
    programs: list[CarvedProgram]


class CarvedWays(BaseModel):
    """The ways of a pass from above: x and y in turn, mm of the piece."""

    kind: str
    bit: str
    ways: list[list[float]]


class CarvingView(BaseModel):
    """What a page shows of a carving job.

    Attributes:
        minutes: gone by at every step of the time slider.
        stock: left, low, width and depth of the stock, mm of the piece.
        zero: X and Y of the zero point.
        ways: of every pass.
    """

    minutes: list[float]
    stock: tuple[float, float, float, float]
    zero: tuple[float, float]
    ways: list[CarvedWays]


class CarvedSection(BaseModel):
    """The stock and the offset surface of the finest bit along a line: `[mm along, mm up]`, `null` beside them.

    Heights are over the back of the piece, as those of a section are.
    """

    cut: list[tuple[float, float | None]]
    offset: list[tuple[float, float | None]]


class BitReach(BaseModel):
    """What a bit cannot reach on the preview."""

    name: str
    most_mm: float
    share: float


class ReachView(BaseModel):
    """What every bit that finishes cannot reach, and all together; `share` of the surface is more than `over_mm`."""

    over_mm: float
    bits: list[BitReach]
    together: BitReach
