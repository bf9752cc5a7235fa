"""Looking at a draft: plans, solids, maps, sections."""

from typing import Literal

from pydantic import BaseModel, Field

from nebrel.core.proof.maps import MapKind
from nebrel.piece.printing.maps import LayerMapKind


class Draft(BaseModel):
    """An edit that is not kept yet, for a preview: a merge patch, and how many pixels the longer side gets.

    `upto` is the id of the picture op after which to look; "" looks at the source, None at the finished picture.
    """

    change: dict[str, object] = {}
    longest_px: int = Field(720, ge=32, le=2048)
    upto: str | None = None


class MapDraft(Draft):
    """A measure over the solid of a draft."""

    kind: MapKind | LayerMapKind


class SectionLine(BaseModel):
    """A line across a piece, in shares of its width and depth from its lower left corner, and the plane through it.

    `tilt_deg` is how far the plane leans from the upright, 90 for a level one; `lift_mm` the height of the line.
    """

    start: tuple[float, float]
    end: tuple[float, float]
    tilt_deg: float = Field(0.0, ge=-90, le=90)
    lift_mm: float = Field(0.0, ge=0, le=3000)


class SectionDraft(Draft, SectionLine):
    """A section line over a draft."""


class SectionView(BaseModel):
    """What was asked and what was made along a line: `[mm along, mm up]`, `null` over blanks."""

    length_mm: float
    size_mm: tuple[float, float, float]
    asked: list[tuple[float, float | None]]
    made: list[list[tuple[float, float]]]


class PlanHead(BaseModel):
    """Facts that travel in front of a plan's arrays.

    `from_source` takes places in shares of the source picture to shares of the plan, both from the lower left corner.
    """

    size_mm: tuple[float, float, float]
    pitch_mm: float
    backing_mm: float
    relief_mm: float
    full_px: tuple[int, int]
    from_source: tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float, float]]


class SolidHead(BaseModel):
    """Facts that travel in front of a solid.

    `low_mm` is what was taken off from a model's own coordinates; `sheet_mm` is how large the unrolled sheet of a
    lithophane is, None for other solids, and `around` whether it runs round.
    """

    triangles: int
    standing: bool
    low_mm: tuple[float, float, float]
    sheet_mm: tuple[float, float] | None
    around: bool


class ThinMapHead(BaseModel):
    """Nothing travels in front of a map of thin places."""


class MapHead(BaseModel):
    """Facts that travel in front of a surface map. `limit` is what the maker can just make, where that is known."""

    triangles: int
    standing: bool
    kind: MapKind | LayerMapKind | Literal["left", "reach"]
    unit: str
    least: float
    most: float
    spot: tuple[float, float, float] | None
    limit: float | None


class StepRow(BaseModel):
    """A row of the table of steps, with the share of the picture that falls on it."""

    tone: float
    mm: float
    share: float


class StepTables(BaseModel):
    """The table of steps as it is, and one made from the tones that the picture shows."""

    table: list[StepRow]
    found: list[StepRow]
