"""A panel without its back."""

import numpy as np
import shapely
from shapely.geometry import MultiPolygon

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.compact import drop_unused

UPRIGHT = 1e-3
ON_OUTLINE_MM = 1e-3


def without_back(mesh: TriMesh, whole: MultiPolygon) -> TriMesh:
    """The mesh without its faces on z = 0 and without the upright ones along its outline."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normals[:, 2]) <= UPRIGHT * np.linalg.norm(normals, axis=1)
    gone = (corners[:, :, 2] == 0).all(axis=1)
    middles = shapely.points(corners[upright].mean(axis=1)[:, :2])
    edge = whole.boundary
    shapely.prepare(edge)
    gone[np.flatnonzero(upright)[shapely.dwithin(edge, middles, ON_OUTLINE_MM)]] = True
    return drop_unused(mesh, mesh.faces[~gone])[0]
