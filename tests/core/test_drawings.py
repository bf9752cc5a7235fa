"""SVG and DXF: what is read, what is refused, what comes back."""

import io

import ezdxf
import numpy as np
import pytest
from ezdxf import units

from nebrel.core.errors import BadDrawingError
from nebrel.core.outline_files.dxf import dxf_bytes
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.region.curves import Curve, Figure, Layer, circle, figure_region, polygon_curve


def svg(inside: str, head: str = 'width="60mm" height="40mm" viewBox="0 0 60 40"') -> bytes:
    return f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{inside}</svg>'.encode()


def area(data: bytes, name: str = "a.svg", scale: float | None = None) -> float:
    return figure_region(read_drawing(data, name, scale).figure, 0.0002).area


@pytest.mark.parametrize(
    ("inside", "expected"),
    [
        ('<rect x="5" y="5" width="20" height="10"/>', 200),
        ('<circle cx="30" cy="20" r="10"/>', np.pi * 100),
        ('<ellipse cx="30" cy="20" rx="10" ry="5"/>', np.pi * 50),
        ('<polygon points="0,0 10,0 10,10"/>', 50),
        ('<path d="M0 0h10v10h-10z"/>', 100),
        ('<path d="M0 10Q5 0 10 10Z"/>', 100 / 3),
        ('<g transform="translate(13 4) rotate(30) scale(2)"><rect width="5" height="4"/></g>', 80),
        ('<path fill-rule="evenodd" d="M0 0h10v10h-10zM2 2h6v6h-6z"/>', 64),
        ('<path d="M0 0h10v10h-10zM2 2h6v6h-6z"/>', 100),
        ('<path d="M0 0h10v10h-10zM2 2v6h6v-6z"/>', 64),
        ('<line x1="5" y1="5" x2="25" y2="5" stroke="black" stroke-width="2"/>', 40),
        (
            '<g transform="scale(2)"><line x1="5" y1="5" x2="15" y2="5" stroke="black" stroke-width="1"/></g>',
            40,
        ),
        ('<line x1="5" y1="5" x2="25" y2="5" stroke="#000" stroke-width="2" stroke-linecap="round"/>', 40 + np.pi),
        ('<rect width="10" height="10" fill="red"/><rect x="5" width="10" height="10" fill="red"/>', 150),
        ('<defs><rect id="r" width="4" height="5"/></defs><use href="#r" x="3"/><use href="#r" x="20"/>', 40),
        ('<rect width="9" height="9" display="none"/><rect width="2" height="2"/>', 4),
    ],
)
def test_shapes_of_an_svg_have_their_area(inside, expected):
    assert area(svg(inside)) == pytest.approx(expected, rel=3e-4)


@pytest.mark.parametrize(
    ("head", "size"),
    [
        ('width="60mm" height="40mm" viewBox="0 0 600 400"', 4),
        ('width="6cm" height="4cm" viewBox="0 0 60 40"', 40),
        ('width="2in" height="2in" viewBox="0 0 100 100"', 20.32),
    ],
)
def test_the_view_box_gives_the_size(head, size):
    found = read_drawing(svg('<rect width="40" height="40"/>', head), "a.svg")
    assert found.size_given
    assert found.size == pytest.approx((size, size), rel=1e-6)


@pytest.mark.parametrize(
    "head", ['viewBox="0 0 60 40"', 'width="100%" height="100%" viewBox="0 0 60 40"', 'width="60" height="40"']
)
def test_a_size_that_is_no_size_has_to_be_told(head):
    data = svg('<rect width="20" height="10"/>', head)
    assert not read_drawing(data, "a.svg").size_given
    told = read_drawing(data, "a.svg", 1.0)
    assert told.size_given
    assert told.size == pytest.approx((20, 10))


def test_up_is_up():
    found = read_drawing(svg('<path d="M0 0h30v10h-30z"/><path d="M0 30h10v10h-10z"/>'), "a.svg")
    low = min(found.figure.curves, key=lambda curve: curve.nodes[:, 0].max())
    assert low.nodes[:, 1].max() == pytest.approx(10)


