"""A ginkgo leaf as a flat drawing in three tones: paper, leaf, and veins; two specks of dust beside it."""

import numpy as np
from PIL import Image, ImageDraw
from shapely import LineString

from nebrel.demo.pictures.stamps import Grid

WIDTH_PX, HEIGHT_PX = 1300, 1240
FINER = 4
PAPER, LEAF, VEIN = 250, 128, 20
FOOT = (650.0, 880.0)
VEINS = 9
STEM_PX = 17.0
_Path = list[tuple[float, float]]


def draw_stencil() -> Grid:
    """Tones float64 (1240, 1300), edges smoothed."""
    sheet = Image.new("L", (WIDTH_PX * FINER, HEIGHT_PX * FINER), PAPER)
    pen = ImageDraw.Draw(sheet)
    pen.polygon(_finer(_fan()), fill=LEAF)
    _cord(pen, _stem(), STEM_PX, LEAF)
    for at in np.linspace(-0.86, 0.86, VEINS):
        if abs(at) > 0.12:
            _cord(pen, _vein(float(at)), 9.0, VEIN)
    for x, y, radius in ((212, 1050, 7), (1105, 1010, 9)):
        pen.ellipse([(x - radius) * FINER, (y - radius) * FINER, (x + radius) * FINER, (y + radius) * FINER], fill=LEAF)
    small = sheet.resize((WIDTH_PX, HEIGHT_PX), Image.Resampling.BOX)
    return np.asarray(small, np.float64) / 255


def _fan() -> _Path:
    """The leaf's edge: a fan with a notch in the middle and a wavy rim."""
    angles = np.linspace(-1.16, 1.16, 900)
    rim = 720 + 26 * np.sin(9 * angles + 0.6) + 14 * np.sin(17 * angles)
    rim -= 230 * np.exp(-((angles / 0.07) ** 2)) + 120 * (np.abs(angles) / 1.16) ** 6
    edge = [(FOOT[0] + r * np.sin(a), FOOT[1] - r * np.cos(a)) for r, a in zip(rim, angles, strict=True)]
    flank = [_flank(1, t) for t in np.linspace(0, 1, 60)[1:]]
    return edge + flank + [_flank(-1, t) for t in np.linspace(1, 0, 60)[1:-1]]


def _flank(side: int, t: float) -> tuple[float, float]:
    """From the rim's end to the foot, hollow."""
    end = 720 + 26 * np.sin(9 * side * 1.16 + 0.6) + 14 * np.sin(17 * side * 1.16) - 120
    reach, angle = end * (1 - t) ** 1.0, side * (1.16 - 0.34 * np.sin(np.pi * t / 2) ** 2)
    return FOOT[0] + reach * np.sin(angle), FOOT[1] - reach * np.cos(angle) + 6 * t


def _stem() -> _Path:
    t = np.linspace(0, 1, 80)
    return list(zip(FOOT[0] + 70 * t**2, FOOT[1] - 30 + 330 * t, strict=True))


def _vein(at: float) -> _Path:
    t = np.linspace(0.16, 0.86, 60)
    reach, angle = 640 * t, at * (0.72 + 0.42 * t)
    return list(zip(FOOT[0] + reach * np.sin(angle), FOOT[1] - reach * np.cos(angle), strict=True))


def _finer(path: _Path) -> _Path:
    return [(x * FINER, y * FINER) for x, y in path]


def _cord(pen: ImageDraw.ImageDraw, path: _Path, width: float, tone: int) -> None:
    pen.polygon(list(LineString(_finer(path)).buffer(width * FINER / 2).exterior.coords), fill=tone)
