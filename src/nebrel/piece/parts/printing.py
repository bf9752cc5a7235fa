"""How a piece is printed: its layers, what is laid into them, which side lies below, and where colours change."""

from typing import ClassVar

from pydantic import Field, field_validator

from nebrel.core.errors import BadValueError
from nebrel.piece.parts.fields import angle, colour, length, made_by_hand, measure, share, switch, whole
from nebrel.piece.parts.material import Colour
from nebrel.piece.parts.part import Part

Direction = tuple[float, float, float]
DOWN: Direction = (0.0, 0.0, -1.0)
MOST_CHANGES = 16


class ColourChange(Part):
    """Another colour from a height on."""

    heading: ClassVar[str] = "Change of colour"

    from_mm: float = length("From", 1.0, 0.01, 5000, step=0.2)
    colour: Colour = colour("Colour", "#e9dfcd")
    name: str = Field("", max_length=80, title="Name of the filament")


class BandsPart(Part):
    """Colours by layers: one below, and another from each of some heights on."""

    heading: ClassVar[str] = "Colours by layers"
    hint: ClassVar[str] = "The filament is changed by hand at a height; every colour goes through a whole layer."

    on: bool = switch("Colours by layers switched on", False)
    colour: Colour = colour("Colour below", "#3d4a45", label="Below")
    name: str = Field("", max_length=80, title="Name of the filament below")
    changes: tuple[ColourChange, ...] = Field((), max_length=MOST_CHANGES, title="Changes of colour")

    @field_validator("changes")
    @classmethod
    def _in_order(cls, changes: tuple[ColourChange, ...]) -> tuple[ColourChange, ...]:
        return tuple(sorted(changes, key=lambda change: change.from_mm))


class PrintingPart(Part):
    """How a printer lays the piece; its lines and layers are those of the maker."""

    heading: ClassVar[str] = "Layers"

    first_mm: float = length("First layer", 0.0, 0, 2, step=0.02, label="First layer, 0 as the others")
    varied: bool = switch("Lower layers on slopes", False)
    cusp_mm: float = length("Steps stand out by", 0.04, 0.002, 1, step=0.01, shown={"varied": ["true"]})
    walls: int = whole("Lines round", 3, 1, 40)
    solid_layers: int = whole("Solid layers", 4, 0, 200, label="Solid layers below and above")
    infill: float = share("Filled", 0.15)
    steepest_deg: float = angle("Holds by itself up to", 45, 5, 85, label="Holds by itself, from upright, up to")
    bridge_mm: float = length("Longest bridge", 10, 0, 200, step=1)
    support: float = share("Support filled", 0.15)
    wall_speed: float = measure("Walls at", 60, 1, 2000, unit="mm/s", step=5)
    infill_speed: float = measure("Inside at", 90, 1, 2000, unit="mm/s", step=5)
    travel_speed: float = measure("Moves at", 150, 1, 2000, unit="mm/s", step=10)
    acceleration: float = measure("Acceleration", 1500, 10, 50_000, unit="mm/s²", step=100)
    layer_change_s: float = measure("A layer more takes", 1.5, 0, 600, unit="s", step=0.5)
    colour_change_s: float = measure("A change of colour takes", 90, 0, 3600, unit="s", step=10)
    down: Direction = made_by_hand("Side that lies below", DOWN)
    bands: BandsPart = BandsPart()

    @field_validator("down")
    @classmethod
    def _is_a_direction(cls, down: Direction) -> Direction:
        size = sum(part * part for part in down) ** 0.5
        if not 1e-6 < size < 1e6:
            raise BadValueError("The side below has no direction; three numbers that are not all 0 are needed.")
        x, y, z = (round(part / size, 9) + 0.0 for part in down)
        return x, y, z

    @property
    def as_made(self) -> bool:
        """Whether it is printed as it lies."""
        return self.down == DOWN
