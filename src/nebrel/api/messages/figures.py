"""Figures in the round: few colours, and the filaments that they are printed in."""

from pydantic import BaseModel, Field

from nebrel.piece.parts.filament import Filament
from nebrel.piece.report import ColoursReport


class FilamentEdit(Filament):
    """A filament of the table."""

    name: str = Field(min_length=1, max_length=80, title="Name of the filament")


class FilamentView(FilamentEdit):
    """A filament that is kept."""

    id: int


class FewColoursFacts(BaseModel):
    """A figure in few colours: what they are and cost, and pictures of it before and after, PNG as data URLs."""

    report: ColoursReport
    before: str
    after: str
