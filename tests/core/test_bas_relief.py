"""Reliefs by depth: what hides what, steep slopes held back without turning that round, edges as sharp as pixels."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from nebrel.core.bas_relief.heights import FineTones, add_fine_tones, relief_heights, room_for_tones
from nebrel.core.bas_relief.hold_back import Held, Shallow, hold_back
from nebrel.core.bas_relief.nearness import Nearness, Roundness, nearness
from nebrel.core.bas_relief.overlaps import Depths, links_of
from nebrel.core.bas_relief.stage import behind_all, is_scene, stage_of, swollen
from nebrel.core.errors import BadPictureError
from nebrel.core.figure.depth import DepthPicture, from_outline
from nebrel.core.figure.figure import Hand
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.order import PartMark
from nebrel.core.figure.parts import find_parts
from nebrel.core.figure.silhouette import smoothly_sampled
from nebrel.core.figure.swell import swell

SIDE, PITCH = 120, 0.5
ROWS, COLUMNS = np.mgrid[0:SIDE, 0:SIDE].astype(np.float64)
DISC = np.hypot(ROWS - 60, COLUMNS - 60) < 48
INNER = np.hypot(ROWS - 60, COLUMNS - 64) < 22
DOME = np.sqrt(np.maximum(48**2 - (ROWS - 60) ** 2 - (COLUMNS - 60) ** 2, 0)) * PITCH


def depths(standing: np.ndarray, inside: np.ndarray = DISC) -> Depths:
    return Depths(standing, np.zeros(standing.shape), inside, np.zeros(inside.shape, dtype=bool))


def leaps(held: Held, heights: np.ndarray) -> np.ndarray:
    """By how much every leap's nearer side is higher."""
    across, up = held.links
    return np.concatenate(
        [
            (np.diff(heights, axis=1) * across.leap)[across.leap != 0],
            (np.diff(heights, axis=0) * up.leap)[up.leap != 0],
        ]
    )


class TestOverlaps:
    @pytest.mark.parametrize("soft", [0.0, 1.0])
    def test_a_part_before_another_leaps_all_round_towards_the_viewer(self, soft):
        raised = ndimage.gaussian_filter(DOME + np.where(INNER, 10.0, 0.0), soft) if soft else DOME + 10.0 * INNER
        across, up = links_of(depths(raised))
        rows, columns = np.nonzero(across.leap)
        # Into the part from the left, out of it to the right, at its border.
        assert np.array_equal(across.leap[rows, columns] > 0, columns < 64)
        away = np.abs(np.hypot(rows - 60, columns + 0.5 - 64) - 22)
        assert away.max() < 2.5
        # Rows that cross it at less than half a right angle leap twice each.
        steep = np.abs(np.arange(SIDE) - 60) < 14
        assert np.array_equal((across.leap != 0).sum(axis=1)[steep], np.full(int(steep.sum()), 2))
        assert (up.leap != 0).sum() > 40

    def test_a_leap_is_drawn_together_on_its_link(self):
        soft = ndimage.gaussian_filter(np.where(COLUMNS >= 60, 8.0, 0.0) + 0.02 * COLUMNS, 1.2)
        inside = np.ones(DISC.shape, dtype=bool)
        across, _ = links_of(depths(soft, inside))
        row = across.steps[60]
        at = int(np.flatnonzero(across.leap[60])[0])
        assert row[at] == pytest.approx(8.02, abs=0.05)
        assert np.allclose(row[at - 3 : at], 0.02, atol=0.01) and np.allclose(row[at + 1 : at + 4], 0.02, atol=0.01)

    @pytest.mark.parametrize(
        "smooth",
        [DOME, 0.9 * COLUMNS, 4 * np.sin(COLUMNS / 9) * np.cos(ROWS / 11), 30 * np.exp(-((COLUMNS - 60) ** 2) / 200)],
    )
    def test_slopes_are_none(self, smooth):
        assert not any((links.leap != 0).any() for links in links_of(depths(smooth)))

    def test_grain_is_none(self):
        grain = DOME + 6.0 * (np.hypot(ROWS - 50, COLUMNS - 50) < 1.5)
        assert not any((links.leap != 0).any() for links in links_of(depths(grain)))


