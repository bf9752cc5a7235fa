"""How far colours that are shown are from those that are wanted, as the eye sees it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.srgb import encode_srgb

FAR = 10.0
MOST_COMPARED = 200_000


@dataclass(frozen=True)
class ColourMatch:
    """Differences of colours by CIEDE2000, in which 1 is about the least that the eye sees side by side.

    Attributes:
        mean: over all places.
        tenth: that nine of ten places stay below.
        far: share of places that are off by more than 10.
    """

    mean: float
    tenth: float
    far: float


def colour_match(shown: NDArray[np.floating], wanted: NDArray[np.floating]) -> ColourMatch:
    """Compare colours (Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula", 2005).

    Args:
        shown, wanted: float (N, 3) linear sRGB, white 1; of many places, evenly chosen ones are compared.
    """
    from skimage.color import deltaE_ciede2000, rgb2lab

    every = max(1, len(shown) // MOST_COMPARED)
    lab = [rgb2lab(encode_srgb(np.clip(each[::every], 0, 1).astype(np.float32))) for each in (shown, wanted)]
    off = deltaE_ciede2000(*lab)
    if not off.size:
        return ColourMatch(0.0, 0.0, 0.0)
    return ColourMatch(float(off.mean()), float(np.quantile(off, 0.9)), float((off > FAR).mean()))
