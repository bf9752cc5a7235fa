"""Where a mesh is not what a solid's surface should be."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.model import TriMesh
from nebrel.core.mesh.topology import pinched_vertices

MOST_CROSSINGS = 5000
FLAT_SHARE = 1e-10


def troubled_vertices(mesh: TriMesh) -> NDArray[np.bool_]:
    """Vertices at edges without exactly two faces, pinches, faces without area and faces that cross, bool (N,)."""
    troubled = pinched_vertices(mesh)
    faces = mesh.faces.astype(np.int64)
    ends = np.sort(np.stack([faces.ravel(), np.roll(faces, -1, axis=1).ravel()], axis=1), axis=1)
    edges, counts = np.unique(ends[:, 0] * len(mesh.vertices) + ends[:, 1], return_counts=True)
    odd = edges[counts != 2]
    troubled[odd // len(mesh.vertices)] = True
    troubled[odd % len(mesh.vertices)] = True
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    troubled[faces[face_heights(mesh) <= FLAT_SHARE * extent].ravel()] = True
    troubled[faces[crossing_pairs(mesh, MOST_CROSSINGS).ravel()].ravel()] = True
    return troubled
