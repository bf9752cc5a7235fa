"""Models and decorations on them."""

from typing import Literal

from pydantic import BaseModel, Field

from nebrel.core.surface.placing import Snap
from nebrel.piece.parts.decoration import DecorationPart, Direction, Place


class StepOutcome(BaseModel):
    """What a step of a model changed; the id "" stands for reading it."""

    id: str
    description: str
    triangles: int


class PartView(BaseModel):
    """A part of a model that hangs together; 1 is the largest."""

    number: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    triangles: int
    closed: bool


class PlacementDraft(BaseModel):
    """A decoration as it would be laid; of many copies only the first few are shown. `quick` follows a pointer, else
    lengths are as exact as in what is made."""

    decoration: DecorationPart
    quick: bool = True
    most_copies: int = Field(1, ge=1, le=40)


class PlacementHead(BaseModel):
    """Facts that travel in front of a placement: where the first copy is, its directions, and places to hold it by."""

    at: tuple[float, float, float]
    out: tuple[float, float, float]
    up: tuple[float, float, float]
    right: tuple[float, float, float]
    size_mm: tuple[float, float]
    handles: list[tuple[float, float, float] | None]
    copies: int
    description: str
    most_stretch: float


class SnapDraft(BaseModel):
    """Where a decoration is, which way is up, and what it is to snap to."""

    at: Place
    up: Direction = (0.0, 0.0, 1.0)
    to: Snap


class SnapView(BaseModel):
    """A place on the skin."""

    at: tuple[float, float, float]


class DecorationFile(BaseModel):
    """A picture or drawing that was taken in to be laid on models."""

    kind: Literal["picture", "outline"]
    blob: str
    name: str
