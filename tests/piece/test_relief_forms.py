"""Panels whose heights follow depth: what of their picture counts, what is told, what is kept and sent."""

import io
from collections.abc import Callable

import cv2
import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadPictureError
from nebrel.core.picture import read_picture
from nebrel.core.proof.finding import CHANGE
from nebrel.demo.pictures.badger import HEIGHT_PX, WIDTH_PX, draw_badger
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.panel import evaluator as panels
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.recipe import follow, recipe_of
from nebrel.piece.registry import merge, parse_document
from tests.piece.conftest import evaluate_over

BLOB, WHOLE, DISCS, DEPTHS = "a" * 64, "c" * 64, "d" * 64, "b" * 64
SMALL = (225, 250)


def png(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(np.clip(samples, 0, 1) * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def discs() -> np.ndarray:
    """Two discs on a dark ground, gray."""
    rows, columns = np.mgrid[0:100, 0:140]
    picture = np.full((100, 140), 0.15)
    for column, tone in ((48, 0.5), (98, 0.9)):
        picture[np.hypot(rows - 50, columns - column) < 24] = tone
    return picture


@pytest.fixture(scope="module")
def badger():
    """The portrait cut out, as large as 225 × 250, with the truth of it."""
    drawn = draw_badger()
    small = np.dstack(
        [cv2.resize(each, SMALL, interpolation=cv2.INTER_AREA) for each in (drawn.colours, drawn.coverage)]
    )
    step = WIDTH_PX // SMALL[0]
    return small, drawn.front[step // 2 :: step, step // 2 :: step]


@pytest.fixture
def opened(badger) -> Callable:
    """Evaluators of panels of the portrait, cut out or as a whole."""
    small, front = badger
    there = np.isfinite(front)
    low, high = np.nanmin(front), np.nanmax(front)
    files = {
        BLOB: png(small),
        WHOLE: png(small[..., :3]),
        DISCS: png(discs()),
        DEPTHS: png(np.where(there, (np.nan_to_num(front) - low) / (high - low), 0)),
    }
    evaluate = evaluate_over(files.__getitem__, ResultCache(10**8))

    def open_panel(form: dict[str, object] | None = None, blob: str = BLOB, **parts: object):
        source = picture_source(blob, "badger.png", read_picture(files[blob]).facts)
        document = parse_document({"title": "Badger", "picture": source.model_dump(), "body": {"width_mm": 60}})
        return evaluate(merge(document, {"height": {"form": {"of": "depth", **(form or {})}}, **parts}))

    return open_panel


def seen(heights: np.ndarray, place: tuple[float, float]) -> float:
    """Of a place in shares of the picture from its lower left corner."""
    rows, columns = heights.shape
    return float(heights[round((1 - place[1]) * (rows - 1)), round(place[0] * (columns - 1))])


WHITE_STRIPE, BLACK_STRIPE, CHEEK, CHEST, HEDGE = (0.5, 0.7), (0.4, 0.62), (0.3, 0.5), (0.5, 0.15), (0.06, 0.9)


class TestHeights:
    def test_tones_do_not_count(self, opened):
        by_depth = opened().field().heights
        by_tones = opened({"of": "tones"}).field().heights
        assert seen(by_tones, WHITE_STRIPE) > 2 * seen(by_tones, BLACK_STRIPE)
        assert seen(by_depth, BLACK_STRIPE) > 0.75 * seen(by_depth, WHITE_STRIPE)

    def test_it_is_as_tall_as_asked_and_stands_on_a_ground(self, opened):
        field = opened({"relief_mm": 4.5}).field()
        assert field.heights.max() == pytest.approx(4.5, abs=0.01)
        assert seen(field.heights, HEDGE) == 0 and field.material.all()

    def test_without_a_ground_only_what_is_cut_out_is_there(self, opened):
        field = opened({"ground": False}).field()
        assert field.material.mean() == pytest.approx(0.47, abs=0.06)

    def test_both_adds_fine_tones_of_so_much(self, opened):
        plain, both = opened({"of": "depth"}).field(), opened({"of": "both", "fine": {"strength_mm": 0.6}}).field()
        by = both.heights - plain.heights
        assert 0.1 < np.abs(by).max() <= 0.61
        assert opened({"of": "both", "relief_mm": 3, "fine": {"strength_mm": 0.6}}).relief_mm == pytest.approx(3.6)

    @pytest.mark.parametrize("kind", ["swell", "learned", "light"])
    def test_every_source_makes_a_sound_panel_that_is_true_to_it(self, opened, kind):
        _, report = opened({"depth": {"kind": kind}}).build()
        assert report.sound and report.max_error_mm <= report.tolerance_mm
        assert report.form is not None and report.form.source == kind
        assert report.size_mm[2] == pytest.approx(1.2 + 3.0, abs=0.02)

    def test_a_depth_picture_keeps_the_order_of_what_hides_what(self, opened):
        form = {"depth": {"kind": "picture", "blob": DEPTHS, "name": "d.png", "span_mm": 40}, "step_mm": 0.2}
        _, report = opened(form).build()
        assert report.form is not None
        assert report.form.overlaps_mm > 20 and report.form.order_kept >= 0.95

    def test_a_source_that_lacks_its_file_says_so(self, opened):
        with pytest.raises(BadPictureError, match="No depth picture is chosen"):
            opened({"depth": {"kind": "picture"}}).field()

    def test_a_stroke_brings_a_part_nearer(self, opened):
        places = [[0.3, 0.55, 1], [0.5, 0.75, 1], [0.7, 0.55, 1]]
        stroke = {"id": "s", "kind": "nearer", "places": places, "size_mm": 5, "amount_mm": 15}
        plain, moved = opened(), opened({"strokes": [stroke]})
        shares = [
            seen(each.field().heights, WHITE_STRIPE) / seen(each.field().heights, CHEST) for each in (plain, moved)
        ]
        assert shares[1] > 1.3 * shares[0]
        off = opened({"strokes": [{**stroke, "on": False}]})
        assert np.array_equal(off.field().heights, plain.field().heights)

    def test_cutting_through_dark_makes_holes_in_the_form_only(self, opened):
        cut = opened(height={"form": {"of": "depth"}, "cut": {"on": True, "tone": 0.12}}).field()
        assert not cut.material.all() and seen(cut.coverage, HEDGE) == 1

    def test_a_preview_is_the_same_form(self, opened):
        piece = opened()
        fine, coarse = piece.field().heights, piece.field(128).heights
        for place in (WHITE_STRIPE, CHEEK, CHEST):
            assert seen(coarse, place) == pytest.approx(seen(fine, place), abs=0.35)


class TestScene:
    def test_nothing_cut_out_is_a_scene_and_that_is_said(self, opened):
        piece = opened(blob=WHOLE)
        found = {finding.measure: finding for finding in piece.findings(200)}
        assert found["whole_scene"].fix is not None and found["whole_scene"].fix.kind == "cut-out"
        assert "whole_scene" not in {finding.measure for finding in opened().findings(200)}

    def test_what_is_behind_everything_stays_low(self, opened):
        heights = opened({"depth": {"kind": "swell"}}, blob=DISCS).field().heights
        assert seen(heights, HEDGE) == 0 and seen(heights, (0.35, 0.5)) > 1 and seen(heights, (0.7, 0.5)) > 1

    def test_a_source_that_finds_nothing_in_it_says_what_would_help(self, opened):
        with pytest.raises(BadPictureError, match="cut out what is to stand out"):
            opened({"depth": {"kind": "swell"}}, blob=WHOLE).field()
        assert opened({"depth": {"kind": "learned"}}, blob=WHOLE).field().heights.max() == pytest.approx(3, abs=0.01)


class TestTold:
    def test_brightness_that_is_no_height_offers_depth_which_mends_it(self, opened):
        piece = opened({"of": "tones"}, blob=WHOLE)
        told = [each for each in piece.findings() if each.measure == "brightness-not-height"]
        assert len(told) == 1 and told[0].fix is not None and told[0].fix.kind == CHANGE
        mended = merge(piece.document, told[0].fix.parameters)
        assert mended.height.form.of == "both" and mended.height.form.relief_mm == 3.0
        again = opened({"of": "both"}, blob=WHOLE)
        assert "brightness-not-height" not in {each.measure for each in again.findings()}

    def test_what_tones_lack_is_not_told_where_they_do_not_count(self, opened):
        told = {each.measure for each in opened().findings()}
        assert not told & {"tone_range", "noise", "few-levels", "oversampled"}

    @pytest.mark.parametrize("step", [2.0, 50.0])
    def test_steps_that_leave_no_room_for_the_form_are_told_and_lowered(self, opened, step):
        piece = opened({"relief_mm": 3.0, "step_mm": step})
        told = {each.measure: each for each in piece.findings(200)}["tall_steps"]
        assert told.fix is not None
        assert merge(piece.document, told.fix.parameters).height.form.step_mm == pytest.approx(0.3)
        assert np.isfinite(piece.field(200).heights).all()
        assert "tall_steps" not in {each.measure for each in opened({"relief_mm": 3.0}).findings(200)}

    def test_noise_is_judged_by_what_fine_tones_make_of_it(self, opened):
        ground = opened({"of": "both", "fine": {"strength_mm": 0.4}}).ground
        assert ground.relief == 0.4


class TestKept:
    def test_holding_back_more_asks_the_source_of_depth_no_second_time(self, opened, monkeypatch):
        asked = []
        real = panels.nearness_in
        monkeypatch.setattr(panels, "nearness_in", lambda *given: asked.append(1) or real(*given))
        heights = [opened({"strength": strength}).field(200).heights for strength in (0.2, 0.6)]
        assert len(asked) == 1 and not np.array_equal(*heights)

    def test_a_recipe_leaves_strokes_to_its_piece(self, opened):
        places = {
            "strokes": [{"id": "s", "kind": "flat", "places": [[0.5, 0.5, 1]]}],
            "order": [{"id": "o", "at": [0.5, 0.5]}],
        }
        own = opened({"strength": 0.2, **places}).document
        kept = recipe_of(own, "Badger")
        assert "strokes" not in kept.parts["height"]["form"] and "order" not in kept.parts["height"]["form"]
        laid = follow(own, recipe_of(opened({"strength": 0.7}).document, "Other"))
        assert laid.height.form.strength == 0.7
        assert laid.height.form.strokes == own.height.form.strokes and laid.height.form.order == own.height.form.order


class TestSources:
    def test_are_compared_with_its_own_first(self, opened):
        found = opened({"depth": {"kind": "light"}}).compared_depths()
        assert [each.source for each in found] == ["light", "swell", "learned"]
        assert np.nanmax(np.abs(found[0].nearer)) == 0 and np.nanmax(np.abs(found[1].nearer)) > 0.05
        assert found[2].unsure is not None and found[1].unsure is None

    def test_where_the_learned_one_is_unsure_is_told_in_mm_of_the_relief(self, opened):
        unsure = opened({"relief_mm": 3.0}).unsure()
        assert unsure is not None
        assert 0 < np.nanmean(unsure) < 2
        assert np.isnan(unsure[2, 2]) and np.isfinite(unsure[-20, unsure.shape[1] // 2])
        assert opened({"depth": {"kind": "swell"}}).unsure() is None
        assert opened({"of": "tones"}).unsure() is None

    def test_a_service_gets_picture_and_cut_out_and_its_answer_spans_so_many_mm(self, opened):
        piece = opened()
        picture, mask = (np.asarray(Image.open(io.BytesIO(data))) for data in piece.sent())
        assert picture.shape[:2] == mask.shape == (HEIGHT_PX // 4, WIDTH_PX // 4)
        depths, span = piece.received(png(np.linspace(0, 1, 50)[np.newaxis] * np.ones((40, 1))), 0.25)
        assert span == pytest.approx(15, rel=0.02)
        assert read_picture(depths).facts.bit_depth == 16
