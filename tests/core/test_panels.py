"""Panels with outlines, frames, backs, edges and openings: as large as asked, and closed."""

import numpy as np
import pytest
from scipy import ndimage

from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField, add_draft, terraces_of
from nebrel.core.panel.assemble import refuse_unfit
from nebrel.core.panel.body import CornerHoles, Frame, HangingHole, Keyhole, PanelBody, StandSlot
from nebrel.core.panel.build import build_panel, sketch_panel
from nebrel.core.panel.layout import layout_of
from nebrel.core.panel.target import target_field
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof import check_soundness
from nebrel.core.proof.thickness import measure_thickness

WIDTH, DEPTH = 40.0, 30.0
TOLERANCE = 0.02


def sound(mesh):
    report = check_soundness(mesh)
    assert report.sound, report.findings
    return report


@pytest.fixture(scope="module")
def hills(field_of) -> HeightField:
    return field_of(lambda x, y: 1.2 + np.sin(x / 3) * np.cos(y / 4))


@pytest.fixture(scope="module")
def flat(field_of) -> HeightField:
    """2 mm everywhere but for one sample, which nothing depends on."""
    return field_of(lambda x, y: np.full_like(x, 2.0))


@pytest.fixture(scope="module")
def island() -> HeightField:
    y, x = np.mgrid[0:241, 0:321] * 0.125
    coverage = (np.hypot(x - 20, y - 15) < 9).astype(np.float32)
    return HeightField(np.full(x.shape, 1.0, np.float32), coverage, 0.125)


class TestOutlines:
    @pytest.mark.parametrize(
        ("body", "area"),
        [
            (PanelBody(1.0, shape="rounded", corner=6), WIDTH * DEPTH - (4 - np.pi) * 36),
            (PanelBody(1.0, shape="ellipse"), np.pi * WIDTH * DEPTH / 4),
            (PanelBody(1.0, shape="polygon", sides=4), WIDTH * DEPTH),
            (PanelBody(1.0, shape="polygon", sides=6), WIDTH * DEPTH * 0.75),
        ],
    )
    def test_area_and_size_are_those_of_the_shape(self, flat, body, area):
        slab = build_panel(layout_of(flat, body), TOLERANCE)
        report = sound(slab.mesh)
        assert report.size == pytest.approx((WIDTH, DEPTH, 3.0), abs=0.001)
        assert report.volume_mm3 == pytest.approx(3.0 * area, rel=0.001)

    def test_a_base_reaches_beyond_what_the_picture_shows(self, island):
        report = sound(build_panel(layout_of(island, PanelBody(1.0, shape="outline", margin=3)), TOLERANCE).mesh)
        assert report.volume_mm3 == pytest.approx(np.pi * (12**2 * 1.0 + 9**2 * 1.0), rel=0.005)
        assert report.size[0] == pytest.approx(24, abs=2 * 0.125)

    def test_a_margin_larger_than_the_piece_is_refused(self, island):
        with pytest.raises(BadValueError, match="margin of 90 mm is larger"):
            build_panel(layout_of(island, PanelBody(1.0, shape="outline", margin=90)), TOLERANCE)

    def test_corners_larger_than_the_piece_are_refused(self, flat):
        with pytest.raises(BadValueError, match="up to 15\\.0 mm"):
            build_panel(layout_of(flat, PanelBody(1.0, shape="rounded", corner=16)), TOLERANCE)


