"""What all picture ops share: their place in the document, and the view that they change."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from nebrel.core.picture import Picture
from nebrel.core.picture.ops.reframe import Reframed
from nebrel.core.picture.ops.retouch import PixelStroke
from nebrel.piece.parts.fields import length, share
from nebrel.piece.parts.part import Part

Matrix = NDArray[np.float64]
Progress = Callable[[float], None]
Group = Literal["frame", "tone", "purify", "soften", "retouch", "cut out", "compose", "tile"]
Tool = Literal["box", "corners", "brush", "marks", "spot", "place", "points"]
Shape = tuple[int, int]
Spot = tuple[float, float]


@dataclass(frozen=True)
class PictureView:
    """A picture on its way through the ops.

    Attributes:
        picture: as the ops so far left it.
        mm_per_px: distance between its samples on the finished piece.
        from_source: 3 × 3, takes a place in shares of the source picture, from its lower left corner, to column and
            row here; so what was placed by hand stays where it was when an earlier op changes the frame.
        density: pixels here for every pixel that there is at full resolution; below 1 in a preview.
    """

    picture: Picture
    mm_per_px: float
    from_source: Matrix
    density: float = 1.0

    def with_picture(self, picture: Picture) -> "PictureView":
        """The same view of another picture."""
        return replace(self, picture=picture)

    def reframed(self, result: Reframed) -> "PictureView":
        """The view after a change of the frame that keeps the size of pixels."""
        return replace(self, picture=result.picture, from_source=result.moved @ self.from_source)

    def px(self, mm: float) -> float:
        """A length in pixels."""
        return mm / self.mm_per_px

    def place(self, spot: Spot) -> Spot:
        """Column and row of a place in the source."""
        x, y, w = self.from_source @ np.array([spot[0], spot[1], 1.0])
        return float(x / w), float(y / w)


def source_view(picture: Picture, mm_per_px: float) -> PictureView:
    """The view before any op."""
    rows, columns = picture.shape
    from_source = np.array([[columns - 1.0, 0, 0], [0, 1.0 - rows, rows - 1.0], [0, 0, 1]])
    return PictureView(picture, mm_per_px, from_source, (columns - 1) / max(1, picture.facts.width_px - 1))


@dataclass(frozen=True)
class Supplies:
    """What an op may need besides the picture: other pictures by blob and name, and a place to tell progress."""

    read_picture: Callable[[str, str], Picture]
    progress: Progress = lambda _part: None


class Op(Part):
    """One change to the picture, that can be switched off.

    Attributes:
        kind: which change.
        id: names this op among the piece's, so that edits and pictures find it after a reorder.
        on: whether it is applied.
    """

    group: ClassVar[Group]
    title: ClassVar[str]
    hint: ClassVar[str]
    tool: ClassVar[Tool | None] = None
    needs_colour: ClassVar[bool] = False
    on_source_pixels: ClassVar[bool] = False

    kind: str
    id: str = Field("", max_length=40)
    on: bool = True

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """The view after this op."""
        raise NotImplementedError

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """Rows and columns after this op; only changes of the frame differ."""
        return shape

    def mm_per_px_after(self, shape: Shape, mm_per_px: float) -> float:
        """Distance between samples after this op; only resampling differs."""
        return mm_per_px

    @property
    def is_general(self) -> bool:
        """Whether it does the same to another picture: nothing of it was put at places of this one by hand."""
        return self.tool in (None, "place")

    @classmethod
    def measured_in_mm(cls) -> bool:
        """Whether the result depends on how large the piece is made."""
        return any(_extra(field).get("unit") in ("mm", "mm²") for field in cls.model_fields.values())


def _extra(field: Any) -> dict[str, Any]:
    extra = field.json_schema_extra
    return extra if isinstance(extra, dict) else {}


class Stroke(Part):
    """A brush stroke.

    Attributes:
        places: x, y in shares of the source from its lower left corner, and pressure 0..1.
        size_mm: its width at full pressure.
    """

    places: tuple[tuple[float, float, float], ...] = Field(min_length=1, max_length=5000)
    size_mm: float = length("Brush size", 3.0, 0.05, 500, slider=(0.2, 30), step=0.1)
    hardness: float = share("Hardness", 0.8, step=0.05)
    inside: bool = True

    def on_view(self, view: PictureView) -> PixelStroke:
        """The stroke in pixels of a view."""
        places = np.array([(*view.place((x, y)), pressure) for x, y, pressure in self.places])
        return PixelStroke(places, max(0.5, view.px(self.size_mm) / 2), self.hardness)