class TestHeldBack:
    def test_nothing_held_back_is_the_same_form_flattened(self):
        held = hold_back(depths(DOME), PITCH, Shallow(3.0, 0.0, 0.0, False))
        low, high = DOME[DISC].min(), DOME[DISC].max()
        assert np.allclose(held.heights[DISC], (DOME[DISC] - low) / (high - low) * 3.0, atol=2e-3)
        assert (held.heights[~DISC] == 0).all()

    def test_steep_slopes_lose_more_than_gentle_ones(self):
        # Four times as steep on the right.
        ramp = np.where(COLUMNS < 60, 0.1 * (COLUMNS - 60), 0.4 * (COLUMNS - 60))
        inside = np.ones(DISC.shape, dtype=bool)
        ratios = []
        for strength in (0.0, 0.3, 0.8):
            heights = hold_back(depths(ramp, inside), PITCH, Shallow(3.0, strength, 0.0, False)).heights[60]
            assert (np.diff(heights) > 0).all()
            ratios.append((heights[100] - heights[90]) / (heights[30] - heights[20]))
        assert ratios[0] == pytest.approx(4, rel=0.01)
        assert 1 < ratios[2] < ratios[1] < 3

    @pytest.mark.parametrize("strength", [0.0, 0.5, 1.0])
    def test_a_leap_keeps_its_least_step_however_small_it_is(self, strength):
        held = hold_back(depths(DOME + 2.0 * INNER), PITCH, Shallow(2.0, strength, 0.25, True))
        own = leaps(held, held.heights)
        assert len(own) > 80 and own.min() >= 0.25 * 0.97
        assert held.heights.max() == pytest.approx(2.0)

    def test_what_is_before_stays_before_where_slopes_alone_would_sink_it(self):
        # A low disc before the foot of a steep hill, which hardly falls once it is held back.
        hill = 60 * np.exp(-((COLUMNS - 20) ** 2) / 900)
        near = np.hypot(ROWS - 60, COLUMNS - 80) < 12
        standing = hill + np.where(near, 8.0 - 0.3 * np.abs(ROWS - 60), 0.0)
        held = hold_back(depths(standing, np.ones(DISC.shape, dtype=bool)), PITCH, Shallow(1.5, 1.0, 0.1, False))
        assert leaps(held, held.heights).min() >= 0.1 * 0.97

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.floats(0, 1), st.floats(0.01, 0.3))
    def test_order_is_kept_whatever_lies_over_what(self, seed, strength, step):
        rng = np.random.default_rng(seed)
        standing = rng.uniform(0, 20) * np.sin(COLUMNS / rng.uniform(15, 60)) + rng.uniform(-0.3, 0.3) * ROWS
        for _ in range(rng.integers(1, 5)):
            middle, reach = rng.uniform(25, 95, 2), rng.uniform(8, 30)
            disc = np.hypot(ROWS - middle[0], COLUMNS - middle[1]) < reach
            standing = np.where(disc, standing + rng.uniform(4, 40), standing)
        held = hold_back(depths(standing), PITCH, Shallow(3.0, strength, step, bool(rng.integers(2))))
        assert np.isfinite(held.heights).all() and held.heights.min() >= 0
        assert held.heights.max() == pytest.approx(3.0)
        own = leaps(held, held.heights)
        # Where two leaps meet head on within a cell there is no room for both.
        assert not len(own) or np.quantile(own, 0.02) >= 0.9 * step

    def test_before_a_ground_all_of_the_outline_stands_out(self):
        tilted = 0.2 * COLUMNS + DOME
        held = hold_back(depths(tilted), PITCH, Shallow(3.0, 0.5, 0.4, True))
        rim = DISC & ndimage.binary_dilation(~DISC)
        assert held.heights[rim].min() >= 0.4 * 0.97


