"""Which tone stands how tall, and what the surface may be like."""

import numpy as np
import pytest

from nebrel.core.errors import BadPictureError, BadValueError
from nebrel.core.height import (
    HeightField,
    add_draft,
    compress_heights,
    curved_heights,
    cut_below,
    found_steps,
    offset_inwards,
    round_edges,
    scale_by,
    smooth_keeping,
    straight_heights,
    terraces_of,
)
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.region import region_of_coverage

FACTS = SourceFacts("PNG", 2, 2, 8, "L")


def picture_of(tones) -> Picture:
    tones = np.asarray(tones, dtype=np.float32)
    return Picture(tones, np.ones_like(tones), FACTS)


def disc_field(height: float = 3.0, radius: float = 8.0, columns: int = 401) -> HeightField:
    y, x = np.mgrid[0:columns, 0:columns] * (40 / (columns - 1))
    heights = np.where(np.hypot(x - 20, y - 20) < radius, height, 0).astype(np.float32)
    return HeightField(heights, np.ones_like(heights), 40 / (columns - 1))


class TestCurve:
    def test_tones_follow_the_curve(self):
        picture = picture_of([[0.0, 0.25, 0.5, 1.0]] * 2)
        field = curved_heights(picture, "bright", 4.0, 30.0, [(0, 0), (0.5, 0.9), (1, 1)])
        assert field.heights[0, [0, 2, 3]] == pytest.approx([0, 3.6, 4], abs=1e-4)
        assert 0 < field.heights[0, 1] < 3.6

    def test_a_straight_curve_is_the_straight_rule(self):
        picture = picture_of(np.random.default_rng(1).random((20, 30)))
        for tall in ("bright", "dark"):
            curve = curved_heights(picture, tall, 3.0, 30.0, [(0, 0), (1, 1)])
            assert curve.heights == pytest.approx(straight_heights(picture, tall, 3.0, 30.0).heights, abs=1e-5)


class TestCompress:
    def deep_and_fine(self):
        """A tall cliff with ripples a hundredth of its height on both sides."""
        y, x = np.mgrid[0:300, 0:300] / 299
        heights = 0.95 * np.clip((x - 0.45) / 0.1, 0, 1) + 0.01 * np.sin(40 * y)
        return ((heights - heights.min()) / np.ptp(heights)).astype(np.float32)

    def test_detail_gains_on_the_cliff_and_the_range_stays(self):
        heights = self.deep_and_fine()
        everywhere = np.ones(heights.shape, dtype=bool)
        gained = []
        for strength in (0.2, 0.5, 1.0):
            result = compress_heights(heights, everywhere, strength)
            assert (result.min(), result.max()) == pytest.approx((heights.min(), heights.max()), abs=1e-5)
            gained.append(np.ptp(result[60:240, 30]) / np.ptp(heights[60:240, 30]))
        assert gained[0] > 2
        assert gained == sorted(gained)

    def test_the_order_of_heights_across_the_cliff_stays(self):
        heights = self.deep_and_fine()
        result = compress_heights(heights, np.ones(heights.shape, dtype=bool), 1.0)
        assert result[:, 250:].mean() > result[:, :50].mean() + 0.2

    def test_no_strength_changes_nothing(self):
        heights = self.deep_and_fine()
        assert compress_heights(heights, np.ones(heights.shape, dtype=bool), 0.0) is heights

    def test_a_ramp_stays_a_ramp(self):
        ramp = np.tile(np.linspace(0, 1, 200, dtype=np.float32), (100, 1))
        result = compress_heights(ramp, np.ones(ramp.shape, dtype=bool), 0.8)
        assert result[50, 20:180] == pytest.approx(ramp[50, 20:180], abs=0.03)


class TestCutAndMask:
    def test_the_edge_of_a_cut_runs_where_the_tone_passes_it(self):
        ramp = np.tile(np.linspace(0, 1, 101, dtype=np.float32), (51, 1))
        region = region_of_coverage(cut_below(picture_of(ramp), 0.305).coverage, 1.0)
        left, _, right, _ = region.bounds
        assert left == pytest.approx(30.5, abs=0.05)
        assert right > 100

    def test_nothing_left_is_refused(self):
        with pytest.raises(BadPictureError, match="cut at a darker tone"):
            cut_below(picture_of([[0.1, 0.2], [0.1, 0.2]]), 0.5)

    def test_a_mask_scales_the_height(self):
        field = disc_field()
        half = np.full(field.heights.shape, 0.5, dtype=np.float32)
        assert scale_by(field, half).heights.max() == pytest.approx(1.5)


