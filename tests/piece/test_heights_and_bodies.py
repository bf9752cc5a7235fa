"""Recipes of heights and bodies through the whole chain: previews, refusals and reports."""

import io

import numpy as np
import pytest
from PIL import Image

from nebrel.core.errors import BadValueError
from nebrel.core.picture import read_picture
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import merge
from tests.piece.conftest import Evaluate, evaluate_over


@pytest.fixture
def document(hill) -> PanelDocument:
    facts = read_picture(hill).facts
    return PanelDocument(title="Hill", picture=picture_source("0" * 64, "hill.png", facts))


@pytest.fixture
def evaluate(hill) -> Evaluate:
    mask = io.BytesIO()
    Image.fromarray(np.tile(np.repeat([0, 255], 30).astype(np.uint8), (40, 1))).save(mask, "PNG")
    return evaluate_over(lambda blob: hill if blob == "0" * 64 else mask.getvalue(), ResultCache(10**8))


def changed(document: PanelDocument, change: dict) -> PanelDocument:
    made = merge(document, change)
    assert isinstance(made, PanelDocument)
    return made


@pytest.mark.parametrize(
    "height",
    [
        {"rule": {"kind": "curve", "points": [[0, 0], [0.4, 0.8], [1, 1]]}},
        {"rule": {"kind": "steps", "steps": [{"tone": 0, "mm": 0}, {"tone": 0.5, "mm": 1}, {"tone": 1, "mm": 2}]}},
        {"rule": {"kind": "compress", "strength": 0.7}},
        {"smooth_mm": 0.5, "smooth_keep_mm": 0.4, "smooth_where": "slopes"},
        {"draft": {"on": True, "wall_deg": 30}},
        {"rounding": {"on": True, "radius_mm": 1.0}},
        {"cut": {"on": True, "tone": 0.2}},
    ],
)
def test_every_height_part_builds_a_sound_solid_within_tolerance(evaluate, document, height):
    _, report = evaluate(changed(document, {"height": height})).build()
    assert report.sound, report.findings
    assert report.max_error_mm <= report.tolerance_mm


def test_what_changes_none_of_the_heights_is_told(evaluate, document):
    """A soft hill has neither walls for a draft nor edges for a rounding of a hundredth."""
    soft = {"smooth_on": True, "smooth_mm": 2.0, "rule": {"relief_mm": 0.5}, "draft": {"on": True, "wall_deg": 5}}
    told = {each.measure for each in evaluate(changed(document, {"height": soft})).findings()}
    assert "idle_draft" in told
    steep = {"rule": {"relief_mm": 40}, "draft": {"on": True, "wall_deg": 60}}
    assert "idle_draft" not in {each.measure for each in evaluate(changed(document, {"height": steep})).findings()}


def test_a_mask_takes_the_height_away_where_it_is_black(evaluate, document):
    masked = changed(document, {"height": {"mask": {"blob": "1" * 64, "name": "mask.png"}}})
    field, plain = evaluate(masked).field(), evaluate(document).field()
    assert field.heights[:, :50].max() == 0
    assert field.heights[:, 70:] == pytest.approx(plain.heights[:, 70:])
    turned = changed(masked, {"height": {"mask": {"invert": True}}})
    assert evaluate(turned).field().heights[:, 70:].max() == 0
    off = changed(masked, {"height": {"mask": {"on": False}}})
    assert evaluate(off).field().heights == pytest.approx(plain.heights)


