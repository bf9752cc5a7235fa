"""The colour of a lamp from its colour temperature."""

import numpy as np

from nebrel.core.errors import BadValueError

COLDEST_K, HOTTEST_K = 1000.0, 20000.0
# Planck's second radiation constant, nm K.
_SECOND = 1.438776877e7
# Linear sRGB of CIE XYZ (IEC 61966-2-1).
_TO_RGB = np.array(
    [[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]],
)  # fmt: skip


def lamp_of_temperature(kelvin: float) -> tuple[float, float, float]:
    """Linear red, green and blue of a glowing body, the largest 1.

    Planck's law over the colour matching functions of the CIE 1931 observer, as Wyman, Sloan and Shirley fit them
    ("Simple Analytic Approximations to the CIE XYZ Color Matching Functions", 2013). What no screen shows is cut off.

    Raises:
        BadValueError: it is not from 1,000 to 20,000 K.
    """
    if not COLDEST_K <= kelvin <= HOTTEST_K:
        raise BadValueError(
            f"A lamp of {kelvin:g} K is asked for; {COLDEST_K:g} K (embers) to {HOTTEST_K:g} K (blue sky) are known, "
            "and 2700 K is a warm white lamp."
        )
    nm = np.arange(380.0, 781.0, 2.0)
    power = nm**-5 / np.expm1(_SECOND / (nm * kelvin))
    x = _lobe(nm, 1.056, 599.8, 37.9, 31.0) + _lobe(nm, 0.362, 442.0, 16.0, 26.7) - _lobe(nm, 0.065, 501.1, 20.4, 26.2)
    y = _lobe(nm, 0.821, 568.8, 46.9, 40.5) + _lobe(nm, 0.286, 530.9, 16.3, 31.1)
    z = _lobe(nm, 1.217, 437.0, 11.8, 36.0) + _lobe(nm, 0.681, 459.0, 26.0, 13.8)
    rgb = np.clip(_TO_RGB @ (np.stack([x, y, z]) @ power), 0, None)
    red, green, blue = (rgb / rgb.max()).tolist()
    return red, green, blue


def _lobe(nm: np.ndarray, height: float, at: float, below: float, above: float) -> np.ndarray:
    """A bell whose two sides are differently wide."""
    return np.asarray(height * np.exp(-0.5 * ((nm - at) / np.where(nm < at, below, above)) ** 2))
