"""How far a round tip has to go beyond the piece so that it touches what falls off towards its edge."""

from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.finish import slopes_of
from nebrel.core.carve.rough import around

# Shares of the tip's radius; the first is gone everywhere.
SHARES = (0.3, 0.5, 0.75, 1.0)
EDGE_PX, BLUR_PX = 2.5, 2.0


class RunOut:
    """Of a piece and of what a bit could leave of it at best.

    A ball that touches a slope stands beside the place that it touches, by the sine of how much the slope leans.

    Args:
        coarse: the heights.
        could: float64 (H, W) mm, what a bit leaves at best.
    """

    def __init__(self, coarse: Asked, could: NDArray[np.float64]) -> None:
        self._coarse = coarse
        inside = cv2.GaussianBlur(coarse.there.astype(np.float32), (0, 0), BLUR_PX)
        rise_x, rise_y = slopes_of(could, coarse.pitch)
        out_x, out_y = slopes_of(-inside.astype(np.float64), coarse.pitch)
        falls = -(rise_x * out_x + rise_y * out_y) / np.maximum(np.hypot(out_x, out_y), 1e-9)
        edge = coarse.there & around(~coarse.there, EDGE_PX)
        self._leans = np.where(edge, falls / np.sqrt(1 + falls**2), 0.0)

    @property
    def most(self) -> float:
        """The largest share that is needed anywhere."""
        steepest = float(self._leans.max(initial=0.0))
        return next((share for share in SHARES if share >= steepest), SHARES[-1])

    def places(self, tip: float) -> NDArray[np.bool_]:
        """Where a tip of that radius is led, bool (H, W): over the piece and as far beyond as it has to be."""
        coarse = self._coarse
        wanted = around(coarse.there, SHARES[0] * tip / coarse.pitch + 1)
        for less, share in pairwise(SHARES):
            steep = self._leans > less
            if steep.any():
                wanted |= around(steep, share * tip / coarse.pitch + 1)
        return wanted
