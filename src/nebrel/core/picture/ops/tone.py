"""Changes of tone: every pixel for itself, or against its surroundings."""

from collections.abc import Sequence
from dataclasses import replace

import cv2
import numpy as np

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.picture.picture import Picture, Tones

# How near two points of a curve may be, and how far beyond black and white.
LEAST_APART, FURTHEST_TONE = 1e-6, 100.0
CURVE_STEPS = 65_536
HISTOGRAM_BINS = 4096


def levels(picture: Picture, black: float, white: float, gamma: float = 1.0) -> Picture:
    """Tones stretched so that `black` becomes 0 and `white` 1, then raised to `1 / gamma`.

    Raises:
        BadValueError: `white` is not brighter than `black`.
    """
    if white <= black:
        raise BadValueError(f"White is {white:g} and black {black:g}; white must be the brighter tone.")
    tones = np.clip((picture.tones - np.float32(black)) / np.float32(white - black), 0, 1)
    if gamma != 1:
        tones = np.power(tones, np.float32(1 / gamma))
    return replace(picture, tones=tones)


def automatic_levels(picture: Picture, clip: float) -> tuple[float, float]:
    """The tones below and above which a share `clip` of the material lies, for `levels`."""
    counts = np.histogram(picture.tones[picture.coverage >= 0.5], HISTOGRAM_BINS, (0, 1))[0]
    if counts.sum() == 0:
        return 0.0, 1.0
    below = np.cumsum(counts) / counts.sum()
    black = int(np.searchsorted(below, clip, side="right")) / HISTOGRAM_BINS
    white = (int(np.searchsorted(below, 1 - clip, side="left")) + 1) / HISTOGRAM_BINS
    return (black, white) if white - black > 1 / 256 else (0.0, 1.0)


def curve(picture: Picture, points: Sequence[tuple[float, float]]) -> Picture:
    """Tones by a smooth curve through `points` that never overshoots them (PCHIP, Fritsch and Carlson 1980).

    Args:
        picture: to change.
        points: at least two `(tone, new tone)`, in any order, of different tones.
    """
    return replace(picture, tones=_looked_up(picture.tones, along_curve(points, CURVE_STEPS)))


def along_curve(points: Sequence[tuple[float, float]], count: int) -> Tones:
    """New tones at `count` even steps from black to white, float32 `(count,)`; `points` as `curve` takes them."""
    places = sorted(points)
    tones, new = np.array([place[0] for place in places]), np.array([place[1] for place in places])
    if len(places) < 2 or (np.diff(tones) < LEAST_APART).any():
        raise BadValueError("A curve needs at least two points of different tones.")
    if not (np.abs([tones, new]) <= FURTHEST_TONE).all():
        raise BadValueError(
            f"A curve goes through tones from 0 to 1; up to {FURTHEST_TONE:g} beyond would be accepted."
        )
    from scipy.interpolate import PchipInterpolator

    table = PchipInterpolator(tones, new)(np.clip(np.linspace(0, 1, count), tones[0], tones[-1]))
    return np.clip(table, 0, 1).astype(np.float32)


def _looked_up(tones: Tones, table: Tones) -> Tones:
    place = np.clip(tones, 0, 1) * np.float32(len(table) - 1)
    below = np.minimum(place.astype(np.int32), len(table) - 2)
    share = place - below.astype(np.float32)
    return table[below] * (1 - share) + table[below + 1] * share


def invert(picture: Picture) -> Picture:
    """White for black."""
    return replace(picture, tones=1 - picture.tones)


def mix_channels(picture: Picture, red: float, green: float, blue: float) -> Picture:
    """Tones as a weighted sum of the colour channels; a gray picture stays as it is.

    Raises:
        BadValueError: the weights sum to nothing.
    """
    total = red + green + blue
    if abs(total) < 1e-6:
        raise BadValueError("The three weights sum to 0, so every tone would be black; at least one must count.")
    if picture.rgb is None:
        return picture
    weights = np.array([red, green, blue], dtype=np.float32) / np.float32(total)
    return replace(picture, tones=np.clip(picture.rgb @ weights, 0, 1))


def saturation(picture: Picture) -> Picture:
    """Tones from how colourful a pixel is, `1 - min / max`; a gray picture has none and is refused."""
    rgb = _colours(picture)
    high, low = rgb.max(axis=2), rgb.min(axis=2)
    return replace(picture, tones=np.where(high > 0, 1 - low / np.maximum(high, 1e-6), 0).astype(np.float32))


