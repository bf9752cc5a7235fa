"""Faces that are none, and faces that are there more than once."""

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mend.faults import flat_faces, repeated_faces
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.slivers import faces_without_slivers
from nebrel.core.mesh.trimesh import TriMesh

FLAT_SHARE = 2e-10
_Ints = NDArray[np.int64]


def without_flat_faces(mesh: TriMesh) -> tuple[TriMesh, int]:
    """The mesh without faces that have no area, and how many those were.

    A flat face between two others gives its long side to the one behind it, so that no gap comes of it; what is left
    after that is dropped.
    """
    flat = flat_faces(mesh)
    if not flat.any():
        return mesh, 0
    faces = mesh.faces.astype(np.int64)
    whole = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    faces = faces[whole]
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    if len(faces) and (~whole).sum() < flat.sum():
        fixed = np.zeros(len(mesh.vertices), dtype=bool)
        faces = faces_without_slivers(mesh.vertices, faces, FLAT_SHARE * extent, fixed)
    kept = ~flat_faces(TriMesh(mesh.vertices, faces.astype(np.uint32)))
    return drop_unused(mesh, faces[kept])[0], int(flat.sum())


def without_duplicates(mesh: TriMesh) -> tuple[TriMesh, int]:
    """The mesh with faces of the same corners reduced to one, and how many went.

    Two that look opposite ways enclose nothing, so both go; of several that look the same way one stays.
    """
    if not repeated_faces(mesh).any():
        return mesh, 0
    faces = mesh.faces.astype(np.int64)
    corners, group, counts = np.unique(np.sort(faces, axis=1), axis=0, return_inverse=True, return_counts=True)
    group = group.ravel()
    net = np.bincount(group, _handedness(faces), len(corners))
    kept = counts[group] == 1
    repeated = np.flatnonzero(~kept & (np.sign(net)[group] == _handedness(faces)))
    _, first = np.unique(group[repeated], return_index=True)
    kept[repeated[first]] = True
    return drop_unused(mesh, mesh.faces[kept])[0], int((~kept).sum())


def _handedness(faces: _Ints) -> NDArray[np.float64]:
    """1 for faces that name their corners in rising order, in a circle, -1 for the others."""
    start = faces.argmin(axis=1)
    each = np.arange(len(faces))
    return np.where(faces[each, (start + 1) % 3] < faces[each, (start + 2) % 3], 1.0, -1.0)
