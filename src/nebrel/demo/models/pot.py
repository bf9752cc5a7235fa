"""A planter pot as an unknown program might have left it: a knob that passes through the wall, and a few faces gone."""

import io

import manifold3d
import numpy as np

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats.stl import write_stl
from nebrel.core.mesh.shells import part_of

SIDES = 240
LOST = 5


def make_pot() -> bytes:
    """A binary STL in millimetres."""
    outside = manifold3d.Manifold.cylinder(62, 29, 37, SIDES)
    inside = manifold3d.Manifold.cylinder(62, 26, 34, SIDES).translate((0, 0, 3.2))
    rim = manifold3d.Manifold.cylinder(6, 39, 39, SIDES).translate((0, 0, 57))
    drain = manifold3d.Manifold.cylinder(10, 4, 4, 64).translate((0, 0, -2))
    pot = _mesh((outside + rim) - inside - drain)
    knob = _mesh(manifold3d.Manifold.sphere(7, 120).translate((35, 0, 34)))
    kept = np.arange(LOST, len(pot.faces))
    shift = np.uint32(len(pot.vertices))
    whole = TriMesh(np.vstack([pot.vertices, knob.vertices]), np.vstack([pot.faces[kept], knob.faces + shift]))
    file = io.BytesIO()
    write_stl(part_of(whole, np.arange(len(whole.faces))), file)
    return file.getvalue()


def _mesh(solid: manifold3d.Manifold) -> TriMesh:
    made = solid.to_mesh64()
    return TriMesh(np.asarray(made.vert_properties)[:, :3], np.asarray(made.tri_verts).astype(np.uint32))
