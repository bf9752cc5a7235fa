"""Outlines that cover of every pixel what the pixel shows, and what is told where they do not."""

import contourpy
import numpy as np
import pytest
import shapely
from scipy import ndimage
from shapely.affinity import rotate, scale, translate

from nebrel.core.histogram import usual_beside
from nebrel.core.proof.picture_audit import compare_with_picture, picture_difference_finding
from nebrel.core.region.curves import Curve, Figure, Layer, circle, figure_region, polygon_curve
from nebrel.core.region.level_rings import level_rings
from nebrel.core.region.pixel_coverage import pixel_coverage, sides_of
from nebrel.core.region.refine import inked_share
from nebrel.core.region.trace import Smoothing, trace_level

SIDE = 64


def covered(shape: shapely.Geometry, rows: int = SIDE, columns: int = SIDE) -> np.ndarray:
    """The share of every pixel that a shape in pixels, Y up, covers: by the areas that they have in common."""
    x, y = np.meshgrid(np.arange(columns), np.arange(rows)[::-1])
    pixels = shapely.box(x, y, x + 1, y + 1)
    shapely.prepare(shape)
    share = shapely.contains(shape, pixels).astype(np.float64)
    partly = shapely.intersects(shape, pixels) & (share == 0)
    share[partly] = shapely.area(shapely.intersection(pixels[partly], shape))
    return share.astype(np.float32)


def traced(picture: np.ndarray, level: float = 0.5, smoothing: Smoothing | None = None) -> Figure:
    return Figure(trace_level(picture, level, 1.0, smoothing or Smoothing()).layers)


def away_from(figure: Figure, shape: shapely.Geometry) -> np.ndarray:
    """How far the edges of both are apart, looked at from each, pixels."""
    edges = [shapely.segmentize(each.boundary, 0.1) for each in (figure_region(figure, 0.002), shape)]
    places = [shapely.points(shapely.get_coordinates(edge)) for edge in edges]
    return np.concatenate([shapely.distance(edges[1], places[0]), shapely.distance(edges[0], places[1])])


LINE = shapely.LineString([(10, 12), (30, 50), (52, 20)]).buffer(2.6, quad_segs=64)
RING = shapely.Point(32.3, 31.6).buffer(20.2, quad_segs=200).difference(shapely.Point(32, 32).buffer(15, quad_segs=200))
PLATE = shapely.box(9.3, 12.6, 50.2, 47.7).buffer(4, quad_segs=64)
LEANING = rotate(PLATE, 11)
DOT = shapely.Point(20.4, 33.7).buffer(2.2, quad_segs=64)
# Its handles lie beyond the picture.
BROAD = shapely.Point(32, 31.8).buffer(31.4, quad_segs=300).difference(shapely.box(20, 25.4, 44, 40.3))
SHAPES = {"line": LINE, "ring": RING, "plate": PLATE, "leaning": LEANING, "dot": DOT, "broad": BROAD}


class TestCoverage:
    @pytest.mark.parametrize("seed", range(6))
    def test_is_the_area_that_pixel_and_outline_have_in_common(self, seed):
        rng = np.random.default_rng(seed)
        turns = np.sort(rng.uniform(0, 2 * np.pi, 17))
        ring = np.column_stack([np.cos(turns), np.sin(turns)]) * rng.uniform(3, 9, (17, 1)) + [11.3, 9.4]
        hole = 0.3 * (ring - [11.3, 9.4])[::-1] + [11.2, 9.5]
        polygon = shapely.Polygon(ring, [hole])
        if not polygon.is_valid:
            polygon, hole = shapely.Polygon(ring), None
        curves = [polygon_curve(each) for each in (ring, hole) if each is not None]
        found = pixel_coverage(sides_of(curves, 1.0), (19, 23))
        assert found == pytest.approx(covered(polygon, 19, 23), abs=1e-6)

    def test_what_lies_beyond_the_picture_counts_to_its_rim(self):
        found = pixel_coverage(
            sides_of([polygon_curve(np.array([(-3, -2), (8, -2), (8, 30), (-3, 30)], float))], 1.0), (10, 12)
        )
        assert (found[:, :8] == 1).all()
        assert (found[:, 8:] == 0).all()

    def test_curves_and_their_scale_count(self):
        found = pixel_coverage(sides_of([circle(3.0, 3.0, 2.0)], 0.1), (60, 60))
        assert found.sum() == pytest.approx(np.pi * 20**2, rel=1e-3)


