"""Colours of a lithophane: the recipe of the tinted layers behind its wall."""

from typing import ClassVar

from pydantic import Field, model_validator

from nebrel.core.tinted.filters import MOST_TABLE, read_filters
from nebrel.core.tinted.mix import MOST_LAYERS, FilterBands
from nebrel.piece.parts.fields import length, switch, whole
from nebrel.piece.parts.part import Part

# What three thin filaments let through, read behind one layer and behind four.
MEASURED = """name,mm,red,green,blue
Cyan,0.1,0.52,0.86,0.92
Cyan,0.4,0.10,0.60,0.76
Magenta,0.1,0.90,0.55,0.86
Magenta,0.4,0.68,0.10,0.58
Yellow,0.1,0.95,0.91,0.53
Yellow,0.4,0.84,0.72,0.09
"""


class ColourLayersPart(Part):
    """Thin layers of tinted material behind the wall."""

    heading: ClassVar[str] = "Colour layers"
    hint: ClassVar[str] = "Thin tinted layers behind the wall give the picture its colours when it is lit."
    on: bool = switch("Colour layers switched on", False)
    layers: int = whole("Layers of each colour", 4, 1, MOST_LAYERS, slider=(1, MOST_LAYERS))
    layer_mm: float = length("Height of a colour layer", 0.1, 0.03, 1, slider=(0.05, 0.3), step=0.01)
    dot_mm: float = length(
        "Dots of colours",
        0.8,
        0,
        5,
        slider=(0, 2),
        step=0.1,
        label="Dots that mix colours",
        hint="Colours between two numbers of layers are mixed of dots so wide; 0 leaves steps.",
    )
    table: str = Field(
        MEASURED,
        max_length=MOST_TABLE,
        title="Table of colours",
        json_schema_extra={"hint": "Name, mm, and the shares of red, green and blue light that pass such a layer."},
    )

    @model_validator(mode="after")
    def _can_be(self) -> "ColourLayersPart":
        self.bands(1.0)
        return self

    def bands(self, attenuation: float) -> FilterBands:
        """The same for the core; `attenuation` is that of the wall's own material, per mm."""
        return FilterBands(read_filters(self.table), self.layers, self.layer_mm, attenuation)
