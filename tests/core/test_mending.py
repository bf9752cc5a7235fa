"""Mending outlines: each change against what it must give."""

from dataclasses import replace

import numpy as np
import pytest
import shapely

from nebrel.core.errors import BadValueError
from nebrel.core.region import mend, narrow, nodes
from nebrel.core.region.curves import Curve, Figure, Layer, bounds_of, figure_region, polygon_curve
from nebrel.core.region.flaws import find_flaws


def box(x: float, y: float, wide: float, deep: float, part: int = 0) -> Curve:
    corners = np.array([[x, y], [x + wide, y], [x + wide, y + deep], [x, y + deep]], dtype=float)
    return Curve(polygon_curve(corners).knots, True, None, part)


def open_line(*places: tuple[float, float], width: float | None = None) -> Curve:
    return polygon_curve(np.array(places, dtype=float), False, width)


def figure(*curves: Curve) -> Figure:
    return Figure((Layer("Drawn", curves),))


def area(found: Figure) -> float:
    return figure_region(found).area


@pytest.fixture
def boxes() -> Figure:
    """Two that overlap by 2 × 4, each a part of its own."""
    return figure(box(0, 0, 10, 4), box(8, 0, 10, 4, 1))


@pytest.mark.parametrize(("how", "expected"), [("union", 72), ("difference", 32), ("crossing", 8)])
def test_outlines_are_combined(boxes, how, expected):
    found = mend.combine(boxes, {0, 1}, how)
    assert area(found) == pytest.approx(expected, rel=1e-6)
    assert len(found.curves) == 1
    assert len(found.curves[0].nodes) <= 8


def test_combining_needs_two_and_something_left(boxes):
    with pytest.raises(BadValueError, match="at least two"):
        mend.combine(boxes, {0}, "union")
    with pytest.raises(BadValueError, match="Nothing is left"):
        mend.combine(figure(box(0, 0, 2, 2), box(9, 9, 2, 2)), {0, 1}, "crossing")


@pytest.mark.parametrize(
    ("join", "expected"),
    [("mitre", 12 * 14), ("round", 120 + 2 * 22 - 4 * (1 - 1) + np.pi), ("bevel", 12 * 14 - 4 * 0.5)],
)
def test_an_offset_grows_all_round(join, expected):
    found = mend.offset(figure(box(0, 0, 10, 12)), {0}, 1.0, join)
    assert area(found) == pytest.approx(expected, rel=3e-4)


def test_an_offset_shrinks_and_refuses_to_eat_everything():
    assert area(mend.offset(figure(box(0, 0, 10, 12)), {0}, -2, "round")) == pytest.approx(48, rel=1e-4)
    with pytest.raises(BadValueError, match="leaves nothing"):
        mend.offset(figure(box(0, 0, 10, 12)), {0}, -6, "round")


def test_offset_holes_shrink_where_parts_grow():
    ring = figure(box(0, 0, 20, 20), box(5, 5, 10, 10))
    assert area(mend.offset(ring, {0, 1}, 1, "mitre")) == pytest.approx(22 * 22 - 8 * 8, rel=1e-5)


def test_curves_are_moved_turned_scaled_and_mirrored(boxes):
    turned = mend.move(boxes, {0}, mend.about(5, 2, mend.turn(90)))
    assert bounds_of(mend.only(turned, {0})) == pytest.approx((3, -3, 7, 7))
    larger = mend.move(boxes, {0, 1}, mend.about(0, 0, 2 * np.eye(2)))
    assert area(larger) == pytest.approx(4 * 72)
    flipped = mend.move(boxes, {0}, mend.about(0, 0, np.diag([-1.0, 1.0])))
    assert bounds_of(mend.only(flipped, {0})) == pytest.approx((-10, 0, 0, 4))


def test_copies_along_a_row_a_grid_and_a_ring():
    one = figure(box(0, 0, 2, 2))
    assert area(mend.repeat(one, {0}, mend.row_of(4, 3, 0))) == pytest.approx(16)
    assert area(mend.repeat(one, {0}, mend.grid_of(3, 2, 5, 5))) == pytest.approx(24)
    ring = mend.repeat(one, {0}, mend.ring_of(6, 10, 1))
    assert len(ring.curves) == 6
    middles = np.array([curve.nodes.mean(axis=0) for curve in ring.curves])
    assert np.hypot(*(middles - (10, 1)).T) == pytest.approx(9)


def test_copies_that_overlap_do_not_cancel_each_other():
    assert area(mend.repeat(figure(box(0, 0, 4, 4)), {0}, mend.row_of(2, 2, 0))) == pytest.approx(24)


