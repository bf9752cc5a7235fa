"""A clean drawing for number plates: an ivy leaf in two tones, with veins cut out."""

import math

import numpy as np
from PIL import Image, ImageDraw

from nebrel.demo.pictures.stamps import Grid

SIDE = 1200
FOOT = -0.2
VEIN = 0.026
LOBES = ((0.0, 0.62, 0.17), (1.02, 0.5, 0.15), (-1.02, 0.5, 0.15), (1.95, 0.33, 0.12), (-1.95, 0.33, 0.12))
_FINER = 3


def draw_ivy() -> Grid:
    """Leaf 1 on ground 0, float64 `(SIDE, SIDE)`, with smoothed edges."""
    sheet = Image.new("L", (SIDE * _FINER, SIDE * _FINER), 0)
    pen = ImageDraw.Draw(sheet)
    for outline in (_stalk(), *(_lobe(*lobe) for lobe in LOBES)):
        pen.polygon([_on_sheet(x, y) for x, y in outline], fill=255)
    for angle, long, wide in LOBES:
        for part in np.linspace(0.06, 0.8, 500):
            x, y = long * part * math.sin(angle), long * part * math.cos(angle) + FOOT
            radius = VEIN * (1.15 - part) * wide / 0.17 * SIDE * _FINER / 2
            cx, cy = _on_sheet(x, y)
            pen.ellipse([cx - radius, cy - radius, cx + radius, cy + radius], fill=0)
    small = sheet.resize((SIDE, SIDE), Image.Resampling.BOX)
    return np.asarray(small, dtype=np.float64) / 255


def _on_sheet(x: float, y: float) -> tuple[float, float]:
    """From a leaf of about -0.5 to 0.5, y up, to pixels."""
    return (0.5 + 0.9 * x) * SIDE * _FINER, (0.54 - 0.9 * y) * SIDE * _FINER


def _lobe(angle: float, long: float, wide: float) -> list[tuple[float, float]]:
    """A pointed lobe from the foot of the leaf towards `angle`, clockwise from upright."""
    sides: list[tuple[float, float]] = []
    for part in (*np.linspace(0, 1, 160), *np.linspace(1, 0, 160)):
        side = 1 if len(sides) < 160 else -1
        across = side * wide * math.sin(math.pi * part**0.72) ** 0.9
        x, y = long * part * math.sin(angle), long * part * math.cos(angle)
        sides.append((x + across * math.cos(angle), y - across * math.sin(angle) + FOOT))
    return sides


def _stalk() -> list[tuple[float, float]]:
    bend = [(0.07 * part**2, FOOT + 0.06 - 0.3 * part) for part in np.linspace(0, 1, 60)]
    return [(x - 0.016, y) for x, y in bend] + [(x + 0.016, y) for x, y in reversed(bend)]
