"""Tracing against shapes that are known exactly."""

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.errors import TooLargeError
from nebrel.core.region import trace
from nebrel.core.region.centre_line import trace_centre_lines
from nebrel.core.region.curves import (
    Figure,
    evenly,
    figure_region,
    flatten,
    flattening_error,
    layer_region,
    polygon_curve,
)
from nebrel.core.region.level_rings import level_rings
from nebrel.core.region.shapes import shape_region
from nebrel.core.region.terraces import terrace_cells
from nebrel.core.region.trace import Smoothing, _without_crossings, trace_cells, trace_level
from tests.core.drawn import PX_PER_MM, disc, drawn, square, star

PITCH = 1 / PX_PER_MM


def off(curve, truth) -> np.ndarray:
    """Distances both ways between a curve and the edge of the true shape, mm."""
    points = flatten(curve, 0.0005)
    there = shapely.distance(truth.exterior, shapely.points(points))
    back = shapely.distance(shapely.LinearRing(points), shapely.points(truth.exterior.segmentize(0.05).coords))
    return np.concatenate([there, back])


@pytest.mark.parametrize(("shape", "ideal"), [(disc(), 4), (star(), 10), (square(), 4)], ids=["disc", "star", "square"])
def test_a_shape_comes_back_where_it_was_drawn(shape, ideal):
    traced = trace_level(drawn(shape), 0.5, PITCH, Smoothing())
    (curve,) = traced.layers[0].curves
    away = off(curve, shape)
    assert np.sqrt((away**2).mean()) <= 0.01
    assert away.max() <= 0.03
    assert len(curve.nodes) <= 4 * ideal
    assert traced.max_deviation <= 0.1


@pytest.mark.parametrize("shape", [star(), star(1.1), square(), square(0.9)])
def test_corners_stay_corners(shape):
    (curve,) = trace_level(drawn(shape), 0.5, PITCH, Smoothing()).layers[0].curves
    for corner in shape.exterior.coords:
        assert np.linalg.norm(curve.nodes - corner, axis=1).min() <= 0.05


@settings(max_examples=5, deadline=None, derandomize=True)
@given(st.floats(0, 1.57), st.floats(2, 13))
def test_any_square_keeps_its_area_and_corners(turn, reach):
    shape = square(turn, reach)
    (curve,) = trace_level(drawn(shape), 0.5, PITCH, Smoothing()).layers[0].curves
    away = off(curve, shape)
    assert away.max() <= 0.05
    assert len(curve.nodes) <= 16


def test_holes_are_holes_and_small_ones_are_filled():
    shape = disc().difference(disc(12, 15, 3)).difference(disc(20, 18, 0.4))
    picture = drawn(shape)
    every = trace_level(picture, 0.5, PITCH, Smoothing()).layers[0]
    assert layer_region(every).geoms[0].interiors.__len__() == 2
    some = trace_level(picture, 0.5, PITCH, Smoothing(smallest_hole=1.0)).layers[0]
    region = layer_region(some)
    assert len(region.geoms[0].interiors) == 1
    assert region.area == pytest.approx(np.pi * (144 - 9), rel=0.002)


def test_small_parts_are_dropped():
    specks = shapely.union_all([disc(radius=8), disc(2, 2, 0.3), disc(27, 3, 0.3)])
    assert len(trace_level(drawn(specks), 0.5, PITCH, Smoothing()).layers[0].curves) == 3
    assert len(trace_level(drawn(specks), 0.5, PITCH, Smoothing(smallest_part=1)).layers[0].curves) == 1


def test_what_reaches_the_border_ends_there():
    picture = np.ones((101, 151), dtype=np.float32)
    region = layer_region(trace_level(picture, 0.5, PITCH, Smoothing()).layers[0])
    assert region.bounds == pytest.approx((0, 0, 15.1, 10.1), abs=1e-6)


@pytest.mark.parametrize("seed", range(3))
def test_noise_is_traced_without_a_curve_that_crosses_itself(seed):
    noise = np.random.default_rng(seed).random((120, 120)).astype(np.float32)
    for curve in trace_level(noise, 0.5, PITCH, Smoothing()).layers[0].curves:
        points = evenly(curve, 16)
        assert len(points) > 2
        assert shapely.LinearRing(points).is_simple


def test_where_a_curve_crosses_itself_only_what_lies_beside_is_put_back():
    turns = np.radians(np.arange(0, 360, 30))
    ring = 10 * np.column_stack([np.cos(turns), np.sin(turns)])
    closer = 1.02 * ring
    closer[[3, 4]] = closer[[4, 3]]
    ((chosen,), (line,)) = _without_crossings([polygon_curve(closer)], [polygon_curve(ring)], [ring], 0.1)
    assert shapely.LinearRing(line).is_simple
    beside = [2, 3, 4, 5]
    assert chosen.nodes[beside] == pytest.approx(ring[beside])
    assert np.delete(chosen.nodes, beside, axis=0) == pytest.approx(np.delete(closer, beside, axis=0))


def test_where_two_curves_cross_only_what_lies_beside_is_put_back():
    left = np.array([(0, 0), (4, 0), (5, 2), (5, 8), (4, 10), (0, 10)], dtype=float)
    right = np.array([(6, 0), (10, 0), (10, 10), (6, 10), (5.5, 8), (5.5, 2)], dtype=float)
    grown = left + np.array([(-0.1, 0), (0, 0), (1, 0), (0, 0), (0, 0), (-0.1, 0)])
    chosen, lines = _without_crossings(
        [polygon_curve(grown), polygon_curve(right)], [polygon_curve(left), polygon_curve(right)], [left, right], 0.1
    )
    one, two = (shapely.LinearRing(line) for line in lines)
    assert not shapely.crosses(one, two)
    assert chosen[0].nodes[2] == pytest.approx(left[2])
    assert chosen[0].nodes[[0, 5]] == pytest.approx(grown[[0, 5]])


