"""Cutting a solid to an outline."""

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.slivers import without_slivers

BEYOND_MM = 1.0
MOST_ATTEMPTS = 5
THIN_GRAINS = 8


def cut_to_region(mesh: TriMesh, region: MultiPolygon, slack: float) -> TriMesh:
    """The part of a closed `mesh` that lies over `region`, closed again, with upright walls along the outline.

    The boolean is manifold3d's, which guarantees a closed result but leaves slivers thinner than a float32 can
    tell apart. Coordinates are rounded to float32 and slivers are removed. The result is looked at; should faces still
    vanish or cross, nearly equal points are merged before, a little more at each attempt.

    Args:
        mesh: closed, outward, mm.
        region: mm, in the plane of the mesh's X and Y.
        slack: mm that merging may move points at the most.

    Raises:
        BadValueError: nothing of the solid lies over the region.
    """
    cut = _cut(mesh, region)
    grain = float(np.spacing(np.float32(np.abs(mesh.vertices).max())))
    for attempt in range(MOST_ATTEMPTS):
        merging = min(slack, THIN_GRAINS * grain * 4 ** (attempt - 1)) if attempt else 0.0
        result = without_slivers(_rounded(cut.simplify(merging) if merging else cut), THIN_GRAINS * grain)
        if face_heights(result).min() > grain / 4 and len(crossing_pairs(result, 1)) == 0:
            break
    return result


def cut_roughly(mesh: TriMesh, region: MultiPolygon) -> TriMesh:
    """Like `cut_to_region`, for looking at: what is left as the boolean leaves it, slivers and all."""
    return _rounded(_cut(mesh, region))


def _cut(mesh: TriMesh, region: MultiPolygon) -> manifold3d.Manifold:
    low, high = float(mesh.vertices[:, 2].min()), float(mesh.vertices[:, 2].max())
    outline = manifold3d.CrossSection(_rings(region), manifold3d.FillRule.EvenOdd)
    prism = manifold3d.Manifold.extrude(outline, high - low + 2 * BEYOND_MM).translate((0, 0, low - BEYOND_MM))
    cut = (_solid(mesh) ^ prism).as_original()
    if cut.is_empty():
        raise BadValueError("Nothing is left of the piece inside its outline; a larger outline is needed.")
    return cut


def _solid(mesh: TriMesh) -> manifold3d.Manifold:
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=mesh.vertices, tri_verts=mesh.faces.astype(np.uint64)))


def _rounded(solid: manifold3d.Manifold) -> TriMesh:
    made = solid.to_mesh64()
    points = np.asarray(made.vert_properties)[:, :3].astype(np.float32).astype(np.float64)
    return TriMesh(points, np.asarray(made.tri_verts).astype(np.uint32))


def _rings(region: MultiPolygon) -> list[NDArray[np.float64]]:
    rings = []
    for polygon in region.geoms:
        for ring in (polygon.exterior, *polygon.interiors):
            rings.append(shapely.get_coordinates(ring)[:-1])
    return rings
