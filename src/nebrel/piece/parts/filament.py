"""A filament that something is printed in."""

from pydantic import Field

from nebrel.core.colour.palette import Tint, tint_of
from nebrel.piece.parts.fields import colour
from nebrel.piece.parts.material import Colour
from nebrel.piece.parts.part import Part


class Filament(Part):
    """A copy of a row of the filament table, so that the piece stays what it is when the table changes."""

    name: str = Field("", max_length=80, title="Name of the filament")
    colour: Colour = colour("Colour of the filament", "#808080")

    def to_core(self) -> Tint:
        """The same for the core."""
        return tint_of(self.name, self.colour)