class TestFrames:
    @pytest.mark.parametrize(
        ("profile", "section_mm2"),
        [("flat", 4 * 2.5), ("bevel", 3 * 2.5), ("round", np.pi / 4 * 4 * 2.5), ("cove", (1 - np.pi / 4) * 4 * 2.5)],
    )
    def test_a_frame_has_its_profile(self, field_of, profile, section_mm2):
        low = field_of(lambda x, y: np.zeros_like(x))
        report = sound(build_panel(layout_of(low, PanelBody(1.0, frame=Frame(4, 2.5, profile))), TOLERANCE).mesh)
        straight = 2 * (WIDTH + DEPTH - 8) * section_mm2
        assert report.volume_mm3 - WIDTH * DEPTH == pytest.approx(straight, rel=0.2)
        assert report.size == pytest.approx((WIDTH, DEPTH, 3.5), abs=0.03)

    def test_a_flat_frame_is_exact(self, field_of):
        low = field_of(lambda x, y: np.zeros_like(x))
        report = sound(build_panel(layout_of(low, PanelBody(1.0, frame=Frame(4, 2.5))), TOLERANCE).mesh)
        ring = WIDTH * DEPTH - (WIDTH - 8) * (DEPTH - 8)
        assert report.volume_mm3 == pytest.approx(WIDTH * DEPTH + 2.5 * ring, rel=1e-4)

    @pytest.mark.parametrize("shape", ["rectangle", "rounded", "ellipse", "polygon"])
    def test_relief_taller_than_the_frame_stays_closed(self, hills, shape):
        slab = build_panel(layout_of(hills, PanelBody(1.0, shape=shape, frame=Frame(3, 0.4, "round"))), TOLERANCE)
        sound(slab.mesh)
        assert slab.deviation.max <= TOLERANCE

    def test_a_frame_over_everything_is_refused(self, flat):
        with pytest.raises(BadValueError, match="narrower one"):
            build_panel(layout_of(flat, PanelBody(1.0, frame=Frame(15.5, 2))), TOLERANCE)

    def test_what_is_asked_shows_the_frame(self, hills):
        asked = target_field(layout_of(hills, PanelBody(1.0, shape="ellipse", frame=Frame(4, 2.5))))
        assert asked.heights[75, 5] == pytest.approx(2.5)
        assert asked.heights[75, 100] == pytest.approx(hills.heights[75, 100])
        assert not asked.material[2, 2]


class TestBacks:
    def test_a_following_back_is_as_thick_as_asked_along_the_normal(self, hills):
        slab = build_panel(layout_of(hills, PanelBody(1.2, back="follow")), 0.01)
        sound(slab.mesh)
        thickness = measure_thickness(slab.mesh)
        corners = slab.mesh.corners
        middle = np.abs(corners.mean(axis=1)[:, :2] - (WIDTH / 2, DEPTH / 2)).max(axis=1) < 12
        normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        upper = middle & (normals[:, 2] > 0)
        assert np.percentile(thickness.of_face[upper], [1, 99]) == pytest.approx(1.2, abs=0.05)
        assert slab.mesh.vertices[:, 2].min() == pytest.approx(0, abs=0.01)

    def test_a_surface_only_is_open_and_nothing_else(self, hills):
        mesh = build_panel(layout_of(hills, PanelBody(1.2, back="none")), TOLERANCE).mesh
        report = check_soundness(mesh, surface_only=True)
        assert not report.closed
        assert report.sound
        assert (report.manifold, report.outward, report.self_crossings) == (True, True, 0)
        assert report.size[2] == pytest.approx(np.ptp(hills.heights), abs=0.05)


class TestEdges:
    def test_a_bevel_takes_a_wedge_from_every_side(self, flat):
        report = sound(build_panel(layout_of(flat, PanelBody(1.0, bevel=0.8)), TOLERANCE).mesh)
        wedge = 2 * (WIDTH + DEPTH) * 0.8**2 / 2 - 4 * 0.8**3 / 3
        assert report.volume_mm3 == pytest.approx(3 * WIDTH * DEPTH - wedge, rel=1e-3)
        assert report.size == pytest.approx((WIDTH, DEPTH, 3), abs=0.001)

    def test_walls_lean_from_a_foot_of_full_size(self, flat):
        report = sound(build_panel(layout_of(flat, PanelBody(1.0, wall_draft_deg=10)), TOLERANCE).mesh)
        lean = 3 * np.tan(np.radians(10))
        top = (WIDTH - 2 * lean) * (DEPTH - 2 * lean)
        frustum = (WIDTH * DEPTH + top + 4 * (WIDTH - lean) * (DEPTH - lean)) * 3 / 6
        assert report.volume_mm3 == pytest.approx(frustum, rel=1e-3)
        assert report.size == pytest.approx((WIDTH, DEPTH, 3), abs=0.001)

    def test_edges_that_leave_nothing_are_refused(self, flat):
        with pytest.raises(BadValueError, match="leave nothing"):
            refuse_unfit(layout_of(flat, PanelBody(30.0, wall_draft_deg=40)))


