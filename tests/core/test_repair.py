"""Broken solids are mended, and what was done is told."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.errors import NebrelError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.repair import repair
from nebrel.core.mesh.topology import analyse
from nebrel.core.proof import check_soundness


@pytest.fixture
def bowl() -> TriMesh:
    """A block with a round hollow, sound."""
    solid = manifold3d.Manifold.cube((40, 30, 20)) - manifold3d.Manifold.sphere(9, 64).translate((20, 15, 20))
    mesh = solid.to_mesh()
    points = np.asarray(mesh.vert_properties)[:, :3].astype(np.float64)
    return TriMesh(points, np.asarray(mesh.tri_verts, np.uint32))


def volume(mesh: TriMesh) -> float:
    return check_soundness(mesh).volume_mm3


def test_a_sound_solid_stays_as_it_is(bowl):
    mended = repair(bowl)
    done = (mended.welded, mended.degenerate, mended.duplicate, mended.turned, mended.filled, mended.left_open)
    assert done == (0, 0, 0, 0, 0, 0)
    assert len(mended.mesh.faces) == len(bowl.faces)


def test_loose_triangles_are_joined(bowl):
    loose = TriMesh(bowl.corners.reshape(-1, 3), np.arange(3 * len(bowl.faces), dtype=np.uint32).reshape(-1, 3))
    assert not analyse(loose).closed
    mended = repair(loose)
    assert mended.welded == 3 * len(bowl.faces) - len(bowl.vertices)
    assert check_soundness(mended.mesh).sound


def test_turned_faces_and_solids_are_turned_back(bowl):
    rng = np.random.default_rng(4)
    faces = bowl.faces.copy()
    chosen = rng.random(len(faces)) < 0.2
    faces[chosen] = faces[chosen][:, [0, 2, 1]]
    mended = repair(TriMesh(bowl.vertices, faces))
    assert mended.turned == chosen.sum()
    assert check_soundness(mended.mesh).sound
    inside_out = repair(TriMesh(bowl.vertices, bowl.faces[:, [0, 2, 1]]))
    assert inside_out.turned == len(bowl.faces)
    assert volume(inside_out.mesh) == pytest.approx(volume(bowl))


def test_a_cavity_stays_a_cavity():
    hollow = (manifold3d.Manifold.cube((20, 20, 20), True) - manifold3d.Manifold.sphere(5, 32)).to_mesh()
    mesh = TriMesh(np.asarray(hollow.vert_properties)[:, :3].astype(float), np.asarray(hollow.tri_verts, np.uint32))
    mended = repair(mesh)
    assert mended.turned == 0
    assert volume(mended.mesh) == pytest.approx(volume(mesh))


def test_holes_are_filled(bowl):
    normals = np.cross(bowl.corners[:, 1] - bowl.corners[:, 0], bowl.corners[:, 2] - bowl.corners[:, 0])
    bottom = (normals[:, 2] < 0) & (np.abs(bowl.corners[:, :, 2]).max(axis=1) < 1e-9)
    holed = TriMesh(bowl.vertices, np.delete(bowl.faces[~bottom], [7, 60], axis=0))
    assert not check_soundness(holed).closed
    mended = repair(holed)
    assert mended.filled >= 2
    assert mended.left_open == 0
    after = check_soundness(mended.mesh)
    assert after.closed
    assert after.outward
    assert after.volume_mm3 == pytest.approx(volume(bowl), rel=0.01)


def test_faces_that_are_none_or_twice_are_dropped(bowl):
    extra = np.vstack([bowl.faces, bowl.faces[3:5], [[0, 0, 5]], bowl.faces[9:10][:, [1, 2, 0]]]).astype(np.uint32)
    mended = repair(TriMesh(bowl.vertices, extra))
    assert mended.duplicate == 3
    assert mended.degenerate == 1
    assert check_soundness(mended.mesh).sound


def test_nothing_but_lines_is_refused():
    with pytest.raises(NebrelError, match="nothing would be left"):
        repair(TriMesh(np.eye(3), np.array([[0, 1, 1]], dtype=np.uint32)))
