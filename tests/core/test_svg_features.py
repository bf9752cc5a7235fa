"""What a person sees of SVG files: one feature a file, with the area, box, parts and holes that follow by hand."""

# ruff: noqa: E501  a file a line reads best

import math
from typing import NamedTuple

import numpy as np
import pytest
import shapely
from shapely.affinity import rotate, scale, translate

from nebrel.core.errors import BadDrawingError, NebrelError
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.region.curves import figure_region

PAGE = 'width="100mm" height="100mm" viewBox="0 0 100 100"'
LINE = 'fill="none" stroke="#000"'
PI = math.pi


def svg(inside: str, head: str = PAGE, before: str = "") -> bytes:
    names = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'
    return f"{before}<svg {names} {head}>{inside}</svg>".encode()


class Seen(NamedTuple):
    """One file and what is seen of it: mm², width and height in mm, parts and holes."""

    inside: str
    area: float
    size: tuple[float, float]
    parts: int = 1
    holes: int = 0
    head: str = PAGE


FEATURES = {
    "rect": Seen('<rect x="10" y="10" width="20" height="30"/>', 600, (20, 30)),
    "rounded": Seen('<rect x="10" y="10" width="20" height="30" rx="5"/>', 600 - (4 - PI) * 25, (20, 30)),
    "rounded-two-ways": Seen('<rect width="20" height="30" rx="5" ry="10"/>', 600 - (4 - PI) * 50, (20, 30)),
    "rounded-too-much": Seen('<rect width="20" height="20" rx="50"/>', 100 * PI, (20, 20)),
    "circle": Seen('<circle cx="50" cy="50" r="20"/>', 400 * PI, (40, 40)),
    "ellipse": Seen('<ellipse cx="50" cy="50" rx="20" ry="10"/>', 200 * PI, (40, 20)),
    "ellipse-auto": Seen('<ellipse cx="50" cy="50" rx="20"/>', 400 * PI, (40, 40)),
    "polygon": Seen('<polygon points="10,10 50,10 10,50"/>', 800, (40, 40)),
    "polyline-filled": Seen('<polyline points="10,10 50,10 10,50"/>', 800, (40, 40)),
    "open-path-filled": Seen('<path d="M10 10H50V50"/>', 800, (40, 40)),
    "relative-path": Seen('<path d="m10 10h20v20h-20z m30 0h20v20h-20z"/>', 800, (50, 20), 2),
    "implicit-lines": Seen('<path d="M10,10 30,10 30 30 10 30Z"/>', 400, (20, 20)),
    "arc-flags-glued": Seen('<path d="M20 40a20 20 0 0140 0z"/>', 200 * PI, (40, 20)),
    "arc-too-small": Seen('<path d="M20 40A5 5 0 0 1 60 40z"/>', 200 * PI, (40, 20)),
    "smooth-quadratic": Seen('<path d="M0 50Q10 30 20 50T40 50"/>', 2 * 400 / 3 * 0.5 * 2, (40, 20), 2),
    "path-up-to-mistake": Seen('<path d="M10 10H30V30H10ZL nothing"/>', 400, (20, 20)),
    "nonzero": Seen('<path d="M10 10h40v40h-40zM20 20h20v20h-20z"/>', 1600, (40, 40)),
    "evenodd": Seen('<path fill-rule="evenodd" d="M10 10h40v40h-40zM20 20h20v20h-20z"/>', 1200, (40, 40), 1, 1),
    "evenodd-by-style": Seen('<path style="fill-rule:evenodd" d="M10 10h40v40h-40zM20 20h20v20h-20z"/>', 1200, (40, 40), 1, 1),
    "hole-by-direction": Seen('<path d="M10 10h40v40h-40zM20 20v20h20v-20z"/>', 1200, (40, 40), 1, 1),
    "translate": Seen('<rect transform="translate(10 5)" width="20" height="20"/>', 400, (20, 20)),
    "rotate-about": Seen('<rect transform="rotate(45 50 50)" x="40" y="40" width="20" height="20"/>', 400, (20 * 2**0.5,) * 2),
    "skew": Seen('<rect transform="skewX(45)" x="10" y="10" width="20" height="20"/>', 400, (40, 20)),
    "matrix": Seen('<rect transform="matrix(2 0 0 1 5 0)" width="20" height="20"/>', 800, (40, 20)),
    "nested-groups": Seen('<g transform="scale(2)"><g transform="translate(5 5)"><rect width="10" height="10"/></g></g>', 400, (20, 20)),
    "css-transform": Seen('<rect style="transform:translate(10px,10px)" width="20" height="20"/>', 400, (20, 20)),
    # Strokes
    "butt": Seen(f'<path d="M10 50H90" {LINE} stroke-width="4"/>', 320, (80, 4)),
    "square-cap": Seen(f'<path d="M10 50H90" {LINE} stroke-width="4" stroke-linecap="square"/>', 336, (84, 4)),
    "round-cap": Seen(f'<path d="M10 50H90" {LINE} stroke-width="4" stroke-linecap="round"/>', 320 + 4 * PI, (84, 4)),
    "dot-round": Seen(f'<path d="M50 50h0" {LINE} stroke-width="8" stroke-linecap="round"/>', 16 * PI, (8, 8)),
    "dot-square": Seen(f'<path d="M50 50h0" {LINE} stroke-width="8" stroke-linecap="square"/>', 64, (8, 8)),
    "miter": Seen(f'<path d="M10 10H50V50" {LINE} stroke-width="4"/>', 320, (42, 42)),
    "bevel": Seen(f'<path d="M10 10H50V50" {LINE} stroke-width="4" stroke-linejoin="bevel"/>', 318, (42, 42)),
    "round-join": Seen(f'<path d="M10 10H50V50" {LINE} stroke-width="4" stroke-linejoin="round"/>', 316 + PI, (42, 42)),
    # A tip of 2 asin(1/5) reaches five widths, beyond the limit of four, and is cut off.
    "miter-limit": Seen(f'<path d="M10 20L59 10L10 0" {LINE} stroke-width="2"/>', 192.86, (49.4, 20.98)),
    "miter-within": Seen(f'<path d="M10 20L59 10L10 0" {LINE} stroke-width="2" stroke-miterlimit="9"/>', 197.56, (54.2, 20.96)),
    "closed-stroke": Seen(f'<rect x="10" y="10" width="40" height="20" {LINE} stroke-width="2"/>', 240, (42, 22), 1, 1),
    "polygon-stroke": Seen(f'<polygon points="10,10 50,10 50,30 10,30" {LINE} stroke-width="2"/>', 240, (42, 22), 1, 1),
    "fill-and-stroke": Seen('<rect x="10" y="10" width="40" height="20" stroke="#000" stroke-width="2"/>', 924, (42, 22)),
    "dashes": Seen(f'<path d="M0 50H100" {LINE} stroke-width="4" stroke-dasharray="10"/>', 200, (90, 4), 5),
    "dashes-odd": Seen(f'<path d="M0 50H60" {LINE} stroke-width="4" stroke-dasharray="10 5 5"/>', 140, (60, 4), 5),
    "dash-offset": Seen(f'<path d="M0 50H100" {LINE} stroke-width="4" stroke-dasharray="10" stroke-dashoffset="5"/>', 200, (100, 4), 6),
    "dashes-in-percent": Seen(f'<path d="M0 50H100" {LINE} stroke-width="4" stroke-dasharray="10%"/>', 200, (90, 4), 5),
    "dashes-round": Seen(f'<path d="M10 50H49" {LINE} stroke-width="4" stroke-dasharray="0 10" stroke-linecap="round"/>', 16 * PI, (34, 4), 4),
    "stroke-scaled": Seen(f'<g transform="scale(2)"><path d="M10 25H40" {LINE} stroke-width="2"/></g>', 240, (60, 4)),
    "stroke-one-way": Seen(f'<g transform="scale(1 3)"><path d="M10 25H40" {LINE} stroke-width="2"/></g>', 180, (30, 6)),
    "non-scaling": Seen(f'<g transform="scale(2)"><path d="M10 25H40" {LINE} stroke-width="2" vector-effect="non-scaling-stroke"/></g>', 60 * 2 * 25.4 / 96, (60, 2 * 25.4 / 96)),
    "not-closed-twice": Seen('<path d="M10 10h20v20h-20v-20z"/>', 400, (20, 20)),
    "width-in-percent": Seen(f'<path d="M10 50H90" {LINE} stroke-width="4%"/>', 320, (80, 4)),
    "width-in-mm": Seen(f'<path d="M10 50H90" {LINE} stroke-width="1mm"/>', 80 * 96 / 25.4, (80, 96 / 25.4)),
    "stroke-zero": Seen(f'<path d="M10 50H90" {LINE} stroke-width="0"/><rect width="5" height="5"/>', 25, (5, 5)),
    "stroke-first": Seen('<rect x="10" y="10" width="20" height="20" fill="#000" stroke="#fff" stroke-width="4" paint-order="stroke"/>', 400, (20, 20)),
    # Copies
    "use": Seen('<defs><rect id="r" width="10" height="10"/></defs><use href="#r" x="10"/><use xlink:href="#r" x="40"/>', 200, (40, 10), 2),
    "use-of-use": Seen('<rect id="r" width="10" height="10"/><use id="u" href="#r" x="20"/><use href="#u" y="20"/>', 300, (30, 30), 3),
    "symbol": Seen('<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><use href="#s" x="10" y="10" width="20" height="20"/>', 400, (20, 20)),
    "symbol-fitted": Seen('<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol><use href="#s" width="40" height="20"/>', 400, (20, 20)),
    "symbol-stretched": Seen('<symbol id="s" viewBox="0 0 10 10" preserveAspectRatio="none"><rect width="10" height="10"/></symbol><use href="#s" width="40" height="20"/>', 800, (40, 20)),
    "symbol-cut": Seen('<symbol id="s" viewBox="0 0 10 10"><rect width="30" height="10"/></symbol><use href="#s" width="20" height="20"/>', 400, (20, 20)),
    "symbol-alone": Seen('<symbol id="s"><rect width="30" height="10"/></symbol><rect width="5" height="5"/>', 25, (5, 5)),
    "style-through-use": Seen('<defs><path id="p" d="M10 50H90" stroke-width="4"/></defs><use href="#p" stroke="#000" fill="none"/>', 320, (80, 4)),
    "nested-svg": Seen('<svg x="10" y="10" width="20" height="20" viewBox="0 0 2 2"><rect width="2" height="2"/></svg>', 400, (20, 20)),
    "nested-svg-cut": Seen('<svg x="10" y="10" width="20" height="20"><rect width="50" height="50"/></svg>', 400, (20, 20)),
    "nested-svg-visible": Seen('<svg x="10" y="10" width="20" height="20" overflow="visible"><rect width="50" height="50"/></svg>', 2500, (50, 50)),
    "switch": Seen('<switch><rect width="10" height="10"/><rect width="50" height="50"/></switch>', 100, (10, 10)),
    "link": Seen('<a href="#x"><rect width="10" height="10"/></a>', 100, (10, 10)),
    # What is seen of what
    "clip": Seen('<clipPath id="c"><rect width="50" height="100"/></clipPath><rect clip-path="url(#c)" x="10" y="10" width="80" height="10"/>', 400, (40, 10)),
    "clip-of-group": Seen('<clipPath id="c"><circle cx="20" cy="20" r="10"/></clipPath><g clip-path="url(#c)"><rect width="90" height="90"/></g>', 100 * PI, (20, 20)),
    "clip-in-shares": Seen('<clipPath id="c" clipPathUnits="objectBoundingBox"><rect width=".5" height="1"/></clipPath><rect clip-path="url(#c)" x="10" y="10" width="40" height="20"/>', 400, (20, 20)),
    "clip-rule": Seen('<clipPath id="c"><path clip-rule="evenodd" d="M0 0h40v40h-40zM10 10h20v20h-20z"/></clipPath><rect clip-path="url(#c)" width="90" height="90"/>', 1200, (40, 40), 1, 1),
    "clip-that-takes-nothing": Seen('<clipPath id="c"><rect width="100" height="100"/></clipPath><circle clip-path="url(#c)" cx="50" cy="50" r="20"/>', 400 * PI, (40, 40)),
    "clipped-clip": Seen('<clipPath id="a"><rect width="20" height="90"/></clipPath><clipPath id="c" clip-path="url(#a)"><rect width="90" height="30"/></clipPath><rect clip-path="url(#c)" width="90" height="90"/>', 600, (20, 30)),
    "mask": Seen('<mask id="m"><rect width="100" height="100" fill="#fff"/><circle cx="50" cy="50" r="10"/></mask><rect x="30" y="30" width="40" height="40" mask="url(#m)"/>', 1600 - 100 * PI, (40, 40), 1, 1),
    "mask-by-alpha": Seen('<mask id="m" mask-type="alpha"><rect width="20" height="100"/></mask><rect width="40" height="40" mask="url(#m)"/>', 800, (20, 40)),
    "white-on-top": Seen('<circle cx="50" cy="50" r="40"/><circle cx="50" cy="50" r="20" fill="white"/>', 1200 * PI, (80, 80), 1, 1),
    "white-stroke-cuts": Seen('<rect x="10" y="10" width="40" height="20"/><path d="M30 0V40" stroke="#fff" stroke-width="4"/>', 720, (40, 20), 2),
    "white-below": Seen('<circle cx="50" cy="50" r="20" fill="#fff"/><circle cx="50" cy="50" r="10"/>', 100 * PI, (20, 20)),
    "black-over-white-over-black": Seen('<rect x="10" y="10" width="60" height="60"/><rect x="20" y="20" width="40" height="40" fill="#fefefe"/><rect x="30" y="30" width="20" height="20"/>', 2400, (60, 60), 2, 1),
    "ground": Seen('<rect width="100" height="100" fill="#222"/><circle cx="50" cy="50" r="20" fill="#fff"/>', 400 * PI, (40, 40)),
    "ground-colour-cuts": Seen('<rect width="100%" height="100%" fill="#abc"/><rect x="10" y="10" width="60" height="60"/><rect x="20" y="20" width="40" height="40" fill="#abc"/>', 2000, (60, 60), 1, 1),
    "white-alone": Seen('<circle cx="50" cy="50" r="20" fill="#fff"/>', 400 * PI, (40, 40)),
    "off-page": Seen('<rect x="-50" y="10" width="100" height="10"/>', 500, (50, 10)),
    "faint-white-hides-nothing": Seen('<rect x="10" y="10" width="40" height="40"/><rect x="20" y="20" width="20" height="20" fill="#fff" opacity=".3"/>', 1600, (40, 40)),
    # What is not seen
    "display-none": Seen('<rect width="50" height="50" display="none"/><rect width="5" height="5"/>', 25, (5, 5)),
    "display-none-group": Seen('<g style="display:none"><rect width="50" height="50"/></g><rect width="5" height="5"/>', 25, (5, 5)),
    "hidden": Seen('<g visibility="hidden"><rect width="50" height="50"/><rect visibility="visible" width="5" height="5"/></g>', 25, (5, 5)),
    "opacity-0": Seen('<g opacity="0"><rect width="50" height="50"/></g><rect width="5" height="5"/>', 25, (5, 5)),
    "fill-opacity-0": Seen('<rect width="50" height="50" fill-opacity="0"/><rect width="5" height="5"/>', 25, (5, 5)),
    "fill-none": Seen('<rect width="50" height="50" fill="none"/><rect width="5" height="5"/>', 25, (5, 5)),
    "transparent": Seen('<rect width="50" height="50" fill="transparent"/><rect width="5" height="5"/>', 25, (5, 5)),
    "defs": Seen('<defs><rect width="50" height="50"/></defs><rect width="5" height="5"/>', 25, (5, 5)),
    "scaled-to-nothing": Seen('<g transform="scale(0)"><rect width="50" height="50"/></g><rect width="5" height="5"/>', 25, (5, 5)),
    "no-size": Seen('<rect width="0" height="50"/><circle r="0"/><rect width="5" height="5"/>', 25, (5, 5)),
    # Colours and styles
    "current-colour": Seen('<g color="#fff"><rect x="10" y="10" width="20" height="20" fill="currentColor"/></g><rect width="5" height="5"/>', 25, (5, 5)),
    "class": Seen('<style>.l{fill:none;stroke:#000;stroke-width:2}</style><rect class="l" x="10" y="10" width="20" height="20"/>', 160, (22, 22), 1, 1),
    "class-over-attribute": Seen('<style>.n{display:none}</style><rect class="n" width="50" height="50" display="inline"/><rect width="5" height="5"/>', 25, (5, 5)),
    "selector": Seen('<style>g > rect:first-child{fill:none}</style><g><rect width="50" height="50"/><rect width="5" height="5"/></g>', 25, (5, 5)),
    "important": Seen('<style>rect{fill:none !important}circle{fill:#000}</style><rect width="50" height="50"/><circle cx="50" cy="50" r="10"/>', 100 * PI, (20, 20)),
    "inherit": Seen('<g fill="none"><rect fill="inherit" width="50" height="50"/></g><rect width="5" height="5"/>', 25, (5, 5)),
    "gradient": Seen('<linearGradient id="g"><stop stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient><rect fill="url(#g)" width="20" height="20"/>', 400, (20, 20)),
    "missing-paint": Seen('<rect fill="url(#none)" width="50" height="50"/><rect fill="url(#none) #000" width="5" height="5"/>', 25, (5, 5)),
    # Markers
    "marker-end": Seen(f'<marker id="m" markerWidth="4" markerHeight="4" refX="2" refY="2" orient="auto"><rect width="4" height="4"/></marker><path d="M10 50H50" {LINE} stroke-width="2" marker-end="url(#m)"/>', 136, (44, 8)),
    "marker-units": Seen(f'<marker id="m" markerUnits="userSpaceOnUse" markerWidth="6" markerHeight="6" refX="3" refY="3"><rect width="6" height="6"/></marker><path d="M10 50H50" {LINE} stroke-width="2" marker-start="url(#m)"/>', 80 + 36 - 6, (43, 6)),
    "marker-mid": Seen(f'<marker id="m" markerUnits="userSpaceOnUse" markerWidth="6" markerHeight="6" refX="3" refY="3"><rect width="6" height="6"/></marker><path d="M10 50H30H50" {LINE} stroke-width="2" marker-mid="url(#m)"/>', 80 + 36 - 12, (40, 6)),
    "marker-turned": Seen(f'<marker id="m" markerUnits="userSpaceOnUse" markerWidth="8" markerHeight="2" refX="0" refY="1" orient="auto"><rect width="8" height="2"/></marker><path d="M50 10V50" {LINE} stroke-width="2" marker-end="url(#m)"/>', 96, (2, 48)),
    "marker-reversed": Seen(f'<marker id="m" markerUnits="userSpaceOnUse" markerWidth="8" markerHeight="2" refX="0" refY="1" orient="auto-start-reverse"><rect width="8" height="2"/></marker><path d="M50 10V50" {LINE} stroke-width="2" marker-start="url(#m)"/>', 96, (2, 48)),
    # Sizes
    "mm": Seen('<rect width="10" height="10"/>', 100, (10, 10), head='width="40mm" height="40mm" viewBox="0 0 40 40"'),
    "cm": Seen('<rect width="10" height="10"/>', 10000, (100, 100), head='width="40cm" height="40cm" viewBox="0 0 40 40"'),
    "inches": Seen('<rect width="1" height="1"/>', 25.4**2, (25.4, 25.4), head='width="4in" height="4in" viewBox="0 0 4 4"'),
    "points": Seen('<rect width="72" height="72"/>', 25.4**2, (25.4, 25.4), head='width="144pt" height="144pt" viewBox="0 0 144 144"'),
    "picas": Seen('<rect width="6" height="6"/>', 25.4**2, (25.4, 25.4), head='width="12pc" height="12pc" viewBox="0 0 12 12"'),
    "quarters": Seen('<rect width="40" height="40"/>', 100, (10, 10), head='width="80Q" height="80Q" viewBox="0 0 80 80"'),
    "no-view-box": Seen('<rect width="10mm" height="96"/>', 254, (10, 25.4), head='width="50mm" height="50mm"'),
    "width-alone": Seen('<rect width="10" height="10"/>', 400, (20, 20), head='width="80mm" viewBox="0 0 40 20"'),
    "height-alone": Seen('<rect width="10" height="10"/>', 400, (20, 20), head='height="40mm" viewBox="0 0 40 20"'),
    "other-ratio": Seen('<rect width="10" height="10"/>', 100, (10, 10), head='width="40mm" height="80mm" viewBox="0 0 40 40"'),
    "stretched-page": Seen('<rect width="10" height="10"/>', 200, (10, 20), head='width="40mm" height="80mm" viewBox="0 0 40 40" preserveAspectRatio="none"'),
    "shifted-view-box": Seen('<rect x="-20" y="-20" width="10" height="10"/>', 100, (10, 10), head='width="40mm" height="40mm" viewBox="-20 -20 40 40"'),
    "em": Seen('<g font-size="10"><rect width="2em" height="1em"/></g>', 200, (20, 10)),
    "rem": Seen('<g font-size="10"><rect width="1rem" height="1rem"/></g>', 256, (16, 16)),
    "percent": Seen('<rect width="50%" height="10%"/>', 500, (50, 10)),
    "radius-in-percent": Seen('<circle cx="50" cy="50" r="10%"/>', 100 * PI, (20, 20)),
}  # fmt: skip


