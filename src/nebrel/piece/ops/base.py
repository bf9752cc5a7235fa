"""What all picture ops share: their place in the document, and the view that they change."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from nebrel.core.picture import Picture
from nebrel.core.picture.ops.reframe import Reframed
from nebrel.core.picture.ops.retouch import Stroke as BrushStroke
from nebrel.piece.parts.part import Part

Matrix = NDArray[np.float64]
Progress = Callable[[float], None]
Group = Literal["frame", "tone", "purify", "soften", "retouch", "cut out", "compose", "tile"]
Tool = Literal["box", "corners", "brush", "marks", "spot", "place"]
Shape = tuple[int, int]
Spot = tuple[float, float]


@dataclass(frozen=True)
class View:
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

    def with_picture(self, picture: Picture) -> "View":
        """The same view of another picture."""
        return replace(self, picture=picture)

    def reframed(self, result: Reframed) -> "View":
        """The view after a change of the frame that keeps the size of pixels."""
        return replace(self, picture=result.picture, from_source=result.moved @ self.from_source)

    def px(self, mm: float) -> float:
        """A length in pixels."""
        return mm / self.mm_per_px

    def place(self, spot: Spot) -> Spot:
        """Column and row of a place in the source."""
        x, y, w = self.from_source @ np.array([spot[0], spot[1], 1.0])
        return float(x / w), float(y / w)


def source_view(picture: Picture, mm_per_px: float) -> View:
    """The view before any op."""
    rows, columns = picture.shape
    from_source = np.array([[columns - 1.0, 0, 0], [0, 1.0 - rows, rows - 1.0], [0, 0, 1]])
    return View(picture, mm_per_px, from_source, (columns - 1) / max(1, picture.facts.width_px - 1))


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

    def apply(self, view: View, supplies: Supplies) -> View:
        """The view after this op."""
        raise NotImplementedError

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """Rows and columns after this op; only changes of the frame differ."""
        return shape

    def mm_per_px_after(self, shape: Shape, mm_per_px: float) -> float:
        """Distance between samples after this op; only resampling differs."""
        return mm_per_px

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
    size_mm: float = Field(3.0, gt=0, le=500)
    hardness: float = Field(0.8, ge=0, le=1)
    inside: bool = True

    def on_view(self, view: View) -> BrushStroke:
        """The stroke in pixels of a view."""
        places = np.array([(*view.place((x, y)), pressure) for x, y, pressure in self.places])
        return BrushStroke(places, max(0.5, view.px(self.size_mm) / 2), self.hardness)


def measure(
    title: str,
    default: float,
    lowest: float,
    highest: float,
    *,
    unit: str = "",
    slider: tuple[float, float] | None = None,
    step: float = 0.01,
    shown: dict[str, list[str]] | None = None,
) -> Any:
    """A number with its limits, its unit, the span of its slider, and when it is shown (`{field: values}`)."""
    extra: dict[str, Any] = {"unit": unit, "slider": list(slider) if slider else None, "step": step}
    if shown:
        extra["shown"] = shown
    return Field(default, ge=lowest, le=highest, title=title, json_schema_extra=extra)


def length(title: str, default: float, lowest: float, highest: float, **more: Any) -> Any:
    """A length on the finished piece, mm."""
    return measure(title, default, lowest, highest, **{"unit": "mm", "step": 0.05, **more})


def share(title: str, default: float, lowest: float = 0.0, highest: float = 1.0, **more: Any) -> Any:
    """A share, shown in per cent."""
    return measure(title, default, lowest, highest, **{"unit": "%", "slider": (lowest, highest), "step": 0.01, **more})


def tone(title: str, default: float, **more: Any) -> Any:
    """A tone, 0 black to 1 white."""
    return measure(title, default, 0.0, 1.0, **{"unit": "tone", "slider": (0.0, 1.0), "step": 0.01, **more})


def choice(title: str, default: str, labels: dict[str, str], **more: Any) -> Any:
    """One of several words."""
    extra: dict[str, Any] = {"choices": labels, **more}
    return Field(default, title=title, json_schema_extra=extra)


def switch(title: str, default: bool) -> Any:
    """Yes or no."""
    return Field(default, title=title)


def made_by_hand(title: str, default: Any, **rules: Any) -> Any:
    """Something that is drawn on the Plan or has its own editor."""
    return Field(default, title=title, json_schema_extra={"by_hand": True}, **rules)
