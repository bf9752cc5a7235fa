"""What a person sees of DXF files: one feature a file, with the area, box, parts and holes that follow by hand."""

# ruff: noqa: E501  a file a line reads best

import io
import math
from collections.abc import Callable
from typing import Any, NamedTuple

import ezdxf
import pytest

from nebrel.core.errors import BadDrawingError, TooLargeError
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.region.curves import figure_region

PI = math.pi
SQUARE = [(0, 0), (10, 0), (10, 10), (0, 10)]


def new(unit: int = 4) -> Any:
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = unit
    return document


def as_text(document: Any) -> bytes:
    held = io.StringIO()
    document.write(held)
    return held.getvalue().encode()


def square(space: Any, x: float = 0, y: float = 0, side: float = 10, **attributes: Any) -> Any:
    places = [(x, y), (x + side, y), (x + side, y + side), (x, y + side)]
    return space.add_lwpolyline(places, close=True, dxfattribs=attributes)


class Seen(NamedTuple):
    """How a file is drawn, and what is seen of it: mm², width and height in mm, parts and holes."""

    draw: Callable[[Any, Any], object]
    area: float
    size: tuple[float, float]
    parts: int = 1
    holes: int = 0
    remark: str = ""


def on_layer(name: str, **how: Any) -> Callable[[Any, Any], object]:
    """A square of 5 on layer 0, and one of 50 on a layer that is not seen."""

    def draw(document: Any, space: Any) -> None:
        layer = document.layers.add(name)
        for what, value in how.items():
            getattr(layer, what)() if value is True else setattr(layer.dxf, what, value)
        square(space, side=50, layer=name)
        square(space, side=5)

    return draw


def beside(add: Callable[[Any], object]) -> Callable[[Any, Any], object]:
    """A square of 5 and something that is left out."""

    def draw(_: Any, space: Any) -> None:
        square(space, side=5)
        add(space)

    return draw


def lines(*places: tuple[float, float]) -> Callable[[Any, Any], object]:
    def draw(_: Any, space: Any) -> None:
        for here, there in zip(places, [*places[1:], places[0]], strict=True):
            space.add_line(here, there)

    return draw


def block(placed: Callable[[Any], object]) -> Callable[[Any, Any], object]:
    """A block with a square of 10 from its origin."""

    def draw(document: Any, space: Any) -> None:
        square(document.blocks.new("B"))
        placed(space)

    return draw


def hatch(space: Any, *edges: list[tuple[float, float]], **attributes: Any) -> Any:
    found = space.add_hatch(dxfattribs=attributes)
    for number, edge in enumerate(edges):
        found.paths.add_polyline_path(edge, is_closed=True, flags=1 if number == 0 else 16)
    return found


def nested_layer(document: Any, space: Any) -> None:
    document.layers.add("gone").off()
    square(document.blocks.new("B"), side=50)
    space.add_blockref("B", (0, 0), dxfattribs={"layer": "gone"})
    square(space, side=5)


def of_block_layer(document: Any, space: Any) -> None:
    document.layers.add("gone").freeze()
    inner = document.blocks.new("B")
    square(inner, side=5)
    square(inner, side=50, layer="gone")
    space.add_blockref("B", (0, 0))


def with_holes(_: Any, space: Any) -> None:
    square(space, side=40)
    space.add_circle((20, 20), 10)


def with_ring(_: Any, space: Any) -> None:
    square(space, side=40)
    square(space, 5, 5, 30)
    square(space, 10, 10, 20)


def hatched_square(_: Any, space: Any) -> None:
    square(space)
    hatch(space, SQUARE)


def hatched_ring(_: Any, space: Any) -> None:
    hatch(space, [(0, 0), (40, 0), (40, 40), (0, 40)], [(10, 10), (30, 10), (30, 30), (10, 30)])


def dimension(space: Any) -> None:
    space.add_linear_dim(base=(0, 30), p1=(0, 0), p2=(50, 0)).render()