@pytest.mark.parametrize("name", FEATURES)
def test_a_feature_is_read_as_it_is_seen(name):
    wanted = FEATURES[name]
    found = read_drawing(svg(wanted.inside, wanted.head), f"{name}.svg")
    region = figure_region(found.figure, 0.0005)
    assert region.area == pytest.approx(wanted.area, rel=1e-3)
    assert found.size == pytest.approx(wanted.size, rel=1e-3)
    assert (len(region.geoms), sum(len(part.interiors) for part in region.geoms)) == (wanted.parts, wanted.holes)


def test_there_are_as_many_features_as_promised():
    assert len(FEATURES) >= 120


def test_curves_stay_curves_under_clips_and_holes_that_take_nothing_of_them():
    for name in ("clip-that-takes-nothing", "white-on-top", "circle"):
        found = read_drawing(svg(FEATURES[name].inside), "a.svg")
        assert all(len(curve.knots) == 4 for curve in found.figure.curves), name


@pytest.mark.parametrize("page_mm", [1, 4, 16, 400])
def test_what_is_drawn_anew_is_as_exact_on_a_small_page(page_mm):
    # A star of three round bars, cut off at the page's left side.
    bars = "".join(f'<path transform="rotate({turn} 20 50)" d="M-10 50H50"/>' for turn in (0, 60, 120))
    star = f'<g {LINE} stroke-width="8" stroke-linecap="round">{bars}</g>'
    found = read_drawing(svg(star, f'width="{page_mm}mm" height="{page_mm}mm" viewBox="0 0 100 100"'), "a.svg")
    region = figure_region(found.figure, page_mm * 1e-6)
    along = shapely.LineString([(-30, 0), (30, 0)]).buffer(4, quad_segs=256)
    whole = shapely.union_all([rotate(along, turn, (0, 0)) for turn in (0, 60, 120)])
    seen = translate(whole.intersection(shapely.box(-20, -50, 80, 50)), 20, 0)
    low_x, low_y, *_ = seen.bounds
    wanted = translate(seen, -low_x, -low_y)
    made = scale(region, 100 / page_mm, 100 / page_mm, origin=(0, 0))
    assert made.area == pytest.approx(wanted.area, rel=2e-4)
    assert shapely.hausdorff_distance(made.boundary, wanted.boundary) < 0.05