@pytest.mark.parametrize(
    ("inside", "word"),
    [
        ("<text>Acorn</text>", "Text"),
        ('<image href="data:image/png;base64,AAAA" width="2" height="2"/>', "picture"),
        ("<script>alert(1)</script>", "script"),
        ('<use href="http://elsewhere/a.svg#b"/>', "Links"),
    ],
)
def test_what_is_left_out_is_named(inside, word):
    found = read_drawing(svg(f'<rect width="5" height="5"/>{inside}'), "a.svg")
    assert any(word in remark for remark in found.remarks)
    assert figure_region(found.figure).area == pytest.approx(25, rel=1e-5)


@pytest.mark.parametrize(
    ("data", "name", "words"),
    [
        (b"", "a.svg", "empty file"),
        (b"not a drawing", "a.svg", "not an SVG file"),
        (svg(""), "a.svg", "holds no shapes"),
        (b'<!DOCTYPE svg [<!ENTITY a "b"><!ENTITY c "&a;&a;">]>' + svg("<rect/>"), "a.svg", "XML entities"),
        (b'<!DOCTYPE svg [<!ENTITY a SYSTEM "other.txt">]>' + svg("<rect/>"), "a.svg", "another file"),
        (svg('<rect width="5" height="5"/>')[:-8], "a.svg", "damaged"),
        (b"x", "a.pdf", ".svg or .dxf"),
        (b"\0\1\2 nothing", "a.dxf", "cannot be read as DXF"),
    ],
)
def test_bad_drawings_are_refused_in_one_sentence(data, name, words):
    with pytest.raises(BadDrawingError, match=words):
        read_drawing(data, name)


def dxf(draw, unit: int = units.MM) -> bytes:
    document = ezdxf.new("R2010", units=unit)
    draw(document.modelspace(), document)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode()


def four_lines(space, _document):
    corners = [(0, 0), (20, 0), (20, 10), (0, 10)]
    for start, end in zip(corners, [*corners[1:], corners[0]], strict=True):
        space.add_line(start, end)


def bulged(space, _document):
    space.add_lwpolyline([(0, 0, 0, 0, 1), (10, 0, 0, 0, 1)], close=True)


def block(space, document):
    part = document.blocks.new("part")
    part.add_circle((0, 0), 2)
    for x in (0, 10, 20):
        space.add_blockref("part", (x, 0), dxfattribs={"xscale": 2, "yscale": 2})


def hatch(space, _document):
    space.add_hatch().paths.add_polyline_path([(0, 0), (8, 0), (8, 5), (0, 5)], is_closed=True)


@pytest.mark.parametrize(
    ("draw", "expected"),
    [
        (four_lines, 200),
        (bulged, np.pi * 25),
        (block, 3 * np.pi * 16),
        (hatch, 40),
        (lambda space, _: space.add_circle((3, 4), 5), np.pi * 25),
        (lambda space, _: space.add_ellipse((0, 0), (6, 0), 0.5), np.pi * 18),
        (lambda space, _: (space.add_arc((0, 0), 5, 0, 180), space.add_line((-5, 0), (5, 0))), np.pi * 12.5),
    ],
)
def test_entities_of_a_dxf_have_their_area(draw, expected):
    assert area(dxf(draw), "a.dxf") == pytest.approx(expected, rel=3e-4)


def test_a_dxf_says_its_unit_or_is_asked():
    inches = read_drawing(dxf(four_lines, units.IN), "a.dxf")
    assert inches.size_given
    assert inches.size == pytest.approx((508, 254))
    silent = read_drawing(dxf(four_lines, 0), "a.dxf")
    assert not silent.size_given
    assert read_drawing(dxf(four_lines, 0), "a.dxf", 10.0).size == pytest.approx((200, 100))


