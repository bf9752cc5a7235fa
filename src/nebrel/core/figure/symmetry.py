"""Figures that are alike on both sides of a line."""

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.silhouette import Silhouette

# How finely a line is looked for, degrees and shares of the width.
LEANS = np.linspace(-12.0, 12.0, 13)
TRIES = 41

_Floats = NDArray[np.float64]


@dataclass(frozen=True)
class MirrorLine:
    """A line on the picture.

    Attributes:
        x, y: a place on it, mm.
        lean: degrees from upright, counter-clockwise.
        strength: 1 makes both sides the same, 0 changes nothing.
    """

    x: float
    y: float
    lean: float = 0.0
    strength: float = 1.0

    def opposite(self, x: _Floats, y: _Floats) -> tuple[_Floats, _Floats]:
        """The places on the other side, mm."""
        turn = np.radians(self.lean)
        along = -np.sin(turn), np.cos(turn)
        dx, dy = x - self.x, y - self.y
        on = dx * along[0] + dy * along[1]
        return self.x + 2 * on * along[0] - dx, self.y + 2 * on * along[1] - dy


def find_line(silhouette: Silhouette) -> tuple[MirrorLine, float]:
    """The line about which an outline is most alike.

    Returns:
        the line, through the middle of the outline's height, and the intersection over union of both sides, 0 to 1.
    """
    inside = silhouette.inside
    rows, columns = np.nonzero(inside)
    x = silhouette.low[0] + columns * silhouette.pitch
    y = silhouette.low[1] + (inside.shape[0] - 1 - rows) * silhouette.pitch
    middle, width = float(x.mean()), float(np.ptp(x))
    best = (MirrorLine(middle, float(y.mean())), -1.0)
    for share in np.linspace(-0.2, 0.2, TRIES):
        for lean in LEANS:
            line = MirrorLine(middle + share * width, float(y.mean()), float(lean))
            alike = float(_across(silhouette, inside.astype(np.float32), line)[inside].mean())
            # Of as many samples on the other side, so intersection over union follows from what meets.
            alike = alike / (2 - alike)
            if alike > best[1] + 1e-9:
                best = (line, alike)
    return best


def both_sides(strokes: tuple[HandStroke, ...], silhouette: Silhouette, line: MirrorLine) -> tuple[HandStroke, ...]:
    """Every stroke, and the same one on the other side."""
    top, left, step = silhouette.corner
    made = []
    for stroke in strokes:
        x = silhouette.low[0] + (stroke.places[:, 0] - left) / step * silhouette.pitch
        y = silhouette.low[1] + (silhouette.cover.shape[0] - 1 - (stroke.places[:, 1] - top) / step) * silhouette.pitch
        columns, rows = silhouette.source_at(*line.opposite(x, y))
        made += [stroke, replace(stroke, places=np.column_stack([columns, rows]))]
    return tuple(made)


def alike(silhouette: Silhouette, values: _Floats, line: MirrorLine) -> _Floats:
    """Values of both sides put together, float64 (H, W).

    Where one side reaches further than the other, its values go over into its own towards the other's outline, so
    there is no seam; the outline itself stays as it was drawn.
    """
    inside = silhouette.inside
    deep = silhouette.deep + silhouette.pitch / 2
    other, other_deep = _across(silhouette, values, line), _across(silhouette, np.where(inside, deep, 0.0), line)
    share = np.minimum(deep, other_deep) / np.maximum(np.maximum(deep, other_deep), 1e-9)
    weight = np.where(inside, line.strength / 2 * np.minimum(1.0, SURE * share), 0.0)
    return values * (1 - weight) + other * weight


# Both sides count as equally deep when they are so nearly.
SURE = 1.15


def _across(silhouette: Silhouette, values: NDArray[np.floating], line: MirrorLine) -> _Floats:
    """Values at the places on the other side; 0 beyond the grid."""
    rows, columns = (np.asarray(each, dtype=np.float64) for each in np.indices(silhouette.cover.shape))
    x = silhouette.low[0] + columns * silhouette.pitch
    y = silhouette.low[1] + (silhouette.cover.shape[0] - 1 - rows) * silhouette.pitch
    at = silhouette.samples_at(*line.opposite(x, y))
    found = cv2.remap(
        values.astype(np.float32), at[0].astype(np.float32), at[1].astype(np.float32), cv2.INTER_LINEAR,
        borderMode=cv2.BORDER_CONSTANT, borderValue=0,
    )  # fmt: skip
    return np.asarray(found, dtype=np.float64)
