"""Lithophanes with colour layers: what is seen of them in light, and how they are delivered."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.measure import volume
from nebrel.core.picture import read_picture
from nebrel.core.picture.srgb import decode_srgb
from nebrel.core.proof.lit import transmitted_light
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.lithophane.evaluator import LithophaneEvaluator
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.parts.refusals import parse_part
from tests.piece.conftest import Evaluate, evaluate_over

PX = 240
TONES = {"rust": (190, 90, 60), "leaf": (90, 150, 80), "sky": (130, 170, 220), "paper": (255, 255, 255)}


@pytest.fixture(scope="module")
def patches() -> bytes:
    """Four patches side by side, 160 × 60."""
    held = io.BytesIO()
    Image.fromarray(np.repeat(np.array([[*TONES.values()]] * 60, dtype=np.uint8), 40, axis=1)).save(held, "PNG")
    return held.getvalue()


@pytest.fixture(scope="module")
def evaluate(patches) -> Evaluate:
    return evaluate_over(lambda _: patches, ResultCache(2**28))


@pytest.fixture(scope="module")
def source(patches) -> dict:
    return picture_source("0" * 64, "patches.png", read_picture(patches, "patches.png").facts).model_dump()


def made(source: dict, **parts: object) -> LithophaneDocument:
    plain = {
        "title": "Patches", "picture": source, "glow": {"thickest_mm": 5.0}, "colours": {"on": True, "dot_mm": 0},
        "form": {"width_mm": 60}, "parts": {"rim": {"width_mm": 2, "thickness_mm": 4}}, "delivery": {"format": "3mf"},
    }  # fmt: skip
    return parse_part(LithophaneDocument, {**plain, **parts})


@pytest.fixture(scope="module")
def coloured(evaluate, source) -> LithophaneEvaluator:
    found = evaluate(made(source))
    assert isinstance(found, LithophaneEvaluator)
    return found


def shown(evaluator: LithophaneEvaluator) -> np.ndarray:
    """Linear light that the middle of every patch sends out, against the thinnest bare wall, (4, 3)."""
    view, rule = evaluator.lit(PX), evaluator.rule
    lamp = evaluator.document.lamp.model_copy(update={"colour": "#ffffff", "ambient": 0}).to_core()
    assert view.colour is not None
    plain = rule.material.__class__(rule.material.attenuation)
    light = transmitted_light(view.seen, plain, rule.thinnest, lamp, view.colour)
    rows, columns = light.shape[:2]
    return np.array([light[rows // 2, round(columns * (2 + 14 * (at + 0.5)) / 60)] for at in range(4)])


def test_every_patch_shows_its_colour(coloured):
    wanted = np.array([decode_srgb(np.array(tone, dtype=np.float32) / 255) for tone in TONES.values()])
    off = np.abs(shown(coloured) - wanted).max(axis=1)
    assert off[3] < 0.02
    # Four layers of each reach no stronger red than that.
    assert off.max() < 0.16
    gray = np.abs(wanted - wanted.mean(axis=1, keepdims=True)).max(axis=1)
    assert (off[:3] < gray[:3]).all()


def test_colours_leave_brightness_as_it_was(coloured, evaluate, source):
    gray = evaluate(made(source, colours={"on": False})).lit(PX)
    view = coloured.lit(PX)
    inside = np.isfinite(view.tones)
    # Away from the borders of patches, where walls pass from one thickness to another.
    assert np.median(np.abs(view.seen - gray.seen)[inside]) < 0.05


def test_the_wall_is_thicker_by_its_bands_and_lies_on_them(coloured, evaluate, source):
    plain = evaluate(made(source, colours={"on": False}))
    assert coloured.document.behind_mm == pytest.approx(1.2)
    assert coloured.size_mm[2] == pytest.approx(plain.size_mm[2] + 1.2, abs=0.05)
    assert "not: lay it on its back" in coloured.recipe(PX)
    assert "layers 5 to 8 from below" in coloured.recipe(PX)
    measures = {finding.measure for finding in coloured.findings(PX)}
    assert "wobble" not in measures


def test_the_build_measures_what_its_bodies_show(coloured):
    slab, report = coloured.build()
    colours = report.lit.colours
    assert [body.name for body in colours.bodies] == ["White filament", "Cyan", "Magenta", "Yellow"]
    assert all(body.sound for body in colours.bodies)
    assert abs(colours.uncovered_mm3) < 0.01
    assert sum(body.volume_mm3 for body in colours.bodies) == pytest.approx(volume(slab.mesh), abs=0.02)
    assert colours.mean_difference < 5
    mesh, objects = coloured.delivered_as(slab.mesh)
    assert [name for name, _ in objects] == [body.name for body in colours.bodies]
    assert [len(faces) for _, faces in objects] == [body.triangles for body in colours.bodies]
    assert len(np.unique(mesh.corner_colours.reshape(-1, 4), axis=0)) == 4


def test_light_that_spreads_blurs_colours_too(coloured, evaluate, source):
    spread = evaluate(made(source, glow={"thickest_mm": 5.0, "spread_mm": 2.0, "sharpen": False})).lit(PX).colour
    sharp = coloured.lit(PX).colour

    def steepest(colour: np.ndarray) -> float:
        row = colour[colour.shape[0] // 2, 20:-20]
        return float(np.abs(np.diff(row, axis=0)).max())

    assert steepest(spread) < 0.6 * steepest(sharp)


@pytest.mark.parametrize(
    ("parts", "measure", "fix"),
    [
        ({"form": {"kind": "cylinder", "width_mm": 120}}, "colours-bent", {"form": {"kind": "flat"}}),
        ({"delivery": {"format": "stl"}}, "colours-lost", {"delivery": {"format": "3mf"}}),
    ],
)
def test_what_loses_its_colours_is_told_with_a_way_out(evaluate, source, parts, measure, fix):
    evaluator = evaluate(made(source, **parts))
    found = {finding.measure: finding for finding in evaluator.findings(PX)}
    assert found[measure].fix.parameters == fix
    assert evaluator.objects() == []


def test_a_gray_picture_is_told_and_lays_nothing(source):
    held = io.BytesIO()
    Image.fromarray(np.tile(np.arange(0, 250, 2, dtype=np.uint8), (60, 1))).save(held, "PNG")
    data = held.getvalue()
    gray = picture_source("0" * 64, "gray.png", read_picture(data, "gray.png").facts).model_dump()
    evaluator = evaluate_over(lambda _: data, ResultCache(2**27))(made(gray))
    assert "colours-gray" in {finding.measure for finding in evaluator.findings(PX)}
    assert [number for number, _ in evaluator.bodies(PX)] == [-1]


def test_looking_at_it_smaller_shows_the_same_colours(coloured):
    view = coloured.target_view(120)
    rows, columns = view.colour.shape[:2]
    at = [round(columns * (2 + 14 * (patch + 0.5)) / 60) for patch in range(4)]
    near = coloured.lit(PX).colour
    big = [round(near.shape[1] * (2 + 14 * (patch + 0.5)) / 60) for patch in range(4)]
    assert view.colour[rows // 2, at] == pytest.approx(near[near.shape[0] // 2, big], abs=0.1)