FEATURES = {
    "polyline": Seen(lambda _, s: square(s), 100, (10, 10)),
    "lines": Seen(lines(*SQUARE), 100, (10, 10)),
    "lines-any-order": Seen(lines(SQUARE[2], SQUARE[3], SQUARE[0], SQUARE[1]), 100, (10, 10)),
    "circle": Seen(lambda _, s: s.add_circle((5, 5), 10), 100 * PI, (20, 20)),
    "arcs": Seen(lambda _, s: (s.add_arc((0, 0), 10, 0, 180), s.add_arc((0, 0), 10, 180, 360)), 100 * PI, (20, 20)),
    "arc-and-line": Seen(lambda _, s: (s.add_arc((0, 0), 10, 0, 180), s.add_line((-10, 0), (10, 0))), 50 * PI, (20, 10)),
    "ellipse": Seen(lambda _, s: s.add_ellipse((0, 0), (20, 0), 0.5), 200 * PI, (40, 20)),
    "bulge": Seen(lambda _, s: s.add_lwpolyline([(0, 0, 1), (20, 0, 1)], format="xyb", close=True), 100 * PI, (20, 20)),
    "old-polyline": Seen(lambda _, s: s.add_polyline2d(SQUARE, close=True), 100, (10, 10)),
    "flat-3d-polyline": Seen(lambda _, s: s.add_polyline3d([(*place, 0) for place in SQUARE], close=True), 100, (10, 10)),
    "spline": Seen(lambda _, s: (s.add_open_spline([(0, 0), (0, 10), (10, 10), (10, 0)]), s.add_line((0, 0), (10, 0))), 60, (10, 7.5)),
    "solid": Seen(lambda _, s: s.add_solid([(0, 0), (10, 0), (0, 10), (10, 10)]), 100, (10, 10)),
    "hole": Seen(with_holes, 1600 - 100 * PI, (40, 40), 1, 1),
    "ring-and-island": Seen(with_ring, 1600 - 900 + 400, (40, 40), 2, 1),
    "two-parts": Seen(lambda _, s: (square(s), square(s, 20)), 200, (30, 10), 2),
    "two-layers-together": Seen(lambda _, s: (square(s), square(s, 5, layer="other")), 150, (15, 10)),
    # Widths
    "wide-line": Seen(lambda _, s: s.add_lwpolyline([(0, 0), (40, 0)], dxfattribs={"const_width": 4}), 160, (40, 4)),
    "wide-corner": Seen(lambda _, s: s.add_lwpolyline([(0, 0), (40, 0), (40, 40)], dxfattribs={"const_width": 4}), 320, (42, 42)),
    "wide-ring": Seen(lambda _, s: s.add_lwpolyline(SQUARE, close=True, dxfattribs={"const_width": 2}), 80, (12, 12), 1, 1),
    "wide-by-vertex": Seen(lambda _, s: s.add_lwpolyline([(0, 0, 4, 4), (40, 0, 4, 4)], format="xyse"), 160, (40, 4)),
    "tapered": Seen(lambda _, s: s.add_lwpolyline([(0, 0, 6, 0), (30, 0, 0, 0)], format="xyse"), 90, (30, 6)),
    "wide-old-polyline": Seen(lambda _, s: s.add_polyline2d([(0, 0), (40, 0)], dxfattribs={"default_start_width": 4, "default_end_width": 4}), 160, (40, 4)),
    # Hatches
    "hatch": Seen(lambda _, s: hatch(s, SQUARE), 100, (10, 10)),
    "hatch-on-its-edge": Seen(hatched_square, 100, (10, 10)),
    "hatch-with-hole": Seen(hatched_ring, 1200, (40, 40), 1, 1),
    "pattern-hatch": Seen(lambda _, s: hatch(s, SQUARE).set_pattern_fill("ANSI31"), 100, (10, 10)),
    # Blocks
    "block": Seen(block(lambda s: s.add_blockref("B", (5, 5))), 100, (10, 10)),
    "block-scaled": Seen(block(lambda s: s.add_blockref("B", (0, 0), dxfattribs={"xscale": 2, "yscale": 3})), 600, (20, 30)),
    "block-turned": Seen(block(lambda s: s.add_blockref("B", (0, 0), dxfattribs={"rotation": 45})), 100, (10 * 2**0.5,) * 2),
    "block-mirrored": Seen(block(lambda s: s.add_blockref("B", (0, 0), dxfattribs={"xscale": -1})), 100, (10, 10)),
    "block-in-rows": Seen(block(lambda s: s.add_blockref("B", (0, 0), dxfattribs={"column_count": 3, "row_count": 2, "column_spacing": 20, "row_spacing": 20})), 600, (50, 30), 6),
    "block-unused": Seen(block(lambda s: square(s, side=5)), 25, (5, 5)),
    "block-on-layer-off": Seen(nested_layer, 25, (5, 5), remark="“gone”"),
    "layer-within-block": Seen(of_block_layer, 25, (5, 5), remark="“gone”"),
    # What is not seen
    "layer-off": Seen(on_layer("gone", off=True), 25, (5, 5), remark="“gone”"),
    "layer-frozen": Seen(on_layer("gone", freeze=True), 25, (5, 5), remark="“gone”"),
    "layer-not-printed": Seen(on_layer("gone", plot=0), 25, (5, 5), remark="“gone”"),
    "defpoints": Seen(lambda _, s: (square(s, side=50, layer="Defpoints"), square(s, side=5)), 25, (5, 5), remark="Defpoints"),
    "invisible": Seen(lambda _, s: (square(s, side=50, invisible=1), square(s, side=5)), 25, (5, 5), remark="Invisible"),
    "dimension": Seen(beside(dimension), 25, (5, 5), remark="Dimensions"),
    "leader": Seen(beside(lambda s: s.add_leader([(0, 0), (50, 50)])), 25, (5, 5), remark="Dimensions"),
    "construction-line": Seen(beside(lambda s: s.add_xline((0, 0), (1, 1))), 25, (5, 5), remark="Construction"),
    "ray": Seen(beside(lambda s: s.add_ray((0, 0), (1, 1))), 25, (5, 5), remark="Construction"),
    "point": Seen(beside(lambda s: s.add_point((90, 90))), 25, (5, 5), remark="Construction"),
    "text": Seen(beside(lambda s: s.add_text("fern")), 25, (5, 5), remark="Text"),
    "mtext": Seen(beside(lambda s: s.add_mtext("fern")), 25, (5, 5), remark="Text"),
    "face": Seen(beside(lambda s: s.add_3dface([(0, 0, 0), (50, 0, 0), (50, 50, 9)])), 25, (5, 5), remark="Bodies"),
    "paper-space": Seen(lambda d, s: (square(d.layout("Layout1"), side=50), square(s, side=5)), 25, (5, 5)),
}  # fmt: skip


