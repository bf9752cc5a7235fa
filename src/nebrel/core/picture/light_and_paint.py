"""Tones that follow light and paint instead of form, as those of photographs do."""

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.audit import two_toned
from nebrel.core.picture.picture import Picture
from nebrel.core.picture.resample import shrink_to

LOOKED_PX = 256
CALM = 1.0
# Dark places are looked for that are narrower than this share of the picture.
NARROW = 0.04
SUNK = 0.12
FLAT_SLOPE, MOST_FLAT = 0.003, 0.6
COLOURED = 0.04
# Drawings have so many tones of 256 over more than this share of them.
LEVELS, FEW_TONES, FEW_SHARE = 255, 8, 0.6
# Of coloured pictures, fewer dark places already tell that their tones are paint.
ENOUGH_IN_COLOUR, ENOUGH_IN_GRAY = 0.02, 0.06
DEEP_BITS = 16
BOTH_ENDS = 0.02


@dataclass(frozen=True)
class DarkInside:
    """Dark places amid brighter ones: hair, eyes, shadows and print, which would be pits of a relief.

    Attributes:
        share: of the material.
        depth: how much darker than what is around them the darkest hundredth of them is, in tones.
        coloured: mean difference between the largest and the smallest channel, 0 for gray.
    """

    share: float
    depth: float
    coloured: float


def painted(picture: Picture) -> float:
    """How strong the colours of a photograph are: the mean difference between the largest and the smallest channel.

    0 where the picture is gray, drawn in few tones, or of 16 bits a sample, as heights are.
    """
    if picture.facts.bit_depth >= DEEP_BITS:
        return 0.0
    small = shrink_to(picture, LOOKED_PX)
    material = small.coverage >= 0.5
    if small.rgb is None or not material.any() or two_toned(small) > 0 or _in_few_tones(small, material):
        return 0.0
    strength = float(np.ptp(small.rgb, axis=2)[material].mean())
    return strength if strength > COLOURED else 0.0


def dark_inside_bright(picture: Picture) -> DarkInside | None:
    """Where tones dip in narrow places, or None where the picture is rather drawn, or a height map.

    Found by a closing of gray values (Serra 1982) as wide as `NARROW` of the picture. Drawings have two tones or large
    flat grounds; pictures of 16 bits a sample are taken for what they are mostly made for, heights.
    """
    if picture.facts.bit_depth >= DEEP_BITS:
        return None
    small = shrink_to(picture, LOOKED_PX)
    material = small.coverage >= 0.5
    if not material.any() or two_toned(small) > 0:
        return None
    tones = cv2.GaussianBlur(small.tones, (0, 0), CALM)
    spread = float(np.diff(np.quantile(small.tones[material], [BOTH_ENDS, 1 - BOTH_ENDS]))[0])
    if spread <= 0 or _is_flat(small, material):
        return None
    wide = max(3, int(NARROW * max(tones.shape)) | 1)
    closing = cv2.morphologyEx(tones, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (wide, wide)))
    dips = np.asarray(closing - tones)[material]
    share = float((dips > SUNK * spread).mean())
    coloured = 0.0 if small.rgb is None else float(np.ptp(small.rgb, axis=2)[material].mean())
    enough = ENOUGH_IN_COLOUR if coloured > COLOURED else ENOUGH_IN_GRAY
    return DarkInside(share, float(np.quantile(dips, 0.99)), coloured) if share >= enough else None


def _in_few_tones(small: Picture, material: NDArray[np.bool_]) -> bool:
    """Whether a few tones make up most of a picture, as of drawings."""
    levels = np.bincount(np.clip(np.round(small.tones[material] * LEVELS), 0, LEVELS).astype(np.int64))
    return bool(np.sort(levels)[-FEW_TONES:].sum() > FEW_SHARE * levels.sum())


def _is_flat(small: Picture, material: NDArray[np.bool_]) -> bool:
    """Whether most of a picture is even, as grounds of drawings are."""
    tones = cv2.GaussianBlur(small.tones, (0, 0), CALM)
    across, down = np.diff(tones, axis=1)[:-1], np.diff(tones, axis=0)[:, :-1]
    slopes = np.hypot(across, down)[material[1:, 1:]]
    return slopes.size == 0 or bool((slopes < FLAT_SLOPE).mean() > MOST_FLAT)
