"""A ginkgo leaf: a pleated fan with a notch, on a stem, cut out of its background."""

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from nebrel.demo.pictures.stamps import Grid, press_cord

WIDTH_PX, HEIGHT_PX = 1500, 1400
COLOUR = np.array([1.0, 0.98, 0.86])


def draw_ginkgo(seed: int = 3) -> tuple[NDArray[np.float64], Grid]:
    """Colours float64 (1400, 1500, 3) and coverage (1400, 1500), both in 0..1."""
    rng = np.random.default_rng(seed)
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    x, y = columns - 750, 1010 - rows
    radius, angle = np.hypot(x, y), np.arctan2(x, y)
    phases = rng.uniform(0, 2 * np.pi, 6)
    ripple = sum(np.sin((5 + 4 * k) * angle + phases[k]) / (k + 1.6) for k in range(6))
    rim = 830 + 34 * ripple - 250 * np.exp(-((angle / 0.085) ** 2)) - 95 * (np.abs(angle) / 1.12) ** 4
    side = np.clip((1.13 - np.abs(angle) - 0.16 * np.exp(-radius / 160)) * radius / 2.0, 0, 1)
    fan = np.clip((rim - radius) / 2 + 0.5, 0, 1) * side
    share = np.clip(radius / rim, 0, 1)
    veins = np.cos(angle * 74 + 0.5 * np.sin(radius / 70))
    pleats = np.cos(angle * 11 + phases[0])
    inward = ndimage.distance_transform_edt(fan > 0.5)
    roll = np.clip(inward / 70, 0, 1)
    tones = 0.28 + 0.30 * share + 0.13 * pleats * share + 0.055 * veins * np.clip(share * 2, 0, 1)
    tones = (tones + 0.22 * (1 - (1 - roll) ** 2)) * (0.75 + 0.25 * np.sqrt(roll))
    stem = np.zeros_like(tones)
    t = np.linspace(0, 1, 260)
    line = np.column_stack([750 + 96 * t**2, 960 + 390 * t])
    press_cord(stem, line, 21 - 6 * t + 9 * (t > 0.94), 0.42, 0.42)
    grid = np.maximum(tones * (fan > 0), stem)
    coverage = np.maximum(fan, ndimage.gaussian_filter((stem > 0).astype(np.float64), 0.7))
    return np.clip(grid, 0, 1)[..., np.newaxis] * COLOUR, coverage
