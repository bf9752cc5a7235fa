"""Pictures at a coarser resolution, for previews."""

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.picture import Picture


def shrink_to(picture: Picture, longest_px: int) -> Picture:
    """The picture with its longer side reduced to `longest_px` by averaging areas; never enlarged.

    Tones are averaged over material only, so a blank never bleeds into its neighbours.
    """
    height, width = picture.shape
    scale = longest_px / max(height, width)
    if scale >= 1:
        return picture
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    rgb = None if picture.rgb is None else _average(picture.rgb, size)
    plain = _average(picture.tones, size)
    if picture.coverage.min() == 1:
        return replace(picture, tones=plain, coverage=np.ones_like(plain), rgb=rgb)
    coverage = _average(picture.coverage, size)
    weighted = _average(picture.tones * picture.coverage, size)
    tones = np.where(coverage > 1e-4, weighted / np.maximum(coverage, 1e-4), plain)
    return replace(picture, tones=np.clip(tones, 0, 1), coverage=np.clip(coverage, 0, 1), rgb=rgb)


def _average(samples: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    return np.asarray(cv2.resize(samples, size, interpolation=cv2.INTER_AREA), dtype=np.float32)
