"""Domes and cords pressed onto a height grid, the tallest winning."""

import math

import numpy as np
from numpy.typing import NDArray

Grid = NDArray[np.float64]


def press_leaflet(
    grid: Grid, x: float, y: float, length: float, width: float, angle: float, height: float, base: float
) -> None:
    """A pointed leaflet growing from (x, y) towards `angle`, all in pixels and radians, with a sunken mid-rib."""
    reach = int(length + width) + 2
    left, top = max(0, int(x) - reach), max(0, int(y) - reach)
    right, bottom = min(grid.shape[1], int(x) + reach), min(grid.shape[0], int(y) + reach)
    if left >= right or top >= bottom:
        return
    rows, columns = np.mgrid[top:bottom, left:right]
    along = ((columns - x) * math.cos(angle) + (rows - y) * math.sin(angle)) / length
    across = (-(columns - x) * math.sin(angle) + (rows - y) * math.cos(angle)) / width
    inside = (along > 0) & (along < 1)
    along = np.clip(along, 0, 1)
    half = np.sin(np.pi * along**0.75) ** 0.8 + 1e-9
    u = np.abs(across) / half
    dome = np.sqrt(np.clip(1 - u**2, 0, 1)) * (0.55 + 0.45 * np.sin(np.pi * along))
    rib = 0.22 * np.exp(-((across * 9) ** 2)) * (1 - along)
    heights = np.where(inside & (u < 1), base + height * (dome - rib), 0)
    patch = grid[top:bottom, left:right]
    np.maximum(patch, heights, out=patch)


def press_cord(grid: Grid, points: NDArray[np.float64], radii: NDArray[np.float64], height: float, base: float) -> None:
    """A round cord along `points` (K, 2) in pixels, with a radius at each."""
    for (x, y), radius in zip(points, radii, strict=True):
        reach = int(radius) + 2
        left, top = max(0, int(x) - reach), max(0, int(y) - reach)
        right, bottom = min(grid.shape[1], int(x) + reach), min(grid.shape[0], int(y) + reach)
        if left >= right or top >= bottom:
            continue
        rows, columns = np.mgrid[top:bottom, left:right]
        u2 = ((columns - x) ** 2 + (rows - y) ** 2) / radius**2
        heights = np.where(u2 < 1, base + height * np.sqrt(np.clip(1 - u2, 0, 1)), 0)
        patch = grid[top:bottom, left:right]
        np.maximum(patch, heights, out=patch)
