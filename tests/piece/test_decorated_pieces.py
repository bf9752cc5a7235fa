"""Decorations as part of a piece: a step that is never baked in, kept by what it depends on."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadValueError
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.skinned import SKETCH_PX
from nebrel.piece.evaluation.solid import tall_enough
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import model_source
from nebrel.piece.registry import merge
from nebrel.store.motifs import MotifContent, followed
from tests.core.skins import RADIUS, block, cylinder
from tests.piece.conftest import Evaluate, evaluate_over

MODEL, MARK, RAMP = "a" * 64, "b" * 64, "c" * 64
SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="20mm" height="10mm" viewBox="0 0 20 10">
<rect width="20" height="10"/></svg>"""


def stl(mesh) -> bytes:
    held = io.BytesIO()
    write_mesh(mesh, held, "stl")
    return held.getvalue()


def ramp() -> bytes:
    held = io.BytesIO()
    Image.fromarray(np.tile(np.linspace(0, 255, 60).astype(np.uint8), (40, 1))).save(held, "PNG")
    return held.getvalue()


@pytest.fixture(scope="module")
def evaluate() -> Evaluate:
    files = {MODEL: stl(cylinder(120)), MARK: SVG, RAMP: ramp()}
    return evaluate_over(lambda blob: files[blob], ResultCache(256 * 2**20))


@pytest.fixture(scope="module")
def drum() -> ModelDocument:
    found = read_mesh(stl(cylinder(120)), "drum.stl")
    return ModelDocument(title="Drum", model=model_source(MODEL, "drum.stl", found))


def laid(document: ModelDocument, **parts: object) -> ModelDocument:
    one = {"art": {"kind": "outline", "blob": MARK}, "at": (RADIUS, 0, 30), "width_mm": 20, "lie": "wrap", **parts}
    changed = merge(document, {"decorations": [one]})
    assert isinstance(changed, ModelDocument)
    return changed


def test_the_model_stays_as_it_came(evaluate, drum):
    before = evaluate(drum).worked()[-1].mesh.vertices.copy()
    evaluate(laid(drum)).delivered()
    assert np.array_equal(evaluate(drum).worked()[-1].mesh.vertices, before)


def test_the_same_recipe_gives_the_same_bytes(drum):
    def built() -> bytes:
        files = {MODEL: stl(cylinder(120)), MARK: SVG}
        evaluate = evaluate_over(lambda blob: files[blob], ResultCache(2**28))
        document = laid(drum, copies={"kind": "scatter", "count": 5, "up_mm": 20, "seed": 3}, width_mm=6)
        return stl(evaluate(document).delivered().mesh)

    assert built() == built()


def test_names_and_switches_do_not_change_the_key_but_depths_do(evaluate, drum):
    keys = [
        evaluate(document).solid_key(FULL)
        for document in (laid(drum), laid(drum, id="other"), laid(drum, depth_mm=0.7), laid(drum, on=False), drum)
    ]
    assert keys[0] == keys[1]
    assert keys[3] == keys[4]
    assert len(set(keys)) == 3


def test_steps_come_before_decorations(evaluate, drum):
    cut = merge(laid(drum), {"steps": [{"kind": "cut", "axis": "z", "at_mm": 40, "keep": "below"}]})
    mesh = evaluate(cut).delivered().mesh
    assert np.ptp(mesh.vertices, axis=0)[2] == pytest.approx(40, abs=1e-4)
    assert volume(mesh) == pytest.approx(volume(cylinder(120)) * 2 / 3 + 200 * 0.6 * 1.01, rel=1e-4)


def test_light_comes_after_them(evaluate, drum):
    light = merge(laid(drum), {"light": {"on": True, "by": "tolerance", "tolerance_mm": 0.05}})
    slab = evaluate(light).delivered()
    assert len(slab.mesh.faces) < len(evaluate(laid(drum)).delivered().mesh.faces)
    assert slab.deviation.max <= 0.05


def test_the_sketch_is_the_same_thing_more_coarsely(evaluate, drum):
    document = laid(drum, art={"kind": "picture", "blob": RAMP, "name": "ramp.png"}, depth_mm=2)
    fine, coarse = (evaluate(document).decorated(longest) for longest in (FULL, SKETCH_PX))
    assert fine is not None
    assert coarse is not None
    assert coarse.added_mm3 == pytest.approx(fine.added_mm3, rel=0.02)


def test_the_build_reports_what_was_done(evaluate, drum):
    slab, report = evaluate(laid(drum)).build()
    assert report.closed
    assert report.tolerance_mm == pytest.approx(0.01)
    assert any(finding.measure == "joined" for finding in report.findings)
    assert volume(slab.mesh) == pytest.approx(report.volume_mm3)


def test_the_size_counts_what_is_raised(evaluate, drum):
    assert evaluate(drum).size_mm[0] == pytest.approx(60, abs=0.01)
    assert evaluate(laid(drum)).size_mm[0] == pytest.approx(60.6, abs=0.01)


def test_places_shown_are_those_of_the_model_less_its_low_corner(evaluate, drum):
    low = evaluate(laid(drum, at=(-RADIUS, 0, 30))).low_corner(SKETCH_PX)
    assert low == pytest.approx([-30.6, -30, 0], abs=0.02)


def test_strokes_need_decorations(evaluate, drum):
    stroke = {"tool": "smooth", "places": [(RADIUS, 0, 35)], "radius_mm": 3}
    plain = merge(drum, {"strokes": [stroke]})
    assert evaluate(plain).delivered().mesh.vertices.shape == cylinder(120).vertices.shape
    brushed = merge(laid(drum), {"strokes": [stroke]})
    assert len(evaluate(brushed).delivered().mesh.faces) > len(evaluate(laid(drum)).delivered().mesh.faces)


