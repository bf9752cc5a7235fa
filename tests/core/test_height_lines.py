"""Walls of reliefs follow the curves that their pictures show, and not pixels."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.height import HeightField, add_draft, terraces_of, with_lines
from nebrel.core.height.lined import lined_anew
from nebrel.core.height.lines.network import find_lines
from nebrel.core.heightfield.slab import build_slab, sketch_slab
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.build import build_panel
from nebrel.core.panel.layout import layout_of
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof import check_soundness

BACKING, TOLERANCE, TALL = 1.2, 0.02, 3.0
FINER = 8


def drawn(outline, pitch=0.25, side=97, soft=True, ground=0.0, top=TALL):
    """A shape over a ground, its edges by what it covers of every sample, or hard."""
    finer = FINER if soft else 1
    within = ((np.arange(side * finer) + 0.5) / finer - 0.5) * pitch
    x, y = np.meshgrid(within, within[::-1])
    shapely.prepare(outline)
    heights = np.where(shapely.contains_xy(outline, x, y), top(x, y) if callable(top) else top, 0.0)
    heights += ground(x, y) if callable(ground) else ground
    heights = heights.reshape(side, finer, side, finer).mean(axis=(1, 3))
    return HeightField(heights.astype(np.float32), np.ones((side, side), np.float32), pitch)


def built(field, tolerance=TOLERANCE, between=False):
    slab = build_slab(with_lines(field, tolerance), BACKING, tolerance, between=between)
    report = check_soundness(slab.mesh)
    assert report.sound, report.findings
    assert (report.closed, report.manifold, report.outward, report.self_crossings) == (True, True, True, 0)
    assert slab.deviation.max <= tolerance
    return slab, report


def walls_of(mesh, extent):
    """Upright faces inside of the outer walls, as stretches seen from above."""
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    upright = np.abs(normal[:, 2]) < 1e-9
    flat = corners[upright][:, :, :2]
    inner = ((flat > 1e-4) & (flat < extent - 1e-4)).all(axis=(1, 2))
    return shapely.union_all(shapely.linestrings(flat[inner]))


def off_outline(field, mesh, outline):
    """RMS and largest distance of upright walls from a curve, in samples."""
    walls = shapely.segmentize(walls_of(mesh, field.width), field.pitch / 4)
    away = shapely.distance(outline.boundary, shapely.points(shapely.get_coordinates(walls))) / field.pitch
    return float(np.sqrt(np.mean(away**2))), float(away.max())


DISC = shapely.Point(12.07, 11.93).buffer(9.3, quad_segs=360)


class TestWalls:
    def test_a_soft_disc_has_a_round_wall(self):
        field = drawn(DISC)
        slab, report = built(field)
        rms, most = off_outline(field, slab.mesh, DISC)
        assert rms < 0.08
        assert most < 0.2
        assert report.volume_mm3 == pytest.approx(24**2 * BACKING + DISC.area * TALL, rel=2e-3)
        assert report.triangles < len(build_slab(field, BACKING, TOLERANCE).mesh.faces)

    def test_a_hard_disc_has_no_teeth(self):
        field = drawn(DISC, soft=False)
        slab, _ = built(field)
        rms, most = off_outline(field, slab.mesh, DISC)
        assert rms < 0.13
        assert most < 0.5

    def test_corners_of_a_square_stay(self):
        square = shapely.box(5.1, 6.2, 17.3, 18.4)
        slab, _ = built(drawn(square))
        walls = walls_of(slab.mesh, 24)
        for corner in shapely.points(shapely.get_coordinates(square)):
            assert walls.distance(corner) < 0.05
        assert len(slab.mesh.faces) < 60

    def test_sides_meet_their_own_surfaces(self):
        # A cap over a slope: neither side is level, and the wall's height changes along it.
        def cap(x, y):
            return 2 - 0.01 * ((x - 12.07) ** 2 + (y - 11.93) ** 2)

        field = drawn(DISC, ground=lambda x, _: 0.04 * x, top=cap)
        slab, report = built(field)
        assert off_outline(field, slab.mesh, DISC)[0] < 0.1
        # The cap: 2 mm less the mean of 0.01 r² over the disc, which is 0.01 R² / 2.
        expected = 24**2 * (BACKING + 0.04 * 12) + DISC.area * (2 - 0.01 * 9.3**2 / 2)
        assert report.volume_mm3 == pytest.approx(expected, rel=3e-3)

    def test_a_crack_that_closes_ends_within_the_surface(self):
        # One side of a cut rises along it, so that both agree at its end.
        def split(x, y):
            return np.where((x < 12) & (y > 12.1), 0.15 * (12 - x), 0.0)

        field = drawn(shapely.box(-1, -1, 30, 30), top=0.0, ground=split)
        slab, report = built(field)
        assert report.volume_mm3 == pytest.approx(24**2 * BACKING + 0.15 * 12**2 / 2 * 11.9, rel=2e-3)
        for y, level in ((11.9, 0.0), (12.3, 0.15 * 9)):
            assert _height_at(slab.mesh, 3.0, y) == pytest.approx(BACKING + level, abs=TOLERANCE)

    def test_three_heights_meet_at_one_upright_edge(self):
        heights = np.zeros((81, 101), dtype=np.float32)
        heights[20:60, 30:] = 1
        heights[35:, 60:] = 2
        field = HeightField(heights, np.ones_like(heights), 0.25)
        slab, _ = built(field)
        assert len(with_lines(field, TOLERANCE).lines.pieces) == 6
        assert len(slab.mesh.faces) < 100

    def test_bridges_one_sample_wide_hold(self):
        heights = np.zeros((61, 61), dtype=np.float32)
        heights[10:50, 5:25] = heights[10:50, 35:55] = heights[30, 25:35] = TALL
        slab, _ = built(HeightField(heights, np.ones_like(heights), 0.25))
        for y, level in ((7.5, TALL), (7.2, 0.0), (7.8, 0.0)):
            assert _height_at(slab.mesh, 7.5, y) == pytest.approx(BACKING + level, abs=TOLERANCE)

    def test_a_wall_that_reaches_the_border_steps_there(self):
        field = drawn(shapely.box(8.1, -5, 16.3, 30))
        slab, report = built(field)
        assert report.volume_mm3 == pytest.approx(24 * (24 * BACKING + 8.2 * TALL), rel=2e-3)
        border = slab.mesh.vertices[slab.mesh.vertices[:, 1] == 0]
        assert {round(float(z), 3) for z in border[np.abs(border[:, 0] - 8.1) < 0.03][:, 2]} >= {1.2, 4.2}


def _height_at(mesh, x, y):
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    found = []
    for a, b, c in corners:
        area = (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0])
        if area <= 1e-9:
            continue
        u = ((x - a[0]) * (c[1] - a[1]) - (y - a[1]) * (c[0] - a[0])) / area
        v = ((b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])) / area
        if min(u, v, 1 - u - v) >= -1e-9:
            found.append(a[2] + u * (b[2] - a[2]) + v * (c[2] - a[2]))
    return max(found)


class TestWhatIsNoEdge:
    def test_soft_slopes_stay_as_they_are(self, field_of):
        slope = field_of(lambda x, _: np.clip(x - 18, 0, 4) * 0.75)
        assert with_lines(slope, TOLERANCE).lines is None
        cone = field_of(lambda x, y: 5 * np.clip(1 - np.hypot(x - 20, y - 15) / 6, 0, 1))
        assert with_lines(cone, TOLERANCE).lines is None

    def test_noise_is_told_and_gets_no_lines(self):
        noise = np.random.default_rng(1).random((200, 200)).astype(np.float32) * TALL
        found = find_lines(noise, np.ones(noise.shape, bool), TOLERANCE)
        assert found.lines is None
        assert found.crowded > 0.9

    def test_dithering_is_told(self):
        dither = (np.random.default_rng(2).random((200, 200)) > 0.5).astype(np.float32) * TALL
        found = find_lines(dither, np.ones(dither.shape, bool), TOLERANCE)
        assert found.crowded > 0.9

    @pytest.mark.parametrize("shape", [(2, 2), (1, 40), (3, 3)])
    def test_tiny_and_level_fields_have_none(self, shape):
        field = HeightField(np.zeros(shape, np.float32), np.ones(shape, np.float32), 1.0)
        assert with_lines(field, TOLERANCE).lines is None

    def test_specks_of_one_sample_are_no_edges(self):
        heights = np.zeros((60, 60), dtype=np.float32)
        heights[::12, ::12] = TALL
        assert with_lines(HeightField(heights, np.ones_like(heights), 0.25), TOLERANCE).lines is None


class TestBuilds:
    def test_the_tolerance_holds_between_samples_too(self):
        field = drawn(DISC, ground=lambda x, y: 0.3 * np.sin(x) * np.cos(0.7 * y))
        slab, _ = built(field, between=True)
        assert slab.deviation.max_between <= TOLERANCE

    def test_a_sketch_is_closed_and_light(self):
        field = with_lines(drawn(DISC), TOLERANCE)
        report = check_soundness(sketch_slab(field, BACKING, 0.05, 5_000))
        assert report.sound

    def test_outlined_panels_keep_their_lines(self):
        field = with_lines(drawn(shapely.box(4.1, 4.1, 20.3, 12.2)), TOLERANCE)
        slab = build_panel(layout_of(field, PanelBody(BACKING, shape="ellipse")), TOLERANCE)
        assert check_soundness(slab.mesh).sound
        assert slab.deviation.max <= TOLERANCE

    def test_what_is_blank_ends_no_wall(self):
        field = drawn(shapely.box(8.1, -5, 16.3, 30))
        coverage = np.ones_like(field.coverage)
        coverage[:30] = 0
        blank = with_lines(replace(field, coverage=coverage), TOLERANCE)
        slab = build_panel(layout_of(blank, PanelBody(BACKING, shape="outline")), TOLERANCE)
        assert check_soundness(slab.mesh).sound
        high = slab.mesh.vertices[slab.mesh.vertices[:, 2] > BACKING + TALL - 0.01]
        top = slab.mesh.vertices[:, 1].max()
        assert np.ptp(high[high[:, 1] > top - 0.01][:, 0]) == pytest.approx(8.2, abs=0.05)

    def test_walls_lean_from_their_upper_edges(self):
        field = drawn(DISC)
        leaning = add_draft(with_lines(field, TOLERANCE), 60.0)
        slab = build_slab(leaning, BACKING, TOLERANCE)
        assert check_soundness(slab.mesh).sound
        assert _slope_of_most(slab.mesh, field.width) == pytest.approx(60, abs=1)
        # A truncated cone: its flank goes out by TALL / tan 60°.
        reach = TALL / np.tan(np.radians(60))
        whole = np.pi * TALL / 3 * (9.3**2 + 9.3 * (9.3 + reach) + (9.3 + reach) ** 2)
        assert slab.mesh.vertices[:, 2].max() == pytest.approx(BACKING + TALL, abs=0.001)
        assert check_soundness(slab.mesh).volume_mm3 == pytest.approx(24**2 * BACKING + whole, rel=5e-3)

    def test_walls_lean_from_the_highest_of_what_meets(self):
        heights = np.zeros((81, 101), dtype=np.float32)
        heights[20:60, 30:] = 1
        heights[35:, 60:] = 2
        field = with_lines(HeightField(heights, np.ones_like(heights), 0.25), TOLERANCE)
        slab = build_slab(add_draft(field, 80.0), BACKING, TOLERANCE)
        assert check_soundness(slab.mesh).sound
        assert walls_of(slab.mesh, 20).is_empty

    def test_coarser_panels_have_fewer_lines(self):
        heights = np.zeros((80, 120), dtype=np.float32)
        heights[10:40, 10:40], heights[10:40, 60:100] = 3.0, 0.5
        field = with_lines(HeightField(heights, np.ones_like(heights), 0.25), TOLERANCE)
        coarse = lined_anew(field, 0.2)
        assert coarse.lines.length_px == pytest.approx(120, abs=1)
        assert field.lines.length_px == pytest.approx(120 + 140, abs=2)

    def test_steps_keep_every_edge_and_their_levels(self):
        picture = Picture(drawn(DISC).heights / TALL, np.ones((97, 97), np.float32), SourceFacts("PNG", 97, 97, 8, "L"))
        terraces = terraces_of(picture, [(0.0, 0.5), (1.0, 2.5)])
        stepped = HeightField(terraces.levels[terraces.labels].astype(np.float32), picture.coverage, 0.25, terraces)
        field = with_lines(stepped, TOLERANCE)
        assert field.terraces is None
        slab, _ = built(stepped)
        assert off_outline(field, slab.mesh, DISC)[0] < 0.06
        assert set(np.unique(slab.mesh.vertices[:, 2].round(5))) == {0.0, 1.7, 3.7}

    def test_dots_stay_steps(self):
        dots = (np.indices((200, 200)).sum(axis=0) % 2).astype(np.float32)
        picture = Picture(dots, np.ones_like(dots), SourceFacts("PNG", 200, 200, 8, "L"))
        terraces = terraces_of(picture, [(0.0, 0.5), (1.0, 2.5)])
        stepped = HeightField(terraces.levels[terraces.labels].astype(np.float32), picture.coverage, 0.25, terraces)
        assert with_lines(stepped, TOLERANCE) is stepped


def _slope_of_most(mesh, extent):
    """The slope that 95 % of what slopes within a solid stays below, by area, degrees."""
    corners = mesh.vertices[mesh.faces.astype(np.int64)]
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(normal, axis=1)
    slope = np.degrees(np.arccos(normal[:, 2] / area))
    inner = (
        ((corners[..., :2] > 1e-4) & (corners[..., :2] < extent - 1e-4)).all(axis=(1, 2)) & (slope > 5) & (slope < 91)
    )
    order = np.argsort(slope[inner])
    shares = np.cumsum(area[inner][order]) / area[inner].sum()
    return float(slope[inner][order][np.searchsorted(shares, 0.95)])


@given(
    seed=st.integers(0, 2**31),
    count=st.integers(2, 6),
    soft=st.booleans(),
)
@settings(max_examples=25, deadline=None)
def test_any_pile_of_shapes_is_closed_and_true(seed, count, soft):
    rng = np.random.default_rng(seed)
    side, finer = 64, 4 if soft else 1
    within = (np.arange(side * finer) + 0.5) / finer - 0.5
    x, y = np.meshgrid(within, within)
    heights = 0.02 * x * rng.random()
    for _ in range(count):
        centre, reach = rng.random(2) * side, 3 + rng.random() * 25
        if rng.random() < 0.5:
            inside = np.hypot(x - centre[0], y - centre[1]) < reach
        else:
            turn = rng.random() * np.pi
            u, v = x - centre[0], y - centre[1]
            inside = (np.abs(u * np.cos(turn) + v * np.sin(turn)) < reach) & (
                np.abs(v * np.cos(turn) - u * np.sin(turn)) < 2 + rng.random() * 12
            )
        heights = np.where(inside, rng.random() * 4 + 0.02 * y * rng.random(), heights)
    heights = heights.reshape(side, finer, side, finer).mean(axis=(1, 3)).astype(np.float32)
    built(HeightField(heights, np.ones_like(heights), 0.3))
