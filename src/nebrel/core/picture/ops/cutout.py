"""Cutting what matters out of its background: everything else becomes blank."""

from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.histogram import best_threshold
from nebrel.core.picture.picture import Picture, Tones

Mask = NDArray[np.bool_]
WORKING_PX = 360
ROUNDS = 3
_REFINE_TONE = 0.03


def keep_where(picture: Picture, kept: Tones) -> Picture:
    """Material only where `kept`, float32 (H, W) in 0..1, says so.

    Raises:
        BadValueError: nothing would be left.
    """
    coverage = np.minimum(picture.coverage, kept)
    if not (coverage >= 0.5).any():
        raise BadValueError(
            "This cut-out leaves nothing of the picture; mark more of it as inside, or lower the tolerance."
        )
    return replace(picture, coverage=coverage)


def likeness_to(picture: Picture, colour: tuple[float, float, float]) -> Tones:
    """Distance 0..1 of every pixel from a colour, by its channels, or by tone in a gray picture."""
    if picture.rgb is None:
        tone = np.float32(np.dot(colour, (0.2126, 0.7152, 0.0722)))
        return np.abs(picture.tones - tone)
    away = picture.rgb - np.array(colour, dtype=np.float32)
    return np.sqrt((away * away).sum(axis=2) / np.float32(3))


def away_from_colour(
    picture: Picture, colour: tuple[float, float, float], tolerance: float, connected: bool = False
) -> Tones:
    """1 where a pixel is further than `tolerance` from `colour`, or, if `connected`, is parted from the rim by such."""
    away = likeness_to(picture, colour)
    kept = np.clip((away - np.float32(tolerance)) / np.float32(max(0.02, tolerance / 4)), 0, 1)
    if connected:
        outside = _reached_from_rim(kept < 0.5)
        kept = np.where(outside, kept, np.float32(1))
    return kept.astype(np.float32)


def away_from_background(picture: Picture) -> Tones:
    """1 where the picture is not its background, which is taken to be of the rim's colour, parted automatically."""
    colour = rim_colour(picture)
    away = likeness_to(picture, colour)
    tolerance = best_threshold(away, 512) * 0.7 if away.max() - away.min() > 1e-3 else 0.1
    return away_from_colour(picture, colour, max(0.02, tolerance), connected=True)


def rim_colour(picture: Picture) -> tuple[float, float, float]:
    """Median colour along the edges of the picture."""
    samples = picture.rgb if picture.rgb is not None else np.repeat(picture.tones[..., None], 3, axis=2)
    rim = np.concatenate([samples[0], samples[-1], samples[:, 0], samples[:, -1]])
    red, green, blue = np.median(rim, axis=0)
    return float(red), float(green), float(blue)


