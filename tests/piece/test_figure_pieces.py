"""Figures as pieces: what they begin as, what is refused, what is seen and delivered, and what is computed again."""

import numpy as np
import pytest

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.picture import read_picture
from nebrel.core.proof import check_soundness
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.figure.document import FigureDocument
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part
from nebrel.piece.registry import become, merge, open_piece, parse_document
from tests.piece.conftest import Evaluate, evaluate_over
from tests.piece.toad import DEPTHS, FILES, PHOTO, PX, STROKE, TOAD, document, png, toad


@pytest.fixture(scope="module")
def evaluate() -> Evaluate:
    return evaluate_over(FILES.__getitem__, ResultCache(2**28))


def panel(blob: str) -> PanelDocument:
    source = picture_source(blob, "toad.png", read_picture(FILES[blob], "toad.png").facts)
    return parse_part(PanelDocument, {"title": "Toad", "picture": source.model_dump()})


class TestBeginning:
    def test_the_part_tells_the_kind(self):
        assert parse_document(document().model_dump(mode="json")) == document()

    def test_a_panel_becomes_a_figure_as_wide_that_is_cut_out(self, evaluate):
        made = become(panel(PHOTO), "figure")
        assert isinstance(made, FigureDocument)
        assert made.figure.width_mm == panel(PHOTO).body.width_mm
        assert [op.kind for op in made.ops] == ["cut-out"]
        evaluate(made).check()
        assert check_soundness(evaluate(made).mesh(PX)).sound

    def test_a_cut_that_was_made_by_hand_stays(self):
        cut = merge(panel(TOAD), {"ops": [{"kind": "cut-out", "id": "mine", "by": "alpha"}]})
        made = become(cut, "figure")
        assert [op.id for op in made.ops] == ["mine"]

    def test_it_becomes_a_panel_again(self):
        assert isinstance(become(document(), "panel"), PanelDocument)

    def test_without_an_outline_it_is_refused_with_what_is_needed(self, evaluate):
        with pytest.raises(BadPictureError, match="Nothing is cut out of its background"):
            evaluate(document(PHOTO)).check()

    @pytest.mark.parametrize(
        ("change", "words"),
        [
            ({"cells": 20}, "64 to 512"),
            ({"width_mm": 0}, "2 to 3,?000"),
            ({"thinnest_mm": -1}, "0 to 50"),
            ({"depth": {"kind": "guess"}}, "'own' or 'service' would be accepted"),
            ({"depth": {"roundness": 9}}, "0.05 to 2"),
            ({"strokes": [{"kind": "nearer", "places": []}]}, "Places of the stroke"),
            ({"strokes": [{"kind": "melt", "places": [[0, 0, 1]]}]}, "kind|What a stroke does"),
            ({"width_mm": float("nan")}, "a number in millimetres"),
        ],
    )
    def test_limits_are_told_in_a_sentence(self, change, words):
        with pytest.raises(BadValueError, match=words):
            document(**change)

    def test_a_depth_picture_has_to_be_chosen(self, evaluate):
        with pytest.raises(BadPictureError, match="choose one"):
            evaluate(document(depth={"kind": "picture"})).check()


