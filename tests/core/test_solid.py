"""Solids are as large, as true and as closed as was asked."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra import numpy as npst

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.height import HeightField, smooth, straight_heights
from nebrel.core.heightfield.deviation import measure_deviation
from nebrel.core.heightfield.greedy import triangulate_grid
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.heightfield.wall import triangulate_wall
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.build import build_panel
from nebrel.core.panel.layout import layout_of
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof import check_soundness

BACKING = 1.5
FACTS = SourceFacts("PNG", 2, 2, 8, "L")


def picture_of(tones, coverage=None) -> Picture:
    tones = np.asarray(tones, dtype=np.float32)
    coverage = np.ones_like(tones) if coverage is None else np.asarray(coverage, dtype=np.float32)
    return Picture(tones, coverage, FACTS)


def sound(mesh):
    report = check_soundness(mesh)
    assert report.sound, report.findings
    assert (report.closed, report.manifold, report.outward) == (True, True, True)
    assert (report.degenerate_faces, report.self_crossings) == (0, 0)
    return report


class TestAnalyticSolids:
    def test_a_ramp_is_exact_with_few_triangles(self, field_of):
        field = field_of(lambda x, y: x / 10)
        slab = build_slab(field, BACKING, 0.01)
        report = sound(slab.mesh)
        assert report.size == pytest.approx((40, 30, 4 + BACKING), abs=1e-5)
        assert report.volume_mm3 == pytest.approx(40 * 30 * (2 + BACKING), rel=1e-6)
        assert slab.deviation.max < 1e-5
        assert report.triangles < 200

    def test_a_cone(self, field_of):
        radius, height = 12.0, 5.0
        field = field_of(lambda x, y: height * np.clip(1 - np.hypot(x - 20, y - 15) / radius, 0, 1), rows=151)
        slab = build_slab(field, BACKING, 0.02)
        report = sound(slab.mesh)
        cone = np.pi * radius**2 * height / 3
        assert report.volume_mm3 == pytest.approx(40 * 30 * BACKING + cone, abs=40 * 30 * 0.02)
        assert slab.deviation.max <= 0.02

    def test_a_sphere_cap(self, field_of):
        sphere, cap = 20.0, 4.0
        reach = np.sqrt(sphere**2 - (sphere - cap) ** 2)
        field = field_of(
            lambda x, y: (
                np.sqrt(np.clip(sphere**2 - np.minimum((x - 20) ** 2 + (y - 15) ** 2, reach**2), 0, None))
                - sphere
                + cap
            ),
            columns=401,
            rows=301,
        )
        slab = build_slab(field, BACKING, 0.005)
        report = sound(slab.mesh)
        volume = np.pi * cap**2 * (3 * sphere - cap) / 3
        assert report.volume_mm3 - 40 * 30 * BACKING == pytest.approx(volume, rel=0.01)
        assert report.size[2] == pytest.approx(cap + BACKING, abs=0.005)
        assert 0 < slab.deviation.rms < slab.deviation.max <= 0.005

    def test_a_step_has_flat_terraces(self, field_of):
        field = field_of(lambda x, y: np.where(x < 20, 0.0, 3.0))
        slab = build_slab(field, BACKING, 0.01)
        report = sound(slab.mesh)
        assert slab.deviation.max == 0
        half_pitch_share = 0.5 * field.pitch * 30 * 3
        assert report.volume_mm3 == pytest.approx(40 * 30 * BACKING + 20 * 30 * 3, abs=half_pitch_share + 1e-3)
        tops = slab.mesh.vertices[slab.mesh.vertices[:, 2] > 0, 2]
        assert set(np.round(tops, 5)) == {1.5, 4.5}

    def test_back_is_flat_on_zero_and_corner_at_the_origin(self, field_of):
        mesh = build_slab(field_of(lambda x, y: np.sin(x) + 1), BACKING, 0.05).mesh
        assert mesh.vertices.min(axis=0).tolist() == [0, 0, 0]
        low = mesh.vertices[:, 2] < BACKING - 1e-6
        assert np.all(mesh.vertices[low, 2] == 0)

    def test_the_pictures_top_is_at_plus_y(self, field_of):
        mesh = build_slab(field_of(lambda x, y: y / 10), BACKING, 0.01).mesh
        highest = mesh.vertices[np.argmax(mesh.vertices[:, 2])]
        assert highest[1] == pytest.approx(30, abs=1e-5)


class TestTolerance:
    @pytest.mark.parametrize("tolerance", [0.5, 0.05, 0.005])
    def test_measured_error_stays_within_it(self, field_of, tolerance):
        field = field_of(lambda x, y: 3 + np.sin(x) * np.cos(y * 1.3) * 2)
        slab = build_slab(field, BACKING, tolerance)
        assert slab.deviation.max <= tolerance
        assert slab.deviation.max > tolerance / 3

    def test_the_measure_sees_what_it_should(self, field_of):
        flat = field_of(lambda x, y: x * 0, width=4, columns=5, rows=5)
        mesh = build_slab(flat, BACKING, 0.1).mesh
        asked = np.full((5, 5), BACKING, dtype=np.float32)
        asked[1, 2] += 0.25
        everywhere = np.ones_like(asked, dtype=bool)
        deviation = measure_deviation(mesh, asked, everywhere, 1.0)
        assert deviation.max == pytest.approx(0.25)
        assert deviation.rms == pytest.approx(0.25 / 5)
        everywhere[1, 2] = False
        assert measure_deviation(mesh, asked, everywhere, 1.0).max == 0

    def test_triangles_tile_the_grid(self, field_of):
        field = field_of(lambda x, y: np.sin(x) + np.cos(y))
        surface = triangulate_grid(field.heights, field.material, 0.01)
        a, b, c = (
            np.column_stack([surface.columns, surface.rows])[surface.faces[:, i]].astype(float) for i in range(3)
        )
        areas = ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2
        assert np.all(areas > 0)
        assert areas.sum() == 200 * 150

    def test_progress_ends_at_one_and_never_falls(self, field_of):
        seen: list[float] = []
        noise = np.random.default_rng(1).uniform(0, 3, (301, 301))
        field = field_of(lambda x, y: noise, columns=301, rows=301)
        triangulate_grid(field.heights, field.material, 0.01, seen.append)
        assert len(seen) >= 3
        assert seen == sorted(seen)
        assert seen[-1] == 1.0


def test_walls_have_no_degenerate_triangles_and_the_right_area():
    rng = np.random.default_rng(4)
    upper = np.concatenate([[0], np.sort(rng.uniform(0, 10, 60)), [10]])
    heights = rng.uniform(1, 4, len(upper))
    lower = np.linspace(0, 10, 7)
    faces = triangulate_wall(lower, np.zeros(7), upper, heights)
    along, up = np.concatenate([lower, upper]), np.concatenate([np.zeros(7), heights])
    x, y = along[faces], up[faces]
    areas = ((x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (y[:, 1] - y[:, 0]) * (x[:, 2] - x[:, 0])) / 2
    assert np.all(areas > 0)
    assert areas.sum() == pytest.approx(np.trapezoid(heights, upper))


class TestAnyPicture:
    """Whatever small picture comes, the solid is closed, of true size and within tolerance."""

    @settings(max_examples=60, deadline=None)
    @given(
        tones=npst.arrays(
            np.float32,
            npst.array_shapes(min_dims=2, max_dims=2, min_side=2, max_side=14),
            elements=st.floats(0, 1, width=32),
        ),
        width=st.floats(1, 500),
        relief=st.floats(0.1, 20),
        backing=st.floats(0.1, 5),
        tolerance=st.floats(0.002, 0.5),
        raise_=st.sampled_from(["bright", "dark"]),
    )
    def test_rectangles(self, tones, width, relief, backing, tolerance, raise_):
        tones.flat[0], tones.flat[-1] = 0, 1
        field = straight_heights(picture_of(tones), raise_, relief, width)
        slab = build_panel(layout_of(field, PanelBody(backing)), tolerance)
        report = sound(slab.mesh)
        assert slab.deviation.max <= tolerance
        expected = (width, width * (tones.shape[0] - 1) / (tones.shape[1] - 1))
        assert report.size[:2] == pytest.approx(expected, abs=0.001, rel=1e-6)
        assert report.size[2] <= relief + backing + 1e-4

    @settings(max_examples=25, deadline=None)
    @given(seed=st.integers(0, 10_000), size=st.integers(12, 40))
    def test_blanks_are_cut_out(self, seed, size):
        rng = np.random.default_rng(seed)
        coverage = rng.uniform(0, 1, (size, size)) > 0.25
        coverage[2:9, 2:9] = True
        field = straight_heights(picture_of(rng.uniform(0, 1, (size, size)), coverage), "bright", 2.0, 30.0)
        slab = build_panel(layout_of(field, PanelBody(1.0)), 0.05)
        report = check_soundness(slab.mesh)
        assert (report.closed, report.outward, report.degenerate_faces) == (True, True, 0)
        assert report.self_crossings == 0
        assert slab.deviation.max <= 0.05
        assert 0 < report.volume_mm3 < 30 * 30 * 3


class TestBlanks:
    def ring(self, size: int = 241) -> HeightField:
        rows, columns = np.mgrid[0:size, 0:size]
        radius = np.hypot(columns - (size - 1) / 2, rows - (size - 1) / 2) * 60 / (size - 1)
        pitch = 60 / (size - 1)
        inside = np.clip((25 - radius) / pitch + 0.5, 0, 1) * np.clip((radius - 10) / pitch + 0.5, 0, 1)
        return HeightField(np.full((size, size), 2.0, dtype=np.float32), inside.astype(np.float32), pitch)

    def test_an_outline_is_a_curve_and_not_a_stair(self):
        report = sound(build_panel(layout_of(self.ring(), PanelBody(1.0)), 0.02).mesh)
        flat = np.pi * (25**2 - 10**2)
        assert report.volume_mm3 == pytest.approx(flat * 3, rel=0.003)
        round_walls = 2 * np.pi * (25 + 10) * 3
        assert report.area_mm2 == pytest.approx(2 * flat + round_walls, rel=0.005)
        assert report.size == pytest.approx((50, 50, 3), abs=0.1)

    def test_heights_under_a_blank_do_not_matter(self):
        field = self.ring()
        wild = field.heights.copy()
        wild[~field.material] = np.random.default_rng(1).uniform(0, 50, np.count_nonzero(~field.material))
        volume = sound(
            build_panel(layout_of(HeightField(wild, field.coverage, field.pitch), PanelBody(1.0)), 0.02).mesh
        ).volume_mm3
        assert volume == pytest.approx(
            sound(build_panel(layout_of(field, PanelBody(1.0)), 0.02).mesh).volume_mm3, rel=1e-4
        )

    def test_islands_become_parts(self):
        coverage = np.zeros((60, 60))
        coverage[5:25, 5:25] = coverage[35:55, 35:55] = 1
        field = straight_heights(
            picture_of(np.random.default_rng(1).uniform(0, 1, (60, 60)), coverage), "bright", 2, 50
        )
        assert sound(build_panel(layout_of(field, PanelBody(1.0)), 0.02).mesh).shells == 2


class TestHeights:
    def test_dark_is_bright_turned_over(self):
        tones = np.random.default_rng(2).uniform(0, 1, (6, 8))
        bright = straight_heights(picture_of(tones), "bright", 3.0, 70.0)
        dark = straight_heights(picture_of(tones), "dark", 3.0, 70.0)
        assert np.allclose(bright.heights + dark.heights, 3.0)
        assert bright.width == pytest.approx(70)
        assert bright.pitch == pytest.approx(10)

    def test_one_tone_and_no_material_are_refused(self):
        with pytest.raises(BadPictureError, match="same tone"):
            straight_heights(picture_of(np.full((4, 4), 0.3)), "bright", 3, 80)
        with pytest.raises(BadPictureError, match="transparent"):
            straight_heights(picture_of(np.eye(4), np.zeros((4, 4))), "bright", 3, 80)

    def test_smoothing_is_a_gaussian_in_mm(self, field_of):
        step = field_of(lambda x, y: np.where(x < 20, 0.0, 1.0), columns=401)
        profile = smooth(step, 0.8).heights[75]
        x = np.arange(401) * step.pitch
        from scipy.special import erf

        expected = 0.5 * (1 + erf((x - 20 + step.pitch / 2) / (0.8 * np.sqrt(2))))
        assert np.abs(profile - expected).max() < 0.01
        assert smooth(step, 0.0) is step

    def test_smoothing_does_not_pull_edges_towards_blanks(self):
        heights = np.zeros((40, 40), dtype=np.float32)
        coverage = np.zeros_like(heights)
        heights[10:30, 10:30] = 2
        coverage[10:30, 10:30] = 1
        result = smooth(HeightField(heights, coverage, 0.5), 2.0)
        assert np.allclose(result.heights[10:30, 10:30], 2, atol=1e-5)


def test_cutting_everything_away_is_refused(field_of):
    from shapely.geometry import MultiPolygon, box

    from nebrel.core.csg.cut import cut_to_region

    mesh = build_slab(field_of(lambda x, y: x * 0), 1.0, 0.1).mesh
    with pytest.raises(BadValueError, match="Nothing is left"):
        cut_to_region(mesh, MultiPolygon([box(100, 100, 110, 110)]), 1e-4)
