"""Pictures of shapes that are known exactly, drawn with smoothed edges."""

import numpy as np
import shapely

PX_PER_MM = 10
FINER = 8


def drawn(shape, size_px: int = 300) -> np.ndarray:
    """Float32 coverage (size, size) of a shape in mm at 10 pixels to the mm; the page's lower left corner at (0, 0)."""
    places = (np.arange(size_px * FINER) + 0.5) / FINER
    x, y = np.meshgrid(places / PX_PER_MM, (size_px - places) / PX_PER_MM)
    inside = shapely.contains_xy(shape, x.ravel(), y.ravel()).reshape(size_px, FINER, size_px, FINER)
    return inside.mean(axis=(1, 3)).astype(np.float32)


def disc(x: float = 15.0, y: float = 15.0, radius: float = 12.0):
    return shapely.Point(x, y).buffer(radius, quad_segs=150)


def star(turn: float = 0.3, points: int = 5):
    angles = np.arange(2 * points) * np.pi / points + turn
    radii = np.where(np.arange(2 * points) % 2 == 0, 13.0, 6.0)
    return shapely.Polygon(np.column_stack([15.03 + radii * np.cos(angles), 14.97 + radii * np.sin(angles)]))


def square(turn: float = 0.35, reach: float = 12.0):
    angles = np.arange(4) * np.pi / 2 + turn
    return shapely.Polygon(np.column_stack([15 + reach * np.cos(angles), 15 + reach * np.sin(angles)]))