class TestRings:
    @pytest.mark.parametrize("sigma", [0.7, 2.0, 5.0])
    def test_enclose_what_another_program_finds(self, sigma):
        values = ndimage.gaussian_filter(np.random.default_rng(3).random((60, 80)), sigma).astype(np.float32)
        level = float(np.median(values))
        rings = level_rings(values, level)
        area = sum(shapely.Polygon(ring).area * (1 if shapely.LinearRing(ring).is_ccw else -1) for ring in rings)
        around = np.pad(np.pad(values, 1, mode="edge"), 1, constant_values=values.min() - 1)
        lines = contourpy.contour_generator(z=around, name="serial").lines(level)
        assert len(rings) == len(lines)
        assert sum(map(len, rings)) == pytest.approx(sum(len(line) - 1 for line in lines), rel=0.005)
        assert area == pytest.approx((values >= level).sum(), rel=0.03)

    def test_never_cross_where_four_samples_say_both(self):
        values = (np.indices((12, 12)).sum(axis=0) % 2).astype(np.float32)
        rings = level_rings(values, 0.5)
        assert shapely.is_simple(shapely.union_all([shapely.LinearRing(ring) for ring in rings])) or len(rings) > 1
        assert all(shapely.LinearRing(ring).is_simple for ring in rings)

    def test_of_nothing_are_none(self):
        assert level_rings(np.zeros((5, 5), np.float32), 0.5) == []

    def test_reach_the_outer_sides_of_the_outermost_pixels(self):
        (ring,) = level_rings(np.ones((4, 7), np.float32), 0.5)
        assert shapely.Polygon(ring).bounds == (0, 0, 7, 4)


class TestTraced:
    @pytest.mark.parametrize("name", SHAPES)
    def test_cover_what_was_drawn(self, name):
        figure = traced(covered(SHAPES[name]))
        off = figure_region(figure, 0.002).area - SHAPES[name].area
        assert abs(off) <= 0.015 * SHAPES[name].length
        assert np.sqrt((away_from(figure, SHAPES[name]) ** 2).mean()) <= 0.08

    @pytest.mark.parametrize("pixels", [48, 64])
    def test_what_fills_the_picture_ends_at_its_rim(self, pixels):
        body = shapely.box(8, 8, pixels - 8, pixels - 8).buffer(8, quad_segs=64)
        frame = body.difference(shapely.box(9.4, 9.4, pixels - 9.4, pixels - 9.4))
        region = figure_region(traced(covered(frame, pixels, pixels)), 0.002)
        assert region.bounds == pytest.approx((0, 0, pixels, pixels), abs=0.02)
        assert region.area == pytest.approx(frame.area, rel=0.003)

    def test_a_level_that_is_not_the_middle_is_followed_as_it_is(self):
        picture = covered(DOT)
        assert inked_share(picture, 0.2) is None
        assert figure_region(traced(picture, 0.2), 0.002).area > figure_region(traced(picture), 0.002).area + 2

    def test_beside_a_third_tone_only_clean_edges_count(self):
        pale = covered(translate(scale(PLATE, 0.4, 0.4), 12, 14)) * 0.35
        picture = np.maximum(covered(translate(DOT, -8, -20)), pale)
        shown = inked_share(picture, 0.5)
        assert shown is not None
        assert shown[1].any()
        assert not shown[1][pale > 0.3].any()

    def test_parts_that_meet_in_a_point_never_cross(self):
        squares = shapely.union_all(
            [shapely.box(8, 8, 24, 24), shapely.box(24, 24, 40, 40), shapely.box(40, 8, 56, 24)]
        )
        region = figure_region(traced(covered(squares)), 0.002)
        assert region.is_valid
        assert region.area == pytest.approx(squares.area, rel=0.015)

    @pytest.mark.parametrize(("name", "nodes"), [("line", 20), ("ring", 24), ("leaning", 24), ("broad", 40)])
    def test_hard_stairs_become_few_smooth_curves(self, name, nodes):
        figure = traced((covered(SHAPES[name]) >= 0.5).astype(np.float32))
        assert sum(len(curve.knots) for curve in figure.curves) <= nodes
        assert np.sqrt((away_from(figure, SHAPES[name]) ** 2).mean()) <= 0.2

    def test_hard_stairs_are_followed_as_closely_as_is_asked(self):
        picture = (covered(LEANING) >= 0.5).astype(np.float32)
        close, usual = traced(picture, smoothing=Smoothing(tolerance=0.15)), traced(picture)
        assert len(close.curves[0].knots) > 2 * len(usual.curves[0].knots)

    def test_edges_are_hard_beside_a_third_tone_too(self):
        gray = 0.5 * (covered(LEANING) >= 0.5)
        picture = np.maximum(gray, covered(shapely.box(20, 20, 30, 40))).astype(np.float32)
        figure = traced(picture, 0.25)
        assert sum(len(curve.knots) for curve in figure.curves) <= 24
        assert np.sqrt((away_from(figure, LEANING) ** 2).mean()) <= 0.2


