"""What all mending steps of outlines have."""

from collections.abc import Callable
from typing import Annotated

from pydantic import Field

from nebrel.core.region import mend
from nebrel.core.region.curves import Figure
from nebrel.piece.parts.part import Part

NEAR_SHARE = 0.03
ReadDrawing = Callable[[str, str], Figure]
Place = tuple[
    Annotated[float, Field(ge=-10, le=10)],
    Annotated[float, Field(ge=-10, le=10)],
]


class Mend(Part):
    """A step that can be switched off."""

    id: str = Field("", max_length=40)
    on: bool = Field(True, title="Step switched on")


class Chosen(Mend):
    """A step that works on the curves nearest to the places it names."""

    chosen: tuple[Place, ...] = Field((), max_length=2000, title="Chosen outlines")

    def numbers(self, figure: Figure, width: float) -> set[int]:
        """Which curves are chosen: all where none is named."""
        if not self.chosen:
            return set(range(len(figure.curves)))
        found = mend.nearest_curves(figure, [(x * width, y * width) for x, y in self.chosen])
        return {number for number, away in found if away <= NEAR_SHARE * width}
