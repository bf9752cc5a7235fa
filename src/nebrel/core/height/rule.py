"""Rules that say which tone stands how tall."""

from typing import Literal

import numpy as np

from nebrel.core.errors import BadPictureError
from nebrel.core.height.field import HeightField
from nebrel.core.picture import Picture

Raise = Literal["bright", "dark"]


def straight_heights(picture: Picture, raise_: Raise, relief: float, width: float) -> HeightField:
    """Heights proportional to tone over a piece `width` mm wide.

    Args:
        picture: at least two different tones among its material.
        raise_: which tones stand tall; `bright` gives tone 1 the height `relief`, `dark` gives it to tone 0.
        relief: highest minus lowest height that the rule can give, mm.
        width: distance between the outermost pixel centres, mm.

    Raises:
        BadPictureError: all material has one tone, so there is nothing to raise.
    """
    material = picture.tones[picture.coverage >= 0.5]
    if material.size == 0:
        raise BadPictureError("The picture is transparent everywhere; at least some of it must be visible.")
    if material.min() == material.max():
        raise BadPictureError(
            "Every visible pixel has the same tone, so nothing would stand out; a picture with lighter and darker "
            "parts is needed."
        )
    tones = picture.tones if raise_ == "bright" else 1 - picture.tones
    return HeightField(
        heights=(tones * np.float32(relief)).astype(np.float32),
        coverage=picture.coverage,
        pitch=width / (picture.shape[1] - 1),
    )
