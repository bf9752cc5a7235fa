"""How thick a solid is, everywhere on its surface."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.inscribed import inscribed_diameters
from nebrel.core.mesh.measure import face_areas
from nebrel.core.mesh.rays import first_hits

STARTS_INSIDE = 1e-6
By = Literal["sphere", "ray"]


@dataclass(frozen=True)
class Thickness:
    """Thickness under every face.

    Attributes:
        of_face: float64 (M,) mm, at the face's centre; infinite where an open mesh has no other side.
        areas: float64 (M,) mm².
        thinnest: mm.
        spot: (x, y, z) mm, the centre of the face over the thinnest place.
        by: how it was measured.
    """

    of_face: NDArray[np.float64]
    areas: NDArray[np.float64]
    thinnest: float
    spot: tuple[float, float, float]
    by: By = "sphere"

    def share_below(self, limit: float) -> float:
        """Share of the surface that is thinner than `limit` mm."""
        return float(self.areas[self.of_face < limit].sum() / max(self.areas.sum(), 1e-300))


def thinnest_of_some(mesh: TriMesh, most: int) -> tuple[float, int]:
    """The thinnest wall under some faces, evenly chosen by area, and how many those were; infinite where none is found.

    Args:
        mesh: outward; at least one face with an area.
        most: how many faces are looked at.
    """
    areas = face_areas(mesh)
    whole = np.cumsum(areas)
    at = np.unique(np.searchsorted(whole, (np.arange(most) + 0.5) / most * whole[-1]))
    corners = mesh.corners[at]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    inwards = -normals / np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, np.newaxis]
    return float(inscribed_diameters(mesh, corners.mean(axis=1), inwards).min(initial=np.inf)), len(at)


def measure_thickness(
    mesh: TriMesh, progress: Callable[[float], None] = lambda _: None, by: By = "sphere"
) -> Thickness:
    """Thickness at every face's centre.

    Args:
        mesh: outward; at least one face with an area.
        progress: called with the fraction done.
        by: `sphere` for the diameter of the largest sphere inside that touches there and reaches the other side (see
            `inscribed_diameters`); `ray` for the way straight inwards to the first face met, which is quicker, but
            grazes steep walls and then tells far too little.
    """
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = np.linalg.norm(normals, axis=1)
    inwards = -normals / np.maximum(doubled, 1e-300)[:, np.newaxis]
    centres = corners.mean(axis=1)
    if by == "sphere":
        found = inscribed_diameters(mesh, centres, inwards, progress)
    else:
        extent = float(np.ptp(mesh.vertices, axis=0).max())
        found = first_hits(mesh, centres, inwards, np.full(len(centres), STARTS_INSIDE * extent), progress)
    found[doubled == 0] = np.inf
    at = int(np.argmin(found))
    x, y, z = centres[at]
    return Thickness(found, doubled / 2, float(found[at]), (float(x), float(y), float(z)), by)
