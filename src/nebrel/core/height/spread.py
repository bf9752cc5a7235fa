"""Light that spreads sideways within a wall: how a sharp edge looks through it, and how to make up for that.

What leaves a wall is blurred as by a Gaussian bell of a radius that is measured on an edge: behind a step, brightness
goes over like the error function (the line-spread of the edge is its derivative).
"""

import math
import warnings
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError

Floats = NDArray[np.float32]
ROUNDS = 24
FEWEST_PLACES = 6
# How far beyond its radius a bell is followed.
REACH = 3.0


def spread_light(
    light: Floats, radius_px: tuple[float, float], there: NDArray[np.bool_], around: bool = False
) -> Floats:
    """Light after it has spread, float32 (H, W); where there is no wall it neither spreads nor changes.

    Args:
        light: float32 (H, W), linear.
        radius_px: of the bell along columns and along rows, samples.
        there: bool (H, W), where there is wall.
        around: whether the first column follows the last.
    """
    from scipy.ndimage import gaussian_filter

    sigma = (radius_px[1], radius_px[0])
    mode: tuple[Literal["nearest", "wrap"], ...] = ("nearest", "wrap" if around else "nearest")
    weight = there.astype(np.float32)
    blurred = gaussian_filter(np.where(there, light, 0).astype(np.float32), sigma, mode=mode, truncate=REACH)
    share = gaussian_filter(weight, sigma, mode=mode, truncate=REACH)
    return np.where(there, blurred / np.maximum(share, 1e-6), light).astype(np.float32)


def sharpened(wanted: Floats, radius_px: float, darkest: float, around: bool = False) -> Floats:
    """What to aim at so that what is wanted comes out after light has spread, as far as walls can show it.

    The residual is given back again and again (Van Cittert 1931), held within what the thickest and the thinnest wall
    show.

    Args:
        wanted: float32 (H, W), linear, white being 1.
        radius_px: of the bell, samples.
        darkest: what the thickest wall shows.
        around: whether the first column follows the last.
    """
    everywhere, aimed = np.ones(wanted.shape, dtype=np.bool_), wanted
    for _ in range(ROUNDS):
        lacking = wanted - spread_light(aimed, (radius_px, radius_px), everywhere, around)
        aimed = np.clip(aimed + lacking, np.float32(darkest), np.float32(1))
    return aimed


def spread_of_edge(places: NDArray[np.float64], brightness: NDArray[np.float64]) -> tuple[float, float]:
    """The radius of the bell, mm, from brightness read across the edge of a step, and its standard error.

    Args:
        places: float64 (N,) mm across the edge, in any order.
        brightness: float64 (N,), in any unit.

    Raises:
        BadValueError: too few places, or no edge among them.
    """
    from scipy.optimize import OptimizeWarning, curve_fit
    from scipy.special import erf

    if len(places) < FEWEST_PLACES:
        raise BadValueError(
            f"{len(places)} places are read across the edge; {FEWEST_PLACES} or more, on both sides of it, are needed."
        )
    order = np.argsort(places)
    places, brightness = places[order], brightness[order]
    end = max(1, len(places) // 5)
    low, high = float(brightness[:end].mean()), float(brightness[-end:].mean())
    wide = float(np.ptp(places))
    if wide <= 0 or abs(high - low) < 0.02 * max(abs(high), abs(low), 1e-300):
        raise BadValueError("Brightness is the same on both sides of the edge; places across a step are needed.")

    def through(x: NDArray[np.float64], middle: float, radius: float, one: float, other: float) -> NDArray[np.float64]:
        share = (1 + erf((x - middle) / (math.sqrt(2) * abs(radius)))) / 2
        return np.asarray(one + (other - one) * share)

    middle = float(places[int(np.argmin(np.abs(brightness - (low + high) / 2)))])
    try:
        with warnings.catch_warnings():
            # Readings without any noise leave nothing to estimate an error from.
            warnings.simplefilter("ignore", OptimizeWarning)
            found, covariance = curve_fit(through, places, brightness, [middle, wide / 10, low, high], maxfev=4000)
    except RuntimeError as cause:
        raise BadValueError("No edge can be made out among the places; readings across one step are needed.") from cause
    error = math.sqrt(float(covariance[1, 1])) if np.isfinite(covariance[1, 1]) else 0.0
    return abs(float(found[1])), error