@pytest.mark.parametrize(("side", "axis"), [("left", 0), ("right", 0), ("middle", 0), ("top", 1), ("centre", 1)])
def test_outlines_line_up(side, axis):
    found = mend.align(figure(box(0, 0, 4, 2), box(7, 5, 2, 9)), {0, 1}, side)
    one, other = (bounds_of(Figure((Layer("", (curve,)),))) for curve in found.curves)
    share = {"left": 0, "right": 1, "middle": 0.5, "top": 1, "centre": 0.5}[side]
    at = [low + share * (high - low) for low, high in ((one[axis], one[axis + 2]), (other[axis], other[axis + 2]))]
    assert at[0] == pytest.approx(at[1])


def test_an_end_is_joined_once_to_the_nearest_and_strokes_keep_their_width():
    meeting = figure(open_line((0, 0), (10, 0)), open_line((10.3, 0), (20, 0)), open_line((10, 0.5), (10, 9)))
    found = mend.gaps(meeting, 1.0)
    assert [sorted((a[0], b[0])) for a, b in found] == [[pytest.approx(10), pytest.approx(10.3)]]
    closed = mend.close_gaps(meeting, 1.0).curves
    assert sorted(len(curve.knots) for curve in closed)[0] == 2
    assert len(closed) == 2
    wide = [replace(curve, width=width) for curve, width in zip(meeting.curves[:2], (0.5, 0.8), strict=True)]
    assert [curve.width for curve in mend.close_gaps(figure(*wide), 1.0).curves] == [0.5, 0.8]


def test_gaps_are_found_nearest_first_and_closed():
    parts = figure(open_line((0, 0), (10, 0), (10, 10)), open_line((10, 10.4), (0, 10), (0, 0.2)))
    found = mend.gaps(parts, 1.0)
    assert [round(float(np.hypot(*(a - b))), 3) for a, b in found] == [0.2, 0.4]
    closed = mend.close_gaps(parts, 0.5)
    assert [curve.closed for curve in closed.curves] == [True]
    assert area(closed) == pytest.approx(100, rel=0.03)
    assert [curve.closed for curve in mend.close_gaps(parts, 0.3).curves] == [False]


def test_thousands_of_loose_lines_become_their_outlines():
    rng = np.random.default_rng(5)
    angles = np.linspace(0, 2 * np.pi, 5000, endpoint=False)
    places = np.column_stack([50 * np.cos(angles), 50 * np.sin(angles)])
    ahead = np.roll(places, -1, axis=0)
    lines = [open_line(tuple(a), tuple(b)) if turned else open_line(tuple(b), tuple(a))
             for a, b, turned in zip(places, ahead, rng.random(5000) < 0.5, strict=True)]  # fmt: skip
    shuffled = [lines[at] for at in rng.permutation(5000)]
    closed = mend.close_gaps(figure(*shuffled), 1e-6)
    assert [curve.closed for curve in closed.curves] == [True]
    assert area(closed) == pytest.approx(np.pi * 2500, rel=1e-5)


def test_a_chain_with_two_loose_ends_stays_open():
    chain = mend.close_gaps(
        figure(open_line((5, 0), (9, 0)), open_line((0, 3), (0, 0)), open_line((5, 0), (0, 0))), 0.01
    )
    (curve,) = chain.curves
    assert not curve.closed
    assert sorted(map(tuple, curve.nodes[[0, -1]].tolist())) == [(0, 3), (9, 0)]


def test_flaws_are_told():
    bow = polygon_curve(np.array([[20, 0], [30, 10], [30, 0], [20, 10]], dtype=float))
    drawing = figure(box(0, 0, 5, 5), box(0, 0, 5, 5), open_line((0, 9), (4, 9)), bow, box(40, 0, 0.1, 0.1))
    kinds = {flaw.kind: flaw.curve for flaw in find_flaws(drawing, 0.5)}
    assert kinds == {"open": 2, "crossing": 3, "tiny": 4, "double": 1}
    assert not find_flaws(figure(open_line((0, 0), (5, 5), width=1.0)), 0.5)


def test_crossings_are_drawn_anew():
    bow = polygon_curve(np.array([[0, 0], [10, 10], [10, 0], [0, 10]], dtype=float))
    found = mend.uncross(figure(bow), {0})
    assert len(found.curves) == 2
    assert area(found) == pytest.approx(50, rel=1e-4)
    assert not [flaw for flaw in find_flaws(found, 0) if flaw.kind == "crossing"]


