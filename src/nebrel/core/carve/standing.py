"""What still stands of the stock while passes are planned: an upper bound, so that the machine comes down safely."""

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.carve.asked import Asked
from nebrel.core.carve.bits import Profile
from nebrel.core.carve.offset import lowest_tips
from nebrel.core.carve.paths import Path, densified

CELL = 0.15
CLEAR = 1.0


class Standing:
    """Heights of the stock over a coarse grid around the piece, from its fresh face at 0 down to what passes leave."""

    def __init__(self, asked: Asked) -> None:
        self._asked = asked
        self.cell = max(asked.pitch, CELL)
        rows, columns = asked.heights.shape
        count = [int(np.ceil((side - 1) * asked.pitch / self.cell)) + 1 for side in (rows, columns)]
        self.tops = np.zeros((count[0], count[1]))

    def take(self, paths: list[Path], profile: Profile) -> None:
        """Lower the stock where a bit went along `paths`."""
        tips = np.full(self.tops.shape, np.inf)
        for path in paths:
            places = densified(path, self.cell / 2)
            rows, columns = self._spots(places)
            np.minimum.at(tips, (rows, columns), places[:, 2])
        left = -lowest_tips(-tips, self.cell, profile)
        # Places are taken to the nearest cell, so a cell may be cut no lower than its neighbours seem to be.
        around = cv2.dilate(left, np.ones((3, 3), np.uint8), borderType=cv2.BORDER_REPLICATE)
        self.tops = np.minimum(self.tops, np.asarray(around, dtype=np.float64))

    def above(self, place: NDArray[np.float64], radius: float) -> float:
        """A height from which a bit can go on at its feed, mm: nothing within its radius stands as tall."""
        (row,), (column,) = self._spots(place[np.newaxis])
        reach = int(np.ceil(radius / self.cell)) + 1
        near = self.tops[max(0, row - reach) : row + reach + 1, max(0, column - reach) : column + reach + 1]
        return float(near.max()) + CLEAR

    def at(self, places: NDArray[np.float64]) -> NDArray[np.float64]:
        """Heights of the stock at places, mm."""
        return self.tops[self._spots(places)]

    def _spots(self, places: NDArray[np.float64]) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
        columns = np.rint((places[:, 0] - self._asked.left) / self.cell).astype(np.int64)
        rows = np.rint((places[:, 1] - self._asked.low) / self.cell).astype(np.int64)
        return np.clip(rows, 0, self.tops.shape[0] - 1), np.clip(columns, 0, self.tops.shape[1] - 1)
