"""Pictures at a coarser resolution, for previews."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from nebrel.core.picture.model import Picture


def shrink_to(picture: Picture, longest_px: int) -> Picture:
    """The picture with its longer side reduced to `longest_px` by an antialiased triangle filter; never enlarged.

    Tones are averaged over material only, so a blank never bleeds into its neighbours.
    """
    height, width = picture.shape
    scale = longest_px / max(height, width)
    if scale >= 1:
        return picture
    size = (max(2, round(width * scale)), max(2, round(height * scale)))
    coverage = _averaged(picture.coverage, size)
    weighted = _averaged(picture.tones * picture.coverage, size)
    plain = _averaged(picture.tones, size)
    tones = np.where(coverage > 1e-4, weighted / np.maximum(coverage, 1e-4), plain)
    return replace(picture, tones=np.clip(tones, 0, 1).astype(np.float32), coverage=np.clip(coverage, 0, 1), rgb=None)


def _averaged(samples: NDArray[np.float32], size: tuple[int, int]) -> NDArray[np.float32]:
    image = Image.fromarray(np.ascontiguousarray(samples))
    return np.asarray(image.resize(size, Image.Resampling.BILINEAR), dtype=np.float32)
