"""A large picture made smaller while it is read, row by row."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled

# Below so much coverage a place is blank, and its tone that of all that lies there.
LEAST_COVERAGE = 1e-4


class Reduction:
    """Averages areas of a picture whose rows come one strip after another; tones over material only.

    The same as `shrink_to`, but for rounding.
    """

    def __init__(self, shape: tuple[int, int], longest_px: int, colours: int) -> None:
        height, width = self._from = shape
        scale = min(1.0, longest_px / max(shape))
        self.shape = shape if scale == 1 else (max(2, round(height * scale)), max(2, round(width * scale)))
        self._row = 0
        self._tones = np.zeros(self.shape)
        self._colours = np.zeros((colours, *self.shape))
        # Of tones times coverage, and of coverage; from the first place on that is not covered wholly.
        self._covered: tuple[NDArray[np.float64], NDArray[np.float64]] | None = None

    @property
    def share(self) -> float:
        """How much of it has come."""
        return self._row / self._from[0]

    def add(
        self,
        tones: NDArray[np.float32],
        coverage: NDArray[np.float32],
        colours: NDArray[np.float32] | None,
    ) -> None:
        """The next rows."""
        if self._covered is None and coverage.min() < 1:
            self._covered = (self._tones.copy(), self._whole())
        self._average(self._tones, tones)
        if self._covered is not None:
            self._average(self._covered[0], tones * coverage)
            self._average(self._covered[1], coverage)
        for at, sums in enumerate(self._colours):
            assert colours is not None
            self._average(sums, colours[..., at])
        self._row += len(tones)

    def finished(self) -> tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.float32] | None]:
        """Tones and coverage, float32 (h, w), and colours, float32 (h, w, 3), if they came."""
        tones, coverage = self._tones, np.ones(self.shape)
        if self._covered is not None:
            weighted, coverage = self._covered
            tones = np.where(coverage > LEAST_COVERAGE, weighted / np.maximum(coverage, LEAST_COVERAGE), tones)
        rgb = np.moveaxis(self._colours, 0, -1).clip(0, 1).astype(np.float32) if len(self._colours) else None
        return tones.clip(0, 1).astype(np.float32), coverage.clip(0, 1).astype(np.float32), rgb

    def _average(self, sums: NDArray[np.float64], plane: NDArray[np.float32]) -> None:
        _average(sums, plane, self._row, *self._from)

    def _whole(self) -> NDArray[np.float64]:
        """Coverage of the rows that have come, all of which are covered wholly."""
        come = self._row * self.shape[0] / self._from[0]
        rows = np.clip(come - np.arange(self.shape[0]), 0, 1)
        return np.repeat(rows[:, np.newaxis], self.shape[1], axis=1)


@compiled
def _average(sums, plane, first, height, width):
    """Add rows of a picture of `height` by `width`, the first of them `first`, to averages over areas."""
    rows, columns = sums.shape
    down, across = rows / height, columns / width
    line = np.empty(columns)
    for row in range(plane.shape[0]):
        line[:] = 0.0
        for column in range(plane.shape[1]):
            left, right = column * across, (column + 1) * across
            at = min(int(left), columns - 1)
            edge = at + 1.0
            value = plane[row, column]
            if right <= edge or at + 1 >= columns:
                line[at] += value * (right - left)
            else:
                line[at] += value * (edge - left)
                line[at + 1] += value * (right - edge)
        top, bottom = (first + row) * down, (first + row + 1) * down
        at = min(int(top), rows - 1)
        edge = at + 1.0
        if bottom <= edge or at + 1 >= rows:
            for column in range(columns):
                sums[at, column] += line[column] * (bottom - top)
        else:
            for column in range(columns):
                sums[at, column] += line[column] * (edge - top)
                sums[at + 1, column] += line[column] * (bottom - edge)
