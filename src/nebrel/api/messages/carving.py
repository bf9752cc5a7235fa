"""Carving: bits of the rack, and what a job of it left behind."""

from typing import Any, Literal

from pydantic import BaseModel, Field

from nebrel.core.proof.carving import PassReport
from nebrel.jobs.router_link import RouterState
from nebrel.piece.parts.carving import BitPart, PostPart

CarvingShown = Literal["stock", "left", "reach"]


class RackBitView(BaseModel):
    """A bit of the rack."""

    id: int
    bit: BitPart


class KeptPostView(BaseModel):
    """A kept way in which a machine wants its programs."""

    id: int
    post: PostPart


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


class RouterOrder(BaseModel):
    """How a program is sent: how many times as fast as the clock the simulated router runs."""

    speed: float = Field(1.0, ge=1, le=1000)


class RouterStatus(BaseModel):
    """Where the router stands, and with which program of which job; `waiting` for somebody to put in a bit."""

    state: RouterState
    program: str
    job_id: str
    number: int
    line: int
    lines: int
    place_mm: tuple[float, float, float]
    seconds: float
    why: str


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
        zero: X, Y and Z of the zero point, its height over the highest place of the piece.
        ways: of every pass.
    """

    minutes: list[float]
    stock: tuple[float, float, float, float]
    zero: tuple[float, float, float]
    ways: list[CarvedWays]


class CarvedSection(BaseModel):
    """The stock and the offset surface of the finest bit along a line: `[mm along, mm up]`, `null` beside them.

    Heights are over the back of the piece, as those of a section are. `asked` is told where the solid of the piece is
    not what is carved: its outlines are sunk into the face of the stock.
    """

    cut: list[tuple[float, float | None]]
    offset: list[tuple[float, float | None]]
    asked: list[tuple[float, float | None]] | None = None


class BitReach(BaseModel):
    """What a bit cannot reach on the preview."""

    name: str
    most_mm: float
    share: float


class ReachFixView(BaseModel):
    """A change to the document that lets bits reach more, with what they would leave then, as measured.

    `moved_rms_mm` is by how much it moves the surface itself.
    """

    words: str
    change: dict[str, Any]
    most_mm: float
    share: float
    moved_rms_mm: float


class ReachView(BaseModel):
    """What every bit that finishes cannot reach, and all together; `share` of the surface is more than `over_mm`."""

    over_mm: float
    bits: list[BitReach]
    together: BitReach
