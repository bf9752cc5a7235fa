"""A snail shell seen from above: one tube along a logarithmic spiral."""

import numpy as np

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 1300, 1200
GROWTH = 2.05
OUTER_PX = 410.0


def draw_snail(seed: int = 7) -> Grid:
    """Tones float64 (1200, 1300) in 0..1."""
    rng = np.random.default_rng(seed)
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    x, y = columns - 738, 527 - rows
    radius, angle = np.hypot(x, y) + 1e-9, np.arctan2(y, x) / (2 * np.pi)
    turn = np.log(OUTER_PX / radius) / np.log(GROWTH) - angle
    whorl = np.floor(turn)
    across = turn - whorl
    outer = OUTER_PX * GROWTH ** -(whorl + angle)
    middle, half = outer * (1 + 1 / GROWTH) / 2, outer * (1 - 1 / GROWTH) / 2
    u = np.clip((radius - middle) / half, -1, 1)
    tube = np.sqrt(np.clip(1 - u**2, 0, 1))
    rise = 1 - np.clip(middle / OUTER_PX, 0, 1)
    lines = np.cos((whorl + angle) * 2 * np.pi * 23 + 1.3 * across + rng.uniform(0, 6))
    crown = 0.30 + 0.34 * rise + (0.38 - 0.12 * rise) * tube * (0.35 + 0.65 * np.clip(middle / OUTER_PX, 0, 1) ** 0.3)
    grid = crown + 0.018 * lines * tube * np.clip(radius / 160, 0, 1)
    shell = (whorl >= 0) & (radius < outer)
    return np.clip(np.where(shell, grid, 0.05), 0, 1)
