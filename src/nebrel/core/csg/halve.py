"""Cutting a solid by a plane."""

from typing import Literal

import numpy as np

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.topology import analyse

Side = Literal["above", "below"]
MERGE_SHARE = 1e-6


def halve(mesh: TriMesh, normal: tuple[float, float, float], offset: float, keep: Side = "above") -> TriMesh:
    """The part of a closed mesh on one side of a plane, the cut closed.

    Args:
        mesh: closed, outward.
        normal: of the plane, any length above 0.
        offset: mm of the plane from the origin along the normal.
        keep: the side that the normal points to, or the other.

    Raises:
        BadMeshError: the mesh is open, so that nothing could close the cut.
        BadValueError: no direction, or nothing is left.
    """
    direction = np.array(normal, dtype=np.float64)
    length = float(np.linalg.norm(direction))
    if not np.isfinite(length) or length == 0 or not np.isfinite(offset):
        raise BadValueError("The plane has no direction; an axis or three numbers that are not all 0 are needed.")
    topology = analyse(mesh)
    if not (topology.closed and topology.manifold and topology.flipped_edges == 0):
        raise BadMeshError("The mesh is not a closed solid, so the cut cannot be closed; repair it first.")
    sign = 1.0 if keep == "above" else -1.0
    part = solid_of(mesh).trim_by_plane(tuple((sign * direction / length).tolist()), sign * offset)
    if part.is_empty():
        raise BadValueError("Nothing of the mesh lies on that side of the plane; move it or keep the other side.")
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return colour_like(cleanup(part, MERGE_SHARE * extent), mesh)
