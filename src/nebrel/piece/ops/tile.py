"""Tile: a picture repeated without seams."""

from typing import ClassVar, Literal

import numpy as np

from nebrel.core.errors import BadValueError
from nebrel.core.picture.ops import tile
from nebrel.core.picture.ops.reframe import Reframed
from nebrel.piece.ops.base import Group, Op, PictureView, Shape, Supplies
from nebrel.piece.parts.fields import choice, length, measure, share

MOST = 100
COUNTED = {"by": ["count"]}
SIZED = {"by": ["size"]}


class Tile(Op):
    """Repeat the picture."""

    group: ClassVar[Group] = "tile"
    title: ClassVar[str] = "Repeat"
    hint: ClassVar[str] = (
        "Repeat the picture beside and above itself; fade its edges so that no seam shows. A size to fill is true "
        "where the piece is as wide."
    )
    kind: Literal["tile"] = "tile"
    by: Literal["count", "size"] = choice("Repeat", "count", {"count": "So often", "size": "To fill a size"})
    across: float = measure("Across", 2.0, 0.1, MOST, unit="×", slider=(1, 10), step=0.5, shown=COUNTED)
    up: float = measure("Upwards", 2.0, 0.1, MOST, unit="×", slider=(1, 10), step=0.5, shown=COUNTED)
    repeat_mm: float = length("One repeat is wide", 20.0, 0.5, 3000, slider=(2, 80), step=0.5, shown=SIZED)
    width_mm: float = length("Width to fill", 80.0, 1, 3000, slider=(10, 200), step=0.5, shown=SIZED)
    height_mm: float = length("Height to fill", 60.0, 1, 3000, slider=(10, 200), step=0.5, shown=SIZED)
    fade: float = share("Faded at the edges", 0.1, 0.0, 0.5)

    def apply(self, view: PictureView, supplies: Supplies) -> PictureView:
        """Places made by hand stay on the lowest left repeat."""
        whole = tile.seamless(view.picture, self.fade)
        strip = round(view.picture.shape[0] * self.fade)
        repeated = tile.repeat(whole, *self._counts(whole.shape))
        down = repeated.shape[0] - whole.shape[0] - strip
        moved = np.array([[1.0, 0, 0], [0, 1, down], [0, 0, 1]])
        return view.reframed(Reframed(repeated, moved))

    def shape_after(self, shape: Shape, mm_per_px: float) -> Shape:
        """As many pixels as the repeats have."""
        rows, columns = (side - round(side * self.fade) for side in shape)
        across, up = self._counts((rows, columns))
        return max(2, round(rows * up)), max(2, round(columns * across))

    def _counts(self, shape: Shape) -> tuple[float, float]:
        """How often across and upwards a repeat of so many rows and columns goes."""
        if self.by == "count":
            return self.across, self.up
        tall_mm = self.repeat_mm * shape[0] / shape[1]
        counts = self.width_mm / self.repeat_mm, self.height_mm / tall_mm
        if max(counts) > MOST or min(counts) < 0.01:
            raise BadValueError(
                f"Repeats of {self.repeat_mm:g} mm go {counts[0]:,.2f} × {counts[1]:,.2f} times into "
                f"{self.width_mm:g} × {self.height_mm:g} mm; 0.01 to {MOST} times are accepted."
            )
        return counts

    @classmethod
    def measured_in_mm(cls) -> bool:
        """Its lengths only stand in proportion to each other."""
        return False
