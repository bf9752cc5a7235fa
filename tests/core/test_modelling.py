"""The hand on heights: every tool does what it says, as far as it reaches, in mm, at any resolution."""

import numpy as np
import pytest

from nebrel.core.height.field import HeightField
from nebrel.core.height.modelling import ModellingStroke, Tool, worked

SIDE_MM = 40.0


def field(pitch: float = 0.2, heights=None, blank=None) -> HeightField:
    """A square of 40 mm; heights are a function of X and Y."""
    count = round(SIDE_MM / pitch) + 1
    x = np.linspace(0, SIDE_MM, count)
    over = np.meshgrid(x, x[::-1])
    made = np.full((count, count), 2.0) if heights is None else np.broadcast_to(heights(*over), (count, count))
    coverage = np.ones((count, count), dtype=np.float32)
    if blank is not None:
        coverage[blank(*over)] = 0
    return HeightField(made.astype(np.float32), coverage, pitch)


def at(made: HeightField, x: float, y: float) -> float:
    return float(made.heights[len(made.heights) - 1 - round(y / made.pitch), round(x / made.pitch)])


def stroke(tool: Tool, *places: tuple[float, ...], **more) -> ModellingStroke:
    pressed = np.array([(*place, 1.0)[:3] for place in places])
    return ModellingStroke(tool, pressed, **{"radius": 4.0, **more})


LINE = (10.0, 20.0), (30.0, 20.0)


class TestRaised:
    @pytest.mark.parametrize("tool, sign", [("raise", 1), ("lower", -1)])
    def test_by_its_amount_in_the_middle_and_by_nothing_at_its_radius(self, tool, sign):
        made = worked(field(), [stroke(tool, *LINE, amount=1.2, hardness=0.25)])
        assert at(made, 20, 20) == pytest.approx(2 + sign * 1.2, abs=1e-4)
        assert at(made, 20, 21) == pytest.approx(2 + sign * 1.2, abs=1e-4)
        assert 0.1 < abs(at(made, 20, 22.4) - 2) < 1.1
        assert at(made, 20, 24) == pytest.approx(2, abs=1e-4)
        # Ends are round.
        assert at(made, 33.8, 20) != 2 and at(made, 33.8, 23) == 2

    def test_runs_over_itself_only_once(self):
        there_and_back = stroke("raise", (10, 20), (30, 20), (10, 20), amount=1.0)
        assert worked(field(), [there_and_back]).heights.max() == pytest.approx(3, abs=1e-4)
        twice = [stroke("raise", *LINE, amount=1.0)] * 2
        assert worked(field(), twice).heights.max() == pytest.approx(4, abs=1e-4)

    def test_by_the_pressure_of_a_pen(self):
        made = worked(field(), [stroke("raise", (10, 20, 0.2), (30, 20, 1.0), amount=1.0)])
        assert at(made, 10, 20) == pytest.approx(2.2, abs=0.01)
        assert at(made, 20, 20) == pytest.approx(2.6, abs=0.01)
        assert at(made, 30, 20) == pytest.approx(3.0, abs=0.01)

    def test_nothing_sinks_below_the_ground(self):
        assert worked(field(), [stroke("lower", *LINE, amount=5)]).heights.min() == 0

    def test_what_is_blank_stays_as_it_is(self):
        holed = field(blank=lambda x, y: np.hypot(x - 20, y - 20) < 2)
        made = worked(holed, [stroke("raise", *LINE, amount=1.0)])
        assert at(made, 20, 20) == 2 and at(made, 23, 20) == pytest.approx(3)
        assert np.array_equal(made.coverage, holed.coverage)


class TestCarved:
    @pytest.mark.parametrize(
        "profile, at_half", [("V", 2 - 0.5), ("U", 2 - np.sqrt(0.75)), ("bead", 2 + np.sqrt(0.75))]
    )
    def test_has_the_profile_that_was_asked_for(self, profile, at_half):
        made = worked(field(0.1), [stroke("carve", *LINE, radius=3.0, amount=1.0, profile=profile)])
        middle = 3.0 if profile == "bead" else 1.0
        assert at(made, 20, 20) == pytest.approx(middle, abs=0.01)
        assert at(made, 20, 21.5) == pytest.approx(at_half, abs=0.01)
        assert at(made, 20, 23.1) == 2

    def test_follows_the_surface_that_it_is_carved_in(self):
        slope = field(heights=lambda x, y: 1 + x / 10)
        made = worked(slope, [stroke("carve", *LINE, radius=2.0, amount=0.5)])
        for x in (12, 20, 28):
            assert at(made, x, 20) == pytest.approx(1 + x / 10 - 0.5, abs=0.01)


