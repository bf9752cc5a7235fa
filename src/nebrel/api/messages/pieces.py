"""Pieces on the shelf and on the bench, their edits and versions."""

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from nebrel.piece.registry import AnyDocument

AbilityName = Literal["picture", "heights", "sheet", "outlines", "skin", "few-colours", "depth-sources"]


class PieceCard(BaseModel):
    """A piece on the shelf."""

    id: str
    revision: int
    title: str
    body: str
    maker: str
    size_mm: tuple[float, float, float]
    changed: datetime


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