@pytest.mark.parametrize(("effect", "sign"), [("raise", 1), ("sink", -1)])
def test_effects(evaluate, drum, effect, sign):
    change = volume(evaluate(laid(drum, effect=effect)).delivered().mesh) - volume(cylinder(120))
    assert change == pytest.approx(sign * 120, rel=0.03)


def test_pictures_that_say_nothing_are_refused_before_they_are_kept(evaluate, drum):
    files = {MODEL: stl(cylinder(120)), RAMP: blank()}
    evaluate = evaluate_over(lambda blob: files[blob], ResultCache(2**28))
    with pytest.raises(BadValueError, match="nothing that would stand out"):
        evaluate(laid(drum, art={"kind": "picture", "blob": RAMP, "name": "blank.png"})).check()


def blank() -> bytes:
    held = io.BytesIO()
    Image.fromarray(np.zeros((20, 20), np.uint8)).save(held, "PNG")
    return held.getvalue()


def test_what_follows_a_motif_takes_its_drawing_or_its_picture(drum):
    document = laid(drum).model_dump(mode="json")
    (one,) = document["decorations"]
    both = [
        {**one, "art": {**one["art"], "motif": "m"}},
        {**one, "art": {**one["art"], "kind": "picture", "motif": "m"}},
        {**one, "art": {**one["art"], "motif": "other"}},
    ]
    content = MotifContent(picture_blob="1" * 64, drawing_blob="2" * 64, width_mm=9, height_mm=9)
    updated, changed = followed({**document, "decorations": both}, "m", content)
    assert changed
    assert isinstance(updated, dict)
    assert [each["art"]["blob"] for each in updated["decorations"]] == ["2" * 64, "1" * 64, MARK]


def test_what_is_tall_stands(drum):
    assert tall_enough(drum.model.size_mm)
    flat = ModelDocument(title="Tile", model=model_source(MODEL, "t.stl", read_mesh(stl(block(80, 80, 8)), "t.stl")))
    assert not tall_enough(flat.model.size_mm)


class TestStrokesOnTheModel:
    """Strokes that need no decoration."""

    @staticmethod
    def brushed(drum: ModelDocument, **parts: object) -> ModelDocument:
        stroke = {"tool": "raise", "places": [(RADIUS, 0, 35)], "radius_mm": 5, "amount_mm": 1.0, **parts}
        made = merge(drum, {"strokes": [stroke]})
        assert isinstance(made, ModelDocument)
        return made

    def test_they_are_built_where_nothing_is_laid_on(self, evaluate, drum):
        slab, report = evaluate(self.brushed(drum, within="everywhere")).build()
        assert report.sound
        assert np.ptp(slab.mesh.vertices[:, 0]) == pytest.approx(2 * RADIUS + 1, abs=0.05)

    def test_a_side_ends_at_a_sharp_edge(self, evaluate, drum):
        low = {"places": [(RADIUS, 0, 1.5)], "radius_mm": 6}
        everywhere = evaluate(self.brushed(drum, within="everywhere", **low)).made(FULL)
        on_side = evaluate(self.brushed(drum, within="face", **low)).made(FULL)
        foot = [mesh.vertices[mesh.vertices[:, 2] < 0.01] for mesh in (everywhere, on_side)]
        assert np.hypot(*foot[0][:, :2].T).max() > RADIUS + 0.2
        assert np.hypot(*foot[1][:, :2].T).max() == pytest.approx(RADIUS, abs=0.01)

    def test_a_mirrored_stroke_works_on_both_sides(self, evaluate, drum):
        once = volume(evaluate(self.brushed(drum, within="everywhere")).made(FULL)) - volume(cylinder(120))
        twice = volume(evaluate(self.brushed(drum, within="everywhere", mirror=True)).made(FULL))
        assert twice - volume(cylinder(120)) == pytest.approx(2 * once, rel=0.01)

    def test_what_is_shown_has_them_too(self, evaluate, drum):
        shown = evaluate(self.brushed(drum, within="everywhere")).shown(SKETCH_PX)
        assert np.ptp(shown.shaded.positions[:, 0]) > 60.9

    def test_a_pressure_for_every_place_or_none_is_asked_for(self, drum):
        with pytest.raises(BadValueError, match="1 places and 2 pressures"):
            self.brushed(drum, pressures=[1.0, 0.5])

    def test_a_region_that_is_encircled_keeps_the_stroke_and_its_image(self, evaluate, drum):
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        loop = [(RADIUS, float(3 * np.cos(each)), 35 + float(3 * np.sin(each))) for each in turn]
        kept = {"within": "region", "region": {"kind": "lasso", "places": loop}, "mirror": True}
        made = evaluate(self.brushed(drum, **kept)).made(FULL)
        moved = made.vertices[np.hypot(*made.vertices[:, :2].T) > RADIUS + 0.01]
        assert {-1.0, 1.0} == set(np.sign(moved[:, 0]).tolist())
        assert np.hypot(moved[:, 1], moved[:, 2] - 35).max() <= 3.01

    def test_a_stroke_in_a_region_needs_one(self, drum):
        with pytest.raises(BadValueError, match="three places or more that encircle it"):
            self.brushed(drum, within="region", region={"kind": "lasso", "places": [(RADIUS, 0, 35)]})
