"""How far the upper side of a finished mesh is from the heights that were asked for, measured afterwards."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.jit import compiled
from nebrel.core.mesh import TriMesh

ON_SAMPLE_PX = 1e-3
ON_EDGE_PX = 1e-9
FACES_AT_ONCE = 100_000


@dataclass(frozen=True)
class Deviation:
    """Vertical distance between made surface and asked heights over all material samples, mm."""

    max: float
    rms: float


def measure_deviation(
    mesh: TriMesh,
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    pitch: float,
    progress: Callable[[float], None] = lambda _: None,
) -> Deviation:
    """Maximum and RMS over every material sample that lies under an upward face of `mesh`, in double precision.

    Where upward faces overlap, or meet at a sample, the worst of them counts. Samples that the mesh does not reach,
    such as those just outside a cut outline, do not count.

    Args:
        mesh: lower left corner of the grid at the origin, Y up, mm.
        heights: float32 (H, W) mm, asked, top row first.
        material: bool (H, W); other samples do not count.
        pitch: mm between samples.
        progress: called with the fraction done.
    """
    away, _ = _measured(mesh, heights, material, pitch, progress)
    counted = away[material & (away >= 0)].astype(np.float64)
    if counted.size == 0:
        return Deviation(0.0, 0.0)
    return Deviation(max=float(counted.max()), rms=float(np.sqrt(np.mean(counted**2))))


def deviation_of_faces(
    mesh: TriMesh, heights: NDArray[np.float32], material: NDArray[np.bool_], pitch: float
) -> NDArray[np.float64]:
    """The largest deviation of the samples over every face, float64 (M,) mm; NaN where there are none.

    Takes what `measure_deviation` takes.
    """
    _, worst = _measured(mesh, heights, material, pitch, lambda _: None)
    return np.where(worst >= 0, worst, np.nan)


def _measured(
    mesh: TriMesh,
    heights: NDArray[np.float32],
    material: NDArray[np.bool_],
    pitch: float,
    progress: Callable[[float], None],
) -> tuple[NDArray[np.float32], NDArray[np.float64]]:
    away = np.full(heights.shape, -1.0, dtype=np.float32)
    worst = np.full(len(mesh.faces), -1.0)
    columns = _on_samples(mesh.vertices[:, 0] / pitch)
    rows = _on_samples(heights.shape[0] - 1 - mesh.vertices[:, 1] / pitch)
    levels = np.ascontiguousarray(mesh.vertices[:, 2])
    for start in range(0, len(mesh.faces), FACES_AT_ONCE):
        part = slice(start, start + FACES_AT_ONCE)
        _rasterise(heights, material, columns, rows, levels, mesh.faces[part], away, worst[part])
        progress(min(1.0, (start + FACES_AT_ONCE) / len(mesh.faces)))
    return away, worst


def _on_samples(places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places that were samples before they were rounded to float32 are samples again."""
    nearest = np.round(places)
    return np.where(np.abs(places - nearest) < ON_SAMPLE_PX, nearest, places)


@compiled
def _rasterise(heights, material, columns, rows, levels, faces, away, worst):
    last_row, last_column = heights.shape[0] - 1, heights.shape[1] - 1
    for face in range(len(faces)):
        a, b, c = faces[face, 0], faces[face, 1], faces[face, 2]
        ax, ay, az = columns[a], rows[a], levels[a]
        ux, uy, uz = columns[b] - ax, rows[b] - ay, levels[b] - az
        vx, vy, vz = columns[c] - ax, rows[c] - ay, levels[c] - az
        area = uy * vx - ux * vy
        if area <= 1e-9:
            continue
        low_y, high_y = max(0, np.ceil(ay + min(0.0, uy, vy))), min(last_row, np.floor(ay + max(0.0, uy, vy)))
        for y in range(int(low_y), int(high_y) + 1):
            dy = y - ay
            left, right = ax + min(0.0, ux, vx), ax + max(0.0, ux, vx)
            for edge in range(3):
                if edge == 0:
                    start_x, start_y, run, rise = 0.0, 0.0, ux, uy
                elif edge == 1:
                    start_x, start_y, run, rise = ux, uy, vx - ux, vy - uy
                else:
                    start_x, start_y, run, rise = vx, vy, -vx, -vy
                if rise != 0:
                    crossing = ax + start_x + run * (dy - start_y) / rise
                    if rise < 0:
                        right = min(right, crossing)
                    else:
                        left = max(left, crossing)
            first, last = max(0, int(np.ceil(left - ON_EDGE_PX))), min(last_column, int(np.floor(right + ON_EDGE_PX)))
            for x in range(first, last + 1):
                dx = x - ax
                made = az + ((dy * vx - dx * vy) * uz + (uy * dx - ux * dy) * vz) / area
                off = abs(made - heights[y, x])
                away[y, x] = max(away[y, x], off)
                if material[y, x]:
                    worst[face] = max(worst[face], off)
