"""The recipe: edits, refusals, names."""

import pytest

from nebrel.core.errors import BadValueError
from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.parts.naming import file_name
from nebrel.piece.parts.pictured import PictureSource
from nebrel.piece.registry import merge, parse_document


@pytest.fixture
def document() -> PanelDocument:
    source = PictureSource(
        blob="0" * 64, name="hill.png", format="PNG", width_px=120, height_px=90, bit_depth=16, channels="L"
    )
    return PanelDocument(title="Hill", picture=source)


def test_a_merge_patch_changes_only_what_it_names(document):
    changed = merge(document, {"height": {"rule": {"relief_mm": 4.5}}})
    assert changed.height.rule.relief_mm == 4.5
    assert changed.model_copy(update={"height": document.height}) == document


def test_a_document_survives_json(document):
    assert parse_document(document.model_dump(mode="json")) == document


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"body": {"width_mm": 0}}, "Width is 0 mm; 1 to 3,000 mm would be accepted."),
        ({"body": {"width_mm": -5}}, "Width is -5 mm; 1 to 3,000 mm would be accepted."),
        ({"body": {"width_mm": 1e7}}, "Width is 10,000,000 mm; 1 to 3,000 mm would be accepted."),
        ({"body": {"width_mm": "wide"}}, "Width is “wide”; a number in millimetres would be accepted."),
        ({"body": {"width_mm": float("nan")}}, "Width is not a number; a number in millimetres would be accepted."),
        ({"height": {"rule": {"relief_mm": 0}}}, "Relief height is 0 mm; 0.05 to 200 mm would be accepted."),
        (
            {"height": {"rule": {"tall": "red"}}},
            "Which tones stand tall is “red”; 'bright' or 'dark' would be accepted.",
        ),
        ({"title": ""}, "Title is empty; at least one letter is needed."),
        ({"title": "x" * 121}, "Title is too long; up to 120 letters are accepted."),
        ({"title": None}, "Title is missing; it must be given."),
        ({"colour": "red"}, "colour is not part of a piece; please check its spelling."),
    ],
)
def test_refusals_are_one_plain_sentence(document, change, sentence):
    with pytest.raises(BadValueError) as refusal:
        merge(document, change)
    assert str(refusal.value) == sentence


@pytest.mark.parametrize(
    ("title", "name"),
    [
        ("Hillside fern", "hillside-fern-80x60.1x4.2mm.stl"),
        ("../../etc/passwd", "etc-passwd-80x60.1x4.2mm.stl"),
        ("Größe: 3/4\\neu", "groe-3-4-neu-80x60.1x4.2mm.stl"),
        ("苔", "piece-80x60.1x4.2mm.stl"),
    ],
)
def test_file_names_are_safe_and_tell_the_size(title, name):
    assert file_name(title, (80.0, 60.05001, 4.2), "stl") == name
