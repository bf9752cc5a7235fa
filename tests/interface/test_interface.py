"""Nebrel for programs: what its examples say, where its pictures come from, and what it refuses."""

import doctest
import importlib
import json

import numpy as np
import pytest

import nebrel
from nebrel.core.errors import UnitNeededError
from nebrel.interface import files, meshes, pieces
from nebrel.interface.pieces import begin
from nebrel.piece.recipes.recipe import recipe_of

DOME = np.clip(1 - np.hypot(*np.mgrid[-1:1:48j, -1:1:48j]), 0, 1)


@pytest.mark.parametrize("name", ["nebrel", files.__name__, pieces.__name__, meshes.__name__])
def test_examples_do_what_they_say(name):
    found = doctest.testmod(importlib.import_module(name))
    assert found.attempted >= 3
    assert not found.failed


def test_everything_that_it_names_is_there_and_tells_what_it_does():
    assert set(nebrel.__all__) >= {
        "read_picture", "relief", "lithophane", "trace", "cutter", "decorate", "simplify", "check", "write",
    }  # fmt: skip
    assert all((getattr(nebrel, name).__doc__ or "").strip() for name in nebrel.__all__)
    assert set(nebrel.__all__) <= set(dir(nebrel))
    with pytest.raises(AttributeError, match="nebrel has no emboss; NebrelError, check"):
        nebrel.emboss  # noqa: B018


def test_pictures_come_as_files_as_bytes_and_as_tones(tmp_path):
    path = tmp_path / "dome.png"
    path.write_bytes(nebrel.read_picture(DOME).data)
    sizes = [nebrel.relief(each, width_mm=30).build().report for each in (DOME, path, str(path), path.read_bytes())]
    assert {report.size_mm for report in sizes} == {sizes[0].size_mm}
    assert {report.triangles for report in sizes} == {sizes[0].triangles}
    assert begin(nebrel.read_picture(path)).document.title == "dome"


class TestRecipes:
    def test_are_files_plain_data_and_names_of_those_that_ship(self, tmp_path):
        made = nebrel.relief(DOME, width_mm=33, backing_mm=2.5)
        path = tmp_path / "thick.json"
        path.write_text(recipe_of(made.document, "Thick").model_dump_json())
        for recipe in (path, str(path), json.loads(path.read_text()), recipe_of(made.document, "Thick")):
            body = nebrel.relief(DOME, recipe=recipe).document.body
            assert (body.width_mm, body.backing_mm) == (33, 2.5)
        assert nebrel.relief(DOME, recipe="Coin").document.body.shape == "ellipse"

    def test_what_is_given_besides_changes_them(self):
        coin = nebrel.relief(DOME, recipe="Coin", width_mm=25, parts={"body": {"edge": {"bevel_mm": 0.2}}})
        assert (coin.document.body.width_mm, coin.document.body.edge.bevel_mm) == (25, 0.2)
        assert coin.document.body.shape == "ellipse"

    def test_of_something_else_are_refused(self):
        with pytest.raises(nebrel.NebrelError, match="“Night-light” makes a lithophane, and a panel is asked for"):
            nebrel.relief(DOME, recipe="Night-light")

    @pytest.mark.parametrize("text", ["{", "[]", '{"recipe": 9, "name": "x", "kind": "panel", "parts": {}}'])
    def test_that_are_none_are_refused(self, tmp_path, text):
        path = tmp_path / "odd.json"
        path.write_text(text)
        with pytest.raises(nebrel.NebrelError):
            nebrel.relief(DOME, recipe=path)


class TestDrawings:
    @pytest.fixture
    def drawing(self, tmp_path):
        path = tmp_path / "leaf.svg"
        path.write_text('<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="20mm" viewBox="0 0 40 20">'
                        '<ellipse cx="20" cy="10" rx="18" ry="8"/></svg>')  # fmt: skip
        return path

    def test_become_cutters_and_outlines(self, drawing, tmp_path):
        assert nebrel.cutter(drawing, height_mm=12).build().report.sound
        traced = nebrel.trace(drawing)
        written = nebrel.write(traced, tmp_path / "leaf.dxf")
        assert nebrel.trace(nebrel.read_drawing(written)).figure.curves

    def test_are_laid_on_models(self, drawing):
        plate = nebrel.relief(DOME, width_mm=60, relief_mm=0.5, backing_mm=4).build().mesh
        made = nebrel.decorate(plate, drawing, at=(30, 5, 4), up=(0, 1, 0), width_mm=10, depth_mm=0.5, effect="sink")
        assert made.report.sound
        assert made.made.removed_mm3 == pytest.approx(np.pi * 5 * 2.22 * 0.5, rel=0.05)


@pytest.mark.parametrize(
    ("work", "sentence"),
    [
        (lambda: nebrel.read_picture(np.zeros((0, 4))), r"shape \(0, 4\)"),
        (lambda: nebrel.read_picture(np.full((4, 4), np.nan)), "no numbers"),
        (lambda: nebrel.read_picture("nowhere.png"), "There is no file nowhere.png"),
        (lambda: nebrel.read_picture(b"not one"), "picture"),
        (lambda: nebrel.relief(DOME, width_mm=-3), "Width"),
        (lambda: nebrel.relief(DOME, parts={"bodi": {}}), "bodi"),
        (lambda: nebrel.lithophane(DOME, form="cube"), "Form is “cube”"),
        (lambda: nebrel.simplify(nebrel.relief(DOME).build().mesh), "One of triangles"),
        (lambda: nebrel.write(nebrel.trace(DOME), "dome.stl"), "dome.stl does not end in .svg or .dxf"),
        (lambda: nebrel.write(nebrel.relief(DOME).build(), "/nowhere/dome.stl"), "There is no folder"),
    ],
)  # fmt: skip
def test_what_is_refused_is_said_in_one_sentence(work, sentence):
    with pytest.raises(nebrel.NebrelError, match=sentence) as refused:
        work()
    assert str(refused.value).count("\n") == 0


def test_a_mesh_without_a_unit_is_asked_about(tmp_path):
    path = nebrel.write(nebrel.relief(DOME, width_mm=30).build(), tmp_path / "dome.stl")
    assert nebrel.check(nebrel.read_mesh(path)).sound
    lighter = nebrel.simplify(nebrel.read_mesh(path, "m"), triangles=500)
    huge = nebrel.write(lighter, tmp_path / "huge.stl")
    with pytest.raises(UnitNeededError, match="please say whether its numbers are mm"):
        nebrel.read_mesh(huge)
