"""Materials that let light through, and colours."""

from typing import Annotated

import numpy as np
from pydantic import Field

from nebrel.core.height.transmission import TranslucentMaterial, decoded
from nebrel.piece.parts.part import COLOUR_PATTERN, Part

Colour = Annotated[str, Field(pattern=COLOUR_PATTERN)]


def linear(colour: str) -> tuple[float, float, float]:
    """Linear red, green and blue of `#rrggbb`, the largest 1."""
    shares = decoded(np.array([int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]))
    red, green, blue = (shares / max(float(shares.max()), 1e-6)).tolist()
    return red, green, blue


class TranslucentMaterialPart(Part):
    """A copy of a row of the material table, so that the piece stays what it is when the table changes."""

    name: str = Field("White filament", min_length=1, max_length=80, title="Material")
    attenuation_per_mm: float = Field(1.05, ge=0.01, le=20, title="Attenuation")
    surface_loss: float = Field(0.12, ge=0, le=0.95, title="Surface loss")
    cast: Colour = Field("#fff6e8", title="Colour cast")

    def to_core(self) -> TranslucentMaterial:
        """The same for the core."""
        return TranslucentMaterial(self.attenuation_per_mm, self.surface_loss, linear(self.cast))
