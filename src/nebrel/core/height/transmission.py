"""Thickness from light: how thick a wall must be for a tone to appear when a lamp stands behind it.

Light that passes a wall of thickness t is (1 - s) * exp(-a t) of what falls on it: Bouguer, Lambert and Beer's law with
the attenuation a of the material and the share s that its two surfaces keep back. Tones are sRGB (IEC 61966-2-1).
"""

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.height.spread import sharpened
from nebrel.core.picture.srgb import decode_srgb, encode_srgb

Beyond = Literal["compress", "clip"]
RuleKind = Literal["light", "straight"]
Floats = NDArray[np.float32]


@dataclass(frozen=True)
class TranslucentMaterial:
    """What a lithophane is made of.

    Attributes:
        attenuation: per mm.
        surface_loss: share of the light that the surfaces keep back, 0 to below 1.
        cast: colour of white light behind it, linear red, green and blue, the largest 1.
    """

    attenuation: float
    surface_loss: float = 0.0
    cast: tuple[float, float, float] = (1.0, 1.0, 1.0)

    def passed(self, thickness: NDArray[np.floating]) -> NDArray[np.floating]:
        """Share of the light that comes through walls of that thickness, mm."""
        return np.asarray((1 - self.surface_loss) * np.exp(-self.attenuation * thickness))


@dataclass(frozen=True)
class TransmissionRule:
    """From tones to thickness.

    Attributes:
        thinnest, thickest: of the wall, mm; white is thinnest.
        material: for the light rule.
        kind: `light` makes the lit picture match the tones; `straight` lets thickness fall evenly with the tone.
        beyond: what happens to tones darker than the thickest wall shows: all tones are moved closer together, or
            those become as dark as can be.
        strength: how much of the light rule is taken, the rest being the straight one; 0 to 1.
    """

    thinnest: float
    thickest: float
    material: TranslucentMaterial
    kind: RuleKind = "light"
    beyond: Beyond = "compress"
    strength: float = 1.0

    def __post_init__(self) -> None:
        if not self.thickest > self.thinnest:
            raise BadValueError(
                f"The thickest wall is {self.thickest:g} mm and the thinnest {self.thinnest:g} mm; "
                "a thickest wall above the thinnest is needed."
            )

    @property
    def contrast(self) -> float:
        """How many times brighter the thinnest wall is than the thickest."""
        return math.exp(min(700.0, self.material.attenuation * (self.thickest - self.thinnest)))

    @property
    def darkest_tone(self) -> float:
        """The tone that the thickest wall shows when the thinnest shows white."""
        return float(encode_srgb(np.array([1 / self.contrast], dtype=np.float64))[0])

    def wanted(self, tones: Floats) -> Floats:
        """Luminance that the light rule aims at, white being 1; float32 of the shape of `tones`."""
        if self.beyond == "compress":
            darkest = np.float32(self.darkest_tone)
            return decode_srgb(darkest + (1 - darkest) * tones)
        return np.maximum(decode_srgb(tones), np.float32(1 / self.contrast))

    def thickness(
        self, tones: Floats, spread_px: float = 0.0, around: bool = False, passed: Floats | None = None
    ) -> Floats:
        """Thickness of the wall for every tone, mm; float32 of the shape of `tones`.

        Args:
            tones: float32 (H, W), 0 to 1.
            spread_px: samples by which light spreads in the wall, made up for by sharpening; 0 leaves it.
            around: whether the first column follows the last.
            passed: share of the light that passes what lies behind the wall, float32 (H, W); None where nothing does.
        """
        span = np.float32(self.thickest - self.thinnest)
        straight = np.float32(self.thickest) - span * tones
        share = self.strength if self.kind == "light" else 0.0
        if share == 0:
            return straight
        wanted = self.wanted(tones)
        wanted = sharpened(wanted, spread_px, 1 / self.contrast, around) if spread_px > 0 else wanted
        wanted = wanted if passed is None else wanted / passed
        true = np.float32(self.thinnest) - np.log(wanted) / np.float32(self.material.attenuation)
        mixed = true if share == 1 else np.float32(share) * true + np.float32(1 - share) * straight
        return np.clip(mixed, np.float32(self.thinnest), np.float32(self.thickest))


def close_seam(tones: Floats, blend_px: float) -> Floats:
    """The picture with its left and right border equal, so that it can run round a form.

    Each row is lifted towards the mean of its two ends within half of `blend_px` columns from either of them; what
    the picture shows there stays.
    """
    columns = tones.shape[1]
    reach = min(max(blend_px / 2, 0.5), columns / 2)
    away = np.arange(columns, dtype=np.float32)
    ease = np.clip(1 - np.minimum(away, columns - 1 - away) / np.float32(reach), 0, 1)
    ease = ease * ease * (3 - 2 * ease)
    half = ((tones[:, -1:] - tones[:, :1]) / 2) * np.where(away < columns / 2, 1, -1).astype(np.float32)
    closed: Floats = np.clip(tones + ease * half, 0, 1)
    closed[:, -1] = closed[:, 0]
    return closed
