"""Rules that say which tone stands how tall."""

from collections.abc import Callable
from typing import Literal

import numpy as np

from nebrel.core.errors import BadPictureError
from nebrel.core.height.field import HeightField
from nebrel.core.picture import Picture

ROWS_AT_ONCE = 512
Raise = Literal["bright", "dark"]


def straight_heights(
    picture: Picture,
    raise_: Raise,
    relief: float,
    width: float,
    progress: Callable[[float], None] = lambda _: None,
) -> HeightField:
    """Heights proportional to tone over a piece `width` mm wide.

    Args:
        picture: at least two different tones among its material.
        raise_: which tones stand tall; `bright` gives tone 1 the height `relief`, `dark` gives it to tone 0.
        relief: highest minus lowest height that the rule can give, mm.
        width: distance between the outermost pixel centres, mm.
        progress: called with the fraction done.

    Raises:
        BadPictureError: all material has one tone, so there is nothing to raise.
    """
    slope, base = (relief, 0.0) if raise_ == "bright" else (-relief, relief)
    heights = np.empty_like(picture.tones)
    darkest, brightest = np.inf, -np.inf
    for start in range(0, len(heights), ROWS_AT_ONCE):
        rows = slice(start, start + ROWS_AT_ONCE)
        tones, material = picture.tones[rows], picture.coverage[rows] >= 0.5
        darkest = min(darkest, float(tones.min(where=material, initial=np.inf)))
        brightest = max(brightest, float(tones.max(where=material, initial=-np.inf)))
        np.multiply(tones, np.float32(slope), out=heights[rows])
        heights[rows] += np.float32(base)
        progress(min(1.0, rows.stop / len(heights)))
    if darkest > brightest:
        raise BadPictureError("The picture is transparent everywhere; at least some of it must be visible.")
    if darkest == brightest:
        raise BadPictureError(
            "Every visible pixel has the same tone, so nothing would stand out; a picture with lighter and darker "
            "parts is needed."
        )
    return HeightField(heights=heights, coverage=picture.coverage, pitch=width / (picture.shape[1] - 1))
