"""Measures of every place on a surface, as values that a page can colour."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shading import ShadedMesh
from nebrel.core.proof.facing import draft_angles, overhang_angles
from nebrel.core.proof.thickness import measure_thickness

MapKind = Literal["thickness", "thickness-ray", "deviation", "draft", "overhang-lying", "overhang-standing"]
MAP_KINDS: tuple[MapKind, ...] = get_args(MapKind)


@dataclass(frozen=True)
class SurfaceMap:
    """A measure over a surface.

    Attributes:
        values: float32 (N,) for the vertices of a shaded mesh, NaN where there is none.
        unit: `mm` or `deg`.
        least, most: over all faces.
        spot: (x, y, z) mm of the place that matters: the thinnest, the furthest off, the steepest.
    """

    values: NDArray[np.float32]
    unit: str
    least: float
    most: float
    spot: tuple[float, float, float] | None


def surface_map(
    mesh: TriMesh,
    shaded: ShadedMesh,
    kind: MapKind,
    deviation: Callable[[], NDArray[np.float64]],
    progress: Callable[[float], None] = lambda _: None,
) -> SurfaceMap:
    """The map of one kind over `shaded`, which was made from `mesh`; `deviation` gives that of every face, mm."""
    thin = kind in ("thickness", "thickness-ray")
    if thin:
        values, unit = measure_thickness(mesh, progress, "ray" if kind == "thickness-ray" else "sphere").of_face, "mm"
    elif kind == "deviation":
        values, unit = deviation(), "mm"
    elif kind == "draft":
        values, unit = draft_angles(mesh), "deg"
    else:
        values, unit = overhang_angles(mesh, "lying" if kind == "overhang-lying" else "standing"), "deg"
    known = np.isfinite(values)
    if not known.any():
        return SurfaceMap(np.full(len(shaded.positions), np.nan, np.float32), unit, 0.0, 0.0, None)
    smallest = thin or kind == "draft"
    sought = np.where(known, values, np.inf if smallest else -np.inf)
    at = int(np.argmin(sought) if smallest else np.argmax(sought))
    x, y, z = mesh.corners[at].mean(axis=0)
    return SurfaceMap(
        values=at_vertices(values, known, shaded),
        unit=unit,
        least=float(values[known].min()),
        most=float(values[known].max()),
        spot=(float(x), float(y), float(z)),
    )


def at_vertices(values: NDArray[np.float64], known: NDArray[np.bool_], shaded: ShadedMesh) -> NDArray[np.float32]:
    """What faces have, at the vertices of the shaded mesh, float32; NaN where nothing is known."""
    faces = shaded.faces[known].ravel().astype(np.int64)
    count = np.bincount(faces, minlength=len(shaded.positions))
    total = np.bincount(faces, np.repeat(values[known], 3), len(shaded.positions))
    return np.where(count > 0, total / np.maximum(count, 1), np.nan).astype(np.float32)