def test_a_dxf_of_a_unit_that_nobody_knows_is_asked_for_it():
    strange = dxf(four_lines).replace(b"$INSUNITS\n 70\n4\n", b"$INSUNITS\n 70\n99\n")
    assert strange != dxf(four_lines)
    assert not read_drawing(strange, "a.dxf").size_given


def test_a_dxf_of_bodies_is_refused_and_text_is_named():
    with pytest.raises(BadDrawingError, match="Bodies in space"):
        read_drawing(dxf(lambda space, _: space.add_3dface([(0, 0, 0), (1, 0, 0), (1, 1, 5), (0, 1, 5)])), "a.dxf")
    found = read_drawing(dxf(lambda space, document: (four_lines(space, document), space.add_text("Acorn"))), "a.dxf")
    assert any("Text" in remark for remark in found.remarks)


def leaf() -> Figure:
    """A part with curved edges and a hole, and a stroke."""
    knots = np.array(
        [[[-4, 0], [0, 0], [4, 0]], [[30, 8], [30, 12], [30, 20]], [[10, 30], [0, 24], [-6, 20]]], dtype=float
    )
    hole = polygon_curve(np.array([[6, 6], [6, 10], [12, 10], [12, 6]]))
    stroke = Curve(np.array([[[8, 14], [8, 14], [10, 15]], [[14, 14], [16, 15], [16, 15]]], dtype=float), False, 0.8)
    return Figure((Layer("Leaf", (Curve(knots), hole)), Layer("Vein & line", (stroke,), 0.2)))


@pytest.mark.parametrize("form", ["svg", "polylines", "splines"])
def test_outlines_come_back_with_their_area(form):
    figure = leaf()
    if form == "svg":
        found = read_drawing(svg_bytes(figure), "back.svg")
    else:
        found = read_drawing(dxf_bytes(figure, splines=form == "splines"), "back.dxf")
    assert found.size_given
    assert not found.remarks
    assert figure_region(found.figure, 1e-6).area == pytest.approx(figure_region(figure, 1e-6).area, rel=2e-5)


@pytest.mark.parametrize("place", [(0, 0), (5000, -3000)])
def test_bulges_of_a_written_circle_are_those_of_its_arcs(place):
    data = dxf_bytes(Figure((Layer("Disc", (circle(*place, 10),)),)))
    (line,) = ezdxf.read(io.StringIO(data.decode())).modelspace()
    nodes = np.array(line.get_points("xyb"))
    turns = np.diff(np.unwrap(np.arctan2(nodes[:, 1] - place[1], nodes[:, 0] - place[0])), append=np.nan)[:-1]
    assert len(nodes) < 300
    assert nodes[:-1, 2] == pytest.approx(np.tan(turns / 4), rel=0.02)


def test_bulges_of_an_open_curve_with_a_straight_side():
    places = [[[0, 0], [0, 0], [0, 0]], [[10, 0], [10, 0], [14, 0]], [[20, 6], [20, 10], [20, 10]]]
    knots = np.array(places, dtype=float)
    (line,) = ezdxf.read(io.StringIO(dxf_bytes(Figure((Layer("", (Curve(knots, False),)),))).decode())).modelspace()
    nodes = np.array(line.get_points("xyb"))
    assert not line.closed
    assert nodes[0] == pytest.approx([0, 0, 0])
    assert nodes[-1] == pytest.approx([20, 10, 0])
    assert (nodes[1:-1, 2] > 0).all()


def test_a_written_dxf_is_closed_polylines_or_splines_in_millimetres():
    for splines, wanted in ((False, {"LWPOLYLINE"}), (True, {"LWPOLYLINE", "SPLINE"})):
        document = ezdxf.read(io.StringIO(dxf_bytes(Figure(leaf().layers[:1]), splines).decode()))
        assert (document.dxfversion, document.units) == ("AC1024", units.MM)
        kinds = {entity.dxftype() for entity in document.modelspace()}
        assert kinds == wanted
        assert not document.audit().has_errors
