"""OKLab, in which equal distances look about equally different (Ottosson, "A perceptual color space", 2020)."""

import numpy as np
from numpy.typing import NDArray

_Floats = NDArray[np.float64]
TO_LMS = np.array(
    [
        [0.4122214708, 0.5363325363, 0.0514459929],
        [0.2119034982, 0.6806995451, 0.1073969566],
        [0.0883024619, 0.2817188376, 0.6299787005],
    ]
)
TO_LAB = np.array(
    [
        [0.2104542553, 0.7936177850, -0.0040720468],
        [1.9779984951, -2.4285922050, 0.4505937099],
        [0.0259040371, 0.7827717662, -0.8086757660],
    ]
)
_FROM_LAB, _FROM_LMS = np.linalg.inv(TO_LAB), np.linalg.inv(TO_LMS)


def oklab_of(colours: NDArray[np.uint8]) -> _Floats:
    """Lightness and two chroma axes, float64 (…, 3), of sRGB colours, uint8 (…, 3)."""
    share = colours.astype(np.float64) / 255
    return oklab_of_light(np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4))


def oklab_of_light(light: _Floats) -> _Floats:
    """The same of linear sRGB light, float64 (…, 3); s times the light is the cube root of s times the colour."""
    found: _Floats = np.cbrt(light @ TO_LMS.T) @ TO_LAB.T
    return found


def rgb_of(lab: _Floats) -> NDArray[np.uint8]:
    """The nearest sRGB colours, uint8 (…, 3), of OKLab ones, float64 (…, 3)."""
    linear = np.clip((lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T, 0, 1)
    share = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
    return np.round(255 * share).astype(np.uint8)
