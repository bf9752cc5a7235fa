"""The picture that a piece starts from."""

from dataclasses import asdict

from pydantic import Field

from nebrel.core.picture import SourceFacts
from nebrel.piece.parts.part import Part


class PictureSource(Part):
    """The picture that a piece starts from: a blob and what its file said about itself."""

    blob: str = Field(pattern="^[0-9a-f]{64}$", title="Picture blob")
    name: str = Field(max_length=255, title="Picture name")
    format: str = Field(max_length=16)
    width_px: int
    height_px: int
    bit_depth: int
    channels: str = Field(max_length=32)
    dpi: float | None = None
    remarks: tuple[str, ...] = ()
    is_sheet: bool = Field(False, title="Whether it is a sheet that was begun here, which may be of one tone")


def picture_source(blob: str, name: str, facts: SourceFacts, is_sheet: bool = False) -> PictureSource:
    """The part of the document that names a picture."""
    return PictureSource(blob=blob, name=name, is_sheet=is_sheet, **asdict(facts))
