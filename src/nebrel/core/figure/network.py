"""What a network of depths sees of a figure, and what it says: one frame for training and for use."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.silhouette import Silhouette
from nebrel.core.figure.swell import swell

# The longer side of the box round the figure takes this share of the frame's side.
FILLED = 0.88
# Picture (3), cut-out, half thickness that the outline swells to, height in the frame, strokes (3).
INPUTS = 9
# Middle depth, logarithm of the thickness over the swollen one, normals (3), leaps of depth, logarithm of how unsure.
OUTPUTS = 7

_Pixels = NDArray[np.float32]


# What the network says of its doubt is the logarithm of so many times how far off it is, in longer sides.
DOUBT = 20.0


def doubt_of(said: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far off the front may be, in longer sides of the box, of the last output."""
    return np.exp(np.clip(said, -6.0, 3.0)) / DOUBT


def frame_of(cover: _Pixels) -> _Pixels:
    """Half thickness that an outline swells to, float32 (N, N), in longer sides of the box round the figure.

    Args:
        cover: float32 (N, N), 1 inside to 0 outside; the box takes up `FILLED` of it.
    """
    size = len(cover)
    edged = cover.astype(np.float64)
    edged[:2], edged[-2:], edged[:, :2], edged[:, -2:] = 0, 0, 0, 0
    silhouette = Silhouette(edged, 1 / (FILLED * size), (0.0, 0.0), (0.0, 0.0, 1.0), size, size)
    return np.sqrt(np.maximum(swell(silhouette), 0)).astype(np.float32) * silhouette.inside


def stacked(picture: _Pixels, cover: _Pixels, swollen: _Pixels, strokes: _Pixels) -> _Pixels:
    """The inputs of the network, float32 (INPUTS, N, N).

    Args:
        picture: float32 (N, N, 3), 0 to 1; what is beside the figure does not count.
        cover: float32 (N, N), 1 inside to 0 outside.
        swollen: of `frame_of`.
        strokes: float32 (3, N, N): how much nearer in longer sides of the box, ridge (1) and crease (-1), flat (1).
    """
    colours = (picture.transpose(2, 0, 1) - 0.5) * 2 * cover
    height = np.linspace(1, -1, len(cover), dtype=np.float32)[:, np.newaxis] * np.ones_like(cover)
    hand = strokes * np.array([5, 1, 1], dtype=np.float32)[:, np.newaxis, np.newaxis]
    return np.concatenate([colours, [cover * 2 - 1, swollen * 4, height], hand]).astype(np.float32)
