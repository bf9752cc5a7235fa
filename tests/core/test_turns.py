"""Which side lies on the plate, and many on one."""

import manifold3d
import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from shapely.geometry import box as rectangle

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.layers.effort import PrintWay
from nebrel.core.layers.plate import as_one, laid_out, packed
from nebrel.core.layers.study import LayerSetup, study_layers
from nebrel.core.layers.turns import TurnWeights, ranked_turns, turn_to
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.pose import turned

LAYER = 0.2
Solid = manifold3d.Manifold


def table() -> Solid:
    top = Solid.cube((60, 40, 4)).translate((0, 0, 20))
    for x, y in ((0, 0), (54, 0), (0, 34), (54, 34)):
        top += Solid.cube((6, 6, 21)).translate((x, y, 0))
    return top


def support(mesh: TriMesh) -> float:
    study = study_layers(mesh, LayerSetup(LAYER, PrintWay(0.42)))
    return study.hanging.support_mm3(study.slices.heights)


class TestTurns:
    def test_the_least_turn_brings_a_direction_down(self):
        chance = np.random.default_rng(4)
        for down in (*chance.normal(size=(50, 3)), (0, 0, 1), (0, 0, -1)):
            unit = np.array(down) / np.linalg.norm(down)
            matrix = turn_to(unit)
            assert matrix @ unit == pytest.approx([0, 0, -1], abs=1e-9)
            assert matrix @ matrix.T == pytest.approx(np.eye(3), abs=1e-9)
            assert np.linalg.det(matrix) == pytest.approx(1)

    def test_a_table_is_printed_upside_down(self):
        mesh = mesh_of(table())
        best = ranked_turns(mesh, LAYER)[0]
        assert best.down == pytest.approx((0, 0, 1), abs=1e-6)
        assert best.support_mm3 == 0
        assert best.footprint_mm2 == pytest.approx(60 * 40)
        made = at_origin(turned(mesh, best.matrix))
        assert (support(mesh) > 40_000, support(made)) == (True, 0)
        assert volume(made) == pytest.approx(volume(mesh))

    def test_what_lies_well_stays_as_it_came(self):
        for solid in (Solid.cube((20, 20, 20)), Solid.cube((40, 30, 5)), Solid.cylinder(8, 20, 20, 96)):
            best = ranked_turns(mesh_of(solid), LAYER)[0]
            assert best.own

    def test_a_solid_that_leans_anyhow_is_laid_on_its_flat_side(self):
        block = mesh_of(Solid.cube((40, 30, 8)))
        leaning = Rotation.from_euler("xyz", (33, -51, 78), degrees=True).as_matrix()
        best = ranked_turns(TriMesh(block.vertices @ leaning.T, block.faces), LAYER)[0]
        assert best.height_mm == pytest.approx(8, abs=1e-3)
        assert best.footprint_mm2 == pytest.approx(1200, rel=1e-3)
        assert best.steps_mm == pytest.approx(0, abs=1e-4)

    def test_measures_are_those_of_a_hand(self):
        """A cone of 45° and more on its base: nothing hangs; on its tip it stands on nothing."""
        found = ranked_turns(mesh_of(Solid.cylinder(20, 10, 0, 256)), LAYER)
        base = next(turn for turn in found if turn.down[2] < -0.999)
        tip = next(turn for turn in found if turn.down[2] > 0.999)
        assert (base.support_mm3, base.height_mm) == (0, pytest.approx(20))
        assert base.footprint_mm2 == pytest.approx(np.pi * 100, rel=0.01)
        assert base.tips_deg == pytest.approx(np.degrees(np.arctan2(10, 5)), abs=0.5)
        assert tip.tips_deg < 1 and tip.footprint_mm2 < 1
        slant = np.hypot(20, 10)
        side = np.pi * 10 * slant
        assert base.steps_mm == pytest.approx(side * (10 / slant) * LAYER / (side + np.pi * 100), rel=0.02)

    def test_weights_count(self):
        """A tall post on a narrow foot: low for who wants it low, upright for who wants no support."""
        post = mesh_of(Solid.cylinder(60, 5, 5, 64) + Solid.sphere(7, 64).translate((0, 0, 55)))
        low = ranked_turns(post, LAYER, TurnWeights(support=0, height=1, footprint=0, wobble=0, steps=0))[0]
        free = ranked_turns(post, LAYER, TurnWeights(support=1, height=0, footprint=0, wobble=0, steps=0))[0]
        assert low.height_mm < 20
        assert free.height_mm > 55

    def test_open_and_empty_meshes_are_refused(self):
        cube = mesh_of(Solid.cube((9, 9, 9)))
        for faces in (cube.faces[1:], cube.faces[:0]):
            with pytest.raises(BadMeshError):
                ranked_turns(TriMesh(cube.vertices, faces), LAYER)


class TestPlate:
    @pytest.mark.parametrize("seed", range(12))
    def test_nothing_overlaps_and_all_keep_their_distance(self, seed):
        chance = np.random.default_rng(seed)
        sizes = [tuple(side) for side in chance.uniform(8, 45, (14, 2))]
        places = packed(sizes, (220, 200), 4)
        boxes = []
        for place, size in zip(places, sizes, strict=True):
            wide, deep = reversed(size) if place.turned else size
            boxes.append(rectangle(place.x, place.y, place.x + wide, place.y + deep))
        assert [place.number for place in places] == list(range(14))
        assert all(each.bounds[0] >= 0 and each.bounds[1] >= 0 for each in boxes)
        assert all(each.bounds[2] <= 220 and each.bounds[3] <= 200 for each in boxes)
        for at, one in enumerate(boxes):
            assert all(one.distance(other) >= 4 - 1e-9 for other in boxes[at + 1 :])

    def test_one_as_large_as_the_bed_fits_either_way(self):
        assert packed([(220, 100)], (220, 100), 4)[0].turned is False
        assert packed([(100, 220)], (220, 100), 4)[0].turned is True

    def test_meshes_are_set_down_turned_and_told_apart(self):
        long, tall = mesh_of(Solid.cube((90, 10, 5)).translate((7, 7, 7))), mesh_of(Solid.cylinder(30, 8, 4, 32))
        laid = laid_out([long, tall, long], (60, 120), 3)
        for mesh, before in zip(laid, (long, tall, long), strict=True):
            assert mesh.vertices[:, 2].min() == pytest.approx(0)
            assert volume(mesh) == pytest.approx(volume(before))
        assert np.ptp(laid[0].vertices, axis=0) == pytest.approx([10, 90, 5])
        whole, objects = as_one(["long", "tall", "long 2"], laid)
        assert [name for name, _ in objects] == ["long", "tall", "long 2"]
        assert sum(len(faces) for _, faces in objects) == len(whole.faces)
        assert volume(whole) == pytest.approx(sum(volume(mesh) for mesh in laid))

    @pytest.mark.parametrize(
        ("sizes", "bed", "gap", "words"),
        [
            ([(230, 10)], (220, 220), 4, "Piece 1 is 230.0"),
            ([(100, 100)] * 5, (220, 220), 4, "4 of 5 pieces fit"),
            ([], (220, 220), 4, "0 pieces"),
            ([(9, 9)], (220, 0), 4, "none that can be filled"),
            ([(9, 9)], (220, 220), -1, "none that can be filled"),
        ],
    )
    def test_what_does_not_fit_is_told(self, sizes, bed, gap, words):
        with pytest.raises(BadValueError, match=words):
            packed(sizes, bed, gap)