class TestSolid:
    def test_is_as_large_as_its_picture_says(self, evaluate):
        width, depth, thick = evaluate(document(width_mm=100)).size_mm
        assert width == pytest.approx(100 * 160 / 199, abs=0.8)
        assert depth == pytest.approx(100 * 129 / 199, abs=0.8)
        assert 20 < thick < 60

    @pytest.mark.parametrize("by", [{"by": "mm", "thickness_mm": 12}, {"by": "share", "roundness": 0.3}])
    def test_is_as_thick_as_asked(self, evaluate, by):
        thick = evaluate(document(depth={"kind": "swell", **by})).size_mm[2]
        round_one = evaluate(document(depth={"kind": "swell", "roundness": 1.0})).size_mm[2]
        assert thick == pytest.approx(12 if by["by"] == "mm" else 0.3 * round_one, rel=0.03)

    def test_follows_a_depth_picture_either_way_up(self, evaluate):
        depth = {"kind": "picture", "blob": DEPTHS, "name": "depths.png", "span_mm": 30, "roundness": 0.2}
        ends = []
        for near in ("bright", "dark"):
            mesh = evaluate(document(depth={**depth, "near": near})).mesh(PX)
            left, right = (mesh.vertices[mask][:, 2].mean() for mask in sides(mesh.vertices[:, 0]))
            ends.append(right - left)
        assert ends[0] > 10
        assert ends[1] == pytest.approx(-ends[0], rel=0.2)

    def test_has_the_back_that_is_chosen(self, evaluate):
        thick = {
            kind: evaluate(document(back={"kind": kind, "bulge": 0.4})).size_mm[2]
            for kind in ("mirror", "flat", "bulge")
        }
        assert thick["flat"] < 0.6 * thick["mirror"]
        assert thick["bulge"] == pytest.approx(0.7 * thick["mirror"], rel=0.05)

    def test_is_delivered_sound_within_its_tolerance_and_measured(self, evaluate):
        slab, report = evaluate(document(tolerance_mm=0.1)).build()
        assert report.sound
        assert report.closed
        assert report.shells == 1
        assert report.max_error_mm <= 0.1
        assert report.triangles < report.triangles_before
        assert len(slab.mesh.faces) == report.triangles
        assert report.figure.overlap_mask > 0.98
        assert report.figure.source == "learned"
        assert report.figure.depth_mm == pytest.approx(np.ptp(slab.mesh.vertices[:, 2]), abs=1e-3)

    def test_is_made_lighter_where_that_is_asked(self, evaluate):
        light = merge(document(), {"light": {"on": True, "by": "triangles", "triangles": 2000}})
        assert evaluate(light).build()[1].triangles <= 2100


