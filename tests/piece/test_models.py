"""Pieces that start from a mesh: steps that can be switched, nothing of the file lost."""

import io

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import BadMeshError, BadValueError, ConflictError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.piece.evaluation.abilities import HasPicture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.model.evaluator import model_source
from nebrel.piece.registry import merge, open_piece, parse_document
from tests.piece.conftest import Evaluate, evaluate_over


@pytest.fixture(scope="module")
def pot() -> TriMesh:
    """A pot that a ball sticks through, a few of its faces missing, away from the origin."""
    solid = manifold3d.Manifold.cylinder(30, 14, 18, 96) - manifold3d.Manifold.cylinder(30, 12, 16, 96).translate(
        (0, 0, 2)
    )
    ball = manifold3d.Manifold.sphere(4, 48).translate((16, 0, 20))
    parts = [mesh_of(solid.translate((100, 50, 7))), mesh_of(ball.translate((100, 50, 7)))]
    faces = np.vstack([parts[0].faces[3:], parts[1].faces + len(parts[0].vertices)])
    return TriMesh(np.vstack([part.vertices for part in parts]), faces.astype(np.uint32))


def as_file(mesh: TriMesh, form: str) -> bytes:
    held = io.BytesIO()
    write_mesh(mesh, held, form)
    return held.getvalue()


@pytest.fixture(scope="module")
def evaluate(pot) -> Evaluate:
    data = as_file(pot, "ply")
    return evaluate_over(lambda _: data, ResultCache(10**8))


@pytest.fixture(scope="module")
def document(pot) -> ModelDocument:
    found = read_mesh(as_file(pot, "ply"), "pot.ply")
    return ModelDocument(title="Pot", model=model_source("0" * 64, "pot.ply", found))


def with_steps(document: ModelDocument, *steps: dict, **parts: object) -> ModelDocument:
    changed = merge(document, {"steps": [{"id": str(at), **step} for at, step in enumerate(steps)], **parts})
    assert isinstance(changed, ModelDocument)
    return changed


def test_steps_mend_and_tell_what_they_did(evaluate, document):
    before = evaluate(document).findings(720)
    assert {finding.measure for finding in before if finding.severity == "fault"} >= {"closed", "self_crossings"}
    assert all(finding.fix.kind == "repair" for finding in before if finding.severity == "fault")
    mended = with_steps(document, {"kind": "repair"})
    told = evaluate(mended).worked()[-1].description
    assert "filled" in told
    assert "2 parts joined" in told
    assert not any(finding.severity == "fault" for finding in evaluate(mended).findings(720))


def test_a_step_that_is_off_does_nothing(evaluate, document):
    off = with_steps(document, {"kind": "repair", "on": False})
    assert evaluate(off).solid_key(FULL) == evaluate(document).solid_key(FULL)


def test_the_file_keeps_its_place_and_the_view_starts_at_the_origin(evaluate, document, pot):
    slab, report = evaluate(document).build()
    assert slab.mesh.vertices.min(axis=0) == pytest.approx(pot.vertices.min(axis=0), abs=1e-4)
    assert evaluate(document).mesh(720).vertices.min(axis=0) == pytest.approx([0, 0, 0], abs=1e-4)
    assert not report.sound
    assert report.triangles_before is None


def test_parts_cuts_and_a_new_surface(evaluate, document):
    mended = {"kind": "repair"}
    cut = with_steps(document, mended, {"kind": "cut", "axis": "z", "at_mm": 10, "keep": "below"})
    assert evaluate(cut).size_mm[2] == pytest.approx(10, abs=1e-3)
    anew = with_steps(document, {"kind": "remesh", "voxel_mm": 0.8})
    _, report = evaluate(anew).build()
    assert report.sound
    parts = with_steps(document, {"kind": "keep-parts", "largest": 1})
    assert "1 of 2 parts kept" in evaluate(parts).worked()[-1].description
    second = with_steps(document, {"kind": "keep-parts", "chosen": [2]})
    assert evaluate(second).size_mm == pytest.approx((8, 8, 8), abs=0.1)


def test_a_cut_that_leaves_nothing_is_refused(evaluate, document):
    with pytest.raises(BadValueError, match="Nothing of the mesh"):
        evaluate(with_steps(document, {"kind": "repair"}, {"kind": "cut", "at_mm": 500})).check()
    with pytest.raises(BadMeshError, match="repair it first"):
        evaluate(with_steps(document, {"kind": "cut", "at_mm": 5})).check()


@pytest.mark.parametrize(
    ("light", "holds"),
    [
        ({"by": "triangles", "triangles": 300}, lambda report: report.triangles <= 300),
        ({"by": "tolerance", "tolerance_mm": 0.2}, lambda report: report.max_error_mm <= 0.2),
        ({"by": "bytes", "megabytes": 0.02}, lambda report: report.file_bytes <= 20_000),
    ],
)
def test_lightness_holds_what_it_promises_and_stays_closed(evaluate, document, light, holds):
    asked = with_steps(document, {"kind": "repair"}, light={"on": True, **light})
    _, report = evaluate(asked).build()
    assert holds(report)
    assert report.closed
    assert report.triangles < report.triangles_before
    assert report.max_error_mm > 0


def test_a_section_and_a_map_of_a_model(evaluate, document):
    looking = evaluate(document)
    cut = looking.section((0, 18), (40, 18), 720)
    assert cut.target is None
    assert max(up for outline in cut.made for _, up in outline) == pytest.approx(30, abs=0.01)
    assert looking.surface_map("thickness", 720).least < 2.1


def test_a_model_has_no_picture(document):
    piece = open_piece(document, Sources(lambda _: b"", ResultCache(0)))
    with pytest.raises(ConflictError, match="starts from a model, so it has no picture"):
        piece.having(HasPicture)


def test_a_bad_number_in_a_step_is_refused_in_a_sentence(document):
    with pytest.raises(BadValueError, match="Voxel is -1 mm"):
        with_steps(document, {"kind": "remesh", "voxel_mm": -1})


def test_documents_are_told_apart(document):
    assert isinstance(parse_document(document.model_dump(mode="json")), ModelDocument)


def test_colours_come_through_to_the_delivery(pot):
    colours = np.zeros((len(pot.vertices), 4), dtype=np.uint8)
    colours[:, 1], colours[:, 3] = 180, 255
    data = as_file(TriMesh(pot.vertices, pot.faces, colours), "ply")
    evaluate = evaluate_over(lambda _: data, ResultCache(10**8))
    found = read_mesh(data, "pot.ply")
    document = ModelDocument(title="Pot", model=model_source("0" * 64, "pot.ply", found))
    for steps in ([], [{"kind": "repair"}], [{"kind": "remesh", "voxel_mm": 1.0}]):
        asked = with_steps(document, *steps, light={"on": True, "by": "triangles", "triangles": 2000})
        slab, _ = evaluate(asked).build()
        assert slab.mesh.colours is not None
        assert (slab.mesh.colours[:, 1] == 180).all()
