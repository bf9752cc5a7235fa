"""What pages are told of every parameter of every part: that it is whole, and that it is what validation holds."""

from typing import Literal, get_args, get_origin

import pytest
from pydantic import ValidationError

from nebrel.piece.kinds.panel.document import PanelDocument
from nebrel.piece.ops import KNOWN, Op
from nebrel.piece.parts.fields import length, whole
from nebrel.piece.parts.part import Part
from nebrel.piece.parts.schema import PartField, field_of, schema_of, schemas_of
from nebrel.piece.registry import KINDS

SCHEMAS = schemas_of((kind.document for kind in KINDS), Op)
CLASSES: dict[str, type[Part]] = {}
# Facts that a file told of itself, and a box that is drawn: nobody types them.
OF_SOURCES = {"PictureSource", "DrawingSource", "ModelSource", "CropBox"}


def classes_below(part: type[Part]) -> None:
    for each in part.__subclasses__():
        CLASSES[each.__name__] = each
        classes_below(each)


classes_below(Part)
FIELDS = [
    pytest.param(name, field, id=f"{name}.{field.name}")
    for name, schema in SCHEMAS.items()
    for field in schema.fields
    if name not in OF_SOURCES
]


@pytest.mark.parametrize(("part", "field"), FIELDS)
def test_a_field_is_whole(part: str, field: PartField):
    default = SCHEMAS[part].defaults.get(field.name)
    if field.type in ("number", "whole"):
        assert field.lowest is not None
        assert field.highest is not None
        assert field.step > 0
        if default is not None:
            assert field.lowest <= default <= field.highest
        if field.slider is not None:
            assert field.lowest <= field.slider[0] < field.slider[1] <= field.highest
    if field.type == "choice":
        assert default in field.choices
        assert set(field.hints) <= set(field.choices)
        annotation = CLASSES[part].model_fields[field.name].annotation
        if get_origin(annotation) is Literal:
            assert set(get_args(annotation)) == set(field.choices)
    names = {each.name: each for each in SCHEMAS[part].fields}
    for other, values in field.shown.items():
        known = names[other].choices or {"true": "", "false": ""}
        assert set(values) <= set(known)
    assert all(name in SCHEMAS or issubclass(CLASSES[name], Op) for name in field.kinds.values())


@pytest.mark.parametrize(("part", "field"), [each for each in FIELDS if each.values[1].type in ("number", "whole")])
def test_the_limits_told_are_those_that_validation_holds(part: str, field: PartField):
    kind = CLASSES[part]
    validator = kind.__pydantic_validator__
    made = kind.model_construct(**SCHEMAS[part].defaults)
    assert field.lowest is not None
    assert field.highest is not None
    for beyond in (field.lowest - 0.01 - abs(field.lowest), field.highest + 1 + abs(field.highest)):
        with pytest.raises(ValidationError):
            validator.validate_assignment(made.model_copy(), field.name, beyond)


def test_every_hint_is_a_sentence():
    for schema in SCHEMAS.values():
        assert not schema.hint or schema.hint.endswith(".")
        for field in schema.fields:
            assert all(hint.endswith(".") for hint in field.hints.values())


def test_kinds_of_a_list_are_told_apart_and_have_words():
    openings = next(field for field in SCHEMAS["PanelBodyPart"].fields if field.name == "openings")
    assert openings.type == "parts"
    assert openings.most == 20
    assert list(openings.kinds) == ["hanging-hole", "corner-holes", "keyhole", "stand-slot"]
    assert all(SCHEMAS[name].heading for name in openings.kinds.values())


def test_starting_values_make_a_part_again():
    for name, schema in SCHEMAS.items():
        if all(field.name in schema.defaults for field in schema.fields):
            assert CLASSES[name].model_validate(schema.defaults).model_dump(mode="json") == schema.defaults


def test_picture_ops_are_told_elsewhere_but_not_what_is_nested_in_them():
    assert not {op.__name__ for op in KNOWN} & set(SCHEMAS)
    assert "Stroke" in SCHEMAS
    assert "PanelDocument" in SCHEMAS


def test_units_follow_from_names_unless_they_are_given():
    class Sample(Part):
        wide_mm: float = length("Width", 1, 0, 2)
        area_mm2: float = length("Area", 1, 0, 2, unit="mm²")
        many: int = whole("Many", 1, 0, 2, label="How many")

    fields = {field.name: field for field in schema_of(Sample).fields}
    assert [fields[name].unit for name in ("wide_mm", "area_mm2", "many")] == ["mm", "mm²", ""]
    assert (fields["many"].title, fields["many"].label, fields["many"].type) == ("Many", "How many", "whole")


def test_two_parts_of_one_name_are_a_fault():
    one = type("Twin", (Part,), {})
    other = type("Twin", (Part,), {})
    with pytest.raises(TypeError, match="Twin"):
        schemas_of([one, other], Op)


def test_tones_that_may_be_neither_black_nor_white_say_so():
    cut = next(field for field in SCHEMAS["CutBelow"].fields if field.name == "tone")
    assert 0 < (cut.lowest or 0) < (cut.highest or 1) < 1
    assert field_of("title", PanelDocument.model_fields["title"]).most == 120