def test_smoother_means_fewer_nodes_and_more_deviation():
    rng = np.random.default_rng(4)
    ragged = drawn(disc()) + rng.normal(0, 0.12, (300, 300)).astype(np.float32)
    counts, worst = [], []
    for smooth in (0.0, 0.5, 1.0):
        traced = trace_level(ragged, 0.5, PITCH, Smoothing(smooth, smallest_part=4, smallest_hole=4))
        counts.append(len(traced.layers[0].curves[0].nodes))
        worst.append(traced.rms_deviation)
    assert counts[0] > counts[1] > counts[2]
    assert worst[0] < worst[2]


def test_rings_run_round_parts_one_way_and_round_holes_the_other():
    rings = level_rings(drawn(disc().difference(disc(15, 15, 5))), 0.5)
    areas = sorted(shapely.LinearRing(ring).is_ccw for ring in rings)
    assert areas == [False, True]


def test_neighbouring_tones_share_their_border_exactly():
    left, right = disc(10, 15, 8), disc(19, 15, 7)
    above = [
        np.maximum(drawn(left), drawn(right)),
        drawn(right),
    ]
    frame = shape_region("rectangle", 30, 30)
    cells = terrace_cells(lambda number: above[number - 1], 3, PITCH, frame)
    traced = trace_cells(cells, [0.0, 0.5, 1.0], PITCH, Smoothing())
    regions = [layer_region(layer) for layer in traced.layers]
    assert len(regions) == 3
    assert sum(region.area for region in regions) == pytest.approx(900, rel=1e-7)
    for one, other in ((0, 1), (1, 2), (0, 2)):
        assert regions[one].intersection(regions[other]).area <= 1e-9
    assert shapely.union_all(regions).area == pytest.approx(900, rel=1e-7)
    assert regions[2].area == pytest.approx(np.pi * 49, rel=0.003)


def test_drawn_lines_become_strokes_of_their_width():
    line = shapely.LineString([(4, 4), (14, 22), (26, 8)]).buffer(0.6, quad_segs=40)
    traced = trace_centre_lines(drawn(line), 0.5, PITCH, Smoothing())
    curves = traced.layers[0].curves
    assert len(curves) == 1
    assert not curves[0].closed
    assert curves[0].width == pytest.approx(1.2, abs=0.06)
    ends = curves[0].nodes[[0, -1]]
    for end in ((4, 4), (26, 8)):
        assert np.linalg.norm(ends - end, axis=1).min() <= 0.7
    assert figure_region(Figure(traced.layers)).area == pytest.approx(line.area, rel=0.06)


@pytest.mark.deep
def test_endless_noise_is_refused_with_what_would_be_accepted():
    noise = np.random.default_rng(5).random((1100, 1100)).astype(np.float32)
    with pytest.raises(TooLargeError, match="need more than 100,000 nodes"):
        trace_level(noise, 0.5, PITCH, Smoothing())


def test_what_becomes_endless_where_curves_cross_is_refused_too(monkeypatch):
    noise = np.random.default_rng(2).random((120, 120)).astype(np.float32)
    made = trace_level(noise, 0.5, PITCH, Smoothing())
    monkeypatch.setattr(trace, "MOST_KNOTS", sum(len(curve.knots) for curve in made.layers[0].curves) - 1)
    with pytest.raises(TooLargeError, match="no more are accepted"):
        trace_level(noise, 0.5, PITCH, Smoothing())


@pytest.mark.parametrize("seed", range(3))
def test_noise_has_centre_lines_too(seed):
    noise = np.random.default_rng(seed).random((90, 90)).astype(np.float32)
    traced = trace_centre_lines(noise, 0.5, PITCH, Smoothing())
    low_x, low_y, high_x, high_y = figure_region(Figure(traced.layers)).bounds
    reach = max(curve.width or 0.0 for curve in traced.layers[0].curves)
    assert len(traced.layers[0].curves) > 100
    assert min(low_x, low_y) > -reach
    assert max(high_x, high_y) < 90 * PITCH + reach


def test_a_drawn_ring_becomes_one_closed_stroke():
    ring = disc(radius=10).difference(disc(radius=9))
    curves = trace_centre_lines(drawn(ring), 0.5, PITCH, Smoothing()).layers[0].curves
    assert len(curves) == 1
    assert curves[0].closed
    assert curves[0].width == pytest.approx(1.0, abs=0.06)
    assert np.hypot(*(curves[0].nodes - 15).T) == pytest.approx(9.5, abs=0.06)


def test_crossing_lines_are_cut_at_their_crossing():
    cross = shapely.union_all([shapely.LineString([(3, 15), (27, 15)]), shapely.LineString([(15, 3), (15, 27)])])
    curves = trace_centre_lines(drawn(cross.buffer(0.5)), 0.5, PITCH, Smoothing()).layers[0].curves
    assert len(curves) == 4


def test_flattening_tells_how_far_it_is_off():
    (curve,) = trace_level(drawn(disc()), 0.5, PITCH, Smoothing()).layers[0].curves
    from nebrel.core.region.curves import Layer

    for chord in (0.05, 0.005):
        worst, rms = flattening_error(Figure((Layer("", (curve,)),)), chord)
        assert 0 < rms < worst <= chord
