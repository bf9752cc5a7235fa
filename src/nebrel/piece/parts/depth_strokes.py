"""What is said of a depth by hand: strokes over the picture, and parts that stand before others."""

from typing import ClassVar

from pydantic import Field

from nebrel.core.figure.hand import StrokeKind
from nebrel.piece.parts.fields import length, switch
from nebrel.piece.parts.part import Part

BY_AMOUNT = ["nearer", "farther", "thicker", "thinner", "ridge", "crease"]


class DepthStroke(Part):
    """A stroke over the picture; what it does is its kind's."""

    heading: ClassVar[str] = "By hand"
    id: str = Field("", max_length=40)
    on: bool = switch("Stroke switched on", True)
    kind: StrokeKind = "nearer"
    places: tuple[tuple[float, float, float], ...] = Field(
        min_length=1, max_length=5000, title="Places of the stroke", json_schema_extra={"by_hand": True}
    )
    size_mm: float = length("Width of the stroke", 4.0, 0.05, 500, slider=(0.5, 40), step=0.5, label="Width")
    amount_mm: float = length("Amount", 6.0, 0, 500, slider=(0.5, 40), step=0.5, shown={"kind": BY_AMOUNT})


class OrderedPart(Part):
    """A part of the figure that stands before others."""

    heading: ClassVar[str] = "Parts, nearest first"
    hint: ClassVar[str] = "Each stands before those after it, and before all that is not marked; what it hides goes on."
    id: str = Field("", max_length=40)
    on: bool = switch("Part switched on", True)
    at: tuple[float, float] = Field(title="A place on the part", json_schema_extra={"by_hand": True})
    step_mm: float = length("Step", 3.0, 0, 500, slider=(0.5, 30), step=0.5, label="Stands out at its edge by")