def likeness(picture: Picture, colour: tuple[float, float, float], tolerance: float) -> Picture:
    """Tones from how near a pixel is to `colour` (0..1 each): 1 the same, 0 further than `tolerance` away."""
    away = np.linalg.norm(_colours(picture) - np.array(colour, dtype=np.float32), axis=2) / np.float32(np.sqrt(3))
    return replace(picture, tones=np.clip(1 - away / np.float32(tolerance), 0, 1).astype(np.float32))


def _colours(picture: Picture) -> Tones:
    if picture.rgb is None:
        raise BadPictureError("This picture is gray all over; a coloured one is needed to pick tones by colour.")
    return picture.rgb


def local_contrast(picture: Picture, radius_px: float, amount: float) -> Picture:
    """More difference between a pixel and the mean around it, less where the contrast is strong already."""
    mean = _surroundings(picture, radius_px)
    away = picture.tones - mean
    spread = np.sqrt(np.maximum(_blur(away * away, radius_px), 1e-6))
    gain = 1 + np.float32(amount) / (1 + 6 * spread)
    return replace(picture, tones=np.clip(mean + away * gain, 0, 1).astype(np.float32))


def sharpen(picture: Picture, radius_px: float, amount: float) -> Picture:
    """Unsharp masking: the difference from a Gaussian blur, added again `amount` times."""
    away = picture.tones - _surroundings(picture, radius_px)
    return replace(picture, tones=np.clip(picture.tones + np.float32(amount) * away, 0, 1))


def flatten_light(picture: Picture, radius_px: float, paper_bright: bool = True) -> Picture:
    """Divide uneven lighting out: the paper around every drawn line becomes equally bright.

    The light is estimated as the brightest tone nearby, smoothed (morphological closing by a Gaussian window); lines
    must be narrower than twice the radius.

    Args:
        picture: a photographed drawing.
        radius_px: reach of the estimate.
        paper_bright: whether the sheet is brighter than what is drawn on it.
    """
    tones = picture.tones if paper_bright else 1 - picture.tones
    step = max(1, round(radius_px / 8))
    rows, columns = picture.shape
    size = (max(2, columns // step), max(2, rows // step))
    small = np.asarray(cv2.resize(tones, size, interpolation=cv2.INTER_AREA), dtype=np.float32)
    reach = max(1, round(radius_px / step))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * reach + 1, 2 * reach + 1))
    closed = cv2.morphologyEx(_extend(small, 2 * reach), cv2.MORPH_CLOSE, disc)
    light = cv2.GaussianBlur(closed, (0, 0), reach / 2)[2 * reach : -2 * reach, 2 * reach : -2 * reach]
    light = cv2.resize(light, (columns, rows), interpolation=cv2.INTER_CUBIC)
    level = float(np.median(light))
    even = np.clip(tones * (np.float32(level) / np.maximum(light, 0.02)), 0, 1).astype(np.float32)
    return replace(picture, tones=even if paper_bright else 1 - even)


def _extend(tones: Tones, by_px: int) -> Tones:
    """The tones beyond their edges: falling light goes on falling, everything else is mirrored."""
    falling = np.pad(tones, by_px, "reflect", reflect_type="odd")
    return np.clip(np.minimum(falling, np.pad(tones, by_px, "reflect")), 0, 1)


def _surroundings(picture: Picture, radius_px: float) -> Tones:
    if picture.coverage.min() >= 0.5:
        return _blur(picture.tones, radius_px)
    material = (picture.coverage >= 0.5).astype(np.float32)
    weight = _blur(material, radius_px)
    mean = _blur(picture.tones * material, radius_px) / np.maximum(weight, 1e-6)
    return np.where(weight > 1e-6, mean, picture.tones)


def _blur(samples: Tones, radius_px: float) -> Tones:
    """A Gaussian; wide ones work on a smaller picture, which changes nothing that can be seen."""
    step = int(max(1, radius_px // 8))
    if step == 1:
        return np.asarray(cv2.GaussianBlur(samples, (0, 0), max(radius_px, 0.05), borderType=cv2.BORDER_REFLECT))
    rows, columns = samples.shape
    small = cv2.resize(samples, (max(1, columns // step), max(1, rows // step)), interpolation=cv2.INTER_AREA)
    small = cv2.GaussianBlur(small, (0, 0), radius_px / step, borderType=cv2.BORDER_REFLECT)
    return np.asarray(cv2.resize(small, (columns, rows), interpolation=cv2.INTER_CUBIC))
