"""Tile: a picture repeated without seams."""

from typing import ClassVar, Literal

import numpy as np

from nebrel.core.picture.ops import tile
from nebrel.core.picture.ops.frame import Reframed
from nebrel.piece.ops.base import Group, Op, Shape, Supplies, View, measure, share


class Tile(Op):
    """Repeat the picture."""

    group: ClassVar[Group] = "tile"
    title: ClassVar[str] = "Repeat"
    hint: ClassVar[str] = "Repeat the picture beside and above itself; fade its edges so that no seam shows."
    kind: Literal["tile"] = "tile"
    across: float = measure("Across", 2.0, 0.1, 100, unit="×", slider=(1, 10), step=0.5)
    up: float = measure("Upwards", 2.0, 0.1, 100, unit="×", slider=(1, 10), step=0.5)
    fade: float = share("Faded at the edges", 0.1, 0.0, 0.5)

    def apply(self, view: View, supplies: Supplies) -> View:
        """Places made by hand stay on the lowest left repeat."""
        whole = tile.seamless(view.picture, self.fade)
        strip = round(view.picture.shape[0] * self.fade)
        repeated = tile.repeat(whole, self.across, self.up)
        down = repeated.shape[0] - whole.shape[0] - strip
        moved = np.array([[1.0, 0, 0], [0, 1, down], [0, 0, 1]])
        return view.reframed(Reframed(repeated, moved))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """As many pixels as the repeats have."""
        rows, columns = (side - round(side * self.fade) for side in shape)
        return max(2, round(rows * self.up)), max(2, round(columns * self.across))
