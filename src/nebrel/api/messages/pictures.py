"""The Picture station."""

from typing import Literal

from pydantic import BaseModel, Field


class PictureFile(BaseModel):
    """A further picture that was kept."""

    blob: str
    name: str


class ToneCount(BaseModel):
    """To how many tones a picture is reduced, found in it or evenly spread."""

    count: int = Field(ge=2, le=32)
    spread: Literal["found", "even"] = "found"


class ContentBox(BaseModel):
    """Shares of a picture, from its lower left corner."""

    left: float
    bottom: float
    right: float
    top: float


class StripHead(BaseModel):
    """Whose small pictures follow: "" for the source, then the ids of ops; `failed` says why one has none."""

    ids: list[str]
    failed: dict[str, str]
