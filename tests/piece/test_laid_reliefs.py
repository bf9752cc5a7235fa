"""Reliefs laid on a panel: of pictures and of other pieces, what is guessed of them, what is worked out again."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadPictureError
from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.abilities import LaysReliefs, TakesPieces, has
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.panel import laying, staged
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.recipe import follow, recipe_of
from nebrel.piece.registry import merge, parse_document
from tests.piece.conftest import evaluate_over

GROUND, INK, STAMP, PHOTO, CLEAR = (digit * 64 for digit in "12345")


def png(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(samples * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


Y, X = np.mgrid[-1:1:161j, -1:1:161j]
DISC = np.hypot(X, Y) < 0.7
RAMP = np.clip((X + 1) / 2, 0, 1)
FILES = {
    GROUND: png(np.full((121, 161), 0.5)),
    # Dark on white; bright on black; up to its frame; one tone, see-through around.
    INK: png(np.where(DISC, 0.1 + 0.2 * RAMP, 1.0)),
    STAMP: png(np.where(DISC, 0.6 + 0.4 * RAMP, 0.0)),
    PHOTO: png(0.2 + 0.6 * RAMP),
    CLEAR: png(np.dstack([np.ones_like(X)] * 3 + [DISC.astype(float)])),
}


@pytest.fixture
def panel():
    evaluate = evaluate_over(FILES.__getitem__, ResultCache(10**8))

    def make(*laid: dict, blob: str = GROUND, width: float = 80, **parts: object):
        source = picture_source(blob, "p.png", read_picture(FILES[blob]).facts)
        told = {"title": "Panel", "picture": source.model_dump(), "body": {"width_mm": width, "backing_mm": 2.0}}
        change = {"height": {"laid": [relief(**each) for each in laid], "rule": {"relief_mm": 4}}}
        return evaluate(merge(merge(parse_document(told), change), parts))

    return make


def relief(blob: str = STAMP, **told: object) -> dict:
    source = {"kind": "picture", "blob": blob, "name": "stamp.png"}
    return {"id": "a", "name": "Stamp", "source": source, "width_mm": 40, **told}


def at(field, x: float, y: float) -> float:
    """Of a place in shares of the panel."""
    rows, columns = field.heights.shape
    return float(field.heights[round((1 - y) * (rows - 1)), round(x * (columns - 1))])


class TestOfPictures:
    def test_lies_where_it_is_told_by_its_own_rule_on_the_panels_own(self, panel):
        rule = {"relief_mm": 2.0}
        field = panel({"x_share": 0.25, "y_share": 0.5, "rule": rule, "blend": "add"}).field()
        assert at(field, 0.9, 0.5) == pytest.approx(2.0, abs=0.02)
        # In the middle of the stamp its tone is 0.8.
        assert at(field, 0.25, 0.5) == pytest.approx(2.0 + 1.6, abs=0.03)
        made, report = panel({"rule": {"relief_mm": 3.0}}).build()
        assert report.sound and report.max_error_mm <= 0.02
        assert made.mesh.vertices[:, 2].max() == pytest.approx(2 + 3.0 * (0.6 + 0.4 * 0.85), abs=0.1)

    @pytest.mark.parametrize(
        ("blob", "left_out", "tall", "around"),
        [(INK, "background", "dark", 2.0), (STAMP, "background", "bright", 2.0), (PHOTO, "nothing", "bright", None),
         (CLEAR, "background", "bright", 2.0)],
    )  # fmt: skip
    def test_what_is_left_out_and_which_tones_stand_tall_is_guessed(self, panel, blob, left_out, tall, around):
        piece = panel()
        source = {"blob": blob, "name": "files/crest.old.png", "motif": None}
        document = merge(piece.document, piece.with_relief(source))
        (laid,) = document.height.laid
        added = merge(document, {"height": {"laid": [{**laid.model_dump(mode="json"), "blend": "add"}]}})
        assert (laid.left_out, laid.rule.tall, laid.name) == (left_out, tall, "crest.old")
        assert laid.width_mm == pytest.approx(0.4 * 60, rel=0.02) and laid.rule.relief_mm == pytest.approx(2.4)
        field = piece.with_document(added).field()
        corner = at(field, 0.5 - 0.9 * 12 / 80, 0.5 + 0.9 * 12 / 60)
        if around is None:
            assert corner != pytest.approx(2.0, abs=0.05)
        else:
            assert corner == pytest.approx(around, abs=0.02)

    def test_one_tone_is_a_plate_of_its_relief_height(self, panel):
        field = panel({"blob": CLEAR, "rule": {"relief_mm": 3.0}}).field()
        assert at(field, 0.5, 0.5) == pytest.approx(3.0)

    @pytest.mark.parametrize("tone", ["dark", "bright"])
    def test_tones_can_be_left_out(self, panel, tone):
        told = {"blob": PHOTO, "left_out": tone, "left_out_tone": 0.5, "rule": {"relief_mm": 8.0}}
        field = panel(told).field()
        left, right = at(field, 0.35, 0.5), at(field, 0.65, 0.5)
        assert (left == pytest.approx(2.0, abs=0.02)) == (tone == "dark")
        assert (right == pytest.approx(2.0, abs=0.02)) == (tone == "bright")

    def test_nothing_left_is_refused_in_words(self, panel):
        with pytest.raises(BadPictureError, match="Nothing of the picture is brighter than 99%"):
            panel({"blob": PHOTO, "left_out": "dark", "left_out_tone": 0.99}).field()

    def test_later_ones_lie_on_earlier_ones(self, panel):
        plate = {"blob": CLEAR, "rule": {"relief_mm": 3.0}}
        both = panel({**plate, "id": "a"}, {**plate, "id": "b", "width_mm": 20, "blend": "add"}).field()
        assert at(both, 0.5, 0.5) == pytest.approx(6.0) and at(both, 0.65, 0.5) == pytest.approx(3.0)
        off = panel({**plate, "id": "a", "on": False}, {**plate, "id": "b", "width_mm": 20, "blend": "add"}).field()
        assert at(off, 0.5, 0.5) == pytest.approx(5.0, abs=0.02)


class TestFindings:
    def measures(self, piece) -> set[str]:
        return {each.measure for each in piece.findings()}

    def test_beside_the_piece_too_deep_and_finer_than_it_are_told(self, panel):
        assert not {"laid_outside", "laid_too_deep", "laid_finer"} & self.measures(panel({"width_mm": 58}))
        assert "laid_outside" in self.measures(panel({"x_share": 0.0}))
        deep = panel({"blend": "cut", "rule": {"relief_mm": 30.0}})
        assert "laid_too_deep" in self.measures(deep)
        # Of a backing of 2 mm, 0.4 mm stay.
        assert deep.field().heights.min() == pytest.approx(-1.6)
        _, report = deep.build()
        assert report.sound and "laid_too_deep" in {each.measure for each in report.findings}
        fine = next(each for each in panel({"width_mm": 8}).findings() if each.measure == "laid_finer")
        assert fine.fix is not None and fine.fix.kind == "resample"
        finer = panel({"width_mm": 8}, ops=[{"kind": "resample", "id": "more", **fine.fix.parameters}])
        assert finer.field().pitch < 0.3


class TestOfPieces:
    def test_a_piece_is_laid_as_wide_and_as_tall_as_it_is(self, panel):
        other, piece = panel(blob=STAMP, width=30), panel()
        assert has(piece, TakesPieces) and has(piece, LaysReliefs)
        taken = merge(piece.document, piece.with_piece("abc", other.document.model_dump(mode="json")))
        (laid,) = taken.height.laid
        own = other.field().heights
        assert laid.width_mm == pytest.approx(30) and laid.rule.relief_mm == pytest.approx(np.ptp(own), abs=0.01)
        assert laid.source.piece_id == "abc" and laid.source.follow
        field = piece.with_document(taken.model_copy(update={"title": "With it"})).field()
        assert at(field, 0.5 + 5 / 80, 0.5) == pytest.approx(max(2.0, at(other.field(), 0.5 + 5 / 30, 0.5)), abs=0.05)

    def test_one_that_is_larger_is_laid_smaller_in_proportion(self, panel):
        other, piece = panel(blob=STAMP, width=240), panel()
        (laid,) = merge(piece.document, piece.with_piece("x", other.document.model_dump(mode="json"))).height.laid
        assert laid.width_mm == pytest.approx(0.8 * 60)
        assert laid.rule.relief_mm == pytest.approx(np.ptp(other.field().heights) / 5, abs=0.01)

    def test_what_follows_another_document_shows_that(self, panel):
        low, high = panel(blob=STAMP), panel(blob=STAMP, height={"rule": {"relief_mm": 8}})
        shown = []
        for other in (low, high):
            source = {"kind": "piece", "piece_id": "x", "document": other.document.model_dump(mode="json")}
            piece = panel({"source": source, "rule": {"relief_mm": 4, "kind": "edge", "edge": "pillow"}})
            shown.append(piece.field().heights)
        # Its own heights are what its rule is for, so that only its shape counts.
        assert np.allclose(shown[0], shown[1], atol=1e-3)


class TestAgain:
    def test_moving_one_reads_and_raises_nothing_anew(self, panel, monkeypatch):
        begun = []
        for module, name in ((laying, "laid_picture"), (staged, "raise_heights"), (staged, "laid_field")):
            real = getattr(module, name)
            spy = lambda *given, real=real, name=name, **more: begun.append(name) or real(*given, **more)  # noqa: E731
            monkeypatch.setattr(staged, name, spy)
        piece = panel({"x_share": 0.4})
        piece.field(160)
        assert sorted(begun) == ["laid_field", "laid_picture", "raise_heights"]
        begun.clear()
        moved = merge(piece.document, {"height": {"laid": [relief(x_share=0.6, blend="merge", turn_deg=20)]}})
        before, after = piece.field(160), piece.with_document(moved).field(160)
        assert begun == [] and not np.array_equal(before.heights, after.heights)

    def test_they_stay_with_their_piece_and_go_into_no_recipe(self, panel):
        document = panel({}).document
        recipe = recipe_of(document, "Plain")
        assert "laid" not in recipe.parts["height"]
        assert follow(document, recipe).height.laid == document.height.laid
