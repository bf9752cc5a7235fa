"""Heights over a grid, in millimetres."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.height.lines.network import HeightLines
from nebrel.core.height.steps import Terraces


@dataclass(frozen=True)
class HeightField:
    """Heights above the lowest point that the rule can give.

    Attributes:
        heights: float32 (H, W) mm, top row first.
        coverage: float32 (H, W), 1 material, 0 blank.
        pitch: mm between neighbouring samples; the outermost samples lie on the edges of the piece.
        terraces: set while the heights are exact steps, so that their edges can be curves.
        steepest_deg: greatest slope of the walls of terraces, 90 for upright ones.
        lines: along which the heights jump; None where none were looked for or found.
        crowded: share of the jumps that lie too close together for lines.
    """

    heights: NDArray[np.float32]
    coverage: NDArray[np.float32]
    pitch: float
    terraces: Terraces | None = None
    steepest_deg: float = 90.0
    lines: HeightLines | None = None
    crowded: float = 0.0

    @property
    def width(self) -> float:
        """Extent in X, mm."""
        return (self.heights.shape[1] - 1) * self.pitch

    @property
    def depth(self) -> float:
        """Extent in Y, mm."""
        return (self.heights.shape[0] - 1) * self.pitch

    @property
    def highest(self) -> float:
        """Of its material, mm; -inf where there is none."""
        return float(self.heights.max(where=self.material, initial=-np.inf))

    @property
    def material(self) -> NDArray[np.bool_]:
        """True (H, W) where a sample belongs to the piece."""
        return self.coverage >= 0.5
