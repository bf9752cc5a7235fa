"""Cutting a solid to an outline."""

import manifold3d
from shapely.geometry import MultiPolygon

from nebrel.core.csg.boolean import cleanup, mesh_of, solid_of, upright
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh

BEYOND_MM = 1.0


def cut_to_region(mesh: TriMesh, region: MultiPolygon, slack: float) -> TriMesh:
    """The part of a closed `mesh` that lies over `region`, closed again, with upright walls along the outline.

    The boolean is manifold3d's, which guarantees a closed result; `settled` makes a good file of it.

    Args:
        mesh: closed, outward, mm.
        region: mm, in the plane of the mesh's X and Y.
        slack: mm that merging may move points at the most.

    Raises:
        BadValueError: nothing of the solid lies over the region.
    """
    return cleanup(part_over(solid_of(mesh), region), slack)


def cut_roughly(mesh: TriMesh, region: MultiPolygon) -> TriMesh:
    """Like `cut_to_region`, for looking at: what is left as the boolean leaves it, slivers and all."""
    return mesh_of(part_over(solid_of(mesh), region).as_original())


def part_over(solid: manifold3d.Manifold, region: MultiPolygon) -> manifold3d.Manifold:
    """The part of a solid that lies over a region.

    Raises:
        BadValueError: there is none.
    """
    _, _, low, _, _, high = solid.bounding_box()
    cut = solid ^ upright(region, low - BEYOND_MM, high + BEYOND_MM)
    if cut.is_empty():
        raise BadValueError("Nothing is left of the piece inside its outline; a larger outline is needed.")
    return cut
