"""Between our meshes and manifold3d's solids, and what a boolean's result needs before it is a good file."""

from collections.abc import Sequence

import manifold3d
import numpy as np
from shapely.geometry import MultiPolygon

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.alike import found_in, place_keys
from nebrel.core.mesh.compact import drop_unused
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.mesh.measure import face_heights
from nebrel.core.mesh.slivers import faces_without_slivers, without_slivers
from nebrel.core.region.rings import rings_of

MOST_ATTEMPTS = 5
THIN_GRAINS = 8
# Faces as many rings about new points are looked at with them.
RINGS = 2


def solid_of(mesh: TriMesh) -> manifold3d.Manifold:
    """A closed mesh as a solid that booleans work on."""
    return manifold3d.Manifold(manifold3d.Mesh64(vert_properties=mesh.vertices, tri_verts=mesh.faces.astype(np.uint64)))


def mesh_of(solid: manifold3d.Manifold) -> TriMesh:
    """A solid as a mesh, its coordinates rounded to float32."""
    made = solid.to_mesh64()
    points = np.asarray(made.vert_properties)[:, :3].astype(np.float32).astype(np.float64)
    return TriMesh(points, np.asarray(made.tri_verts).astype(np.uint32))


def upright(region: MultiPolygon, low: float, high: float) -> manifold3d.Manifold:
    """The solid over a region between two heights, mm."""
    outline = manifold3d.CrossSection(rings_of(region), manifold3d.FillRule.EvenOdd)
    return manifold3d.Manifold.extrude(outline, high - low).translate((0, 0, low))


def cleanup(solid: manifold3d.Manifold, slack: float, inputs: Sequence[TriMesh] = ()) -> TriMesh:
    """The solid as a mesh without slivers, closed, no face crossing another.

    A boolean's result is closed but holds slivers thinner than a float32 can tell apart. Coordinates are rounded to
    float32 and slivers are removed. The result is looked at; should faces still vanish or cross, nearly equal points
    are merged before, a little more at each attempt.

    Args:
        solid: not empty.
        slack: mm that merging may move points at the most.
        inputs: sound meshes that it was made of; then only what is new about the cuts is looked at, where that does.
    """
    single = solid.as_original()
    grain = float(np.spacing(np.float32(max(abs(bound) for bound in single.bounding_box()))))
    if inputs:
        cleaned = _clean_about_cuts(mesh_of(single), inputs, grain)
        if cleaned is not None:
            return cleaned
    for attempt in range(MOST_ATTEMPTS):
        merging = min(slack, THIN_GRAINS * grain * 4 ** (attempt - 1)) if attempt else 0.0
        result = without_slivers(mesh_of(single.simplify(merging) if merging else single), THIN_GRAINS * grain)
        if face_heights(result).min() > grain / 4 and len(crossing_pairs(result, 1)) == 0:
            break
    return result


def _clean_about_cuts(mesh: TriMesh, inputs: Sequence[TriMesh], grain: float) -> TriMesh | None:
    """The mesh without slivers about the points that no input has; None where some are left there, or faces cross."""
    points, faces = mesh.vertices, mesh.faces.astype(np.int64)
    new = ~found_in(place_keys(points), np.concatenate([place_keys(each.vertices) for each in inputs]))
    near = new[faces].any(axis=1)
    if not near.any():
        return mesh
    for _ in range(RINGS):
        reached = np.zeros(len(points), dtype=bool)
        reached[faces[near]] = True
        near = reached[faces].any(axis=1)
    fixed = np.zeros(len(points), dtype=bool)
    fixed[faces[~near]] = True
    patch = faces_without_slivers(points, faces[near], THIN_GRAINS * grain, fixed)
    if len(patch):
        alone = drop_unused(mesh, patch)[0]
        if face_heights(alone).min() <= grain / 4 or len(crossing_pairs(alone, 1)):
            return None
    return drop_unused(mesh, np.concatenate([faces[~near], patch]))[0]
