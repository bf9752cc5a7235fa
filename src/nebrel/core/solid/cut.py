"""Cutting a solid to an outline."""

import manifold3d
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.weld import weld

BEYOND_MM = 1.0
MERGE_MM = 2e-5


def cut_to_region(mesh: TriMesh, region: MultiPolygon) -> TriMesh:
    """The part of a closed `mesh` that lies over `region`, closed again, with upright walls along the outline.

    The boolean is exact about which parts belong together (manifold3d); points nearer to each other than 0.02
    micrometres are merged afterwards, so that the result survives rounding to float32.

    Raises:
        BadValueError: nothing of the solid lies over the region.
    """
    low, high = float(mesh.vertices[:, 2].min()), float(mesh.vertices[:, 2].max())
    outline = manifold3d.CrossSection(_rings(region), manifold3d.FillRule.EvenOdd)
    prism = manifold3d.Manifold.extrude(outline, high - low + 2 * BEYOND_MM).translate((0, 0, low - BEYOND_MM))
    solid = manifold3d.Manifold(
        manifold3d.Mesh64(vert_properties=mesh.vertices, tri_verts=mesh.faces.astype(np.uint64))
    )
    cut = (solid ^ prism).simplify(MERGE_MM)
    if cut.is_empty():
        raise BadValueError("Nothing is left of the piece inside its outline; a larger outline is needed.")
    result = cut.to_mesh64()
    vertices = np.asarray(result.vert_properties)[:, :3]
    faces = np.asarray(result.tri_verts).astype(np.int64)
    return _rounded(vertices, faces)


def _rounded(vertices: NDArray[np.float64], faces: NDArray[np.int64]) -> TriMesh:
    points = vertices.astype(np.float32)
    distinct = len(np.unique(points, axis=0))
    if distinct == len(points):
        return TriMesh(points.astype(np.float64), faces.astype(np.uint32))
    joined = weld(points[faces])
    kept = joined.faces[
        (joined.faces[:, 0] != joined.faces[:, 1])
        & (joined.faces[:, 1] != joined.faces[:, 2])
        & (joined.faces[:, 2] != joined.faces[:, 0])
    ]
    return TriMesh(joined.vertices, kept)


def _rings(region: MultiPolygon) -> list[NDArray[np.float64]]:
    rings = []
    for polygon in region.geoms:
        for ring in (polygon.exterior, *polygon.interiors):
            rings.append(shapely.get_coordinates(ring)[:-1])
    return rings
