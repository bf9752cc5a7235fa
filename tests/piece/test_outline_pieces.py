"""Pieces made of outlines: their recipe, its refusals, and what is computed again."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.picture import read_picture
from nebrel.core.region.curves import bounds_of, figure_region, layer_region
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.outline.document import DrawnDocument, TracedDocument
from nebrel.piece.kinds.outline.evaluator import OF_CURVES, OF_EDGES
from nebrel.piece.kinds.outline.findings import untrue
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import merge, parse_document
from tests.core.drawn import disc, drawn
from tests.piece.conftest import Evaluate, evaluate_over

SVG = b"""<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">
<rect width="20" height="10"/><rect x="30" width="20" height="10"/></svg>"""


def encoded(tones: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray(np.round(tones * 255).astype(np.uint8)).save(held, "PNG")
    return held.getvalue()


@pytest.fixture(scope="module")
def ring() -> bytes:
    """A gray disc of 12 mm with a black one of 5 mm inside, on white; 30 mm wide."""
    return encoded(1 - 0.5 * drawn(disc()) - 0.5 * drawn(disc(15, 15, 5)))


@pytest.fixture
def reads() -> list[str]:
    """Which files were read, each time it was."""
    return []


@pytest.fixture
def evaluate(ring, reads) -> Evaluate:
    def read(blob: str) -> bytes:
        reads.append(blob)
        return ring

    return evaluate_over(read, ResultCache(2**28))


@pytest.fixture
def document(ring) -> TracedDocument:
    facts = read_picture(ring, "ring.png").facts
    found = parse_document(
        {
            "title": "Ring",
            "picture": picture_source("0" * 64, "ring.png", facts).model_dump(),
            "trace": {},
            "width_mm": 30,
        }
    )
    assert isinstance(found, TracedDocument)
    return found


def test_what_a_document_holds_tells_what_it_is(document):
    assert isinstance(parse_document(document.model_dump(mode="json")), TracedDocument)
    source = {"blob": "0" * 64, "name": "a.svg", "format": "svg", "size_mm": (50, 10)}
    assert isinstance(parse_document({"title": "A", "drawing": source}), DrawnDocument)


def test_a_solid_is_changed_without_tracing_again(document, evaluate, reads):
    first = evaluate(document).outlines()
    evaluate(document).mesh(720)
    count = len(reads)
    thicker = merge(document, {"solid": {"thickness_mm": 5}})
    assert evaluate(thicker).size_mm[2] == pytest.approx(5, abs=0.001)
    assert evaluate(thicker).outlines() is first
    assert len(reads) == count
    smoother = merge(document, {"trace": {"smooth": 0.9}})
    assert evaluate(smoother).outlines() is not first


def test_preview_and_final_solid_have_the_same_size(document, evaluate):
    preview = np.ptp(evaluate(document).mesh(320).vertices, axis=0)
    final = np.ptp(evaluate(document).mesh().vertices, axis=0)
    assert preview == pytest.approx(final, abs=0.001)
    assert len(evaluate(document).mesh().faces) > len(evaluate(document).mesh(320).faces)


def test_tones_become_layers_and_the_paper_is_told_apart(document, evaluate):
    figure = evaluate(merge(document, {"trace": {"by": "tones", "tones": 3}})).outlines().figure
    assert [layer.ground for layer in figure.layers] == [False, False, True]
    areas = [layer_region(layer).area for layer in figure.layers]
    assert areas[0] == pytest.approx(np.pi * 25, rel=0.005)
    assert areas[1] == pytest.approx(np.pi * (144 - 25), rel=0.005)
    tall = merge(document, {"trace": {"by": "tones", "tones": 3}, "solid": {"heights_mm": [4, 2, 0]}})
    assert evaluate(tall).size_mm == pytest.approx((24, 24, 4), abs=0.02)


@pytest.mark.parametrize("width", [30, 90])
def test_steps_keep_their_meaning_when_the_piece_grows(document, evaluate, width):
    middle = (0.5, 0.5)
    edge = ((15 + 5) / 30, 0.5)
    changes = {"width_mm": width, "trace": {"by": "tones", "tones": 3}}
    hole = merge(document, {**changes, "mend": [{"kind": "keep", "chosen": [edge]}]})
    box = np.array(bounds_of(evaluate(hole).outlines().figure)) / width
    assert box == pytest.approx((1 / 3, 1 / 3, 2 / 3, 2 / 3), abs=0.003)
    turned = merge(document, {**changes, "mend": [{"kind": "move", "turn_deg": 40, "about": middle}]})
    area = figure_region(evaluate(turned).outlines().figure).area
    assert area == pytest.approx(width * width, rel=1e-3)


@pytest.mark.parametrize(
    ("step", "words"),
    [
        ({"kind": "offset", "by_mm": -20}, "leaves nothing"),
        ({"kind": "drop-tiny", "smallest_mm2": 90_000}, "leaves nothing"),
        ({"kind": "spread", "along": "grid", "count": 300, "rows": 300}, "copies are asked for"),
        ({"kind": "combine", "chosen": []}, "at least two"),
    ],
)
def test_steps_that_cannot_be_done_are_refused(document, evaluate, step, words):
    with pytest.raises(BadValueError, match=words):
        evaluate(merge(document, {"mend": [step]})).check()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"solid": {"thickness_mm": 0}}, "Thickness is 0 mm; 0.05 to 500 mm would be accepted"),
        ({"trace": {"level": 2}}, "Tone at the edge"),
        ({"mend": [{"kind": "offset", "by_mm": float("nan")}]}, "Outwards by"),
        ({"solid": {"kind": "cutter"}}, "is not part of a piece"),
        ({"width_mm": -3}, "Width is -3 mm"),
    ],
)
def test_values_out_of_reach_get_one_sentence(document, change, words):
    with pytest.raises(BadValueError, match=words):
        merge(document, change)


def test_a_level_beyond_the_picture_is_refused(document):
    plain = encoded(np.full((40, 40), 0.5))
    evaluate = evaluate_over(lambda _: plain, ResultCache(2**26))
    with pytest.raises(BadPictureError, match="Nothing of the picture is beyond the level"):
        evaluate(merge(document, {"trace": {"level": 0.2, "ink": "dark"}})).check()


def test_a_cut_out_picture_is_traced_by_what_it_covers(evaluate):
    alpha = np.round(drawn(disc()) * 255).astype(np.uint8)
    held = io.BytesIO()
    Image.fromarray(np.dstack([np.full_like(alpha, 120), alpha]), "LA").save(held, "PNG")
    data = held.getvalue()
    facts = read_picture(data, "a.png").facts
    source = picture_source("0" * 64, "a.png", facts).model_dump()
    found = parse_document({"title": "Disc", "picture": source, "trace": {}, "width_mm": 30})
    figure = evaluate_over(lambda _: data, ResultCache(2**26))(found).outlines().figure
    assert figure_region(figure).area == pytest.approx(np.pi * 144, rel=0.005)


def test_a_drawing_keeps_its_proportions_at_another_width():
    source = {"blob": "0" * 64, "name": "a.svg", "format": "svg", "size_mm": (50, 10)}
    found = parse_document({"title": "A", "drawing": source, "width_mm": 25})
    evaluate = evaluate_over(lambda _: SVG, ResultCache(2**26))
    assert evaluate(found).size_mm == pytest.approx((25, 5, 3), abs=0.001)
    assert evaluate(found).source_mm == pytest.approx((25, 5), rel=1e-4)
    slab, report = evaluate(found).build()
    assert report.sound
    assert report.max_error_mm <= report.tolerance_mm
    assert len(slab.mesh.faces) == 24


def test_a_solid_that_is_off_its_outlines_is_told_with_how_far():
    (found,) = untrue(0.25, 0.01)
    assert (found.severity, found.measure, found.value, found.unit) == ("caution", "untrue", 0.25, "mm")
    assert "0.25 mm off its outlines, where 0.01 mm was asked" in found.what
    assert untrue(0.0149, 0.01) == ()


@pytest.mark.parametrize(
    ("drawn", "solid", "measured"),
    [
        ("<rect width='20' height='10'/>", {}, OF_EDGES),
        ("<rect width='20' height='10'/>", {"edge": "bevel"}, OF_CURVES),
        ("<rect width='20' height='10'/>", {"base": {"kind": "rectangle"}}, OF_CURVES),
        ("<circle cx='20' cy='20' r='9'/>", {}, OF_CURVES),
    ],
)
def test_straight_walls_are_measured_against_their_edges_all_else_against_its_curves(drawn, solid, measured):
    data = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="40mm" viewBox="0 0 60 40">{drawn}</svg>'.encode()
    )
    size = read_drawing(data, "a.svg").size
    source = {"blob": "0" * 64, "name": "a.svg", "format": "svg", "size_mm": size}
    document = parse_document(
        {"title": "A", "drawing": source, "width_mm": size[0], "solid": {"kind": "raised", **solid}}
    )
    slab = evaluate_over(lambda _: data, ResultCache(2**28))(document).delivered()
    assert slab.deviation.how == measured
    assert slab.deviation.max <= document.finish.tolerance_mm