class TestStage:
    def test_what_is_cut_out_is_shown_before_a_ground_and_all_of_a_picture_as_a_scene(self):
        assert not is_scene(DISC.astype(np.float32))
        whole = np.ones((90, 150), dtype=np.float32)
        assert is_scene(whole)
        stage = stage_of(whole, 0.5, 128)
        rows, columns = np.flatnonzero(stage.inside.any(axis=1)), np.flatnonzero(stage.inside.any(axis=0))
        assert np.ptp(columns) + 1 == pytest.approx(128, abs=1)
        assert np.ptp(rows) + 1 == pytest.approx(128 * 90 / 150, abs=1)
        assert stage.box == pytest.approx((75.0, 45.0))

    def test_what_the_frame_cuts_off_goes_on_beyond_it(self):
        # Half a disc: its flat side is the frame's.
        half = (np.hypot(ROWS - 119, COLUMNS - 60) < 48).astype(np.float32)
        stage = stage_of(half, PITCH, 96)
        goes_on, closed = swollen(stage, half.shape), swell(stage)
        middle = stage.inside.shape[1] // 2
        column = np.sqrt(np.maximum(goes_on[:, middle], 0))[stage.inside[:, middle]]
        # It is as thick at the frame as a whole disc in its middle, and falls from there to the outline.
        assert column[-4] == pytest.approx(24, rel=0.04)
        assert column.argmax() >= len(column) - 12
        assert np.sqrt(max(closed[stage.inside[:, middle], middle][-4], 0)) < 12

    def test_what_takes_up_much_of_the_frame_is_behind(self):
        picture = np.where(DISC, 0.9, 0.2)[..., np.newaxis].astype(np.float32)
        stage = stage_of(np.ones(DISC.shape, dtype=np.float32), PITCH, 96)
        parts = find_parts(stage, stage.sharp_on_grid(picture[..., 0])[..., np.newaxis], ())
        behind = behind_all(stage, parts)
        middle = tuple(side // 2 for side in behind.shape)
        assert not behind[middle] and behind[6, 6]
        assert behind[stage.inside].mean() == pytest.approx(1 - DISC.mean(), abs=0.03)


def scene_of(picture: np.ndarray, strokes=(), order=(), source=from_outline) -> Nearness:
    stage = stage_of(np.ones(picture.shape[:2], dtype=np.float32), PITCH, 120)
    return nearness(stage, True, source, Roundness(), Hand(strokes, picture.astype(np.float32), order))


TWO_DISCS = np.full((SIDE, SIDE, 1), 0.1)
LEFT = np.hypot(ROWS - 60, COLUMNS - 42) < 26
RIGHT = np.hypot(ROWS - 60, COLUMNS - 78) < 26
TWO_DISCS[LEFT], TWO_DISCS[RIGHT] = 0.5, 0.9


class TestNearness:
    def test_parts_of_a_scene_swell_before_what_is_behind(self):
        near = scene_of(TWO_DISCS)
        heights = relief_heights(near, np.ones((SIDE, SIDE), dtype=np.float32), Shallow(2.0, 0.3, 0.2, False))
        outside = ~ndimage.binary_dilation(LEFT | RIGHT, iterations=3)
        assert heights[outside].max() < 0.05
        inner = ndimage.binary_erosion(LEFT & ~RIGHT, iterations=3) | ndimage.binary_erosion(RIGHT, iterations=3)
        assert heights[inner].min() > 0.15

    @pytest.mark.parametrize("kind, sign", [("nearer", 1), ("farther", -1)])
    def test_a_stroke_moves_the_part_under_it_and_leaps_at_its_border(self, kind, sign):
        stroke = HandStroke(kind, np.array([[80.0, 50.0], [80.0, 70.0]]), 4.0, 12.0)
        plain, moved = scene_of(TWO_DISCS), scene_of(TWO_DISCS, (stroke,))
        by = moved.depths.standing - plain.depths.standing
        at = plain.stage.inside.shape[0] // 2
        assert by[at, 86] * sign == pytest.approx(12, rel=0.25)
        assert abs(by[at, 30]) < 1.5
        across, _ = links_of(moved.depths)
        leap = np.flatnonzero(across.leap[at])
        border = leap[np.argmin(np.abs(leap - 55))]
        assert abs(border - 55) < 4 and across.leap[at, border] == sign

    def test_a_marked_part_stands_before_the_others(self):
        near = scene_of(TWO_DISCS, order=(PartMark(np.array([34.0, 60.0]), 5.0), PartMark(np.array([86.0, 60.0]), 1.0)))
        heights = relief_heights(near, np.ones((SIDE, SIDE), dtype=np.float32), Shallow(2.0, 0.5, 0.2, False))
        # Just on both sides of the border between the discs, where the right one covers the left one.
        assert heights[60, 48] > heights[60, 58] + 0.15

    def test_a_crease_and_a_ridge_shape_what_is_under_them(self):
        plain = scene_of(TWO_DISCS)
        for kind, sign in (("ridge", 1), ("crease", -1)):
            drawn = scene_of(TWO_DISCS, (HandStroke(kind, np.array([[90.0, 50.0], [90.0, 70.0]]), 3.0, 4.0),))
            by = drawn.depths.rounding - plain.depths.rounding
            assert by.min() == pytest.approx(-4 if sign < 0 else 0, abs=0.1)
            assert by.max() == pytest.approx(4 if sign > 0 else 0, abs=0.1)

    def test_strokes_of_two_kinds_part_what_only_a_soft_edge_parts(self):
        # Tones run into each other above and below the middle, so that the picture has one part.
        soft = 0.3 + 0.4 / (1 + np.exp(-(COLUMNS - 60) / (0.8 + 0.4 * np.abs(ROWS - 60))))
        picture = soft[..., np.newaxis]
        strokes = (
            HandStroke("nearer", np.array([[85.0, 30.0], [85.0, 90.0]]), 4.0, 10.0),
            HandStroke("farther", np.array([[35.0, 30.0], [35.0, 90.0]]), 4.0, 10.0),
        )
        near = scene_of(picture, strokes)
        across, _ = links_of(near.depths)
        middle = across.leap.shape[0] // 2
        leap = np.flatnonzero(across.leap[middle])
        assert len(leap) == 1 and abs(leap[0] - 62) < 4 and across.leap[middle, leap[0]] == 1
        # Where no edge is clear nothing leaps.
        assert not across.leap[10].any()

    def test_a_scene_in_which_nothing_stands_out_is_refused(self):
        with pytest.raises(BadPictureError, match="No part of the picture stands out"):
            scene_of(np.full((SIDE, SIDE, 1), 0.4))

    def test_a_depth_picture_may_leap_by_itself(self):
        tones = np.where(INNER, 0.9, 0.4).astype(np.float32)
        near = scene_of(np.full((SIDE, SIDE, 1), 0.4), source=DepthPicture(tones, 20.0))
        assert sum((links.leap != 0).sum() for links in links_of(near.depths)) > 100


class TestOverPixels:
    def test_edges_of_what_is_cut_out_and_of_overlaps_are_as_sharp_as_pixels(self):
        fine = 6
        rows, columns = np.mgrid[0 : SIDE * fine, 0 : SIDE * fine] / fine
        coverage = np.clip(0.5 + (48 - np.hypot(rows - 60, columns - 60)) * fine, 0, 1).astype(np.float32)
        inner = np.hypot(rows - 60, columns - 64) < 22
        tones = np.where(inner, 0.9, 0.4).astype(np.float32)
        stage = stage_of(coverage, PITCH / fine, 96)
        hand = Hand((), np.full((*coverage.shape, 1), 0.5, dtype=np.float32))
        near = nearness(stage, False, DepthPicture(tones, 20.0), Roundness(), hand)
        heights = relief_heights(near, coverage, Shallow(3.0, 0.5, 0.5, True))
        row = heights[60 * fine]
        for edge in (12 * fine, 42 * fine):
            # From one side to the other within three pixels; the grid's cells are more than seven.
            rise = row[edge - 8 : edge + 9]
            assert np.diff(rise).max() > 0.3 * np.ptp(rise)
            assert np.ptp(rise) > 0.45
            assert abs(int(np.diff(row)[edge - 12 : edge + 12].argmax()) - 12) <= 4

    def test_fine_tones_stand_on_the_form_and_broad_ones_do_not(self):
        heights, coverage = np.full((200, 200), 2.0, dtype=np.float32), np.ones((200, 200), dtype=np.float32)
        x = np.arange(200) / 200
        broad = np.tile(x, (200, 1)).astype(np.float32)
        fine = (0.5 + 0.1 * np.sin(2 * np.pi * 40 * x) * np.ones((200, 1))).astype(np.float32)
        wish = FineTones(1.0, 1.5)
        flat = add_fine_tones(heights, broad, coverage, 0.1, wish)[60:140, 60:140]
        rough = add_fine_tones(heights, fine, coverage, 0.1, wish)[60:140, 60:140]
        assert np.ptp(flat) < 0.02
        assert np.ptp(rough) == pytest.approx(0.2, rel=0.1)
        turned = add_fine_tones(heights, fine, coverage, 0.1, FineTones(-1.0, 1.5))[60:140, 60:140]
        assert np.allclose(turned - 2, 2 - rough, atol=1e-5)

    def test_fine_tones_beside_a_leap_leave_what_is_in_front_in_front(self):
        fine = 6
        rows, columns = np.mgrid[0 : SIDE * fine, 0 : SIDE * fine] / fine
        coverage = np.clip(0.5 + (48 - np.hypot(rows - 60, columns - 60)) * fine, 0, 1).astype(np.float32)
        inner = np.hypot(rows - 60, columns - 64) < 22
        hand = Hand((), np.full((*coverage.shape, 1), 0.5, dtype=np.float32))
        stage = stage_of(coverage, PITCH / fine, 96)
        near = nearness(
            stage, False, DepthPicture(np.where(inner, 0.9, 0.4).astype(np.float32), 20.0), Roundness(), hand
        )
        heights = relief_heights(near, coverage, Shallow(3.0, 0.5, 0.5, True))
        # What is in front is black beside white, which as tones would sink it by millimetres.
        against = np.where(inner, 0.0, 1.0).astype(np.float32)
        wish, room = FineTones(4.0, 3.0), room_for_tones(near, coverage.shape, 0.5)
        free, bound = (
            add_fine_tones(heights, against, coverage, PITCH / fine, wish, each)[60 * fine] for each in (None, room)
        )
        edge = 42 * fine
        for made, kept in ((free, False), (bound, True)):
            assert (made[edge + 4 : edge + 15].min() > made[edge - 15 : edge - 4].max()) == kept
        # Far from it tones count as before.
        assert np.ptp((bound - heights[60 * fine])[30 * fine : 34 * fine]) == pytest.approx(
            np.ptp((free - heights[60 * fine])[30 * fine : 34 * fine]), abs=0.1
        )

    def test_where_nothing_hides_anything_fine_tones_have_all_the_room(self):
        stage = stage_of(DISC.astype(np.float32), PITCH, 96)
        near = Nearness(stage, depths(np.zeros(stage.inside.shape), stage.inside))
        assert room_for_tones(near, DISC.shape, 0.3) is None

    def test_fine_tones_never_go_below_the_ground(self):
        heights, coverage = np.zeros((60, 60), dtype=np.float32), np.ones((60, 60), dtype=np.float32)
        tones = np.random.default_rng(1).uniform(size=(60, 60)).astype(np.float32)
        assert add_fine_tones(heights, tones, coverage, 0.1, FineTones(3.0, 2.0)).min() == 0

    def test_beside_what_is_cut_out_fine_tones_are_nothing(self):
        heights, coverage = np.ones((60, 60), dtype=np.float32), np.zeros((60, 60), dtype=np.float32)
        coverage[:, :30] = 1
        tones = np.random.default_rng(1).uniform(size=(60, 60)).astype(np.float32)
        made = add_fine_tones(heights, tones, coverage, 0.1, FineTones(1.0, 2.0))
        assert (made[:, 30:] == 1).all() and np.ptp(made[:, :30]) > 0.5


class TestSmoothlySampled:
    def test_is_exact_at_samples_and_for_cubics_inside(self):
        x = np.arange(40, dtype=np.float64)
        values = np.tile(0.001 * (x - 18) ** 3 - 0.2 * x, (30, 1))
        assert np.allclose(smoothly_sampled(values, (x, np.arange(30.0))), values, atol=1e-9)
        between = np.linspace(12, 26, 57)
        found = smoothly_sampled(values, (between, np.array([15.3])))
        assert np.allclose(found[0], 0.001 * (between - 18) ** 3 - 0.2 * between, atol=1e-3)

    def test_the_border_goes_on(self):
        values = np.arange(12.0).reshape(3, 4)
        found = smoothly_sampled(values, (np.array([-5.0, 0, 3, 9]), np.array([-2.0, 5.0])))
        assert np.allclose(found, [[0, 0, 3, 3], [8, 8, 11, 11]])


def test_areas_do_not_run_into_each_other_along_an_edge_that_is_nearly_level():
    # Along such an edge the samples on it go from one tone to the other in small steps.
    tones = np.clip(0.5 + (ROWS - 60 - 0.02 * COLUMNS), 0, 1)
    stage = stage_of(np.ones(tones.shape, dtype=np.float32), PITCH, 120)
    parts = find_parts(stage, stage.sharp_on_grid(tones.astype(np.float32))[..., np.newaxis], ())
    assert len(np.unique(parts.labels[stage.inside])) == 2
