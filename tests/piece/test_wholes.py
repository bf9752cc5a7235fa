"""Wholes as evaluators make them: where parts come to stand, what they are made of, how they are looked at."""

import numpy as np
import pytest
import trimesh

from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.heightfield.from_above import heights_over
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.affine import affine_between
from nebrel.core.mesh.pose import turn_about
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.recipes.recipe import STAND_INS
from nebrel.piece.recipes.sample import BLOB, leaf
from nebrel.piece.registry import open_piece, parse_document

PLATE = {"kind": "ready", "shape": "plate", "width_mm": 40.0, "depth_mm": 30.0, "height_mm": 4.0}
BLOCK = {"kind": "ready", "shape": "plate", "width_mm": 10.0, "depth_mm": 8.0, "height_mm": 6.0}


def part(name: str, source: dict = BLOCK, **more: object) -> dict:
    return {"id": name, "name": name, "source": source, **more}


def whole(*parts: dict, **more: object):
    sources = Sources(lambda _: b"", ResultCache(128 * 2**20)).with_pictures({BLOB: leaf()})
    return open_piece(parse_document({"title": "Whole", "assembly": list(parts), **more}), sources).evaluator


def box_of(evaluator, at: int) -> tuple[list[float], list[float]]:
    points = evaluator.solids(FULL)[at].mesh.vertices
    return points.min(axis=0).round(4).tolist(), points.max(axis=0).round(4).tolist()


