"""Which way faces look: whether a mould comes off them, whether a printer can lay them in the air."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from nebrel.core.mesh import TriMesh

Lying = Literal["lying", "standing"]
ON_BED = 1e-4
FLAT_DOWN = -0.999


def draft_angles(mesh: TriMesh) -> NDArray[np.float64]:
    """Degrees by which every face leans from the upright towards +Z, float64 (M,): 90 level, 0 upright, below 0
    undercut; NaN on the back, which a mould leaves open."""
    normals = face_normals(mesh)
    angles = np.degrees(np.arcsin(np.clip(normals[:, 2], -1, 1)))
    angles[_on_bed(mesh, normals, 2)] = np.nan
    return angles


def overhang_angles(mesh: TriMesh, lying: Lying) -> NDArray[np.float64]:
    """Degrees by which every face leans over its foot while printed, float64 (M,): 90 a ceiling, 0 upright, below 0
    looking upwards; NaN where it lies on the bed.

    Args:
        mesh: outward.
        lying: `lying` is printed on its back, `standing` on its lower edge.
    """
    normals = face_normals(mesh)
    axis = 2 if lying == "lying" else 1
    angles = np.degrees(np.arcsin(np.clip(-normals[:, axis], -1, 1)))
    angles[_on_bed(mesh, normals, axis)] = np.nan
    return angles


def face_normals(mesh: TriMesh) -> NDArray[np.float64]:
    """Unit normals of faces, float64 (M, 3); zero where a face has no area."""
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    unit: NDArray[np.float64] = normals / np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, np.newaxis]
    return unit


def _on_bed(mesh: TriMesh, normals: NDArray[np.float64], axis: int) -> NDArray[np.bool_]:
    level = mesh.corners[:, :, axis]
    lowest = mesh.vertices[:, axis].min()
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    on_bed: NDArray[np.bool_] = (level.max(axis=1) <= lowest + ON_BED * extent) & (normals[:, axis] < FLAT_DOWN)
    return on_bed