class TestOpenings:
    @pytest.mark.parametrize(
        ("opening", "removed"),
        [
            (HangingHole(4, 6), np.pi * 4 * 7.0),
            (CornerHoles(3, 4), 4 * np.pi * 2.25 * 7.0),
            (Keyhole(8, 4, 5, 1.2, 3.6, 14), (np.pi * 16 + 40) * 2.4 + (np.pi * 16 + 0.5 * np.pi * 4 + 12) * 1.2),
            (StandSlot(20, 2.2, 3, 0, 10), 20 * 2.2 * 3),
        ],
    )
    def test_an_opening_takes_out_what_it_should(self, flat, opening, removed):
        slab = build_panel(layout_of(flat, PanelBody(5.0, openings=(opening,))), TOLERANCE)
        assert 7 * WIDTH * DEPTH - sound(slab.mesh).volume_mm3 == pytest.approx(removed, rel=0.05)
        assert slab.deviation.max <= TOLERANCE

    @pytest.mark.parametrize(
        ("opening", "words"),
        [
            (HangingHole(4, 1), "does not lie inside"),
            (CornerHoles(3, 1), "corner hole does not lie inside"),
            (Keyhole(8, 9, 5, 1.2, 3.6, 14), "must be narrower"),
            (Keyhole(8, 4, 5, 4, 3.6, 14), "must be deeper"),
            (Keyhole(8, 4, 5, 1.2, 5.5, 14), "thicker backing"),
            (StandSlot(60, 2.2, 3, 0, 10), "stand slot does not lie inside"),
            (StandSlot(20, 2.2, 6, 0, 10), "thicker backing"),
        ],
    )
    def test_one_that_does_not_fit_is_refused(self, flat, opening, words):
        with pytest.raises(BadValueError, match=words):
            refuse_unfit(layout_of(flat, PanelBody(5.0, openings=(opening,))))

    def test_everything_at_once(self, hills):
        body = PanelBody(
            5.0, shape="rounded", corner=5, frame=Frame(4, 2, "cove"), bevel=0.6, wall_draft_deg=3,
            openings=(CornerHoles(2, 7), Keyhole(6, 3, 4, 1.2, 3.6, 12), StandSlot(12, 2, 2.5, 15, 11)),
        )  # fmt: skip
        slab = build_panel(layout_of(hills, body), TOLERANCE)
        sound(slab.mesh)
        assert slab.deviation.max <= TOLERANCE
        assert len(sketch_panel(layout_of(hills, body), 0.05).faces) > 100