def volume(mesh: TriMesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


class TestStanding:
    def test_free_parts_stand_where_they_are_typed(self):
        made = whole(part("a", x_mm=3, y_mm=-2, z_mm=7))
        assert box_of(made, 0) == ([-2.0, -6.0, 7.0], [8.0, 2.0, 13.0])

    def test_parts_are_turned_and_sized_about_their_foot(self):
        made = whole(part("a", turn_z_deg=90, scale=2.0))
        assert box_of(made, 0) == ([-8.0, -10.0, 0.0], [8.0, 10.0, 12.0])
        made = whole(part("a", turn_x_deg=90))
        assert box_of(made, 0) == ([-5.0, -3.0, 0.0], [5.0, 3.0, 8.0])

    def test_what_stands_on_top_rests_on_the_highest_place_under_it(self):
        stairs = (part("low", PLATE), part("step", x_mm=8, stands="on"))
        over_both = whole(*stairs, part("top", x_mm=4, stands="on", sink_mm=0.0))
        assert box_of(over_both, 2)[0][2] == pytest.approx(4 + 6 - 0.05, abs=1e-4)
        beside = whole(*stairs, part("top", x_mm=-12, stands="on", sink_mm=0.25))
        assert box_of(beside, 2)[0][2] == pytest.approx(4 - 0.25, abs=1e-4)

    def test_what_has_nothing_under_it_stands_on_the_ground(self):
        made = whole(part("a", PLATE), part("b", x_mm=200, stands="on", sink_mm=0.0))
        assert box_of(made, 1)[0][2] == 0

    def test_what_is_cut_away_holds_nothing(self):
        made = whole(part("a", PLATE), part("b", how="cut", z_mm=2), part("c", stands="on", sink_mm=0.0))
        assert box_of(made, 2)[0][2] == pytest.approx(4)

    def test_the_order_of_the_list_is_that_of_standing(self):
        top_first = whole(part("b", stands="on", sink_mm=0.0), part("a", PLATE))
        assert box_of(top_first, 0)[0][2] == 0


class TestWhole:
    def test_parts_that_are_switched_off_are_not_there(self):
        with_both = whole(part("a", PLATE), part("b", stands="on"))
        one = whole(part("a", PLATE), part("b", stands="on", on=False))
        assert volume(one.mesh()) == pytest.approx(40 * 30 * 4, rel=1e-6)
        assert volume(with_both.mesh()) == pytest.approx(40 * 30 * 4 + 10 * 8 * 5.95, rel=1e-5)

    def test_a_piece_of_another_kind_is_a_part(self):
        picture = {**STAND_INS["picture"], "blob": BLOB, "width_px": 320, "height_px": 400, "bit_depth": 16}
        panel = {"title": "Leaf", "picture": picture, "body": {"width_mm": 24, "backing_mm": 2}}
        made = whole(
            part("base", PLATE), part("leaf", {"kind": "piece", "piece_id": "p", "document": panel}, stands="on")
        )
        low, high = box_of(made, 1)
        assert high[0] - low[0] == pytest.approx(24, abs=1e-3)
        assert low[2] == pytest.approx(3.95, abs=1e-3)
        assert made.build()[1].sound

    def test_a_painted_piece_keeps_its_colour_as_a_part(self):
        inner = {"title": "Inner", "assembly": [part("a")], "paint": {"on": True, "colour": "#204080"}}
        made = whole(part("nested", {"kind": "piece", "piece_id": "p", "document": inner}))
        colours = made.mesh().corner_colours
        assert colours is not None
        assert {tuple(each) for each in colours.reshape(-1, 4).tolist()} == {(0x20, 0x40, 0x80, 255)}

    def test_size_plan_and_sketch_agree_with_the_solid(self):
        made = whole(part("a", PLATE, x_mm=100), part("b", x_mm=100, stands="on"))
        np.testing.assert_allclose(made.size_mm, np.ptp(made.mesh().vertices, axis=0), atol=1e-6)
        np.testing.assert_allclose(made.size_mm, np.ptp(made.mesh(360).vertices, axis=0), atol=1e-6)
        plan = made.plan(360)
        middle = plan.from_source @ np.array([100.0, 0.0, 1.0])
        np.testing.assert_allclose(middle[:2], [0.5, 0.5], atol=1e-9)

    def test_objects_are_the_parts_that_are_left_with_what_is_cut_from_them(self):
        parts = (part("a", PLATE), part("hole", how="cut", z_mm=-1), part("b", x_mm=60, how="apart"))
        assert whole(*parts).objects() == []
        named = whole(*parts, objects="each").objects()
        assert [name for name, _ in named] == ["a", "b"]
        assert volume(named[0][1]) == pytest.approx(40 * 30 * 4 - 10 * 8 * 4, rel=1e-5)
        worked = whole(*parts, objects="each", steps=[{"kind": "mirror", "id": "m"}])
        assert worked.objects() == []
        assert "objects_lost" in {each.measure for each in worked.findings(FULL)}
        assert "objects_lost" not in {each.measure for each in whole(*parts, objects="each").findings(FULL)}

    def test_what_floats_is_told_beside_the_first_that_is_joined(self):
        parts = (part("aside", x_mm=-90, how="apart"), part("a", PLATE), part("b", x_mm=90))
        said = [each.what for each in whole(*parts).findings(FULL) if each.measure == "part_floats"]
        assert said == ["“b” floats: nothing holds it to “a”."]

    def test_names_and_ids_change_no_solid(self):
        one = whole(part("a", PLATE)).solid_key(FULL)
        renamed = {**part("a", PLATE), "id": "other", "name": "Other"}
        assert whole(renamed).solid_key(FULL) == one
        assert whole(part("a", PLATE, x_mm=1)).solid_key(FULL) != one

    def test_nothing_and_what_is_open_are_refused_in_a_sentence(self):
        with pytest.raises(BadValueError, match="Nothing is put together yet"):
            whole().check()
        with pytest.raises(BadValueError, match=r"Height is 0\.1 mm"):
            whole(part("a", {**PLATE, "height_mm": 0.1}))
        model = {"title": "M", "model": STAND_INS["model"]}
        with pytest.raises(BadMeshError):
            whole(part("a", {"kind": "piece", "piece_id": "p", "document": model})).check()


class TestAffine:
    MESH = TriMesh(np.random.default_rng(2).normal(0, 20, (300, 3)), np.zeros((1, 3), np.uint32))

    def moved(self, linear: np.ndarray) -> TriMesh:
        return TriMesh(self.MESH.vertices @ linear.T + (5.0, -3.0, 100.0), self.MESH.faces)

    @pytest.mark.parametrize(
        ("linear", "scale", "mirrors"),
        [
            (turn_about("x", 33.0) @ turn_about("z", -70.0), 1.0, False),
            (np.diag([2.0, 2.0, 2.0]), 2.0, False),
            (np.diag([-1.0, 1.0, 1.0]), 1.0, True),
            (np.diag([1.0, 1.0, 8.0]), 2.0, False),
        ],
        ids=["turned", "sized", "mirrored", "one direction"],
    )
    def test_a_map_of_the_mesh_is_found_again(self, linear, scale, mirrors):
        found = affine_between(self.MESH, self.moved(linear))
        assert found is not None
        np.testing.assert_allclose(found.linear, linear, atol=1e-9)
        assert found.scale == pytest.approx(scale)
        assert found.mirrors == mirrors
        np.testing.assert_allclose(found.place((1, 2, 3)), linear @ (1, 2, 3) + (5, -3, 100), atol=1e-8)
        assert np.linalg.norm(found.direction((0, 0, 4))) == pytest.approx(1)

    def test_what_bends_or_has_other_points_is_none(self):
        bent = TriMesh(self.MESH.vertices + 0.01 * self.MESH.vertices[:, :1] ** 2, self.MESH.faces)
        assert affine_between(self.MESH, bent) is None
        assert affine_between(self.MESH, TriMesh(self.MESH.vertices[1:], self.MESH.faces)) is None


def test_heights_over_a_box_are_those_of_the_mesh_and_nothing_beside_it():
    made = trimesh.creation.box((4, 4, 2))
    mesh = TriMesh(np.asarray(made.vertices), np.asarray(made.faces, np.uint32))
    found = heights_over(mesh, (-4.0, -2.0, 4.0, 2.0), 81)
    assert found.shape == (41, 81)
    assert found[20, 40] == pytest.approx(1)
    assert np.isneginf(found[20, :18]).all()
