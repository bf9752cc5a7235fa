"""Pieces on the shelf and on the bench, their edits and versions."""

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, Field

from nebrel.piece.registry import AnyDocument

Tag = Annotated[str, Field(min_length=1, max_length=40)]
AbilityName = Literal[
    "picture", "heights", "sheet", "outlines", "skin", "few-colours", "depth-sources", "pieces", "laid-reliefs"
]


class PieceCard(BaseModel):
    """A piece on the shelf."""

    id: str
    revision: int
    title: str
    body: str
    maker: str
    size_mm: tuple[float, float, float]
    created: datetime
    changed: datetime
    tags: tuple[str, ...]


class Tags(BaseModel):
    """What a piece is to be tagged with."""

    tags: list[Tag] = Field(max_length=20)


class NewSheet(BaseModel):
    """A sheet to begin with: its size, the tone of its ground (None for blank), and lettering in its middle."""

    width_mm: float = Field(gt=0, le=3000)
    height_mm: float = Field(gt=0, le=3000)
    ground: float | None = Field(0.0, ge=0, le=1)
    title: str = Field("New sheet", min_length=1, max_length=120)
    text: str = Field("", max_length=400)
    font: Literal["bold", "round", "black", "plain"] = "bold"
    text_height_mm: float | None = Field(None, gt=0, le=3000)
    text_tone: float = Field(1.0, ge=0, le=1)


class TogetherOrder(BaseModel):
    """Pieces to put together."""

    pieces: list[str] = Field(min_length=1, max_length=60)
    title: str | None = Field(None, min_length=1, max_length=120)


class LaidOrder(BaseModel):
    """A picture that is laid on heights, ordered while looking at revision `base`; `motif` where one is followed."""

    base: int
    blob: str = Field(pattern="^[0-9a-f]{64}$")
    name: str = Field("picture", min_length=1, max_length=255)
    motif: str | None = Field(None, max_length=64)


class MouldOrder(BaseModel):
    """The piece that a mould is made of."""

    piece_id: str = Field(min_length=1, max_length=64)
    title: str | None = Field(None, min_length=1, max_length=120)


class PartOrder(BaseModel):
    """The piece to add as a part, ordered while looking at revision `base`."""

    base: int
    piece_id: str = Field(max_length=64)


class ShapeView(BaseModel):
    """One thing that a piece can be."""

    name: str
    title: str


class StationView(BaseModel):
    """A stage of the work on a piece; `begins` where one that has just become of its kind is worked on first."""

    name: str
    title: str
    begins: bool


class PieceView(BaseModel):
    """A piece on the bench: of which kind it is, which of its shapes it has and could have, and its stations.

    `undoes` and `redoes` name what undo would take back and redo bring back, where they can.
    """

    id: str
    revision: int
    kind: str
    abilities: list[AbilityName]
    shape: str
    shapes: list[ShapeView]
    stations: list[StationView]
    document: AnyDocument
    changed: datetime
    undoes: str | None
    redoes: str | None
    removed: bool


class Change(BaseModel):
    """An edit: a JSON merge patch (RFC 7396) of the document, made while looking at revision `base`."""

    base: int
    label: str = Field(min_length=1, max_length=200)
    change: dict[str, object]


class ShapeOrder(BaseModel):
    """What a piece is to become, ordered while looking at revision `base`."""

    base: int
    label: str = Field(min_length=1, max_length=200)
    shape: str = Field(max_length=40)


class Refusal(BaseModel):
    """Why something was refused, in one sentence; `sizes_mm` when a unit must be told: what each would make of it."""

    message: str
    sizes_mm: dict[str, tuple[float, float, float]] | None = None


class VersionName(BaseModel):
    """What a version is to be called."""

    name: str = Field(min_length=1, max_length=120)


class VersionView(BaseModel):
    """A named state of a piece."""

    id: int
    revision: int
    name: str
    created: datetime


class LightTargetEdit(BaseModel):
    """How light a mesh should be: `amount` triangles, mm of deviation or megabytes."""

    name: str = Field(min_length=1, max_length=120)
    by: Literal["triangles", "tolerance", "bytes"]
    amount: float = Field(gt=0, le=60_000_000)


class LightTargetView(LightTargetEdit):
    """A target that is kept."""

    id: int
