"""A foot below a solid, so that it stands and holds on the plate."""

import manifold3d
import numpy as np

from nebrel.core.csg.boolean import cleanup, solid_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like

MERGE_SHARE = 1e-6
SEGMENTS = 48


def with_foot(mesh: TriMesh, margin: float, height: float) -> TriMesh:
    """A closed mesh with a foot below it: what it covers as high as the foot is, and a margin all round.

    Args:
        mesh: closed, Z up.
        margin: mm that the foot reaches beyond it.
        height: mm of the foot, from the lowest point of the mesh up.

    Raises:
        BadMeshError: it is open.
        BadValueError: it is no higher than the foot.
    """
    solid = solid_of(mesh)
    if not len(mesh.faces) or solid.status() != manifold3d.Error.NoError or solid.is_empty():
        raise BadMeshError("The mesh is not a closed solid, so it gets no foot; repair it first.")
    used = mesh.vertices[np.unique(mesh.faces)]
    low, tall = float(used[:, 2].min()), float(np.ptp(used[:, 2]))
    if height >= tall:
        raise BadValueError(f"A foot of {height:g} mm is as high as all of it; less than {tall:.3g} mm is needed.")
    covered = solid.trim_by_plane((0.0, 0.0, -1.0), -(low + height)).project()
    outline = covered.offset(margin, manifold3d.JoinType.Round, 2.0, SEGMENTS)
    foot = manifold3d.Manifold.extrude(outline, height).translate((0.0, 0.0, low))
    extent = float(np.ptp(used, axis=0).max())
    return colour_like(cleanup(solid + foot, MERGE_SHARE * extent, [mesh]), mesh)
