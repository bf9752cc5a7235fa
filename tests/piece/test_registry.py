"""The kinds of piece: told apart by their parts, made one of another, asked for what they can do."""

import pytest

from nebrel.core.errors import BadValueError, ConflictError
from nebrel.core.picture import read_picture
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.abilities import ABILITIES, HasHeights, HasOutlines, HasPicture, HasSheet, HasSkin
from nebrel.piece.evaluation.cache import ResultCache
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import KINDS, Piece, become, kind_of, open_piece, parse_document, shape_of, shapes_for

DRAWING = {"blob": "0" * 64, "name": "a.svg", "format": "svg", "size_mm": (50, 10)}
MODEL = {"blob": "0" * 64, "name": "a.stl", "format": "stl", "size_mm": (5, 4, 3), "triangles": 12}


@pytest.fixture
def picture(hill) -> dict:
    return picture_source("0" * 64, "hill.png", read_picture(hill).facts).model_dump(mode="json")


@pytest.fixture
def panel(picture) -> Document:
    invert = {"kind": "invert", "id": "i"}
    return parse_document({"title": "Hill", "picture": picture, "ops": [invert], "body": {"width_mm": 66}})


def piece_of(document: Document, data: bytes = b"") -> Piece:
    return open_piece(document, Sources(lambda _: data, ResultCache(10**8)))


@pytest.mark.parametrize(
    ("parts", "kind", "stations", "abilities"),
    [
        (
            {},
            "panel",
            ["Picture", "Height", "Body", "Proof", "Deliver"],
            {"picture", "heights", "depth-sources", "pieces", "laid-reliefs"},
        ),
        ({"glow": {}}, "lithophane", ["Picture", "Light", "Body", "Proof", "Deliver"], {"picture", "sheet"}),
        ({"trace": {}}, "traced", ["Picture", "Outlines", "Body", "Proof", "Deliver"], {"picture", "outlines"}),
        ({"drawing": DRAWING}, "drawn", ["Outlines", "Body", "Proof", "Deliver"], {"outlines"}),
        ({"model": MODEL}, "model", ["Body", "Proof", "Deliver"], {"skin"}),
    ],
)
def test_parts_tell_the_kind_and_the_kind_what_it_is(picture, parts, kind, stations, abilities):
    own = {} if kind in ("drawn", "model") else {"picture": picture}
    piece = piece_of(parse_document({"title": "A", **own, **parts}))
    assert piece.kind.name == kind
    assert [station.title for station in piece.kind.stations] == stations
    assert set(piece.abilities) == abilities
    for name, ability in ABILITIES.items():
        if name in abilities:
            assert piece.having(ability) is piece.evaluator
        else:
            with pytest.raises(ConflictError, match=f"^This piece {piece.kind.being}, so "):
                piece.having(ability)


def test_every_kind_is_told_by_a_part_of_its_own():
    told = [kind.told_by for kind in KINDS]
    assert len(set(told)) == len(told)
    assert told.count("") == 1
    for kind in KINDS:
        others = [other.document for other in KINDS if other is not kind]
        assert kind.told_by == "" or not any(kind.told_by in other.model_fields for other in others)


def test_a_panel_becomes_outlines_and_keeps_its_picture_and_width(panel):
    cutter = become(panel, "cutter")
    told = cutter.model_dump()
    assert (kind_of(cutter).name, shape_of(cutter), told["width_mm"]) == ("traced", "cutter", 66)
    assert (told["picture"], told["ops"]) == (panel.model_dump()["picture"], panel.model_dump()["ops"])
    assert told["solid"]["lines"] == 4
    assert not {"height", "body"} & set(told)


def test_nothing_of_the_solid_before_is_left_but_its_outlines_are(panel):
    cutter = become(panel, "cutter")
    mended = cutter.model_copy(update={"mend": ({"kind": "fill"},), "width_mm": 44.0})
    stamp = become(parse_document(mended.model_dump(mode="json")), "stamp").model_dump()
    assert stamp["solid"]["kind"] == "stamp"
    assert "lines" not in stamp["solid"]
    assert (stamp["width_mm"], len(stamp["mend"])) == (44, 1)


def test_outlines_become_a_panel_again(panel):
    again = become(become(panel, "cutter"), "panel")
    told = again.model_dump()
    assert (kind_of(again).name, told["body"]["width_mm"]) == ("panel", 66)
    assert not {"solid", "trace", "mend"} & set(told)


def test_a_panel_becomes_a_lithophane_and_that_a_stamp(panel):
    lithophane = become(panel, "lithophane")
    told = lithophane.model_dump()
    assert (kind_of(lithophane).name, told["form"]["width_mm"]) == ("lithophane", 66)
    assert "height" not in told
    stamp = become(lithophane, "stamp").model_dump()
    assert (stamp["width_mm"], stamp["solid"]["kind"]) == (66, "stamp")
    assert not {"glow", "form", "parts", "lamp"} & set(stamp)
    assert become(lithophane, "panel").model_dump()["body"]["width_mm"] == 66


def test_what_needs_a_picture_is_offered_only_where_there_is_one(panel):
    assert [shape.name for shape in shapes_for(panel)] == ["panel", "lithophane", "figure", "raised", "cutter", "stamp"]
    drawn = parse_document({"title": "A", "drawing": DRAWING})
    assert [shape.name for shape in shapes_for(drawn)] == ["raised", "cutter", "stamp"]
    with pytest.raises(BadValueError, match="cannot be made a panel; Raised outline, Clay cutter, Stamp would be"):
        become(drawn, "panel")
    model = parse_document({"title": "A", "model": MODEL})
    assert shapes_for(model) == []
    with pytest.raises(BadValueError, match="nothing else would be accepted"):
        become(model, "cutter")


@pytest.mark.parametrize("shape", ["panel", "lithophane", "figure", "raised", "cutter", "stamp"])
def test_every_shape_of_a_picture_can_be_made(panel, hill, shape):
    piece = piece_of(become(panel, shape), hill)
    piece.evaluator.check()
    assert min(piece.evaluator.size_mm) > 0
    assert piece.evaluator.plan(64).heights.size > 64
    assert len(piece.evaluator.shown(64).shaded.faces) > 8
    assert (piece.can(HasHeights), piece.can(HasSheet)) == (shape == "panel", shape == "lithophane")
    assert piece.can(HasOutlines) == (shape in ("raised", "cutter", "stamp"))
    assert piece.can(HasPicture)
    assert piece.can(HasSkin) == (shape == "figure")
