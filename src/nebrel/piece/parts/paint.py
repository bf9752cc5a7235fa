"""The colour that a piece is painted in, in its file and wherever it is looked at."""

from typing import Annotated, ClassVar

from pydantic import Field

from nebrel.piece.parts.fields import colour, switch
from nebrel.piece.parts.part import COLOUR_PATTERN, Part

Colour = Annotated[str, Field(pattern=COLOUR_PATTERN)]
RGBA = tuple[int, int, int, int]


class PaintPart(Part):
    """One colour over all of it."""

    heading: ClassVar[str] = "Colour"
    hint: ClassVar[str] = "Carried by 3MF, GLB, OBJ and PLY; STL and OFF know none."
    on: bool = switch("Painted", False, label="In a colour of its own")
    colour: Colour = colour("Colour of the piece", "#c9b79c", label="Colour", shown={"on": ["true"]})

    @property
    def rgba(self) -> RGBA | None:
        """The colour as bytes; None where it is not painted."""
        return rgba_of(self.colour) if self.on else None


def rgba_of(told: str) -> RGBA:
    """A colour `#rrggbb` as bytes, opaque."""
    red, green, blue = bytes.fromhex(told[1:])
    return red, green, blue, 255
