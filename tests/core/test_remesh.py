"""Surfaces made anew, shells joined, solids cut."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.csg.halve import halve
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mend.overlaps import joined_by_winding, without_folds
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.colouring import colour_like
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.remesh import remesh
from nebrel.core.mesh.shells import only_shells, shells_of
from nebrel.core.proof import check_soundness

Manifold = manifold3d.Manifold


def sound(mesh):
    report = check_soundness(mesh)
    assert report.sound, report.findings
    return report


class TestRemesh:
    def test_a_box_keeps_its_edges_and_corners(self, box):
        solid = box((3, 4, 5), (20, 15, 10))
        anew = remesh(solid, 1.0)
        report = sound(anew)
        assert report.volume_mm3 == pytest.approx(3000, rel=2e-3)
        assert distances_to(solid, anew.vertices).max() < 0.02
        assert distances_to(anew, solid.vertices).max() < 0.02

    def test_softened_edges_are_rounder(self, box):
        solid = box((0, 0, 0), (20, 15, 10))
        sharp, soft = remesh(solid, 1.0), remesh(solid, 1.0, keep_edges=False)
        sound(soft)
        assert distances_to(soft, solid.vertices).mean() > 20 * distances_to(sharp, solid.vertices).mean()

    def test_a_sphere(self):
        ball = mesh_of(Manifold.sphere(10, 128))
        anew = remesh(ball, 0.5)
        assert sound(anew).volume_mm3 == pytest.approx(4 / 3 * np.pi * 1000, rel=0.01)
        assert np.abs(np.linalg.norm(anew.vertices, axis=1) - 10).max() < 0.05

    def test_holes_through_stay_holes(self):
        ring = mesh_of(Manifold.cylinder(6, 10, 10, 96) - Manifold.cylinder(8, 5, 5, 96).translate((0, 0, -1)))
        anew = remesh(ring, 0.5)
        sound(anew)
        edges = 3 * len(anew.faces) // 2
        assert len(anew.vertices) - edges + len(anew.faces) == 0

    def test_overlapping_and_open_shells_become_one_solid(self, box, together):
        cut = box((10, 5, 5), (20, 15, 10))
        open_box = TriMesh(cut.vertices, cut.faces[1:])
        anew = remesh(together(box((0, 0, 0), (20, 15, 10)), open_box), 0.7)
        report = sound(anew)
        assert report.shells == 1
        assert report.volume_mm3 == pytest.approx(2 * 3000 - 10 * 10 * 5, rel=0.01)

    def test_many_thin_and_leaning_parts_stay_manifold(self):
        rng = np.random.default_rng(2)
        heap = Manifold()
        for _ in range(25):
            part = Manifold.cube(tuple(rng.uniform(0.6, 6, 3).tolist()), True)
            heap += part.rotate(tuple(rng.uniform(0, 360, 3).tolist())).translate(tuple(rng.uniform(-7, 7, 3).tolist()))
        solid = mesh_of(heap)
        for voxel in (0.3, 0.9):
            sound(remesh(solid, voxel))

    @pytest.mark.parametrize(
        ("voxel", "words"), [(0, "more than 0"), (float("nan"), "more than 0"), (1e-4, "too fine")]
    )
    def test_a_voxel_that_cannot_be_is_refused(self, box, voxel, words):
        with pytest.raises(BadValueError, match=words):
            remesh(box(size=(10, 10, 10)), voxel)

    def test_something_thinner_than_the_voxel_is_refused(self, box):
        with pytest.raises(BadMeshError, match="as thick as a voxel"):
            remesh(box(size=(10, 10, 0.01)), 2.0)


class TestMerging:
    def ball(self, place, radius=3.0):
        return mesh_of(Manifold.sphere(radius, 48).translate(place))

    def test_parts_that_overlap_become_one(self, box, together):
        merged = joined_by_winding(together(box(size=(20, 15, 10)), self.ball((20, 7, 5))))
        assert (merged.joined, merged.inner) == (2, 0)
        assert sound(merged.mesh).shells == 1

    def test_inner_parts_go_and_cavities_stay(self, box, together):
        solid, inner = box(size=(20, 15, 10)), self.ball((5, 5, 5))
        cavity = self.ball((13, 8, 5))
        hollow = TriMesh(cavity.vertices, cavity.faces[:, ::-1].copy())
        merged = joined_by_winding(together(solid, inner, hollow))
        assert merged.inner == 1
        report = sound(merged.mesh)
        assert report.shells == 2
        assert report.volume_mm3 == pytest.approx(3000 - check_soundness(cavity).volume_mm3, rel=1e-4)

    def test_parts_that_do_not_touch_stay_as_they_are(self, box, together):
        apart = together(box(size=(5, 5, 5)), box((10, 0, 0), (5, 5, 5)))
        merged = joined_by_winding(apart)
        assert (merged.joined, merged.inner) == (0, 0)
        assert merged.mesh is apart

    def test_a_fold_is_cut_out_and_closed(self):
        ball = self.ball((0, 0, 0), 5)
        places = ball.vertices.copy()
        top = np.argmax(places[:, 2])
        places[np.linalg.norm(places - places[top], axis=1) < 0.8, 2] -= 12.3
        folded = TriMesh(places, ball.faces)
        assert check_soundness(folded).self_crossings > 0
        mended, recut = without_folds(folded)
        assert recut > 0
        assert sound(mended).volume_mm3 == pytest.approx(check_soundness(ball).volume_mm3, rel=0.1)
        kept = {tuple(place) for place in mended.vertices.tolist()}
        assert len(kept & {tuple(place) for place in places.tolist()}) > 0.8 * len(places)

    def test_colours_are_carried_over(self, box):
        colours = np.zeros((8, 4), dtype=np.uint8)
        colours[:, 3] = 255
        colours[:4, 0] = 200
        solid = box(size=(10, 10, 10))
        solid = TriMesh(solid.vertices, solid.faces, colours)
        anew = colour_like(remesh(solid, 1.0), solid)
        left = anew.vertices[:, 0] < 4
        assert (anew.colours[left, 0] == 200).all()
        assert (anew.colours[anew.vertices[:, 0] > 6, 0] == 0).all()


class TestShellsAndCuts:
    def test_the_largest_parts_are_kept(self, box, together):
        mesh = together(box(size=(2, 2, 2)), box((10, 0, 0), (5, 5, 5)), box((30, 0, 0), (3, 3, 3)))
        shells = shells_of(mesh)
        assert [round(shell.volume_mm3) for shell in shells] == [125, 27, 8]
        kept = only_shells(mesh, shells[:2])
        assert sound(kept).volume_mm3 == pytest.approx(152)
        with pytest.raises(BadValueError, match="at least one"):
            only_shells(mesh, [])

    def test_a_cut_is_closed(self, box):
        solid = box(size=(10, 8, 6))
        assert sound(halve(solid, (0, 0, 1), 2.0)).volume_mm3 == pytest.approx(10 * 8 * 4)
        assert sound(halve(solid, (0, 0, 2), 2.0, "below")).volume_mm3 == pytest.approx(10 * 8 * 2)
        slanted = halve(solid, (1, 1, 0), 9 / np.sqrt(2))
        assert sound(slanted).volume_mm3 + sound(halve(solid, (1, 1, 0), 9 / np.sqrt(2), "below")).volume_mm3 == (
            pytest.approx(480, rel=1e-5)
        )

    def test_a_cut_that_cannot_be_is_refused(self, box):
        solid = box(size=(10, 8, 6))
        with pytest.raises(BadValueError, match="Nothing of the mesh"):
            halve(solid, (0, 0, 1), 20)
        with pytest.raises(BadValueError, match="no direction"):
            halve(solid, (0, 0, 0), 1)
        with pytest.raises(BadMeshError, match="repair it first"):
            halve(TriMesh(solid.vertices, solid.faces[1:]), (0, 0, 1), 3)
