"""The library of motifs."""

from datetime import datetime

from pydantic import BaseModel, Field


class MotifView(BaseModel):
    """A picture or region kept for reuse; `outlines` where it has some, then also as the file `drawing_blob`."""

    id: str
    name: str
    tags: list[str]
    width_mm: float
    height_mm: float
    outlines: bool
    picture_blob: str
    drawing_blob: str | None
    changed: datetime


class MotifChange(BaseModel):
    """What a motif is called and found by."""

    name: str = Field(min_length=1, max_length=120)
    tags: list[str] = Field([], max_length=20)


class MotifOrder(MotifChange):
    """What to keep as a motif: all that a piece shows, or its outlines of these numbers."""

    piece_id: str
    chosen: list[int] = Field([], max_length=2000)


class MotifPlace(BaseModel):
    """Where to lay a motif: shares of the source from its lower left corner; its own width unless one is given."""

    motif_id: str
    x: float = Field(0.5, ge=-1, le=2)
    y: float = Field(0.5, ge=-1, le=2)
    width_mm: float | None = Field(None, gt=0, le=3000)
    follow: bool = True
