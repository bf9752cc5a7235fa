"""Figures in the round: few colours, and the filaments that they are printed in."""

from pydantic import BaseModel, Field

from nebrel.jobs.depth_service import Gives
from nebrel.piece.parts.depth import NetworkCardPart
from nebrel.piece.parts.filament import Filament
from nebrel.piece.report import ColoursReport


class ComparedDepthFacts(BaseModel):
    """A figure by one source of depth: pictures as data URLs, and how far it is from the figure as it is, mm.

    Attributes:
        picture: from the front.
        difference: where its front is nearer (warm) and farther (cool), the strongest colour at `most_mm`.
        nearer_mm, farther_mm, mean_mm: at the most, and on average without sign.
        unsure_mm: how far off it may be, on average, where it can tell.
    """

    source: str
    picture: str
    difference: str
    nearer_mm: float
    farther_mm: float
    mean_mm: float
    most_mm: float
    unsure_mm: float | None


class ServiceTermsView(BaseModel):
    """A service that makes depths: its name and what one figure costs there, or why it cannot be asked.

    `simulated` says that it is the stand-in that ships.
    """

    name: str
    simulated: bool
    cost: float = 0.0
    cost_unit: str = ""
    problem: str = ""


class ServiceOrderForm(BaseModel):
    """What a service is to send back: depths, or a solid that they are taken from."""

    gives: Gives = "depth"


class UnsureFacts(BaseModel):
    """Where a figure's source of depth is unsure: a picture over its box as a data URL, and how far off it may be."""

    picture: str
    mean_mm: float
    most_mm: float


class ModelView(BaseModel):
    """A network in the folder of models: its card, or what is wrong with that."""

    name: str
    size_bytes: int
    card: NetworkCardPart | None
    problem: str


class TakenModel(BaseModel):
    """A network that a piece may name: its blob, and its card."""

    blob: str
    name: str
    card: NetworkCardPart


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