def test_holes_are_filled():
    assert area(mend.fill_solid(figure(box(0, 0, 10, 10), box(3, 3, 2, 2)), {0, 1})) == pytest.approx(100)
    stroke = Curve(box(0, 0, 10, 10).knots, True, 0.5)
    assert area(mend.fill_solid(figure(stroke), {0})) == pytest.approx(100)


def test_narrow_places_are_measured_and_widened():
    dumbbell = shapely.union_all(
        [shapely.box(0, 0, 10, 10), shapely.box(10, 4.65, 20, 5.35), shapely.box(20, 0, 30, 10)]
    )
    found = narrow.narrowest(shapely.MultiPolygon([dumbbell]), 1.0)
    assert [width for width, _ in found] == [pytest.approx(0.7, abs=1e-3)]
    assert 10 < found[0][1][0] < 20
    drawing = Figure((Layer("", tuple(mend.curves_of_region(shapely.MultiPolygon([dumbbell])))),))
    wider = narrow.widen(drawing, 1.0, 0.5)
    assert not narrow.narrowest(figure_region(wider), 1.15)
    assert area(wider) == pytest.approx(area(drawing) + 10 * 0.5, rel=0.01)


def test_corners_are_not_narrow_places():
    star = shapely.Polygon([(0, 0), (10, 3), (20, 0), (17, 10), (20, 20), (10, 17), (0, 20), (3, 10)])
    assert not narrow.narrowest(shapely.MultiPolygon([star]), 1.0)


@pytest.mark.parametrize("first", range(5))
def test_beside_a_hole_it_is_as_narrow_wherever_its_ring_begins(first):
    hole = np.roll([(5, 0.25), (9, 0.45), (9, 4), (1, 4), (1, 0.45)], first, axis=0)
    plate = shapely.Polygon([(0, 0), (10, 0), (10, 10), (0, 10)], [hole])
    ((width, where),) = narrow.narrowest(shapely.MultiPolygon([plate]), 0.6)
    assert width == pytest.approx(0.25)
    assert where == pytest.approx((5, 0.125))


def test_many_narrow_places_at_once():
    bars = [shapely.box(0, 3 * at, 10, 3 * at + 0.1 + at / 1000) for at in range(300)]
    found = narrow.narrowest(shapely.MultiPolygon(bars), 0.6)
    assert [width for width, _ in found] == pytest.approx([0.1 + at / 1000 for at in range(300)], abs=1e-9)


def test_nodes_are_moved_set_and_taken_out():
    square = box(0, 0, 10, 10)
    number, node = nodes.nearest_node(figure(square), 9, 9.5)
    moved = nodes.move_node(square, node, 2, 0)
    assert moved.nodes[2] == pytest.approx((12, 10))
    assert (number, node) == (0, 2)
    more = nodes.insert_node(square, 0, 0.25)
    assert more.nodes[1] == pytest.approx((2.5, 0))
    assert area(figure(more)) == pytest.approx(100)
    assert area(figure(nodes.remove_node(square, 2))) == pytest.approx(50)
    with pytest.raises(BadValueError, match="at least 3"):
        nodes.remove_node(nodes.remove_node(square, 2), 0)
    smooth = nodes.set_node_kind(square, 1, "smooth")
    before, place, after = smooth.knots[1]
    assert np.cross(np.append(place - before, 0), np.append(after - place, 0)) == pytest.approx(0, abs=1e-9)
    assert area(figure(nodes.set_node_kind(smooth, 1, "corner"))) != pytest.approx(area(figure(smooth)))


def test_a_node_set_into_a_curve_does_not_change_its_course():
    round_one = mend.curves_of_region(shapely.MultiPolygon([shapely.Point(0, 0).buffer(5, quad_segs=200)]))[0]
    side, share = nodes.nearest_side(round_one, 3.5, 3.5)
    more = nodes.insert_node(round_one, side, share)
    assert len(more.nodes) == len(round_one.nodes) + 1
    assert area(figure(more)) == pytest.approx(area(figure(round_one)), rel=1e-6)
    assert np.hypot(*(more.nodes - (3.5355, 3.5355)).T).min() <= 0.1


def test_fewer_nodes_stay_near():
    many = mend.curves_of_region(shapely.MultiPolygon([shapely.Point(0, 0).buffer(5, quad_segs=200)]), 0.001)[0]
    for _ in range(4):
        many = nodes.insert_node(many, 0)
    few = mend.simplify_curves(figure(many), {0}, 0.05)
    assert len(few.curves[0].nodes) < len(many.nodes)
    assert area(few) == pytest.approx(np.pi * 25, rel=0.01)
