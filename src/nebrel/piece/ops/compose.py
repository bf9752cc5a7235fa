"""Compose: a shape, lettering or another picture over the picture."""

from pathlib import Path
from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from nebrel.core.picture.ops import compose
from nebrel.core.region.typefaces import folder_of
from nebrel.piece.ops.base import Group, Op, PictureView, Spot, Supplies, Tool
from nebrel.piece.ops.cutout import MaskFile
from nebrel.piece.parts.fields import choice, length, made_by_hand, measure, switch, tone

BLENDS = {
    "replace": "Covers",
    "add": "Adds",
    "subtract": "Takes away",
    "highest": "The brighter wins",
    "lowest": "The darker wins",
    "multiply": "Multiplies",
}
FONTS = {
    "bold": ("font_manrope", "Manrope-ExtraBold.ttf"),
    "round": ("font_fredoka_one", "FredokaOne-Regular.ttf"),
    "black": ("font_source_sans_pro", "SourceSansPro-Black.ttf"),
    "plain": ("font_source_sans_pro", "SourceSansPro-Semibold.ttf"),
}
MOST_SHAPE_PX = 8000
Blend = Literal["replace", "add", "subtract", "highest", "lowest", "multiply"]


class LayerOp(Op):
    """Something laid over the picture.

    Attributes:
        centre: in shares of the source from its lower left corner.
        width_mm: how wide it is on the piece.
    """

    group: ClassVar[Group] = "compose"
    tool: ClassVar[Tool | None] = "place"
    centre: Spot = made_by_hand("Centre", (0.5, 0.5))
    width_mm: float = length("Width", 20.0, 0.1, 3000, slider=(1, 120), step=0.5)
    angle_deg: float = measure("Turned", 0.0, -360, 360, unit="°", slider=(-180, 180), step=1)
    blend: Blend = choice("How it is laid on", "replace", BLENDS)

    def lay(self, view: PictureView, layer: compose.Overlay, height_share: float) -> PictureView:
        """The layer on the view, its height in proportion to its width."""
        column, row = view.place(self.centre)
        width = view.px(self.width_mm)
        place = compose.Place(column, row, width, width * height_share, self.angle_deg)
        return view.with_picture(compose.lay(view.picture, layer, place, self.blend))


class ShapeLayer(LayerOp):
    """A simple shape."""

    title: ClassVar[str] = "Shape"
    hint: ClassVar[str] = "Lay a simple shape over the picture. Drag it on the Plan."
    kind: Literal["shape"] = "shape"
    shape: Literal["rectangle", "rounded", "ellipse", "star", "heart"] = choice(
        "Shape",
        "rounded",
        {"rectangle": "Rectangle", "rounded": "Rounded", "ellipse": "Ellipse", "star": "Star", "heart": "Heart"},
    )
    height_mm: float = length("Height", 12.0, 0.1, 3000, slider=(1, 120), step=0.5)
    tone: float = tone("Tone", 1.0)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Antialiased."""
        width, height = (min(view.px(side), MOST_SHAPE_PX) for side in (self.width_mm, self.height_mm))
        layer = compose.shape_layer(self.shape, width, height, self.tone)
        return self.lay(view, layer, self.height_mm / self.width_mm)


class Lettering(LayerOp):
    """Letters."""

    title: ClassVar[str] = "Lettering"
    hint: ClassVar[str] = "Lay letters over the picture. Bold faces can be made; thin ones often cannot."
    kind: Literal["lettering"] = "lettering"
    text: str = Field("Fern 12", max_length=400, title="Text", json_schema_extra={"lines": True})
    font: Literal["bold", "round", "black", "plain"] = choice(
        "Letters", "bold", {"bold": "Bold", "round": "Round", "black": "Heavy", "plain": "Plain"}
    )
    align: Literal["left", "centre", "right"] = choice(
        "Lines", "centre", {"left": "Left", "centre": "Centred", "right": "Right"}
    )
    tone: float = tone("Tone", 1.0)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """As wide as asked; the height follows."""
        layer = compose.lettering_layer(self.text, font_file(self.font), self.tone, self.align)
        rows, columns = layer.cover.shape
        return self.lay(view, layer, rows / columns)


class DrawnShape(Op):
    """A polygon or a smooth curve through points that a hand set."""

    group: ClassVar[Group] = "compose"
    tool: ClassVar[Tool | None] = "points"
    title: ClassVar[str] = "Drawn shape"
    hint: ClassVar[str] = "Click on the Plan to set points; drag them, and press Delete on one to take it away."
    kind: Literal["drawn-shape"] = "drawn-shape"
    points: tuple[Spot, ...] = made_by_hand("Points", (), max_length=500)
    smooth: bool = switch("Smooth curve through the points", False, label="Smooth")
    drawn: Literal["area", "line"] = choice("Drawn as", "area", {"area": "Area", "line": "Line"})
    line_mm: float = length("Line width", 2.0, 0.05, 500, slider=(0.2, 20), step=0.1, shown={"drawn": ["line"]})
    closed: bool = switch("Closed line", False, label="Closed", shown={"drawn": ["line"]})
    tone: float = tone("Tone", 1.0)
    blend: Blend = choice("How it is laid on", "replace", BLENDS)

    @property
    def is_area(self) -> bool:
        """Whether it is filled."""
        return self.drawn == "area"

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Antialiased; too few points draw nothing yet."""
        if len(self.points) < (3 if self.is_area else 2):
            return view
        spots = np.array([view.place(point) for point in self.points])
        run = compose.curve_through(spots, self.smooth, self.is_area or self.closed)
        line = None if self.is_area else view.px(self.line_mm)
        layer = compose.run_layer(view.picture.shape, run, line, self.is_area or self.closed, self.tone)
        return view.with_picture(compose.blend_over(view.picture, layer, self.blend))


class PictureLayer(LayerOp):
    """Another picture."""

    title: ClassVar[str] = "Picture"
    hint: ClassVar[str] = "Lay another picture file over this one."
    kind: Literal["picture"] = "picture"
    file: MaskFile | None = made_by_hand("File", None)

    @property
    def is_general(self) -> bool:
        """Not: its file is this piece's."""
        return False

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Its see-through parts stay open."""
        if self.file is None:
            return view
        other = supplies.read_picture(self.file.blob, self.file.name)
        rows, columns = other.shape
        return self.lay(view, compose.picture_layer(other), rows / columns)


def font_file(name: str) -> Path:
    package, file = FONTS[name]
    return folder_of(package) / file