@pytest.mark.parametrize("name", FEATURES)
def test_a_feature_is_read_as_it_is_seen(name):
    wanted = FEATURES[name]
    document = new()
    wanted.draw(document, document.modelspace())
    found = read_drawing(as_text(document), f"{name}.dxf")
    region = figure_region(found.figure, 0.0005)
    assert region.area == pytest.approx(wanted.area, rel=2e-3)
    assert found.size == pytest.approx(wanted.size, rel=2e-3)
    assert (len(region.geoms), sum(len(part.interiors) for part in region.geoms)) == (wanted.parts, wanted.holes)
    assert any(wanted.remark in remark for remark in found.remarks) if wanted.remark else found.remarks == ()


UNITS = {1: 25.4, 2: 304.8, 4: 1, 5: 10, 6: 1000, 9: 0.0254, 10: 914.4, 13: 1e-3, 14: 100, 21: 304.8006096}


@pytest.mark.parametrize("code", UNITS)
def test_every_unit_is_known(code):
    document = new(code)
    square(document.modelspace(), side=1)
    found = read_drawing(as_text(document), "a.dxf")
    assert found.stated
    assert found.size[0] == pytest.approx(UNITS[code], rel=1e-9)


def test_what_is_larger_than_any_workshop_is_refused():
    for code in (3, 7, 15, 16, 17, 18, 19, 20, 24):
        document = new(code)
        square(document.modelspace(), side=1000)
        with pytest.raises(BadDrawingError, match="unit"):
            read_drawing(as_text(document), "a.dxf")


def test_a_file_without_a_unit_does_not_state_its_size():
    document = new(0)
    square(document.modelspace())
    assert not read_drawing(as_text(document), "a.dxf").stated
    assert read_drawing(as_text(document), "a.dxf", 25.4).size == pytest.approx((254, 254))


def test_ends_within_a_stated_reach_are_joined_and_told():
    document = new()
    space = document.modelspace()
    for here, there in (((0, 0), (9.97, 0)), ((10, 0), (10, 9.96)), ((10, 10), (0, 10)), ((0, 9.98), (0, 0.03))):
        space.add_line(here, there)
    data = as_text(document)
    assert figure_region(read_drawing(data, "a.dxf").figure).area == 0
    found = read_drawing(data, "a.dxf", join=0.05)
    assert figure_region(found.figure).area == pytest.approx(100, rel=0.01)
    assert any("4 gaps were closed" in remark for remark in found.remarks)


def test_binary_files_are_read():
    document = new()
    square(document.modelspace())
    held = io.BytesIO()
    document.write(held, fmt="bin")
    assert figure_region(read_drawing(held.getvalue(), "a.dxf").figure).area == pytest.approx(100)


def test_blocks_that_come_to_more_than_anyone_drew_are_refused_at_once():
    document = new()
    square(document.blocks.new("B0"))
    for level in range(1, 9):
        inner = document.blocks.new(f"B{level}")
        for at in range(10):
            inner.add_blockref(f"B{level - 1}", (at, 0))
    document.modelspace().add_blockref("B8", (0, 0))
    with pytest.raises(TooLargeError, match="blocks in blocks"):
        read_drawing(as_text(document), "a.dxf")


def test_a_block_within_itself_is_refused():
    document = new()
    inner = document.blocks.new("B")
    square(inner)
    inner.add_blockref("B", (1, 1))
    document.modelspace().add_blockref("B", (0, 0))
    with pytest.raises(BadDrawingError, match="into itself"):
        read_drawing(as_text(document), "a.dxf")


@pytest.mark.parametrize("cut", range(1, 10))
def test_a_truncated_file_is_refused_or_read(cut):
    document = new()
    square(document.modelspace())
    data = as_text(document)
    try:
        found = read_drawing(data[: len(data) * cut // 10], "a.dxf")
    except BadDrawingError:
        return
    assert figure_region(found.figure).area == pytest.approx(100)


def test_there_are_as_many_files_as_promised():
    assert len(FEATURES) + len(UNITS) >= 58
