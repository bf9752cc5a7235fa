"""A surface made anew with even triangles, from a lattice."""

from collections.abc import Callable

import numpy as np

from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh.dual_contour import Hermite, dual_contour
from nebrel.core.mesh.lattice import lattice_of
from nebrel.core.mesh.trimesh import TriMesh


def remesh(
    mesh: TriMesh, voxel: float, keep_edges: bool = True, progress: Callable[[float], None] = lambda _: None
) -> TriMesh:
    """The solid inside `mesh` with a surface of even triangles about `voxel` mm large, closed.

    Detail finer than a voxel is lost, parts nearer than a voxel grow together. Shells that overlap become one.

    Args:
        mesh: outward; small holes are closed.
        voxel: mm, above 0.
        keep_edges: place vertices on sharp edges and corners; otherwise between the crossings, which is smoother.
        progress: called with the fraction done.

    Raises:
        BadValueError: voxel not above 0, or too fine for the size of the mesh.
        BadMeshError: nothing of the mesh is as thick as a voxel.
    """
    if not (np.isfinite(voxel) and voxel > 0):
        raise BadValueError(f"The voxel is {voxel:g} mm; more than 0 is needed.")
    lattice = lattice_of(mesh, voxel)
    progress(0.4)
    if not lattice.inside.any():
        raise BadMeshError(f"Nothing of the mesh is as thick as a voxel of {voxel:g} mm; a finer one is needed.")
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, np.newaxis]
    return dual_contour(
        Hermite(lattice.inside, lattice.crossings, (normals, normals, normals)),
        lambda points: points * voxel + lattice.origin,
        keep_edges,
        lambda part: progress(0.4 + 0.6 * part),
    )
