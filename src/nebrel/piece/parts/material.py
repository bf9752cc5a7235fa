"""Materials that let light through, and colours."""

from typing import Annotated

import numpy as np
from pydantic import Field

from nebrel.core.height.transmission import TranslucentMaterial
from nebrel.core.picture.srgb import decode_srgb, encode_srgb
from nebrel.piece.parts.fields import colour, measure, share
from nebrel.piece.parts.part import COLOUR_PATTERN, Part

Colour = Annotated[str, Field(pattern=COLOUR_PATTERN)]


def linear(shown: str) -> tuple[float, float, float]:
    """Linear red, green and blue of `#rrggbb`, the largest 1."""
    shares = decode_srgb(np.array([int(shown[at : at + 2], 16) / 255 for at in (1, 3, 5)]))
    red, green, blue = (shares / max(float(shares.max()), 1e-6)).tolist()
    return red, green, blue


def shown_of(light: tuple[float, float, float]) -> str:
    """`#rrggbb` of linear red, green and blue, 0 to 1."""
    red, green, blue = np.round(encode_srgb(np.array(light, dtype=np.float32)) * 255).astype(int).tolist()
    return f"#{red:02x}{green:02x}{blue:02x}"


class TranslucentMaterialPart(Part):
    """A copy of a row of the material table, so that the piece stays what it is when the table changes."""

    name: str = Field("White filament", min_length=1, max_length=80, title="Material")
    attenuation_per_mm: float = measure("Attenuation", 1.05, 0.01, 20, unit="per mm", slider=(0.1, 4))
    surface_loss: float = share("Surface loss", 0.12, 0, 0.95, slider=None, label="Lost at the surfaces")
    cast: Colour = colour("Colour cast", "#fff6e8", label="Colour of light behind it")

    def to_core(self) -> TranslucentMaterial:
        """The same for the core."""
        return TranslucentMaterial(self.attenuation_per_mm, self.surface_loss, linear(self.cast))
