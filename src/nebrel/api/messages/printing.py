"""Layers of a piece, ways to lay it, colours by layers, and printers."""

from typing import Literal

from pydantic import BaseModel, Field

from nebrel.api.messages.previews import Draft
from nebrel.piece.printing.report import LayersReport, TurnedReport, TurnReport
from nebrel.piece.report import FindingReport


class LayersDraft(Draft):
    """A draft whose layers are looked at; of the finished solid where it was built."""

    finished: bool = False


class LayerFinding(BaseModel):
    """A finding, with the layer that it is seen in, 1 the first."""

    finding: FindingReport
    layer: int | None


class BandView(BaseModel):
    """Layers of one colour; layers are told from 1."""

    colour: str
    name: str
    layers: tuple[int, int]
    from_mm: float
    minutes: float
    grams: float
    price: float


class LayersView(BaseModel):
    """What is known of the layers of a piece as it stands on the plate.

    `size_mm` is that of the piece as it is printed, `scars_mm2` what support touches, and of that what shows; `swaps`
    are changes of colour and `swap_minutes` what they take. `finished` tells whether that is the finished solid or a
    preview. Places in `report` are over the plate; those of findings are of the piece.
    """

    report: LayersReport
    size_mm: tuple[float, float, float]
    fits_bed: bool
    line_mm: float
    bounds_mm: list[float]
    scars_mm2: tuple[float, float]
    swaps: int
    swap_minutes: float
    price: float
    bands: list[BandView]
    findings: list[LayerFinding]
    finished: bool


class LayerDraft(LayersDraft):
    """One layer of a draft, 1 the first."""

    layer: int = Field(ge=1, le=20_000)


class LayerHead(BaseModel):
    """Facts that travel in front of a layer's arrays; `colour` is None where nothing is coloured by layers.

    `origin_mm` is where the origin of its upper side lies on the piece, `x_axis` and `y_axis` which way its axes point
    there.
    """

    layer: int
    layers: int
    from_mm: float
    to_mm: float
    size_mm: tuple[float, float, float]
    line_mm: float
    area_mm2: float
    overhang_mm2: float
    support_mm2: float
    walls: int
    colour: str | None
    origin_mm: tuple[float, float, float]
    x_axis: tuple[float, float, float]
    y_axis: tuple[float, float, float]


class LayerFixView(BaseModel):
    """A change that would help, and what it does: mm of thin or awkward walls over all layers, or mm³ of support."""

    mends: Literal["walls", "hanging"]
    words: str
    change: dict[str, object]
    before: float
    after: float
    islands: int


class Weights(BaseModel):
    """How much each measure of a turn counts."""

    support: float = Field(1.0, ge=0, le=10)
    height: float = Field(0.3, ge=0, le=10)
    footprint: float = Field(0.4, ge=0, le=10)
    wobble: float = Field(0.6, ge=0, le=10)
    steps: float = Field(0.4, ge=0, le=10)
    scars: float = Field(0.5, ge=0, le=10)


class TurnsDraft(LayersDraft):
    """Ways to lay a draft, by some weights."""

    weights: Weights = Weights()


class WayView(BaseModel):
    """A way to lay a piece: what people call it, what was estimated from its faces, and what its layers tell."""

    names: list[str]
    turn: TurnReport
    built: TurnedReport
    price: float
    taken: bool
    fits_bed: bool


class BandsDraft(Draft):
    """So many colours to be suggested."""

    colours: int = Field(2, ge=2, le=5)


class BandChange(BaseModel):
    """A change of colour."""

    from_mm: float
    colour: str
    name: str


class BandsView(BaseModel):
    """Colours by layers as they are suggested."""

    on: bool
    colour: str
    name: str
    changes: list[BandChange]


class PlateItem(BaseModel):
    """A piece of the shelf, and how many of it."""

    piece_id: str = Field(min_length=1, max_length=64)
    copies: int = Field(1, ge=1, le=200)


class PlateOrder(BaseModel):
    """Pieces that are to lie on one bed."""

    items: list[PlateItem] = Field(min_length=1, max_length=100)
    bed_mm: tuple[float, float] = (220.0, 220.0)
    gap_mm: float = Field(4.0, ge=0, le=200)
