"""Moulds of pieces: what they are cast from, what is told of them, what is delivered."""

import io
from dataclasses import replace

import numpy as np
import pytest
import trimesh
from PIL import Image

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.model.evaluator import model_source
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.recipes.recipe import follow, parse_recipe, recipe_of
from nebrel.piece.registry import kind_of, merge, parse_document
from tests.piece.conftest import evaluate_over

PICTURE, BALL = "1" * 64, "2" * 64


def _picture() -> bytes:
    y, x = np.mgrid[-1:1:81j, -1:1:101j]
    file = io.BytesIO()
    Image.fromarray(np.round(255 * np.clip(1 - np.hypot(x, y), 0, 1)).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def _ball() -> bytes:
    made, file = trimesh.creation.icosphere(4, 10), io.BytesIO()
    write_mesh(TriMesh(np.asarray(made.vertices, float), np.asarray(made.faces, np.uint32)), file, "stl")
    return file.getvalue()


FILES = {PICTURE: _picture(), BALL: _ball()}


def panel() -> dict:
    source = picture_source(PICTURE, "p.png", read_picture(FILES[PICTURE]).facts).model_dump()
    return {"title": "Cone", "picture": source, "body": {"width_mm": 40, "backing_mm": 2}}


def ball() -> dict:
    source = model_source(BALL, "ball.stl", read_mesh(FILES[BALL], "ball.stl", "mm"))
    return {"title": "Ball", "model": source.model_dump()}


@pytest.fixture
def mould_of():
    evaluate = evaluate_over(FILES.__getitem__, ResultCache(10**8))

    def make(document: dict, **told: object):
        source = {"kind": "piece", "piece_id": "abc", "document": document}
        return evaluate(parse_document({"title": "Mould", "mould": {"source": source, "sample_mm": 0.3, **told}}))

    return make


def test_an_open_mould_of_a_panel_holds_it_and_is_measured(mould_of):
    piece = mould_of(panel(), draft_deg=0, rim_mm=5, floor_mm=2)
    assert kind_of(piece.document).name == "mould" and kind_of(piece.document).words(piece.document) == "Open mould"
    slab, report = piece.build()
    assert report.sound and report.max_error_mm <= 0.02 and report.error_where == "at samples"
    # Its cone of 3 mm on 2 mm, sunk; half a sample beside its top it is 0.02 mm lower.
    assert report.size_mm[2] == pytest.approx(2 + 5, abs=0.04)
    assert report.mould.parts == 1 and report.mould.plane_mm == 0
    solid = piece.solid_cast(0)
    volume = trimesh.Trimesh(solid.vertices, solid.faces).volume
    assert report.mould.holds_cm3 == pytest.approx(volume / 1000, rel=0.01)
    assert report.mould.reaches_in_mm <= 2 * 0.02
    assert slab.mesh.vertices[:, 2].min() == 0
    assert piece.objects() == []


def test_what_shrinks_is_sunk_larger(mould_of):
    plain, larger = (mould_of(panel(), draft_deg=0, rim_mm=5, shrink=by) for by in (0, 0.1))
    assert larger.size_mm[0] - 10 == pytest.approx((plain.size_mm[0] - 10) / 0.9, rel=0.03)
    assert np.ptp(larger.solid_cast(720).vertices[:, 0]) == pytest.approx(40 / 0.9, abs=1e-3)


def test_halves_are_delivered_as_objects_by_name(mould_of):
    piece = mould_of(ball(), kind="halves")
    slab, report = piece.build()
    assert report.sound and report.shells == 2 and report.mould.parts == 2
    assert [name for name, _ in piece.objects()] == ["Front half", "Back half"]
    whole, parts = piece.delivered_as(slab.mesh)
    assert [name for name, _ in parts] == ["Front half", "Back half"] and len(whole.faces) == report.triangles
    assert "mould_plane" in {each.measure for each in report.findings}


def test_what_is_filled_and_where_it_is_parted_is_told(mould_of):
    told = {each.measure: each for each in mould_of(ball()).findings()}
    assert told["mould_filled"].severity == "caution" and "mould_plane" not in told
    told = {each.measure: each for each in mould_of(ball(), kind="halves").findings()}
    assert "mould_filled" not in told and told["mould_plane"].value == pytest.approx(10, abs=0.3)
    typed = mould_of(ball(), kind="halves", plane="typed", plane_mm=4.0)
    assert "mould_plane" not in {each.measure for each in typed.findings()}


@pytest.mark.parametrize(("pull", "size"), [("up", (40, 5)), ("front", (40, 32)), ("side", (32, 40))])
def test_it_is_pulled_off_the_way_that_is_asked(mould_of, pull, size):
    solid = mould_of(panel(), pull=pull).solid_cast(720)
    assert np.ptp(solid.vertices, axis=0)[[0, 2]] == pytest.approx(size, abs=0.2)
    # Turned and not mirrored: faces still look outwards.
    assert trimesh.Trimesh(solid.vertices, solid.faces, process=False).volume > 0


def test_a_recipe_tells_how_and_not_what_is_cast(mould_of):
    document = mould_of(ball(), kind="halves", shrink=0.04).document
    recipe = recipe_of(document, "Wax")
    assert "source" not in recipe.parts["mould"] and recipe.parts["mould"]["shrink"] == 0.04
    other = mould_of(panel()).document
    made = follow(other, parse_recipe(recipe.model_dump(mode="json")))
    assert made.mould.kind == "halves" and made.mould.shrink == 0.04
    assert made.mould.source.model_dump(mode="json") == other.mould.source.model_dump(mode="json")


def test_nothing_to_cast_and_what_cannot_be_made_is_refused_in_words(mould_of):
    with pytest.raises(BadValueError, match="Nothing is cast"):
        mould_of({}).check()
    with pytest.raises(BadValueError, match="parting plane"):
        mould_of(panel(), plane="typed", plane_mm=99.0).check()


def test_what_is_open_and_what_is_too_small_is_refused_in_words(mould_of, monkeypatch):
    piece = mould_of(ball())
    solid = piece.solid_cast(0)
    monkeypatch.setattr(
        type(piece._opens(ball(), piece._sources)), "mesh", lambda *_: TriMesh(solid.vertices, solid.faces[5:])
    )
    with pytest.raises(BadValueError, match="is not closed"):
        mould_of({**ball(), "title": "Torn"}).build()
    with pytest.raises(BadValueError, match="a larger piece"):
        mould_of(panel(), sample_mm=5.0, rim_mm=200).with_document(
            merge(
                mould_of(panel()).document,
                {"mould": {"sample_mm": 5.0, "source": {"document": {"body": {"width_mm": 6}}}}},
            )
        ).check()


def test_walls_follow_samples_where_casts_come_out_better_of_those(mould_of, monkeypatch):
    from nebrel.piece.kinds.mould import evaluator as moulds

    real = moulds.measure_mould

    def caught(mould, solid, floor):
        found = real(mould, solid, floor)
        return replace(found, least_draft_deg=0.1) if mould.lined else found

    monkeypatch.setattr(moulds, "measure_mould", caught)
    piece = mould_of(ball(), kind="halves")
    _, report = piece.build()
    assert not piece.mould(0).lined and "mould_unlined" in {each.measure for each in report.findings}
    assert report.mould.least_draft_deg >= 2.5


def test_another_piece_takes_its_place_and_steps_work_on_it(mould_of):
    piece = mould_of(panel())
    other = merge(piece.document, piece.with_piece("xyz", ball()))
    assert other.mould.source.piece_id == "xyz" and other.mould.rim_mm == piece.document.mould.rim_mm
    taller = piece.with_document(other)
    assert taller.size_mm[2] > piece.size_mm[2]
    stepped = merge(piece.document, {"steps": [{"kind": "size", "id": "s", "by": "factor", "factor": 2.0}]})
    made = piece.with_document(stepped)
    assert made.size_mm[0] == pytest.approx(2 * piece.size_mm[0], rel=1e-6)
