"""Outlines as the page draws them."""

from pydantic import BaseModel

from nebrel.core.picture.ink import Ink
from nebrel.core.region.flaws import FlawKind


class LayerView(BaseModel):
    """Outlines of one tone, or one layer of a drawing; `ground` is the paper."""

    name: str
    tone: float | None
    ground: bool
    area_mm2: float


class CurveView(BaseModel):
    """One outline: its course as SVG path data in mm, Y up. Of very many nodes only the first is told."""

    number: int
    layer: int
    path: str
    nodes: list[tuple[float, float]]
    closed: bool
    width_mm: float | None
    area_mm2: float


class FlawView(BaseModel):
    """A fault of an outline; `size` is mm between its ends or mm²."""

    kind: FlawKind
    curve: int
    where: tuple[float, float]
    size: float


class OutlinesView(BaseModel):
    """All outlines of a piece in mm of its source, whose lower left corner is the origin.

    `ink` is the tone of a picture that was taken for what is drawn, `ink_sure` how surely, where that was guessed.
    """

    width_mm: float
    depth_mm: float
    box: tuple[float, float, float, float]
    nodes: int
    max_deviation_mm: float
    rms_deviation_mm: float
    layers: list[LayerView]
    curves: list[CurveView]
    flaws: list[FlawView]
    gaps: list[tuple[tuple[float, float], tuple[float, float]]]
    ink: Ink | None
    ink_sure: float | None