class TestSurface:
    def test_tall_edges_stay_and_low_ripples_go(self):
        y, x = np.mgrid[0:200, 0:200] * 0.1
        ripple = 0.05 * np.sin(2 * np.pi * x / 0.8)
        step = np.where(y > 10, 3.0, 0.0)
        field = HeightField((ripple + step).astype(np.float32), np.ones(x.shape, np.float32), 0.1)
        soft = smooth_keeping(field, 0.8, 1.0)
        assert np.ptp(soft.heights[50, 20:180]) < 0.3 * np.ptp(ripple)
        assert soft.heights[110, 100] - soft.heights[90, 100] == pytest.approx(3.0, abs=0.1)
        blurred = smooth_keeping(field, 0.8, 0.0)
        assert blurred.heights[104, 100] - blurred.heights[96, 100] < 2.0

    def test_level_parts_and_slopes_can_be_smoothed_apart(self):
        heights = np.zeros((120, 120), dtype=np.float32)
        heights[:, 60:] = np.linspace(0, 6, 60, dtype=np.float32) + 0.3 * (np.arange(60) % 2)
        heights[30, 20] = 0.4
        field = HeightField(heights, np.ones_like(heights), 0.1)
        slopes = smooth_keeping(field, 0.3, 0.0, "slopes")
        assert np.abs(np.diff(slopes.heights[60, 75:105], 2)).max() < 0.2
        assert slopes.heights[90, 10:40] == pytest.approx(heights[90, 10:40], abs=1e-6)

    @pytest.mark.parametrize("steepest", [30.0, 60.0, 80.0])
    def test_no_slope_is_steeper_than_allowed(self, steepest):
        field = disc_field(columns=801)
        lean = add_draft(field, steepest)
        down, across = np.gradient(lean.heights, field.pitch)
        slopes = np.degrees(np.arctan(np.hypot(down, across)))
        assert np.percentile(slopes, 99.9) <= steepest + 0.5
        assert slopes.max() <= steepest + 1.5
        assert (lean.heights >= field.heights).all()
        assert lean.heights[400, 400] == 3.0
        y, x = np.mgrid[0:801, 0:801] * 0.05
        cone = np.clip(3 - np.maximum(np.hypot(x - 20, y - 20) - 8, 0) * np.tan(np.radians(steepest)), 0, 3)
        assert np.abs(lean.heights - cone).mean() < 0.01

    def test_an_upper_edge_gets_its_radius(self):
        field = disc_field(columns=801)
        radius = 1.0
        round_ = round_edges(field, radius).heights[400]
        x = np.arange(801) * 0.05
        into = np.clip(np.abs(x - 20) - (8 - radius), 0, radius)
        arc = 3 - radius + np.sqrt(radius**2 - into**2)
        near_rim, further_in = np.abs(x - 20) < 7.8, np.abs(x - 20) < 7.5
        assert round_[near_rim] == pytest.approx(arc[near_rim], abs=0.2)
        assert round_[further_in] == pytest.approx(arc[further_in], abs=field.pitch * 1.5)
        assert round_[np.abs(x - 20) > 8.05].max() == 0

    @pytest.mark.parametrize("thickness", [0.5, 3.0])
    def test_an_offset_ramp_is_as_far_away_as_asked_along_its_normal(self, thickness):
        x = np.tile(np.arange(301) * 0.1, (301, 1))
        ramp = (x * 0.75).astype(np.float32)
        under = offset_inwards(ramp, thickness, 0.1)
        away = (ramp - under) * np.cos(np.arctan(0.75))
        assert away[100:200, 100:200] == pytest.approx(thickness, rel=0.03)


class TestSteps:
    def three_tones(self) -> Picture:
        tones = np.zeros((120, 160))
        tones[20:100, 20:140] = 0.5
        tones[40:80, 50:110] = 1.0
        return picture_of(tones)

    def test_a_table_is_made_from_the_tones_present(self):
        table = found_steps(self.three_tones(), 3.0)
        assert [tone for tone, _, _ in table] == pytest.approx([0, 0.5, 1], abs=1e-3)
        assert [mm for _, mm, _ in table] == pytest.approx([0, 1.5, 3], abs=1e-2)
        assert sum(share for _, _, share in table) == pytest.approx(1)
        assert table[2][2] == pytest.approx(40 * 60 / (120 * 160), abs=1e-6)

    def test_soft_tones_get_a_few_steps(self):
        ramp = picture_of(np.tile(np.linspace(0, 1, 300), (50, 1)))
        assert 2 <= len(found_steps(ramp, 2.0)) <= 12

    def test_soft_edges_make_no_terrace_of_their_own(self):
        tones = np.zeros((60, 60))
        tones[:, 30] = 0.5
        tones[:, 31:] = 1.0
        terraces = terraces_of(picture_of(tones), [(0, 0), (0.5, 1), (1, 2)])
        assert set(np.unique(terraces.labels)) == {0, 2}
        assert terraces.coverage(1) == pytest.approx(terraces.coverage(2))

    def test_a_thin_line_stays(self):
        tones = np.zeros((60, 60))
        tones[:, 30:32] = 1.0
        terraces = terraces_of(picture_of(tones), [(0, 0), (1, 2)])
        assert (terraces.labels[:, 30:32] == 1).all()

    @pytest.mark.parametrize(
        ("table", "words"),
        [
            ([(0, 0), (0.5, 1), (0.2, 2)], "not in order"),
            ([(0, 1)], "has 1 steps"),
            ([(0, 1), (1, 1)], "same height"),
        ],
    )
    def test_a_table_that_makes_no_sense_is_refused(self, table, words):
        with pytest.raises(BadValueError, match=words):
            terraces_of(self.three_tones(), table)

    def test_one_step_for_everything_is_refused(self):
        with pytest.raises(BadPictureError, match="one step"):
            terraces_of(picture_of(np.full((9, 9), 0.1)), [(0, 0), (1, 1)])
