"""What is done with very many outlines at once is what is done with each."""

import numpy as np
import pytest
import shapely

from nebrel.core.outline_solid.offset_extrusion import prism
from nebrel.core.proof import check_soundness
from nebrel.core.region.curves import (
    CHORD_MM,
    Curve,
    Figure,
    Layer,
    bounds_of,
    boxes_of,
    circle,
    flatten,
    flatten_all,
    polygon_curve,
)
from nebrel.core.region.flaws import find_flaws
from nebrel.core.region.grid import FINEST_MM, on_grid
from nebrel.core.region.narrow import thin_parts
from nebrel.core.region.rings import rings_of


def squares(count: int, side: float = 2.0) -> list[shapely.Polygon]:
    return [
        shapely.box(3 * (at % 20), 3 * (at // 20), 3 * (at % 20) + side, 3 * (at // 20) + side) for at in range(count)
    ]


@pytest.fixture
def curves() -> list[Curve]:
    """A disc, a square, an open stroke and a closed one."""
    stroke = polygon_curve(np.array([(0.0, 0), (9, 0), (9, 5)]))
    return [
        circle(3.1, 4.2, 2.5),
        polygon_curve(np.array([(1.0, 1), (4, 1), (4, 4), (1, 4)])),
        Curve(stroke.knots, False, 1.5),
        Curve(circle(20, 3, 1).knots, True, 0.5),
    ]


def test_curves_are_drawn_as_each_of_them_is(curves):
    for curve, points in zip(curves, flatten_all(curves), strict=True):
        assert points == pytest.approx(flatten(curve, CHORD_MM), abs=1e-12)


def test_boxes_hold_strokes_at_their_width(curves):
    boxes = boxes_of(curves)
    assert boxes[0] == pytest.approx([0.6, 1.7, 5.6, 6.7], abs=1e-3)
    assert boxes[2] == pytest.approx([-0.75, -0.75, 9.75, 5.75])
    assert bounds_of(Figure((Layer("", tuple(curves)),))) == pytest.approx((-0.75, -0.75, 21.25, 6.7), abs=1e-3)


def test_places_on_the_grid_are_the_nearest_and_what_collapses_is_dropped():
    rng = np.random.default_rng(4)
    round_about = shapely.Polygon(
        np.column_stack([np.cos(np.linspace(0, 6, 40)), np.sin(np.linspace(0, 6, 40))]) * rng.uniform(4, 6, (40, 1))
    )
    placed = on_grid(round_about, FINEST_MM)
    assert shapely.equals_exact(
        placed.normalize(), shapely.MultiPolygon([shapely.set_precision(round_about, FINEST_MM)]).normalize(), 1e-12
    )
    crumb = shapely.box(10, 10, 10 + FINEST_MM / 8, 12)
    assert len(on_grid(shapely.MultiPolygon([round_about, crumb]), FINEST_MM).geoms) == 1
    stub = shapely.Polygon([(0, 0), (5, 0), (5, 5), (5 - FINEST_MM / 8, 5), (0, 5)])
    assert len(rings_of(on_grid(stub, FINEST_MM))[0]) == 4


def test_rings_go_round_parts_and_holes_in_turn():
    plate = shapely.box(0, 0, 5, 5).difference(shapely.box(1, 1, 2, 2))
    rings = rings_of(shapely.MultiPolygon([plate, shapely.box(7, 0, 8, 1)]))
    assert [len(ring) for ring in rings] == [4, 4, 4]
    assert [shapely.LinearRing(ring).is_ccw for ring in rings] == [True, False, True]
    assert rings_of(shapely.MultiPolygon()) == []


def test_only_narrow_parts_are_thin_among_many_wide_ones():
    neck = shapely.union_all([shapely.box(70, 0, 74, 4), shapely.box(74, 1.8, 76, 2.1), shapely.box(76, 0, 80, 4)])
    found = thin_parts(shapely.MultiPolygon([*squares(200), neck]), 0.42)
    assert len(found) == 1
    assert found[0][1] == pytest.approx(0.3, abs=0.01)
    assert found[0][2] == pytest.approx((75, 1.95), abs=1.1)


def test_a_double_and_a_crossing_are_found_among_many():
    outlines = [polygon_curve(shapely.get_coordinates(square.exterior)[:-1]) for square in squares(300)]
    bow = polygon_curve(np.array([(0.0, 90), (4, 94), (4, 90), (0, 94)]))
    figure = Figure((Layer("", (*outlines, outlines[7], bow)),))
    assert {(flaw.kind, flaw.curve) for flaw in find_flaws(figure, 0.01)} == {
        ("double", 300),
        ("crossing", 301),
        ("tiny", 301),
    }


def test_a_prism_of_many_parts_is_sound():
    made = prism(shapely.MultiPolygon(squares(400)), 0.0, 1.5)
    found = check_soundness(made)
    assert found.sound
    assert found.shells == 400
    assert found.volume_mm3 == pytest.approx(400 * 4 * 1.5, rel=1e-6)
