"""Strokes over the heights of a panel: where they stay, what is worked out again, what a build makes of them."""

import io
from collections.abc import Callable

import numpy as np
import pytest
from PIL import Image

from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.panel import staged as stages
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.recipe import follow, recipe_of
from nebrel.piece.registry import merge, parse_document
from tests.piece.conftest import evaluate_over

FLAT, WIDE = "1" * 64, "2" * 64


def png(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(samples * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


# Even but for a rim, so that whatever stands in it is the hand's.
EVEN = np.full((201, 301), 0.5)
EVEN[:4], EVEN[-4:] = 0.0, 1.0
FILES = {FLAT: png(EVEN), WIDE: png(np.full((120, 200), 0.5) + np.linspace(-0.1, 0.1, 200))}
GROOVE = {"id": "a", "tool": "carve", "places": [[0.2, 0.5, 1], [0.5, 0.5, 1]], "size_mm": 4, "amount_mm": 0.8}
BOSS = {"id": "b", "tool": "raise", "places": [[0.75, 0.4, 1]], "size_mm": 8, "amount_mm": 0.5, "hardness": 0.5}


@pytest.fixture
def opened() -> Callable:
    evaluate = evaluate_over(FILES.__getitem__, ResultCache(10**8))

    def open_panel(*strokes: dict, blob: str = FLAT, **parts: object):
        source = picture_source(blob, "p.png", read_picture(FILES[blob]).facts)
        plain = parse_document({"title": "Panel", "picture": source.model_dump(), "body": {"width_mm": 60}})
        change = {"height": {"hand": {"strokes": list(strokes)}, "rule": {"relief_mm": 4}}}
        return evaluate(merge(merge(plain, change), parts))

    return open_panel


def by(piece, plain, x: float, y: float, longest_px: int | None = None) -> float:
    """What strokes changed at a place in shares of the panel, mm."""
    fields = [each.field() if longest_px is None else each.field(longest_px) for each in (piece, plain)]
    heights = [
        field.heights[round((1 - y) * (len(field.heights) - 1)), round(x * (field.heights.shape[1] - 1))]
        for field in fields
    ]
    return float(heights[0] - heights[1])


class TestWhere:
    def test_strokes_change_what_is_under_them_and_nothing_else(self, opened):
        made, plain = opened(GROOVE, BOSS), opened()
        assert by(made, plain, 0.35, 0.5) == pytest.approx(-0.8, abs=0.03)
        assert by(made, plain, 0.75, 0.4) == pytest.approx(0.5, abs=0.01)
        assert by(made, plain, 0.35, 0.62) == 0 and by(made, plain, 0.1, 0.2) == 0

    def test_they_stay_at_their_places_in_mm_whatever_the_picture_and_its_size(self, opened):
        assert by(opened(GROOVE, blob=WIDE), opened(blob=WIDE), 0.35, 0.5) == pytest.approx(-0.8, abs=0.1)
        large = {"body": {"width_mm": 120}}
        # Of twice the size, the stroke is as long in shares, and as wide and deep in mm.
        made, plain = opened(GROOVE, **large), opened(**large)
        assert by(made, plain, 0.35, 0.5) == pytest.approx(-0.8, abs=0.03)
        assert by(made, plain, 0.35, 0.5 + 1.5 / 80) == pytest.approx(-0.2, abs=0.08)
        assert by(made, plain, 0.35, 0.5 + 2.3 / 80) == 0

    def test_a_crop_leaves_them_on_the_piece(self, opened):
        crop = {"ops": [{"kind": "crop", "id": "c", "box": {"left": 0.1, "bottom": 0, "right": 0.9, "top": 1}}]}
        assert by(opened(GROOVE, **crop), opened(**crop), 0.35, 0.5) == pytest.approx(-0.8, abs=0.03)

    @pytest.mark.parametrize(
        "mirror, places",
        [("across", {(0.25, 0.4)}), ("up", {(0.75, 0.6)}), ("both", {(0.25, 0.4), (0.75, 0.6), (0.25, 0.6)})],
    )
    def test_mirrored_about_the_middle(self, opened, mirror, places):
        made, plain = opened({**BOSS, "mirror": mirror}), opened()
        everywhere = {(0.75, 0.4), (0.25, 0.4), (0.75, 0.6), (0.25, 0.6)}
        raised = {place for place in everywhere if by(made, plain, *place) > 0.4}
        assert raised == {(0.75, 0.4), *places}

    def test_one_that_is_switched_off_changes_nothing(self, opened):
        assert np.array_equal(opened({**BOSS, "on": False}).field().heights, opened().field().heights)

    def test_a_preview_shows_the_same(self, opened):
        assert by(opened(GROOVE, BOSS), opened(), 0.75, 0.4, 150) == pytest.approx(0.5, abs=0.02)


class TestKept:
    def test_a_further_stroke_works_out_nothing_but_itself(self, opened, monkeypatch):
        raised, worked = [], []
        real_raise, real_work = stages.raise_heights, stages.worked
        monkeypatch.setattr(stages, "raise_heights", lambda *given: raised.append(1) or real_raise(*given))
        monkeypatch.setattr(stages, "worked", lambda field, made: worked.append(len(made)) or real_work(field, made))
        strokes = [{**BOSS, "id": f"s{n}", "places": [[0.1 + 0.1 * n, 0.4, 1]]} for n in range(5)]
        opened(*strokes[:4]).field(150)
        raised.clear(), worked.clear()
        opened(*strokes).field(150)
        assert not raised
        # Those before the last together, once; then the last by itself.
        assert worked == [4, 1]
        worked.clear()
        opened(*strokes[:4], {**strokes[4], "amount_mm": 0.9}).field(150)
        assert worked == [1]

    def test_a_recipe_leaves_them_to_its_piece(self, opened):
        own = opened(GROOVE, BOSS).document
        assert "strokes" not in recipe_of(own, "Own").parts["height"]["hand"]
        laid = follow(own, recipe_of(opened().document, "Other"))
        assert laid.height.hand.strokes == own.height.hand.strokes


class TestBuilt:
    @pytest.mark.parametrize(
        "parts",
        [
            {},
            {"height": {"rule": {"kind": "steps", "steps": [{"tone": 0, "mm": 0}, {"tone": 1, "mm": 3}]}}},
            {"height": {"draft": {"on": True, "wall_deg": 20}}},
            {"height": {"form": {"of": "depth"}}},
            {"body": {"back": "follow"}},
        ],
    )
    def test_panels_of_every_sort_are_sound_and_true_to_their_strokes(self, opened, parts):
        pull = {"id": "p", "tool": "pull", "places": [[0.4, 0.5, 1], [0.5, 0.6, 1]], "size_mm": 10}
        flat = {"id": "f", "tool": "flatten", "places": [[0.8, 0.9, 1], [0.8, 1.0, 1]], "size_mm": 9, "strength": 1}
        slab, report = opened(GROOVE, BOSS, pull, flat, blob=WIDE, **parts).build()
        assert report.sound and report.max_error_mm <= report.tolerance_mm
        assert slab.mesh.vertices[:, 2].min() == 0


class TestOnLithophanes:
    """Strokes over the unrolled sheet shape how thick it is, between its thinnest and its thickest."""

    def sheets(self, form: dict, *strokes: dict, border: bool = False):
        evaluate = evaluate_over(FILES.__getitem__, ResultCache(10**8))
        source = picture_source(FLAT, "p.png", read_picture(FILES[FLAT]).facts).model_dump()
        told = {"title": "Window", "picture": source, "glow": {"thinnest_mm": 0.8, "thickest_mm": 4.0}, "form": form}
        parts = {"rim": {"on": border, "width_mm": 6, "thickness_mm": 3}}
        plain = parse_document({**told, "parts": parts})
        made = merge(plain, {"hand": {"strokes": list(strokes)}})
        return [evaluate(each).wanted(0) for each in (plain, made)]

    def changed(self, sheets) -> np.ndarray:
        plain, made = (each.sheet for each in sheets)
        return np.argwhere(np.abs(plain.thickness - made.thickness) > 1e-4)

    @pytest.mark.parametrize("border", [False, True])
    def test_lie_where_they_are_drawn_over_the_whole_sheet(self, border):
        boss = {**BOSS, "places": [[0.3, 0.6, 1]], "amount_mm": 0.4}
        sheets = self.sheets({"kind": "flat", "width_mm": 90}, boss, border=border)
        plain, made = (each.sheet for each in sheets)
        rows, columns = self.changed(sheets).T
        width, height = sheets[0].form.width, sheets[0].form.height
        assert made.u[columns].mean() == pytest.approx(0.3 * width, abs=0.3)
        assert made.v[rows].mean() == pytest.approx(0.6 * height, abs=0.3)
        assert np.ptp(made.u[columns]) == pytest.approx(8, abs=1)
        assert (made.thickness - plain.thickness).max() == pytest.approx(0.4, abs=0.01)

    def test_stay_between_the_thinnest_and_the_thickest(self):
        deep = {**GROOVE, "amount_mm": 50}
        (_, made) = self.sheets({"kind": "flat", "width_mm": 90}, deep, {**BOSS, "amount_mm": 50})
        assert made.sheet.thickness.min() == pytest.approx(0.8) and made.sheet.thickness.max() == pytest.approx(4.0)

    def test_come_round_where_the_form_does(self):
        seam = {**BOSS, "places": [[0.995, 0.5, 1]], "amount_mm": 0.4, "size_mm": 12}
        sheets = self.sheets({"kind": "cylinder", "width_mm": 120}, seam)
        columns = self.changed(sheets)[:, 1]
        u = sheets[0].sheet.u[columns]
        assert (u < 10).any() and (u > 110).any()
        made = sheets[1].sheet
        middle = made.thickness[len(made.v) // 2]
        assert middle[0] == middle[-1] and abs(middle[1] - middle[-2]) < 0.1
