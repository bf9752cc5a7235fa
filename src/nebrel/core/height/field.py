"""Heights over a grid, in millimetres."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class HeightField:
    """Heights above the lowest point that the rule can give.

    Attributes:
        heights: float32 (H, W) mm, top row first.
        coverage: float32 (H, W), 1 material, 0 blank.
        pitch: mm between neighbouring samples; the outermost samples lie on the edges of the piece.
    """

    heights: NDArray[np.float32]
    coverage: NDArray[np.float32]
    pitch: float

    @property
    def width(self) -> float:
        """Extent in X, mm."""
        return (self.heights.shape[1] - 1) * self.pitch

    @property
    def depth(self) -> float:
        """Extent in Y, mm."""
        return (self.heights.shape[0] - 1) * self.pitch

    @property
    def material(self) -> NDArray[np.bool_]:
        """True (H, W) where a sample belongs to the piece."""
        return self.coverage >= 0.5