@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "utf-16-le", "latin-1"])
def test_any_encoding_that_says_so_is_read(encoding):
    text = (
        f'<?xml version="1.0" encoding="{encoding.removesuffix("-le")}"?>'
        + svg('<title>grün</title><rect width="5" height="5"/>').decode()
    )
    mark = b"\xff\xfe" if encoding == "utf-16-le" else b""
    assert figure_region(read_drawing(mark + text.encode(encoding), "a.svg").figure).area == pytest.approx(25)


def test_text_entities_are_put_in():
    before = '<!DOCTYPE svg [<!ENTITY wide "20"><!ENTITY ns "http://www.w3.org/2000/svg">]>'
    found = read_drawing(svg('<rect width="&wide;" height="5"/>', before=before), "a.svg")
    assert figure_region(found.figure).area == pytest.approx(100)


def test_letters_of_a_shipped_typeface_are_drawn_where_they_stand():
    def at(anchor: str, x: float):
        text = f'<text x="{x}" y="50" text-anchor="{anchor}" font-family="Source Sans Pro" font-size="30">HI</text>'
        return figure_region(read_drawing(svg(text), "a.svg").figure)

    assert len(at("start", 10).geoms) == 2
    assert at("start", 10).area == pytest.approx(at("middle", 50).area, rel=1e-6)
    # Capitals of this face are 0.66 of its size.
    low, high = at("start", 10).bounds[1], at("start", 10).bounds[3]
    assert high - low == pytest.approx(0.66 * 30, rel=0.02)


