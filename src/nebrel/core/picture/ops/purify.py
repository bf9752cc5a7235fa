"""Forcing tones to mean something: a few clean levels without specks, in strokes that can be made."""

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadPictureError
from nebrel.core.picture.ink import Ink, Mask, drawn_ink, ink_of
from nebrel.core.picture.picture import Picture, Tones

HISTOGRAM_BINS = 4096
_MOST_ROUNDS = 64


def snap(picture: Picture, black: float, white: float) -> Picture:
    """Tones of at most `black` become 0, tones of at least `1 - white` become 1, the others stay."""
    tones = np.where(picture.tones <= np.float32(black), np.float32(0), picture.tones)
    return replace(picture, tones=np.where(tones >= np.float32(1 - white), np.float32(1), tones))


def threshold(picture: Picture, level: float, softness: float = 0.0) -> Picture:
    """Two tones: white from `level` up, black below; within `softness` of it a ramp between them."""
    return replace(picture, tones=_part(picture.tones, np.float32(level), softness))


def threshold_locally(picture: Picture, radius_px: float, offset: float, softness: float = 0.0) -> Picture:
    """Two tones by comparing every pixel with the Gaussian mean around it, less `offset`; for uneven light."""
    step = int(max(1, radius_px // 6))
    rows, columns = picture.shape
    small = cv2.resize(picture.tones, (max(1, columns // step), max(1, rows // step)), interpolation=cv2.INTER_AREA)
    mean = cv2.resize(cv2.GaussianBlur(small, (0, 0), max(radius_px / step, 0.3)), (columns, rows))
    return replace(picture, tones=_part(picture.tones, mean - np.float32(offset), softness))


def _part(tones: Tones, level: Tones | np.float32, softness: float) -> Tones:
    if softness < 1e-4:
        return (tones >= level).astype(np.float32)
    share = np.clip((tones - level) / np.float32(2 * softness) + np.float32(0.5), 0, 1)
    return share * share * (3 - 2 * share)


def found_tones(picture: Picture, count: int, even: bool = False) -> Tones:
    """`count` tones, dark to bright, that stand for the picture best (k-means on its histogram), or evenly spread."""
    if even:
        return np.linspace(0, 1, count, dtype=np.float32)
    counts, edges = np.histogram(picture.tones[picture.coverage >= 0.5], HISTOGRAM_BINS, (0, 1))
    if counts.sum() == 0:
        raise BadPictureError("The picture is blank everywhere, so it has no tones to choose from.")
    tones = (edges[:-1] + edges[1:]) / 2
    used = counts > 0
    share = np.cumsum(counts) / counts.sum()
    centres = np.interp((np.arange(count) + 0.5) / count, share[used], tones[used])
    centres = np.unique(np.concatenate([centres, np.linspace(tones[used][0], tones[used][-1], count)]))
    centres = centres[np.linspace(0, len(centres) - 1, count).round().astype(int)]
    for _ in range(_MOST_ROUNDS):
        nearest = np.searchsorted((centres[1:] + centres[:-1]) / 2, tones)
        weight = np.bincount(nearest, counts, count)
        moved = np.where(weight > 0, np.bincount(nearest, counts * tones, count) / np.maximum(weight, 1), centres)
        if np.abs(moved - centres).max() < 1e-6:
            break
        centres = np.sort(moved)
    return centres.astype(np.float32)


def reduce_tones(picture: Picture, found: Tones, becomes: Tones | None = None) -> Picture:
    """Every pixel gets the nearest of the tones `found`, or what the table `becomes` says for it.

    Args:
        picture: to reduce.
        found: float32 (N,) ascending.
        becomes: float32 (N,) new tones; equal ones merge.
    """
    nearest = np.searchsorted((found[1:] + found[:-1]) / 2, picture.tones)
    return replace(picture, tones=(found if becomes is None else becomes)[nearest].astype(np.float32))


def remove_specks(picture: Picture, area_px: float, specks: bool = True, pinholes: bool = True) -> Picture:
    """Fill islands smaller than `area_px` with the tone around them.

    Islands are connected parts of the picture parted at its automatic threshold; a speck is a bright or dark island,
    whichever there is less of, a pinhole one of the other kind.
    """
    ink = ink_of(picture, drawn_ink(picture))
    small = np.zeros(picture.shape, dtype=bool)
    if specks:
        small |= _small_islands(ink, area_px)
    if pinholes:
        small |= _small_islands(~ink & (picture.coverage >= 0.5), area_px)
    if not small.any():
        return picture
    fringe = cv2.dilate(small.astype(np.uint8), _DISC_5).astype(bool)
    known = (~fringe & (picture.coverage >= 0.5)).astype(np.float32)
    reach = max(2.0, float(np.sqrt(area_px)))
    weight = cv2.GaussianBlur(known, (0, 0), reach)
    around = cv2.GaussianBlur(picture.tones * known, (0, 0), reach) / np.maximum(weight, 1e-6)
    return replace(picture, tones=np.where(fringe & (weight > 1e-5), around, picture.tones))


def count_specks(picture: Picture, area_px: float) -> int:
    """How many islands and pinholes `remove_specks` would fill."""
    ink = ink_of(picture, drawn_ink(picture))
    return _islands(ink, area_px) + _islands(~ink & (picture.coverage >= 0.5), area_px)


def change_strokes(picture: Picture, by_px: float, ink: Ink) -> Picture:
    """Strokes of dark or bright ink thicker by `by_px` on each side, or thinner when negative.

    Grayscale dilation and erosion by a disc; between whole radii the two neighbours are mixed, so edges keep their
    softness.
    """
    grow = (by_px > 0) == (ink == "bright")
    radius = abs(by_px)
    low, share = int(radius), np.float32(radius - int(radius))
    tones = _rank(picture.tones, low, grow)
    if share > 0:
        tones = tones * (1 - share) + _rank(picture.tones, low + 1, grow) * share
    return replace(picture, tones=tones)


def _rank(tones: Tones, radius: int, grow: bool) -> Tones:
    if radius == 0:
        return tones
    disc = disc_of(radius)
    return np.asarray(cv2.dilate(tones, disc) if grow else cv2.erode(tones, disc))


def disc_of(radius: int) -> NDArray[np.uint8]:
    """uint8 (2 r + 1, 2 r + 1), 1 within `radius` of the centre."""
    places = np.arange(-radius, radius + 1)
    return (places[:, None] ** 2 + places[None, :] ** 2 <= (radius + 0.3) ** 2).astype(np.uint8)


_DISC_5 = disc_of(2)


def _label(mask: Mask, area_px: float) -> tuple[NDArray[np.int32], NDArray[np.bool_]]:
    count, labels, stats, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    small = stats[:, cv2.CC_STAT_AREA] < area_px
    small[0] = False
    return np.asarray(labels, dtype=np.int32), small[:count]


def _small_islands(mask: Mask, area_px: float) -> Mask:
    labels, small = _label(mask, area_px)
    return small[labels]


def _islands(mask: Mask, area_px: float) -> int:
    return int(_label(mask, area_px)[1].sum())