class TestSeen:
    def test_the_plan_is_the_picture_over_the_figure_in_the_frame_of_the_solid(self, evaluate):
        evaluator = evaluate(document())
        plan = evaluator.plan(PX)
        assert plan.size == evaluator.size_mm
        rows, columns = plan.heights.shape
        eye = plan.tones[round(rows * 0.14), round(columns * 0.28)]
        middle = plan.tones[rows // 2, columns // 2]
        assert eye > 1.5 * middle
        assert np.isnan(plan.heights[0, 0])
        assert np.nanmax(plan.heights) == pytest.approx(evaluator.size_mm[2], rel=0.03)

    def test_places_of_the_picture_are_found_on_the_plan(self, evaluate):
        matrix = evaluate(document()).plan(PX).from_source
        # The middle of the right eye.
        x, y, _ = matrix @ [135 / 199, 1 - 40 / 159, 1]
        assert (x, y) == pytest.approx(((135 - 19.5) / 161, 1 - (40 - 20.5) / 129), abs=0.02)

    def test_the_plan_at_the_picture_is_the_whole_picture(self, evaluate):
        plan = evaluate(document()).plan(PX, "")
        assert plan.tones.shape == (160, 200)

    def test_it_is_coloured_cut_and_thumbnailed(self, evaluate):
        evaluator = evaluate(document())
        assert evaluator.thumbnail().startswith(b"\x89PNG")
        assert evaluator.surface_map("deviation", PX).values.max() < 1.0
        width, depth, _ = evaluator.size_mm
        assert len(evaluator.section((0, depth / 2), (width, depth / 2), PX).made) >= 1


class TestStrokes:
    def test_move_what_is_under_them(self, evaluate):
        plain = evaluate(document()).plan(PX)
        near = evaluate(document(strokes=[STROKE])).plan(PX)
        rows, columns = plain.heights.shape
        moved = np.nanmax(near.heights) - np.nanmax(plain.heights)
        assert moved > 1
        assert near.heights.shape == (rows, columns)

    def test_that_are_switched_off_cost_nothing_and_change_nothing(self, evaluate):
        off = evaluate(document(strokes=[{**STROKE, "on": False}]))
        assert off.solid_key(PX) == evaluate(document()).solid_key(PX)

    def test_do_not_depend_on_their_names(self, evaluate):
        one, other = (evaluate(document(strokes=[{**STROKE, "id": name}])) for name in ("a", "b"))
        assert one.solid_key(PX) == other.solid_key(PX)


class TestLearned:
    def test_of_another_network_is_made_anew_and_nothing_else_is(self, evaluate, monkeypatch):
        keys = {}
        for network in ("one", "other"):
            monkeypatch.setattr("nebrel.piece.kinds.figure.making.network_hash", lambda network=network: network)
            keys[network] = [evaluate(document(depth={"kind": kind})).solid_key(PX) for kind in ("learned", "swell")]
        assert keys["one"][0] != keys["other"][0]
        assert keys["one"][1] == keys["other"][1]


class TestSymmetry:
    def test_mirrors_strokes_about_the_line_that_the_outline_has(self, evaluate):
        stroke = {**STROKE, "places": [[0.68, 0.75, 1]], "amount_mm": 8, "size_mm": 6}
        plain, alike = (
            evaluate(document(strokes=[stroke], symmetry={"on": on})).plan(PX).heights for on in (False, True)
        )
        apart = [np.nanmean(np.abs(heights - heights[:, ::-1])) for heights in (plain, alike)]
        assert apart[0] > 0.1
        assert apart[1] < 0.3 * apart[0]

    def test_about_a_line_by_hand_follows_it(self, evaluate):
        solids = {evaluate(document(symmetry={"on": True, "by": "hand", "at": at})).solid_key(PX) for at in (0.4, 0.5)}
        assert len(solids) == 2


class TestFindings:
    def measures(self, evaluator) -> set[str]:
        return {finding.measure for finding in evaluator.findings(PX)}

    def test_of_a_stout_figure_are_none(self, evaluate):
        assert self.measures(evaluate(document())) == set()

    def test_tell_what_was_widened_and_thickened(self, evaluate):
        assert {"widened", "thickened"} <= self.measures(evaluate(document(width_mm=20, thinnest_mm=6)))

    def test_tell_of_a_solid_that_is_another_one_than_was_cut_out(self, evaluate):
        ragged = toad()
        ragged[::3] = 0
        FILES["4" * 64] = png(ragged)
        _, report = evaluate(document("4" * 64, width_mm=60, thinnest_mm=2, tolerance_mm=0.3)).build()
        found = [finding for finding in report.findings if finding.measure == "overlap"]
        assert report.figure.overlap_mask < 0.9
        assert found[0].value == pytest.approx(report.figure.overlap_mask, abs=1e-4)

    def test_hair_may_be_refused_instead(self, evaluate):
        with pytest.raises(BadPictureError, match=r"mm² would have to be added"):
            evaluate(document(width_mm=20, thinnest_mm=6, widen=False)).check()

    def test_tell_parts_the_frame_and_the_bed(self, evaluate):
        apart = toad()
        apart[60:75] = 0
        apart[:, :30] = 255
        FILES["3" * 64] = png(apart)
        found = self.measures(evaluate(document("3" * 64, width_mm=400)))
        assert {"parts", "at-frame", "bed"} <= found


def sides(x: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Whether places are in the left or in the right quarter."""
    low, high = x.min(), x.max()
    return x < low + 0.25 * (high - low), x > high - 0.25 * (high - low)


def test_nothing_is_computed_twice(evaluate):
    cache = ResultCache(2**28)
    sources = Sources(FILES.__getitem__, cache)
    first = open_piece(document(), sources).evaluator
    mesh = first.mesh(PX)
    again = open_piece(merge(document(), {"figure": {"tolerance_mm": 0.5}}), sources).evaluator
    assert again.solid_key(PX) == first.solid_key(PX)
    assert len(again.mesh(PX).faces) == len(mesh.faces)
