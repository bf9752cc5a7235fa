"""Light smoothing of heights, measured in millimetres."""

from dataclasses import replace

import numpy as np

from nebrel.core.height.field import HeightField


def smooth(field: HeightField, radius: float) -> HeightField:
    """The field under a Gaussian of standard deviation `radius` mm; 0 changes nothing.

    Only material is averaged (normalised convolution, Knutsson and Westin 1993), so a blank neither pulls an edge
    down nor lifts it.
    """
    from scipy import ndimage

    sigma_px = radius / field.pitch
    if sigma_px < 1e-3:
        return field
    material = field.material.astype(np.float32)
    if material.all():
        return replace(field, heights=ndimage.gaussian_filter(field.heights, sigma_px, mode="nearest"))
    weight = ndimage.gaussian_filter(material, sigma_px, mode="nearest")
    total = ndimage.gaussian_filter(field.heights * material, sigma_px, mode="nearest")
    return replace(field, heights=np.where(weight > 1e-6, total / np.maximum(weight, 1e-6), field.heights))