class TestStepPlates:
    """A disc of 2 mm on a disc of 1 mm, and a leaning bar that goes up two steps at once, drawn with soft edges."""

    SIDE = 60.0

    def picture(self, columns: int = 301, finer: int = 4) -> Picture:
        size = columns * finer
        y, x = (np.mgrid[0:size, 0:size] + 0.5) / finer - 0.5
        x, y = x / (columns - 1), y / (columns - 1)
        tones = np.zeros((size, size))
        away = np.hypot(x - 0.4, y - 0.4)
        tones[away < 0.3] = 0.5
        tones[away < 0.15] = 1.0
        across, along = (x - 0.82) * 0.95 + (y - 0.5) * 0.3122, (y - 0.5) * 0.95 - (x - 0.82) * 0.3122
        tones[(np.abs(across) < 0.05) & (np.abs(along) < 0.35)] = 1.0
        tones = tones.reshape(columns, finer, columns, finer).mean(axis=(1, 3)).astype(np.float32)
        return Picture(tones, np.ones_like(tones), SourceFacts("PNG", columns, columns, 8, "L"))

    def field(self) -> HeightField:
        picture = self.picture()
        terraces = terraces_of(picture, [(0, 0), (0.5, 1), (1, 2)])
        heights = terraces.levels[terraces.labels].astype(np.float32)
        return HeightField(heights, picture.coverage, self.SIDE / 300, terraces)

    def test_terraces_are_level_and_the_volume_is_right(self):
        slab = build_panel(layout_of(self.field(), PanelBody(1.0)), TOLERANCE)
        report = sound(slab.mesh)
        levels = np.unique(slab.mesh.vertices[:, 2])
        assert levels == pytest.approx([0, 1, 2, 3], abs=1e-6)
        square = self.SIDE**2
        asked = square * (1 + np.pi * 0.3**2 + np.pi * 0.15**2 + 2 * 0.1 * 0.7)
        assert report.volume_mm3 == pytest.approx(asked, rel=0.002)
        assert report.size == pytest.approx((self.SIDE, self.SIDE, 3), abs=0.001)
        assert slab.deviation.max <= 1e-6

    def test_edges_are_curves_and_no_stairs(self):
        mesh = build_panel(layout_of(self.field(), PanelBody(1.0)), TOLERANCE).mesh
        top = mesh.vertices[mesh.vertices[:, 2] == 3][:, :2]
        from_middle = np.hypot(top[:, 0] - 0.4 * self.SIDE, top[:, 1] - 0.6 * self.SIDE)
        disc = from_middle[from_middle < 0.2 * self.SIDE]
        assert len(disc) > 40
        assert np.abs(disc - 0.15 * self.SIDE).max() < 0.25 * self.SIDE / 300

    @pytest.mark.parametrize("steepest", [80.0, 55.0])
    def test_leaning_walls_add_a_cone_round_every_terrace(self, steepest):
        slab = build_panel(layout_of(add_draft(self.field(), steepest), PanelBody(1.0)), TOLERANCE)
        report = sound(slab.mesh)
        upright = sound(build_panel(layout_of(self.field(), PanelBody(1.0)), TOLERANCE).mesh).volume_mm3
        reach = 1 / np.tan(np.radians(steepest))
        rims = 2 * np.pi * (0.3 + 0.15) * self.SIDE * reach / 2 + 2 * 0.8 * self.SIDE * 2 * reach
        assert report.volume_mm3 - upright == pytest.approx(rims, rel=0.1)
        levels = np.unique(np.round(slab.mesh.vertices[:, 2], 6))
        assert {1.0, 2.0, 3.0} <= set(levels.tolist())

    def test_frame_and_shape_go_with_terraces(self):
        body = PanelBody(1.0, shape="ellipse", frame=Frame(3, 2.5, "bevel"))
        report = sound(build_panel(layout_of(self.field(), body), TOLERANCE).mesh)
        assert report.size == pytest.approx((self.SIDE, self.SIDE, 3.5), abs=0.001)

    def test_noise_of_many_tones_gives_a_closed_plate(self):
        soft = ndimage.gaussian_filter(np.random.default_rng(3).random((160, 160)), 3)
        tones = np.round((soft - soft.min()) / np.ptp(soft) * 4) / 4
        picture = Picture(tones.astype(np.float32), np.ones((160, 160), np.float32), SourceFacts("PNG", 2, 2, 8, "L"))
        terraces = terraces_of(picture, [(tone / 4, tone * 0.4) for tone in range(5)])
        heights = terraces.levels[terraces.labels].astype(np.float32)
        sound(
            build_panel(
                layout_of(HeightField(heights, picture.coverage, 0.25, terraces), PanelBody(0.8)), TOLERANCE
            ).mesh
        )
