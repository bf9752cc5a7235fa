"""What of a picture is drawn: where dark parts from bright, and which of both is the ink."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.otsu import best_threshold
from nebrel.core.picture.picture import Picture

Mask = NDArray[np.bool_]
Ink = Literal["dark", "bright"]


def automatic_threshold(picture: Picture) -> float:
    """The tone that parts the picture best into dark and bright (Otsu 1979)."""
    tones = picture.tones[picture.coverage >= 0.5]
    if tones.size == 0 or tones.min() == tones.max():
        return 0.5
    return best_threshold(tones, 1024)


def rarer_ink(picture: Picture) -> Ink:
    """Whether the picture is drawn in dark or in bright strokes: of whichever there is less."""
    dark = ink_of(picture, "dark").sum()
    return "dark" if 2 * dark <= (picture.coverage >= 0.5).sum() else "bright"


def ink_of(picture: Picture, ink: Ink) -> Mask:
    bright = picture.tones >= np.float32(automatic_threshold(picture))
    return (bright if ink == "bright" else ~bright) & (picture.coverage >= 0.5)
