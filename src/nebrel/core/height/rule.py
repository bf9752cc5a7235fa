"""Rules that say which tone stands how tall."""

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.height.field import HeightField
from nebrel.core.picture import Picture
from nebrel.core.picture.ops.tone import along_curve

# Tones that are nearer to each other come from resampling one.
ONE_TONE = 1e-4
ROWS_AT_ONCE = 512
CURVE_SAMPLES = 4097
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

    def raised(tones: NDArray[np.float32], heights: NDArray[np.float32]) -> None:
        np.multiply(tones, np.float32(slope), out=heights)
        heights += np.float32(base)

    return _by_rows(picture, width, raised, progress)


def curved_heights(
    picture: Picture,
    raise_: Raise,
    relief: float,
    width: float,
    points: Sequence[tuple[float, float]],
    progress: Callable[[float], None] = lambda _: None,
) -> HeightField:
    """Heights along a curve through `points`: (tone, share of `relief`), 0 to 1 each, tones rising.

    The curve is monotone between its points, as that of the picture op. With `raise_` dark it is read from white to
    black. See `straight_heights` for the rest.
    """
    shares = along_curve(points, CURVE_SAMPLES)
    places = np.linspace(0, 1, CURVE_SAMPLES)
    if raise_ == "dark":
        shares = shares[::-1]

    def raised(tones: NDArray[np.float32], heights: NDArray[np.float32]) -> None:
        heights[:] = np.interp(tones, places, shares * relief)

    return _by_rows(picture, width, raised, progress)


def scale_by(field: HeightField, mask: NDArray[np.float32]) -> HeightField:
    """Heights multiplied by a mask of the same shape, float32 0 to 1."""
    return replace(field, heights=field.heights * mask, terraces=None)


def cut_below(picture: Picture, tone: float) -> Picture:
    """The picture with everything darker than `tone` blank; the edge runs where tones pass it, between samples."""
    soft = np.clip(0.5 + (picture.tones - np.float32(tone)) / np.float32(2 * max(tone, 1e-6)), 0, 1)
    coverage = np.minimum(picture.coverage, soft.astype(np.float32))
    if not (coverage >= 0.5).any():
        raise BadPictureError(
            f"Nothing of the picture is brighter than {tone:.0%}, so all of it would be cut away; cut at a darker tone."
        )
    return replace(picture, coverage=coverage)


def one_tone(picture: Picture) -> float | None:
    """The tone that all of a picture has; None where there are several, or nothing to be seen."""
    tones = picture.tones[picture.coverage >= 0.5]
    return float(tones[0]) if tones.size and float(np.ptp(tones)) < ONE_TONE else None


def level_heights(picture: Picture, height: float, width: float) -> HeightField:
    """One height, mm, everywhere; `width` is that of the picture, mm."""
    heights = np.full_like(picture.tones, height)
    return HeightField(heights, picture.coverage, width / (picture.shape[1] - 1))


def _by_rows(
    picture: Picture,
    width: float,
    raised: Callable[[NDArray[np.float32], NDArray[np.float32]], None],
    progress: Callable[[float], None],
) -> HeightField:
    heights = np.empty_like(picture.tones)
    darkest, brightest = np.inf, -np.inf
    for start in range(0, len(heights), ROWS_AT_ONCE):
        rows = slice(start, start + ROWS_AT_ONCE)
        tones, material = picture.tones[rows], picture.coverage[rows] >= 0.5
        darkest = min(darkest, float(tones.min(where=material, initial=np.inf)))
        brightest = max(brightest, float(tones.max(where=material, initial=-np.inf)))
        raised(tones, heights[rows])
        progress(min(1.0, rows.stop / len(heights)))
    if darkest > brightest:
        raise BadPictureError("The picture is transparent everywhere; at least some of it must be visible.")
    if darkest == brightest:
        raise BadPictureError(
            "Every visible pixel has the same tone, so nothing would stand out; a picture with lighter and darker "
            "parts is needed."
        )
    return HeightField(heights=heights, coverage=picture.coverage, pitch=width / (picture.shape[1] - 1))