def test_text_in_another_typeface_is_named():
    found = read_drawing(svg('<text y="50" font-family="Other">a</text><rect width="5" height="5"/>'), "a.svg")
    assert any("Other" in remark for remark in found.remarks)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (svg('<g id="a"><use href="#a"/></g>'), "into itself"),
        (svg('<use id="a" href="#b"/><use id="b" href="#a"/>'), "into itself"),
        (svg('<clipPath id="c"><rect clip-path="url(#c)" width="5" height="5"/></clipPath><rect clip-path="url(#c)" width="9" height="9"/>'), "by itself"),
        (svg("<g>" * 300 + "</g>" * 300), "nests more than"),
        (svg('<rect width="5"/>')[:-8], "damaged at line"),
        (svg("<defs>" + '<g id="a0"><rect width="1" height="1"/></g>' + "".join(f'<g id="a{n}">' + f'<use href="#a{n - 1}"/>' * 10 + "</g>" for n in range(1, 9)) + '</defs><use href="#a8"/>'), "than"),
        (svg('<path d="M0 0L1e400 5L5 5Z"/>'), "not numbers"),
        (svg(f'<path d="M0 0H90" {LINE} stroke-width="1" stroke-dasharray="0.00001"/>'), "dashes"),
        (b"<html/>", "not an SVG"),
    ],
)  # fmt: skip
def test_what_has_no_end_or_is_broken_is_refused_in_its_own_sentence(data, words):
    with pytest.raises(NebrelError, match=words):
        read_drawing(data, "a.svg")


def test_nothing_seen_is_refused():
    with pytest.raises(BadDrawingError, match="seen"):
        read_drawing(svg('<rect width="5" height="5" display="none"/>'), "a.svg")


def test_a_path_of_many_nodes_is_read():
    turns = np.linspace(0, 2 * np.pi, 100_000, endpoint=False)
    places = " ".join(f"{50 + 40 * np.cos(turn):.5f},{50 + 40 * np.sin(turn):.5f}" for turn in turns)
    assert figure_region(read_drawing(svg(f'<polygon points="{places}"/>'), "a.svg").figure).area == pytest.approx(
        1600 * PI, rel=1e-4
    )