class TestTold:
    def test_nothing_where_the_outlines_are_what_is_shown(self):
        picture = covered(RING)
        found = compare_with_picture(picture, traced(picture), SIDE)
        assert found is not None
        assert found.places == 0
        assert picture_difference_finding(found) == ()

    def test_a_gap_that_closed_with_its_place(self):
        picture = covered(PLATE.difference(shapely.box(0, 30, 64, 30.45)))
        (finding,) = picture_difference_finding(compare_with_picture(picture, traced(picture), SIDE))
        assert "place" in finding.what
        assert finding.where is not None
        assert finding.where[1] == pytest.approx(30.2, abs=1)
        assert finding.fix is None

    def test_a_pale_tone_left_out_with_a_way_to_follow_it(self):
        picture = np.maximum(covered(RING), 0.3 * covered(shapely.Point(32, 32).buffer(12)))
        (finding,) = picture_difference_finding(compare_with_picture(picture, traced(picture), SIDE))
        assert "Tones between" in finding.what
        assert finding.fix is not None
        assert finding.fix.kind == "trace"
        assert finding.fix.parameters["by"] == "tones"

    def test_pictures_that_are_not_square_are_held_against_themselves(self):
        picture = covered(LINE, 57, 91)
        found = compare_with_picture(picture, traced(picture), 91.0)
        assert found is not None
        assert found.places == 0

    def test_a_slope_of_tones_is_called_one(self):
        slope = np.tile(np.linspace(0, 1, SIDE, dtype=np.float32), (SIDE, 1))
        (finding,) = picture_difference_finding(compare_with_picture(slope, traced(slope), SIDE))
        assert finding.what.startswith("Tones between ink and paper")

    def test_ink_that_is_a_little_paler_in_places_is_no_edge(self):
        picture = covered(PLATE) * np.linspace(0.88, 1, SIDE, dtype=np.float32)
        found = compare_with_picture(picture, traced(picture), SIDE)
        assert picture_difference_finding(found) == ()


def test_what_is_usual_beside_a_level_are_the_medians():
    values = np.random.default_rng(2).random(5001)
    low, high = usual_beside(values, 0.4)
    assert low == pytest.approx(np.median(values[values < 0.4]), abs=5e-4)
    assert high == pytest.approx(np.median(values[values >= 0.4]), abs=5e-4)


def test_a_part_that_is_a_crumb_has_no_area():
    large, crumb = Curve(circle(0, 0, 10).knots), Curve(circle(30, 0, 1e-4).knots)
    assert len(figure_region(Figure((Layer("", (large, crumb)),))).geoms) == 1
