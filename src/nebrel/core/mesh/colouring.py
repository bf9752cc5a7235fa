"""Colours carried over to a mesh that was made anew."""

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh.distance import nearest_faces
from nebrel.core.mesh.texture import corner_colours_at
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.mesh.trimesh import TriMesh

# Corners of a face take the colours of places so far towards its middle: those beyond its edges may be others.
INWARDS = 0.05


def colour_like(mesh: TriMesh, original: TriMesh) -> TriMesh:
    """`mesh` in the colours of `original`, or as it is when that has none.

    Colours of vertices come from the nearest vertex, those of corners from the nearest place.
    """
    from scipy.spatial import cKDTree

    if original.colours is not None:
        _, nearest = cKDTree(original.vertices).query(mesh.vertices)
        return replace(mesh, colours=original.colours[nearest], corner_colours=None)
    if original.corner_colours is None:
        return mesh
    corners = mesh.corners
    points = (corners + INWARDS * (corners.mean(axis=1, keepdims=True) - corners)).reshape(-1, 3)
    tints = corner_colours_at(original, points, nearest_faces(original, points))
    return replace(mesh, colours=None, corner_colours=tints.reshape(-1, 3, 4))


def colour_ends(mesh: TriMesh) -> NDArray[np.bool_]:
    """Half-edges along which the colours of corners end, bool (3 M,)."""
    if mesh.corner_colours is None:
        return np.zeros(3 * len(mesh.faces), dtype=np.bool_)
    opposite, _ = opposite_halfedges(mesh.faces.astype(np.int64), len(mesh.vertices))
    tints = np.ascontiguousarray(mesh.corner_colours).view(np.uint32).reshape(-1, 3)
    at_start, at_end = tints.ravel(), np.roll(tints, -1, axis=1).ravel()
    paired = opposite >= 0
    return np.asarray(paired & ((at_start != at_end[opposite]) | (at_end != at_start[opposite])))