def mark_out(
    picture: Picture,
    box: tuple[float, float, float, float] | None,
    inside: Tones,
    outside: Tones,
    progress: Callable[[float], None] = lambda _: None,
) -> Tones:
    """1 inside what was marked, by iterated graph cuts (Rother, Kolmogorov and Blake, "GrabCut", 2004).

    The cut is found on at most `WORKING_PX` pixels a side, so that a preview and the final picture agree, and its edge
    is then drawn to the picture's own by a guided filter.

    Args:
        picture: to cut.
        box: left, top, right, bottom in pixels, around all that is inside; None for the whole picture.
        inside, outside: float32 (H, W), above 0.5 where strokes say so.
        progress: called with the fraction done.

    Raises:
        BadValueError: nothing is marked as inside, or everything.
    """
    height, width = picture.shape
    scale = min(1.0, WORKING_PX / max(height, width))
    size = (max(8, round(width * scale)), max(8, round(height * scale)))
    samples = picture.rgb if picture.rgb is not None else np.repeat(picture.tones[..., None], 3, axis=2)
    small = (cv2.resize(samples, size, interpolation=cv2.INTER_AREA) * 255).round().astype(np.uint8)
    marks = np.full((size[1], size[0]), cv2.GC_PR_FGD, dtype=np.uint8)
    if box is not None:
        left, top, right, bottom = (round(side * scale) for side in box)
        marks[:] = cv2.GC_BGD
        marks[max(0, top) : bottom + 1, max(0, left) : right + 1] = cv2.GC_PR_FGD
    elif not (inside > 0.5).any():
        raise BadValueError("Nothing is marked as inside; draw a box round it or a stroke across it.")
    else:
        marks[:] = cv2.GC_PR_BGD
    marks[_fit(outside, size) > 0.25] = cv2.GC_BGD
    marks[_fit(inside, size) > 0.25] = cv2.GC_FGD
    if not np.isin(marks, (cv2.GC_BGD, cv2.GC_PR_BGD)).any() or not np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD)).any():
        raise BadValueError("Everything is marked as one side; some of the picture must be inside and some outside.")
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(1)
    for done in range(ROUNDS):
        mode = cv2.GC_INIT_WITH_MASK if done == 0 else cv2.GC_EVAL
        cv2.grabCut(small, marks, (0, 0, 1, 1), models[0], models[1], 1, mode)
        progress((done + 1) / ROUNDS)
    kept = np.isin(marks, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.float32)
    large = np.asarray(cv2.resize(kept, (width, height)), dtype=np.float32)
    return _drawn_to_edges(large, picture.tones, max(1, round(1.5 / scale)))


def _fit(mask: Tones, size: tuple[int, int]) -> Tones:
    return np.asarray(cv2.resize(mask, size, interpolation=cv2.INTER_AREA))


def _drawn_to_edges(kept: Tones, guide: Tones, reach: int) -> Tones:
    window = (2 * reach + 1, 2 * reach + 1)
    mean_guide, mean_kept = cv2.blur(guide, window), cv2.blur(kept, window)
    variance = cv2.blur(guide * guide, window) - mean_guide * mean_guide
    slope = (cv2.blur(guide * kept, window) - mean_guide * mean_kept) / (variance + np.float32(_REFINE_TONE**2))
    level = mean_kept - slope * mean_guide
    return np.clip(cv2.blur(slope, window) * guide + cv2.blur(level, window), 0, 1)


def tidy(kept: Tones, feather_px: float, fill_holes: bool, largest: int) -> Tones:
    """A cut-out mask without holes, with only its `largest` parts (0 for all), and a soft edge."""
    if fill_holes:
        kept = np.where(_reached_from_rim(kept < 0.5), kept, np.float32(1))
    if largest:
        count, labels, stats, _ = cv2.connectedComponentsWithStats((kept >= 0.5).astype(np.uint8), connectivity=8)
        order = 1 + np.argsort(stats[1:, cv2.CC_STAT_AREA])[::-1]
        wanted = np.zeros(count, dtype=bool)
        wanted[order[:largest]] = True
        near = cv2.dilate(wanted[labels].astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
        kept = np.where(near, kept, np.float32(0))
    if feather_px > 0.1:
        kept = np.asarray(cv2.GaussianBlur(kept, (0, 0), feather_px), dtype=np.float32)
    return kept


def _reached_from_rim(open_: Mask) -> Mask:
    framed = np.pad(open_.astype(np.uint8), 1, constant_values=1)
    _, labels = cv2.connectedComponents(framed, connectivity=4)
    reached: Mask = labels[1:-1, 1:-1] == labels[0, 0]
    return reached


def fitted_mask(mask: Picture, shape: tuple[int, int]) -> Tones:
    """A second picture as a mask: its alpha where it has one, else its tones, stretched to `shape`."""
    samples = mask.coverage if mask.coverage.min() < 0.5 else mask.tones
    return np.clip(cv2.resize(samples, (shape[1], shape[0]), interpolation=cv2.INTER_AREA), 0, 1)
