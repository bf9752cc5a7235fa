"""What a recipe keeps of each kind of piece; what a piece could be, and of what sort its picture is."""

import numpy as np
import pytest

from nebrel.core.errors import BadValueError, NotFoundError
from nebrel.core.picture import Picture
from nebrel.core.picture.picture import SourceFacts
from nebrel.piece.choices.choice import choice_named, choice_of, choices_for, chosen
from nebrel.piece.choices.tile import character_in, character_of, tile_of
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.ready import READY_RECIPES, ready_recipe
from nebrel.piece.recipes.recipe import STAND_INS, follow, is_for, parse_recipe, recipe_of
from nebrel.piece.recipes.sample import leaf, shown_on_sample
from nebrel.piece.registry import parse_document, shape_of

BLOB = "7" * 64
STROKE = {"places": [[0.2, 0.3, 1.0], [0.4, 0.5, 1.0]], "size_mm": 3}


def panel(**parts: object):
    return parse_document({"title": "Own", "picture": STAND_INS["picture"], **parts})


def drawn(**parts: object):
    return parse_document({"title": "Own", "drawing": STAND_INS["drawing"], **parts})


def model(**parts: object):
    return parse_document({"title": "Own", "model": STAND_INS["model"], **parts})


def held(tones: np.ndarray, coverage: np.ndarray | None = None, bits: int = 8, rgb=None) -> Picture:
    rows, columns = tones.shape
    there = np.ones(tones.shape, np.float32) if coverage is None else coverage.astype(np.float32)
    return Picture(tones.astype(np.float32), there, SourceFacts("png", columns, rows, bits, "gray"), rgb)


Y, X = np.mgrid[0:180, 0:240] / 180
SLOPES = np.clip(0.5 + 0.3 * np.sin(2 * X + Y) + 0.1 * np.cos(4 * Y), 0, 1)
HAIR = np.exp(-((((X * 15 + np.sin(4 * Y)) % 1) - 0.5) ** 2) / 0.006)
SILHOUETTE = (np.hypot(X - 0.66, Y - 0.5) < 0.35).astype(float)


class TestKept:
    def test_neither_source_nor_title_nor_what_was_done_at_places(self):
        ops = [
            {"kind": "crop", "id": "a", "box": {"left": 0.1, "bottom": 0, "right": 1, "top": 1}},
            {"kind": "paint", "id": "b", "strokes": [STROKE]},
            {"kind": "cut-out", "id": "c", "by": "marks", "strokes": [STROKE]},
            {"kind": "cut-out", "id": "d", "by": "auto"},
            {"kind": "picture", "id": "e", "file": {"blob": BLOB, "name": "x.png"}},
            {"kind": "lettering", "id": "f", "text": "Fern"},
            {"kind": "invert", "id": "g"},
        ]
        kept = recipe_of(panel(ops=ops), "All")
        assert "picture" not in kept.parts
        assert "title" not in kept.parts
        assert [op["id"] for op in kept.parts["ops"]] == ["d", "f", "g"]
        assert BLOB not in kept.model_dump_json()

    def test_a_mask_stays_with_its_piece(self):
        masked = {"mask": {"blob": BLOB, "name": "mask.png"}, "rule": {"relief_mm": 7}}
        kept = recipe_of(panel(height=masked), "Deep")
        assert "mask" not in kept.parts["height"]
        own = panel(height={"mask": {"blob": "8" * 64, "name": "own.png"}})
        followed = follow(own, kept)
        assert followed.height.rule.relief_mm == 7
        assert followed.height.mask.blob == "8" * 64

    def test_strokes_of_a_figure_stay_and_its_settings_come(self):
        figure = {"figure": {"thinnest_mm": 3, "strokes": [{"kind": "nearer", "amount_mm": 5, **STROKE}]}}
        kept = recipe_of(panel(**figure), "Thick")
        assert "strokes" not in kept.parts["figure"]
        own = panel(figure={"strokes": [{"kind": "ridge", "amount_mm": 2, **STROKE}]})
        followed = follow(own, kept)
        assert followed.figure.thinnest_mm == 3
        assert [stroke.kind for stroke in followed.figure.strokes] == ["ridge"]

    def test_mending_that_names_no_places_is_general(self):
        steps = [{"kind": "offset", "id": "a"}, {"kind": "delete", "id": "b", "chosen": [[0.1, 0.2]]}]
        kept = recipe_of(drawn(mend=steps), "Grown")
        assert [step["id"] for step in kept.parts["mend"]] == ["a"]

    def test_steps_and_lightness_of_a_model_are_kept_but_no_decorations(self):
        decoration = {"art": {"kind": "outline", "blob": BLOB, "name": "mark"}, "at": [1, 2, 3]}
        kept = recipe_of(
            model(steps=[{"kind": "turn", "id": "t"}], decorations=[decoration], light={"on": True}), "Stood up"
        )
        assert "decorations" not in kept.parts
        followed = follow(model(decorations=[decoration]), kept)
        assert [step.kind for step in followed.steps] == ["turn"]
        assert len(followed.decorations) == 1
        assert followed.light.on

    @pytest.mark.parametrize("recipe", READY_RECIPES, ids=lambda recipe: recipe.name)
    def test_every_ready_one_comes_through_a_file_as_it_was(self, recipe):
        assert parse_recipe(recipe.model_dump(mode="json")) == recipe
        assert recipe.makes


