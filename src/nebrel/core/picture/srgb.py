"""Tones as files code them, and the light that they stand for (IEC 61966-2-1)."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.picture.picture import Picture

# How much red, green and blue light count for the eye.
WEIGHTS = np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
ROWS_AT_ONCE = 256


def decode_srgb(tones: NDArray[np.floating]) -> NDArray[np.float32]:
    """Luminance of sRGB tones, both 0 to 1, float32."""
    low = tones <= 0.04045
    return np.where(low, tones / 12.92, ((np.maximum(tones, 0.04045) + 0.055) / 1.055) ** 2.4).astype(np.float32)


def encode_srgb(luminance: NDArray[np.floating]) -> NDArray[np.float32]:
    """sRGB tones of luminances, both 0 to 1, float32."""
    low = luminance <= 0.0031308
    high = 1.055 * np.maximum(luminance, 0.0031308) ** (1 / 2.4) - 0.055
    return np.where(low, 12.92 * luminance, high).astype(np.float32)


def by_luminance(picture: Picture) -> Picture:
    """A colour picture whose tones are those of a gray one that sends out as much light; others as they are."""
    if picture.rgb is None:
        return picture
    tones = np.empty(picture.shape, dtype=np.float32)
    for start in range(0, len(tones), ROWS_AT_ONCE):
        part = picture.rgb[start : start + ROWS_AT_ONCE]
        coloured = np.ptp(part, axis=2) > 0
        # Grays stay what they are to the last bit.
        tones[start : start + ROWS_AT_ONCE] = np.where(coloured, encode_srgb(decode_srgb(part) @ WEIGHTS), part[..., 0])
    return replace(picture, tones=tones)