class TestEvened:
    def test_smoothing_takes_grain_away_and_leaves_slopes(self):
        rough = field(heights=lambda x, y: 2 + x / 20 + 0.3 * np.sin(9 * x) * np.sin(7 * y))
        made = worked(rough, [stroke("smooth", *LINE, strength=1.0, radius=5.0)])
        inner = np.s_[95:106, 80:120]
        x = np.linspace(0, SIDE_MM, 201)[80:120]
        assert np.abs(rough.heights[inner] - (2 + x / 20)).max() > 0.25
        assert np.abs(made.heights[inner] - (2 + x / 20)).max() < 0.06
        assert np.array_equal(made.heights[:60], rough.heights[:60])

    def test_sharpening_makes_a_ridge_steeper(self):
        ridge = field(heights=lambda x, y: 2 + np.exp(-((y - 20) ** 2) / 8))
        made = worked(ridge, [stroke("sharpen", *LINE, strength=0.8, radius=5.0)])
        assert at(made, 20, 20) > at(ridge, 20, 20) + 0.15
        assert at(made, 20, 20) - at(made, 20, 22) > 1.2 * (at(ridge, 20, 20) - at(ridge, 20, 22))

    def test_flattening_brings_all_to_one_plane_that_may_lean(self):
        hilly = field(heights=lambda x, y: 3 + 0.05 * x + 0.4 * np.sin(x) * np.sin(y))
        made = worked(hilly, [stroke("flatten", *LINE, strength=1.0, hardness=0.9, radius=5.0)])
        places = [at(made, x, 20) for x in (12, 18, 24, 28)]
        slopes = np.diff(places) / np.diff([12, 18, 24, 28])
        assert np.ptp(slopes) < 1e-3 and slopes[0] == pytest.approx(0.05, abs=0.02)


class TestPulled:
    def test_a_bump_is_taken_along_and_nothing_beside_it_changes(self):
        bump = field(heights=lambda x, y: 2 + 2 * np.exp(-((x - 15) ** 2 + (y - 20) ** 2) / 4))
        made = worked(bump, [stroke("pull", (15, 20), (21, 20), radius=6.0, hardness=0.3)])
        top = np.unravel_index(made.heights.argmax(), made.heights.shape)
        assert top[1] * 0.2 == pytest.approx(21, abs=1.2)
        assert made.heights.max() == pytest.approx(4, abs=0.1)
        assert at(made, 13, 20) < 2.6
        assert np.array_equal(made.heights[:60], bump.heights[:60])

    def test_to_where_it_is_changes_nothing(self):
        bump = field(heights=lambda x, y: 2 + np.sin(x))
        made = worked(bump, [stroke("pull", (15, 20), (15, 20))])
        assert np.array_equal(made.heights, bump.heights)


class TestAnywhere:
    @pytest.mark.parametrize("tool", ["raise", "lower", "smooth", "flatten", "sharpen", "carve", "pull"])
    def test_means_the_same_at_every_resolution(self, tool):
        def hills(x, y):
            return 3 + np.sin(x / 3) + np.cos(y / 4)

        made = [
            worked(field(pitch, hills), [stroke(tool, (12, 18), (24, 23), amount=0.8, strength=0.7)])
            for pitch in (0.1, 0.2, 0.4)
        ]
        for x, y in ((12, 18), (18, 20.8), (20, 24), (26, 22), (8, 8)):
            values = [at(each, x, y) for each in made]
            assert np.ptp(values) < 0.12, (x, y, values)

    @pytest.mark.parametrize("tool", ["raise", "smooth", "flatten", "sharpen", "carve", "pull"])
    @pytest.mark.parametrize("places", [((-30, -30), (-20, -25)), ((80, 10), (90, 90))])
    def test_beside_the_piece_a_stroke_changes_nothing(self, tool, places):
        plain = field(heights=lambda x, y: 2 + np.sin(x))
        assert np.array_equal(worked(plain, [stroke(tool, *places)]).heights, plain.heights)

    @pytest.mark.parametrize("tool", ["raise", "smooth", "flatten", "sharpen", "carve", "pull"])
    def test_over_the_edge_of_the_piece_it_works_as_far_as_that_goes(self, tool):
        made = worked(field(heights=lambda x, y: 2 + np.sin(x)), [stroke(tool, (38, 20), (46, 20))])
        assert np.isfinite(made.heights).all()

    def test_the_other_side_of_the_middle_is_its_mirror_image(self):
        one = stroke("raise", (8, 10), (12, 30), amount=1.0)
        both = worked(field(), [one, one.mirrored(SIDE_MM, SIDE_MM, True, False)])
        assert np.allclose(both.heights, both.heights[:, ::-1], atol=1e-5)
        upside = worked(field(), [one, one.mirrored(SIDE_MM, SIDE_MM, False, True)])
        assert np.allclose(upside.heights, upside.heights[::-1], atol=1e-5)

    def test_without_strokes_it_is_the_same_field(self):
        plain = field()
        assert worked(plain, []) is plain

    def test_the_field_before_is_not_changed(self):
        plain = field()
        worked(plain, [stroke("raise", *LINE)])
        assert (plain.heights == 2).all()
