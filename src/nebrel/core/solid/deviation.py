"""How far a surface over a grid is from the heights that were asked for, measured afterwards."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled


@dataclass(frozen=True)
class Deviation:
    """Vertical distance between surface and asked heights over all material samples, mm."""

    max: float
    rms: float


def measure_deviation(
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    columns: NDArray[np.int32],
    rows: NDArray[np.int32],
    levels: NDArray[np.float64],
    faces: NDArray[np.int32],
) -> Deviation:
    """Maximum and RMS over every material sample, in double precision, whichever triangle lies under it.

    Args:
        heights: float32 (H, W) mm, asked.
        material: bool (H, W); other samples do not count.
        columns, rows: int32 (N,) grid position of the surface's vertices.
        levels: float64 (N,) mm, made.
        faces: int32 (M, 3), turning from +column to +row.
    """
    away = np.zeros(heights.shape, dtype=np.float32)
    _rasterise(heights, columns.astype(np.int64), rows.astype(np.int64), levels, faces, away)
    counted = away[material].astype(np.float64)
    return Deviation(max=float(counted.max()), rms=float(np.sqrt(np.mean(counted**2))))


@compiled
def _rasterise(heights, columns, rows, levels, faces, away):
    for face in range(len(faces)):
        a, b, c = faces[face]
        ax, ay, az = columns[a], rows[a], levels[a]
        ux, uy, uz = columns[b] - ax, rows[b] - ay, levels[b] - az
        vx, vy, vz = columns[c] - ax, rows[c] - ay, levels[c] - az
        area = ux * vy - uy * vx
        low_x, high_x = min(0, ux, vx), max(0, ux, vx)
        low_y, high_y = min(0, uy, vy), max(0, uy, vy)
        for dy in range(low_y, high_y + 1):
            for dx in range(low_x, high_x + 1):
                in_b = dx * vy - dy * vx
                in_c = ux * dy - uy * dx
                if in_b >= 0 and in_c >= 0 and in_b + in_c <= area:
                    made = az + (in_b * uz + in_c * vz) / area
                    x, y = ax + dx, ay + dy
                    away[y, x] = max(away[y, x], abs(made - heights[y, x]))
