"""`--recipe` on every `nebrel make`: settings of a piece from a file, with what options say beside them."""

import json

import numpy as np
import pytest
from PIL import Image

from nebrel.piece.recipes.ready import ready_recipe
from nebrel.piece.recipes.recipe import recipe_of
from nebrel.piece.registry import parse_document


@pytest.fixture
def picture(tmp_path):
    """A bright disc with a slope, on black."""
    y, x = np.mgrid[0:160, 0:200] / 160
    tones = np.where(np.hypot(x - 0.62, y - 0.5) < 0.36, 0.55 + 0.4 * x / 1.25, 0.0)
    path = tmp_path / "disc.png"
    Image.fromarray((tones * 255).astype(np.uint8)).save(path)
    return path


@pytest.fixture
def recipe(tmp_path):
    """Write a ready recipe as a file."""

    def write(name: str, **parts: object):
        made = ready_recipe(name)
        path = tmp_path / f"{name}.json"
        path.write_text(json.dumps(made.model_copy(update={"parts": {**made.parts, **parts}}).model_dump()))
        return path

    return write


def report(nebrel, *words) -> dict:
    code, told, err = nebrel(*words, "--json")
    assert code == 0, err
    return json.loads(told)


def test_a_relief_by_a_recipe_is_as_the_recipe_says(nebrel, tmp_path, picture, recipe):
    coin = report(nebrel, "make", "relief", picture, "-o", tmp_path / "coin.stl", "--recipe", recipe("Coin"))
    assert coin["size_mm"][:2] == pytest.approx([40, 32], abs=0.1)
    assert coin["size_mm"][2] == pytest.approx(1.6 + 1.1, abs=0.02)
    assert coin["tolerance_mm"] == pytest.approx(0.01)


def test_options_beside_a_recipe_change_it(nebrel, tmp_path, picture, recipe):
    coin = report(
        nebrel, "make", "relief", picture, "-o", tmp_path / "coin.stl", "--recipe", recipe("Coin"), "--width", 55,
        "--backing", 3,
    )  # fmt: skip
    assert coin["size_mm"][0] == pytest.approx(55, abs=0.1)
    assert coin["size_mm"][2] == pytest.approx(3 + 1.1, abs=0.02)


@pytest.mark.parametrize(
    ("command", "name", "tall"),
    [("cutter", "Cutter of four lines", 16.0), ("stamp", "Stamp", None)],
)
def test_outlines_by_a_recipe(nebrel, tmp_path, picture, recipe, command, name, tall):
    made = report(nebrel, "make", command, picture, "-o", tmp_path / "made.stl", "--recipe", recipe(name))
    assert made["closed"]
    if tall is not None:
        assert made["size_mm"][2] == pytest.approx(tall)
    wider = report(
        nebrel, "make", command, picture, "-o", tmp_path / "made.stl", "--recipe", recipe(name), "--width", 90
    )
    assert wider["size_mm"][0] > made["size_mm"][0] + 20


def test_a_lithophane_and_a_figure_by_recipes(nebrel, tmp_path, picture, recipe):
    lamp = report(
        nebrel, "make", "lithophane", picture, "-o", tmp_path / "lamp.stl", "--recipe", recipe("Night-light"),
        "--tolerance", "0.1",
    )  # fmt: skip
    assert lamp["closed"]
    data = {
        "blob": "0" * 64,
        "name": "a.png",
        "format": "png",
        "width_px": 20,
        "height_px": 20,
        "bit_depth": 8,
        "channels": "gray",
    }
    figure = parse_document(
        {"title": "a", "picture": data, "figure": {"cells": 64, "thinnest_mm": 2.0}, "ops": [{"kind": "cut-out"}]}
    )
    path = tmp_path / "figure.json"
    path.write_text(recipe_of(figure, "Small figure").model_dump_json())
    made = report(nebrel, "make", "figure", picture, "-o", tmp_path / "made.3mf", "--recipe", path, "--width", 40)
    assert made["closed"]
    assert made["size_mm"][0] == pytest.approx(40, abs=1.5)
    assert (tmp_path / "made.3mf").read_bytes().startswith(b"PK")


def test_what_makes_something_else_names_the_command_that_would_take_it(nebrel, tmp_path, picture, recipe):
    code, _, err = nebrel("make", "relief", picture, "-o", tmp_path / "a.stl", "--recipe", recipe("Night-light"))
    assert code == 2
    assert "`nebrel make lithophane` would take it" in err
    assert not (tmp_path / "a.stl").exists()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("not json", "is no recipe"),
        ("[]", "This is no recipe"),
        ('{"recipe": 1, "name": "x", "kind": "panel"}', "Settings is missing"),
    ],
)
def test_a_file_that_is_no_recipe_is_refused_in_a_sentence(nebrel, tmp_path, picture, text, words):
    path = tmp_path / "mine.json"
    path.write_text(text)
    code, _, err = nebrel("make", "relief", picture, "-o", tmp_path / "a.stl", "--recipe", path)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1


def test_a_recipe_that_is_not_there_is_refused(nebrel, tmp_path, picture):
    code, _, err = nebrel("make", "stamp", picture, "-o", tmp_path / "a.stl", "--recipe", tmp_path / "gone.json")
    assert code == 2
    assert "gone.json" in err
