"""How thick a solid is, everywhere on its surface."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.rays import first_hits

STARTS_INSIDE = 1e-6


@dataclass(frozen=True)
class Thickness:
    """Thickness under every face.

    Attributes:
        of_face: float64 (M,) mm, from the face's centre inwards along its normal to the other side; infinite where an
            open mesh has none.
        areas: float64 (M,) mm².
        thinnest: mm.
        spot: (x, y, z) mm, the centre of the face over the thinnest place.
    """

    of_face: NDArray[np.float64]
    areas: NDArray[np.float64]
    thinnest: float
    spot: tuple[float, float, float]

    def share_below(self, limit: float) -> float:
        """Share of the surface that is thinner than `limit` mm."""
        return float(self.areas[self.of_face < limit].sum() / max(self.areas.sum(), 1e-300))


def measure_thickness(mesh: TriMesh, progress: Callable[[float], None] = lambda _: None) -> Thickness:
    """Thickness by rays: from every face's centre straight inwards, to the first face met.

    Args:
        mesh: outward; at least one face with an area.
        progress: called with the fraction done.
    """
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    doubled = np.linalg.norm(normals, axis=1)
    inwards = -normals / np.maximum(doubled, 1e-300)[:, np.newaxis]
    centres = corners.mean(axis=1)
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    nearest = np.full(len(centres), STARTS_INSIDE * extent)
    found = first_hits(mesh, centres, inwards, nearest, progress)
    found[doubled == 0] = np.inf
    at = int(np.argmin(found))
    x, y, z = centres[at]
    return Thickness(found, doubled / 2, float(found[at]), (float(x), float(y), float(z)))
