"""Broken solids are mended, and what was done is told."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.csg.boolean import mesh_of, solid_of
from nebrel.core.errors import BadMeshError, NebrelError
from nebrel.core.mend.faults import measure
from nebrel.core.mend.pipeline import mend
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.shells import together
from nebrel.core.mesh.topology import analyse
from nebrel.core.proof import check_soundness
from tests.core.broken import BREAKS, corpus, whole


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
    mended = mend(bowl)
    assert mended.steps == ()
    assert np.array_equal(mended.mesh.faces, bowl.faces) and np.array_equal(mended.mesh.vertices, bowl.vertices)


def test_loose_triangles_are_joined(bowl):
    loose = TriMesh(bowl.corners.reshape(-1, 3), np.arange(3 * len(bowl.faces), dtype=np.uint32).reshape(-1, 3))
    assert not analyse(loose).closed
    mended = mend(loose)
    assert len(mended.mesh.vertices) == len(bowl.vertices)
    assert check_soundness(mended.mesh).sound


def test_turned_faces_and_solids_are_turned_back(bowl):
    rng = np.random.default_rng(4)
    faces = bowl.faces.copy()
    chosen = rng.random(len(faces)) < 0.2
    faces[chosen] = faces[chosen][:, [0, 2, 1]]
    mended = mend(TriMesh(bowl.vertices, faces))
    assert mended.count("turned_faces") == chosen.sum()
    assert check_soundness(mended.mesh).sound
    inside_out = mend(TriMesh(bowl.vertices, bowl.faces[:, [0, 2, 1]]))
    assert inside_out.count("turned_faces") == len(bowl.faces)
    assert volume(inside_out.mesh) == pytest.approx(volume(bowl))


def test_a_cavity_stays_a_cavity():
    hollow = (manifold3d.Manifold.cube((20, 20, 20), True) - manifold3d.Manifold.sphere(5, 32)).to_mesh()
    mesh = TriMesh(np.asarray(hollow.vert_properties)[:, :3].astype(float), np.asarray(hollow.tri_verts, np.uint32))
    mended = mend(mesh)
    assert mended.count("turned_faces") == 0
    assert volume(mended.mesh) == pytest.approx(volume(mesh))


def test_holes_are_filled(bowl):
    normals = np.cross(bowl.corners[:, 1] - bowl.corners[:, 0], bowl.corners[:, 2] - bowl.corners[:, 0])
    bottom = (normals[:, 2] < 0) & (np.abs(bowl.corners[:, :, 2]).max(axis=1) < 1e-9)
    holed = TriMesh(bowl.vertices, np.delete(bowl.faces[~bottom], [7, 60], axis=0))
    assert not check_soundness(holed).closed
    mended = mend(holed)
    assert mended.count("filled_holes") >= 2
    assert mended.open_holes == 0
    after = check_soundness(mended.mesh)
    assert after.closed
    assert after.outward
    assert after.volume_mm3 == pytest.approx(volume(bowl), rel=0.01)


def test_faces_that_are_none_or_twice_are_dropped(bowl):
    extra = np.vstack([bowl.faces, bowl.faces[3:5], [[0, 0, 5]], bowl.faces[9:10][:, [1, 2, 0]]]).astype(np.uint32)
    mended = mend(TriMesh(bowl.vertices, extra))
    assert mended.count("dropped_duplicate_faces") == 3
    assert mended.count("dropped_degenerate_faces") == 1
    assert check_soundness(mended.mesh).sound


def test_nothing_but_lines_is_refused():
    with pytest.raises(NebrelError, match="nothing would be left"):
        mend(TriMesh(np.eye(3), np.array([[0, 1, 1]], dtype=np.uint32)))


@pytest.mark.parametrize("broken", list(corpus()), ids=lambda broken: broken.name)
def test_what_is_broken_becomes_sound(broken):
    """No count of faults rises, the solid is what it was, and a second repair finds nothing to do."""
    mended = mend(broken.mesh)
    assert mended.after.faults.worse_than(mended.before.faults) == []
    found = check_soundness(mended.mesh)
    assert found.sound == broken.mended
    if broken.volume is not None:
        assert found.volume_mm3 == pytest.approx(broken.volume, rel=broken.off)
    again = mend(mended.mesh)
    assert again.steps == ()
    assert np.array_equal(again.mesh.vertices, mended.mesh.vertices)


@pytest.mark.parametrize("name", sorted(BREAKS))
def test_what_is_sound_stays_where_it_is(name):
    """Corners that no fault touches are not moved by a single bit."""
    solid = whole()
    solid = TriMesh((solid.vertices * 20).astype(np.float32).astype(np.float64), solid.faces)
    broken = BREAKS[name][0](solid, np.random.default_rng(2))
    mended = mend(broken)
    there = {tuple(place) for place in broken.vertices.tolist()} & {tuple(place) for place in solid.vertices.tolist()}
    gone = there - {tuple(place) for place in mended.mesh.vertices.tolist()}
    if name == "overlapped":
        # What lies within the ball is gone.
        assert len(gone) < 0.2 * len(there)
    elif name == "missed":
        away = np.linalg.norm(mended.mesh.vertices[:, np.newaxis] - solid.vertices[np.newaxis], axis=2).min(axis=1)
        assert away.max() < 2e-5
    else:
        assert not gone


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_faces_thrown_together_become_no_worse(seed):
    """Corners on a coarse grid, so that they touch, repeat, cross and fold in every way there is."""
    rng = np.random.default_rng(seed)
    places = rng.integers(0, 4, (12, 3)).astype(np.float64)
    mesh = TriMesh(places, rng.integers(0, 12, (int(rng.integers(4, 30)), 3)).astype(np.uint32))
    try:
        mended = mend(mesh)
    except BadMeshError:
        return
    assert mended.after.faults.worse_than(mended.before.faults) == []
    assert measure(mended.mesh).faults == mended.after.faults
    assert np.isfinite(mended.mesh.vertices).all()


def test_a_step_that_makes_it_worse_is_taken_back_and_told():
    """Welding within a few times the size of the faces would fold the ball to dust."""
    ball = mesh_of(manifold3d.Manifold.sphere(3, 48))
    loose = TriMesh(ball.corners.reshape(-1, 3), np.arange(3 * len(ball.faces), dtype=np.uint32).reshape(-1, 3))
    cut = TriMesh(loose.vertices + np.random.default_rng(1).uniform(-1e-3, 1e-3, loose.vertices.shape), loose.faces)
    mended = mend(cut, weld=1.0)
    assert mended.after.faults.worse_than(mended.before.faults) == []
    assert mended.after.area_mm2 == pytest.approx(measure(ball).area_mm2, rel=0.02)
    told = {step.name: step.worse for step in mended.steps}
    assert told["weld"] == ("area",)
    assert check_soundness(mend(cut, weld=0.01).mesh).sound


def test_a_tube_without_ends_is_closed_by_rings():
    """The rims of wall and bore lie in one plane, and the patch between them is a ring."""
    pipe = mesh_of(manifold3d.Manifold.cylinder(20, 8, 8, 64) - manifold3d.Manifold.cylinder(20, 5, 5, 64))
    across = np.ptp(pipe.corners[..., 2], axis=1) > 1e-6
    mended = mend(TriMesh(pipe.vertices, pipe.faces[across]))
    assert mended.count("filled_holes") == 4
    found = check_soundness(mended.mesh)
    assert found.sound and found.volume_mm3 == pytest.approx(measure(pipe).volume_mm3)


def test_a_bent_hole_is_closed_by_the_least_skin():
    """A hole over the rim of a can, which no plane shows without crossings."""
    can = mesh_of(manifold3d.Manifold.cylinder(20, 8, 8, 64).refine_to_length(2))
    middle = can.corners.mean(axis=1)
    gone = np.linalg.norm(middle - np.array([8, 0, 20]), axis=1) < 5
    mended = mend(TriMesh(can.vertices, can.faces[~gone]))
    found = check_soundness(mended.mesh)
    assert found.sound and found.volume_mm3 == pytest.approx(measure(can).volume_mm3, rel=0.03)


def test_steps_can_be_left_out():
    holed = next(each for each in corpus() if each.name.startswith("holed,"))
    mended = mend(holed.mesh, without=("holes", "close_again"))
    assert mended.open_holes > 0 and mended.count("filled_holes") == 0


def test_a_handle_that_passes_through_a_wall_stays_on():
    """An open tube whose ends lie within a body: cut out where it crosses the wall, it would come off."""
    body = mesh_of(manifold3d.Manifold.sphere(10, 64))
    ring = manifold3d.CrossSection.circle(1.5, 24).translate((9.0, 0.0))
    tube = mesh_of(manifold3d.Manifold.revolve(ring, 48, 200).translate((4, 0, 0)))
    ends = np.ptp((tube.corners - np.array([4, 0, 0])) @ np.array([0, 1, 0]), axis=1) < 1e-6
    ends &= np.abs(tube.corners[..., 1]).max(axis=1) < 1e-6
    other = np.radians(200) + np.pi / 2
    normal = np.array([np.cos(other), np.sin(other), 0.0])
    ends |= np.abs((tube.corners - np.array([4, 0, 0])) @ normal).max(axis=1) < 1e-6
    assert 20 < ends.sum() < 60
    open_tube = TriMesh(tube.vertices, tube.faces[~ends])
    mended = mend(together([body, open_tube]))
    found = check_soundness(mended.mesh)
    assert found.sound and found.shells == 1
    whole_one = mesh_of(solid_of(body) + solid_of(tube))
    assert found.volume_mm3 == pytest.approx(measure(whole_one).volume_mm3, rel=1e-3)


def test_colours_of_faces_come_through():
    """Red above, green below, with a hole in the red, a face turned over and one that is there twice."""
    mesh = whole()
    upper = mesh.corners[:, :, 2].mean(axis=1) > mesh.vertices[:, 2].mean()
    tints = np.where(upper[:, np.newaxis], [255, 0, 0, 255], [0, 255, 0, 90]).astype(np.uint8)
    kept = np.ones(len(mesh.faces), dtype=bool)
    kept[np.flatnonzero(upper)[:2]] = False
    faces, tints = mesh.faces[kept], tints[kept]
    faces[7] = faces[7][::-1]
    faces, tints = np.vstack([faces, faces[20:21]]), np.vstack([tints, tints[20:21]])
    broken = TriMesh(mesh.vertices, faces, corner_colours=np.repeat(tints[:, np.newaxis], 3, axis=1))
    mended = mend(broken)
    assert mended.after.faults.total == 0
    colours = mended.mesh.corner_colours
    assert colours is not None
    red = (colours == [255, 0, 0, 255]).all(axis=(1, 2))
    green = (colours == [0, 255, 0, 90]).all(axis=(1, 2))
    heights = mended.mesh.corners[:, :, 2].mean(axis=1)
    middle = mesh.vertices[:, 2].mean()
    assert (red | green).mean() > 0.97
    assert heights[red].min() > middle - 1e-3
    assert heights[green].max() < middle + 1e-3
