"""Where a mesh is not what a solid's surface should be."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.topology import border_halfedges, fans_round, opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

MOST_CROSSINGS = 5000
FLAT_SHARE = 1e-10


def troubled_vertices(mesh: TriMesh, among: NDArray[np.bool_] | None = None) -> NDArray[np.bool_]:
    """Vertices at edges without exactly two faces, pinches, faces without area and faces that cross, bool (N,).

    With `among`, bool (M,), only crossings of those faces are looked for.
    """
    faces = mesh.faces.astype(np.int64)
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    troubled = fans_round(faces, opposite, len(mesh.vertices)) > 1
    odd = np.flatnonzero(opposite < 0)
    troubled[faces.ravel()[odd]] = True
    troubled[np.roll(faces, -1, axis=1).ravel()[odd]] = True
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    troubled[faces[face_heights(mesh) <= FLAT_SHARE * extent].ravel()] = True
    troubled[faces[crossing_pairs(mesh, MOST_CROSSINGS, among=among).ravel()].ravel()] = True
    return troubled


def border_vertices(mesh: TriMesh) -> NDArray[np.bool_]:
    """Vertices at edges that have a single face, bool (N,)."""
    faces = mesh.faces.astype(np.int64)
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    border = border_halfedges(faces, opposite, len(mesh.vertices))
    found = np.zeros(len(mesh.vertices), dtype=bool)
    found[faces.ravel()[border]] = True
    found[np.roll(faces, -1, axis=1).ravel()[border]] = True
    return found


def with_neighbours(mesh: TriMesh, chosen: NDArray[np.bool_], rings: int) -> NDArray[np.bool_]:
    """The chosen vertices, bool (N,), and those within so many edges of them."""
    for _ in range(rings):
        chosen = chosen.copy()
        chosen[mesh.faces[chosen[mesh.faces].any(axis=1)].ravel()] = True
    return chosen
