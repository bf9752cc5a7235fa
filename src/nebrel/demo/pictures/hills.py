"""The view from Fernhollow: ridge behind ridge, a low sun, and firs on the nearest slope."""

from functools import cache

import numpy as np
from scipy import ndimage

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 2200, 1100
RIDGES = 7


@cache
def draw_hills(seed: int = 5) -> Grid:
    """Tones float64 (1100, 2200) in 0..1, the nearest ridge brightest."""
    rng = np.random.default_rng(seed)
    rows, columns = np.mgrid[0:HEIGHT_PX, 0:WIDTH_PX].astype(np.float64)
    sky = 0.05 + 0.03 * rows / HEIGHT_PX
    sun = np.hypot(columns - 1520, rows - 300)
    grid = np.where(sun < 150, 0.14 + 0.16 * np.sqrt(np.clip(1 - (sun / 150) ** 2, 0, 1)), sky)
    for ridge in range(RIDGES):
        near = ridge / (RIDGES - 1)
        line = 330 + 560 * near**1.1 + _skyline(rng, 230 * (1 - 0.3 * near), 1.6 + 1.2 * near)
        if ridge >= RIDGES - 2:
            line -= _firs(rng, 26 + 26 * (ridge - RIDGES + 2), 46 + 30 * (ridge - RIDGES + 2))
        below = rows - line
        slope = 0.26 + 0.62 * near + 0.10 * np.exp(-np.clip(below, 0, None) / 30) - 0.22 * np.clip(below / 300, 0, 1)
        texture = 0.05 * near * _grass(rng)
        edge = np.clip(below / 3 + 0.5, 0, 1)
        grid = grid * (1 - edge) + (slope + texture) * edge
    return np.asarray(np.clip(grid, 0, 1))


def _skyline(rng: np.random.Generator, height: float, roughness: float) -> Grid:
    x = np.linspace(0, 1, WIDTH_PX)
    line = np.zeros(WIDTH_PX)
    for octave in range(7):
        waves = roughness * 2**octave
        line += np.sin(2 * np.pi * (waves * x + rng.uniform(0, 1))) * rng.uniform(0.5, 1) / 2 ** (1.15 * octave)
    return height * line / 2.2


def _firs(rng: np.random.Generator, spacing: int, height: int) -> Grid:
    line = np.zeros(WIDTH_PX)
    x = 0
    while x < WIDTH_PX:
        if rng.random() < 0.72:
            tall = height * rng.uniform(0.5, 1.1)
            reach = int(tall * 0.24) + 2
            offsets = np.arange(-reach, reach + 1)
            at = np.clip(x + offsets, 0, WIDTH_PX - 1)
            shape = tall * (1 - np.abs(offsets) / reach)
            branches = 1 - 0.28 * ((np.abs(offsets) * 6 / reach) % 1)
            np.maximum.at(line, at, shape * branches)
        x += int(spacing * rng.uniform(0.3, 1.2))
    return line


def _grass(rng: np.random.Generator) -> Grid:
    noise = ndimage.gaussian_filter(rng.normal(size=(HEIGHT_PX, WIDTH_PX)), (9, 4))
    return np.asarray(noise / np.abs(noise).max())