class TestFollowed:
    def test_ids_of_steps_are_told_apart(self):
        own = panel(ops=[{"kind": "crop", "id": "levels", "box": {"left": 0.2, "bottom": 0, "right": 1, "top": 1}}])
        followed = follow(own, ready_recipe("Coin"))
        ids = [op.id for op in followed.ops]
        assert len(set(ids)) == len(ids) == 3

    def test_outlines_of_a_drawing_follow_what_pictures_were_made_into(self):
        followed = follow(drawn(), ready_recipe("Cutter of four lines"))
        assert shape_of(followed) == "cutter"
        assert followed.solid.lines == 4
        assert followed.width_mm == 70

    def test_twice_is_as_once(self):
        once = follow(panel(), ready_recipe("Trail plate"))
        assert follow(once, ready_recipe("Trail plate")) == once

    def test_what_needs_a_picture_says_so(self):
        assert not is_for(ready_recipe("Coin"), model())
        with pytest.raises(BadValueError, match="it needs a picture, and this piece starts from a model"):
            follow(model(), ready_recipe("Coin"))
        with pytest.raises(BadValueError, match="it needs a model"):
            follow(panel(), recipe_of(model(), "Stood up"))

    def test_an_unknown_ready_one_names_those_that_are_there(self):
        with pytest.raises(NotFoundError, match="Coin"):
            ready_recipe("Bell")

    def test_the_sample_shows_what_it_makes(self):
        sources = Sources(lambda _: b"", ResultCache(64 * 2**20))
        assert shown_on_sample(ready_recipe("Coin"), sources).startswith(b"\x89PNG")
        tones = leaf().tones
        assert 0.05 < tones.mean() < 0.6
        assert tones.max() > 0.8


class TestChoices:
    def test_what_a_picture_can_be_and_what_a_model_cannot(self):
        assert [each.name for each in choices_for(panel())][:4] == ["panel", "held-back", "by-depth", "lithophane"]
        assert [each.name for each in choices_for(drawn())] == ["raised", "cutter", "stamp"]
        assert choices_for(model()) == []
        with pytest.raises(NotFoundError, match="bell"):
            choice_named(panel(), "bell")

    @pytest.mark.parametrize(
        "name", ["panel", "held-back", "by-depth", "lithophane", "figure", "raised", "cutter", "stamp"]
    )
    def test_what_was_chosen_is_what_it_then_is(self, name):
        made = chosen(panel(body={"width_mm": 66}), choice_named(panel(), name))
        assert choice_of(made) == name
        assert chosen(made, choice_named(made, name)) == made
        back = chosen(made, choice_named(made, "panel"))
        assert choice_of(back) == "panel"
        assert back.picture == made.picture

    def test_a_held_back_relief_keeps_the_width_of_the_panel_it_was(self):
        own = panel(body={"width_mm": 66, "backing_mm": 3})
        held_back = chosen(own, choice_named(own, "held-back"))
        assert held_back.body == own.body

    @pytest.mark.parametrize(
        ("picture", "character"),
        [
            (held(np.clip(SLOPES - 0.5 * HAIR, 0, 1)), "photograph"),
            (held(SLOPES, bits=16), "heights"),
            (held(SILHOUETTE), "drawing"),
            (held(SLOPES, coverage=SILHOUETTE), "cut-out"),
        ],
        ids=["photograph", "heights", "drawing", "cut-out"],
    )
    def test_pictures_are_told_apart_by_what_they_are(self, picture, character):
        assert character_of(picture) == character

    def tile(self, picture: Picture, name: str):
        source = picture_source(BLOB, "a.png", picture.facts).model_dump()
        document = parse_document({"title": "A", "picture": source})
        sources = Sources(lambda _: b"", ResultCache(256 * 2**20)).with_pictures({BLOB: picture})
        assert character_in(document, sources) is not None
        return tile_of(document, choice_named(document, name), sources)

    def test_a_tile_is_of_the_picture_and_about_as_large_as_the_piece(self):
        one, other = (self.tile(held(tones, bits=16), "panel") for tones in (SLOPES, SILHOUETTE))
        assert one.picture != other.picture
        assert one.size[0] == pytest.approx(80)
        assert one.size[1] == pytest.approx(80 * 179 / 239, abs=0.5)

    def test_a_cutter_of_a_silhouette_has_its_outline(self):
        made = self.tile(held(SILHOUETTE), "cutter")
        assert made.picture
        assert made.size[2] == pytest.approx(16)

    def test_what_cannot_be_made_tells_why_in_place_of_a_picture(self):
        made = self.tile(held(np.full((60, 80), 0.5)), "cutter")
        assert made.picture == b""
        assert made.word.endswith(".")
        assert made.size == (0.0, 0.0, 0.0)

    def test_what_matters_most_is_said_with_what_to_do_about_it(self):
        made = self.tile(held(np.clip(SLOPES - 0.5 * HAIR, 0, 1)), "panel")
        assert made.word.startswith("Brightness is not height")
        assert "lithophane" in made.advice
        assert not self.tile(held(np.clip(SLOPES - 0.5 * HAIR, 0, 1)), "held-back").word.startswith("Brightness")
