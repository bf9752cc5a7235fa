"""A fern frond: leaflets on pinnae on a bent stem, each part a smaller likeness of the whole."""

import math

import numpy as np

from nebrel.demo.pictures.stamps import Grid, press_cord, press_leaflet

WIDTH_PX, HEIGHT_PX = 1500, 1900
PINNAE = 27


def draw_fern(seed: int = 11) -> Grid:
    """Tones float64 (1900, 1500) in 0..1."""
    rng = np.random.default_rng(seed)
    grid = np.zeros((HEIGHT_PX, WIDTH_PX))
    t = np.linspace(0, 1, 400)
    stem = np.column_stack([700 + 150 * np.sin(1.7 * t) - 40 * t, 1840 - 1690 * t])
    press_cord(grid, stem, 17 * (1 - t) ** 0.7 + 3, 0.34, 0.5)
    for number in range(PINNAE):
        share = 0.10 + 0.87 * (number / (PINNAE - 1)) ** 0.92
        at = int(share * 399)
        tangent = stem[min(at + 4, 399)] - stem[max(at - 4, 0)]
        stem_angle = math.atan2(tangent[1], tangent[0])
        reach = 610 * (1 - share) ** 0.78 * min(1.0, 0.62 + 1.3 * share) + 12
        for side in (-1, 1):
            opening = math.radians(68 - 26 * share + rng.normal(0, 1.5))
            _press_pinna(grid, stem[at], stem_angle + side * opening, reach, -side, rng)
    return np.clip(grid + 0.03, 0, 1)


def _press_pinna(grid: Grid, root: np.ndarray, angle: float, reach: float, bend: int, rng: np.random.Generator) -> None:
    count = max(5, int(reach / 19))
    t = np.linspace(0, 1, max(12, int(reach / 3)))
    bends = angle + bend * 0.38 * t
    steps = np.column_stack([np.cos(bends), np.sin(bends)]) * (reach / len(t))
    line = root + np.cumsum(steps, axis=0)
    for number in range(count):
        share = (number + 0.6) / count
        at = int(share * (len(t) - 1))
        size = reach * 0.155 * (1 - share) ** 0.75 + 7
        for side in (-1, 1):
            turn = bends[at] + side * math.radians(62 - 18 * share + rng.normal(0, 3))
            press_leaflet(
                grid, line[at, 0], line[at, 1], size, size * 0.31, angle=turn, height=0.34,
                base=0.22 + 0.1 * (1 - share) + rng.uniform(0, 0.03),
            )  # fmt: skip
    press_cord(grid, line, 6.5 * (1 - t) + 2, 0.22, 0.46)