def test_trying_another_rule_loses_nothing(document):
    curve = changed(document, {"height": {"rule": {"kind": "curve", "points": [[0, 0.2], [1, 1]]}}})
    back = changed(changed(curve, {"height": {"rule": {"kind": "steps"}}}), {"height": {"rule": {"kind": "curve"}}})
    assert back.height.rule.points == ((0.0, 0.2), (1.0, 1.0))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (
            {"height": {"rule": {"kind": "steps", "steps": [{"tone": 1, "mm": 0}, {"tone": 0, "mm": 1}]}}},
            "not in order",
        ),
        ({"body": {"frame": {"on": True, "width_mm": 70}}}, "cover the whole piece"),
        ({"body": {"shape": "rounded", "corner_mm": 90}}, "corner radius"),
        ({"body": {"openings": [{"kind": "keyhole"}]}}, "thicker backing"),
        ({"body": {"openings": [{"kind": "keyhole", "head_mm": -1}]}}, "Keyhole mouth is -1 mm"),
        ({"body": {"shape": "outline", "margin_mm": 400}}, "larger than the piece"),
        ({"height": {"draft": {"on": True, "wall_deg": 95}}}, "Draft angle is 95"),
    ],
)
def test_what_cannot_be_made_is_refused_before_it_is_kept(evaluate, document, change, words):
    with pytest.raises(BadValueError, match=words):
        evaluate(changed(document, change)).check()


def test_the_thickness_of_a_piece_counts_its_frame(evaluate, document):
    framed = changed(document, {"body": {"frame": {"on": True, "height_mm": 7}}})
    assert framed.size_mm[2] == pytest.approx(1.2 + 7)
    _, report = evaluate(framed).build()
    assert report.size_mm == pytest.approx(framed.size_mm, abs=0.001)


def test_a_surface_only_is_said_and_is_no_fault(evaluate, document):
    _, report = evaluate(changed(document, {"body": {"back": "none"}})).build()
    assert not report.closed
    assert report.sound
    assert any("without a back" in finding.what for finding in report.findings)


def test_a_lighter_relief_is_measured_against_the_heights_again(evaluate, document):
    fine = changed(document, {"finish": {"tolerance_mm": 0.005}})
    _, before = evaluate(fine).build()
    _, report = evaluate(changed(fine, {"light": {"on": True, "by": "triangles", "triangles": 400}})).build()
    assert report.triangles <= 400 < before.triangles == report.triangles_before
    assert report.max_error_mm > before.max_error_mm
    assert report.closed


@pytest.mark.parametrize(
    ("light", "holds"),
    [
        ({"by": "triangles", "triangles": 1500}, lambda report: report.triangles <= 1500),
        ({"by": "bytes", "megabytes": 0.03}, lambda report: report.file_bytes <= 30_000),
        ({"by": "tolerance", "tolerance_mm": 0.1}, lambda report: report.max_error_mm <= 0.1),
    ],
)
def test_a_light_panel_is_sound_and_holds_its_promise(evaluate, document, light, holds):
    body = {"shape": "ellipse", "frame": {"on": True, "profile": "bevel"}}
    fine = changed(document, {"body": body, "finish": {"tolerance_mm": 0.004}})
    _, report = evaluate(changed(fine, {"light": {"on": True, **light}})).build()
    assert report.sound, report.findings
    assert holds(report)
    assert report.triangles < report.triangles_before


def test_preview_and_build_of_a_body_agree(evaluate, document):
    body = {"shape": "ellipse", "frame": {"on": True, "profile": "round"}, "edge": {"bevel_on": True}}
    asked = changed(document, {"body": body})
    sketch = evaluate(asked).mesh(360)
    slab, _ = evaluate(asked).build()
    assert np.ptp(sketch.vertices, axis=0) == pytest.approx(np.ptp(slab.mesh.vertices, axis=0), abs=0.1)


def test_a_base_that_the_picture_cuts_off_is_said_and_mended(evaluate, document):
    cut = {"height": {"cut": {"on": True, "tone": 0.05}}, "body": {"shape": "outline", "margin_mm": 6}}
    asked = changed(document, cut)
    (found,) = [finding for finding in evaluate(asked).findings() if finding.measure == "margin"]
    assert found.fix is not None
    mended = changed(asked, {"ops": [{"kind": found.fix.kind, "id": "room", **found.fix.parameters}]})
    assert not [finding for finding in evaluate(mended).findings() if finding.measure == "margin"]
