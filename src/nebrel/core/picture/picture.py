"""The picture as the rest of Nebrel sees it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Tones = NDArray[np.float32]


@dataclass(frozen=True)
class SourceFacts:
    """What the file said about itself before anything was changed."""

    format: str
    width_px: int
    height_px: int
    bit_depth: int
    channels: str
    dpi: float | None = None
    remarks: tuple[str, ...] = ()


@dataclass(frozen=True)
class Picture:
    """Tones and coverage of one picture, its top row first.

    Attributes:
        tones: float32 (H, W), 0 black to 1 white.
        coverage: float32 (H, W), 1 material, 0 blank.
        rgb: float32 (H, W, 3) in 0..1, or None for a gray picture.
        facts: what the file said about itself.
    """

    tones: Tones
    coverage: Tones
    facts: SourceFacts
    rgb: NDArray[np.float32] | None = None

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        height, width = self.tones.shape
        return height, width
