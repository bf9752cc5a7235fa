"""Reliefs laid on reliefs: where they lie, how they meet what is below, how their edges stay."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.height.field import HeightField
from nebrel.core.height.laid import LaidRelief, lay_on
from nebrel.core.height.lined import with_lines

PITCH = 0.1


def ground(level: float = 1.0, rows: int = 201, columns: int = 301, pitch: float = PITCH) -> HeightField:
    shape = (rows, columns)
    return HeightField(np.full(shape, level, np.float32), np.ones(shape, np.float32), pitch)


def plate(height: float = 2.0, side: int = 61, pitch: float = PITCH, **more) -> LaidRelief:
    """A square of one height, 6 mm across, in the middle of the ground."""
    shape = (side, side)
    told = {"centre": (15.0, 10.0), **more}
    return LaidRelief(np.full(shape, height, np.float32), np.ones(shape, np.float32), pitch, **told)


def cone(side: int, pitch: float, **more) -> LaidRelief:
    """A cone 2 mm high over a disc that touches the sides."""
    across = np.linspace(-1, 1, side)
    away = np.hypot(*np.meshgrid(across, across))
    heights = np.where(away < 1, 2 * (1 - away), 0).astype(np.float32)
    return LaidRelief(heights, (away <= 1).astype(np.float32), pitch, **{"centre": (15.0, 10.0), **more})


def at(field: HeightField, x: float, y: float) -> float:
    return float(field.heights[round((field.depth - y) / field.pitch), round(x / field.pitch)])


@pytest.mark.parametrize(
    ("blend", "height", "lift", "expected"),
    [
        ("highest", 2.0, 0.0, 2.0),
        ("highest", 0.5, 0.0, 1.0),
        ("highest", 0.5, 0.75, 1.25),
        ("lowest", 0.5, 0.0, 0.5),
        ("lowest", 2.0, 0.0, 1.0),
        ("add", 2.0, 0.25, 3.25),
        ("cut", 0.75, 0.0, 0.25),
        ("merge", 2.0, 0.5, 2.5),
    ],
)
def test_what_counts_where_it_lies(blend, height, lift, expected):
    made = lay_on(ground(), plate(height, blend=blend, lift=lift, width=1.0)).field
    assert at(made, 15, 10) == pytest.approx(expected, abs=1e-6)
    assert at(made, 15, 14) == at(made, 19, 10) == 1.0
    assert made.lines is None and made.terraces is None


def test_nothing_goes_below_the_floor_and_by_how_much_it_would_is_told():
    laid = lay_on(ground(0.2), plate(2.0, blend="cut"), floor=-0.8)
    assert at(laid.field, 15, 10) == pytest.approx(-0.8) and laid.held_mm == pytest.approx(1.0)
    assert lay_on(ground(0.2), plate(0.5, blend="cut"), floor=-0.8).held_mm == 0
    # What lies below the floor already is neither raised nor told.
    low = lay_on(ground(-1.0), plate(0.0, blend="add"), floor=-0.8)
    assert at(low.field, 15, 10) == -1.0


def test_a_merged_relief_leaves_no_step_and_is_itself_further_in():
    made = lay_on(ground(), plate(3.0, blend="merge", width=1.5)).field
    along = made.heights[100, :]
    assert np.abs(np.diff(along)).max() < 2 * 1.5 * PITCH / 1.5 + 0.05
    assert at(made, 15, 10) == at(made, 16.4, 10) == 3.0
    assert 1.0 < at(made, 12.5, 10) < 2.0


def test_turned_and_mirrored_as_it_is_told():
    arrow = np.zeros((41, 81), np.float32)
    arrow[:8, 70:] = 2.0
    relief = LaidRelief(arrow, np.ones_like(arrow), PITCH, (15.0, 10.0))
    corner = {"plain": (18.6, 11.7), "mirrored": (11.4, 11.7), "turned": (13.3, 13.6)}
    fields = {
        "plain": lay_on(ground(0), relief).field,
        "mirrored": lay_on(ground(0), replace(relief, mirrored=True)).field,
        "turned": lay_on(ground(0), replace(relief, turn_deg=90)).field,
    }
    for name, field in fields.items():
        assert {other: at(field, *place) > 1.9 for other, place in corner.items()} == {
            other: other == name for other in corner
        }


@pytest.mark.parametrize("share", [0.2, 0.5, 1.0, 2.5])
def test_finer_and_coarser_reliefs_lie_as_large_and_as_high(share):
    """Volumes of a cone: finer ones are averaged, coarser ones interpolated."""
    side = round(60 / share) + 1
    laid = lay_on(ground(0), cone(side, 6.0 / (side - 1)))
    volume = float(laid.field.heights.sum()) * PITCH**2
    assert volume == pytest.approx(np.pi * 9 * 2 / 3, rel=0.03)
    assert laid.field.heights.max() == pytest.approx(2.0, abs=0.12)
    assert laid.field.heights.min() == 0


def test_a_coarse_step_has_no_ripples_beside_it():
    steps = np.where(np.arange(31) < 15, 0.5, 1.5).astype(np.float32)
    relief = LaidRelief(np.tile(steps, (31, 1)), np.ones((31, 31), np.float32), 0.4, (15.0, 10.0))
    inside = lay_on(ground(0), relief).field.heights[60:140, 100:200]
    assert inside.min() >= 0.5 - 1e-6 and inside.max() <= 1.5 + 1e-6


def test_its_edge_becomes_a_curve_where_it_lies_and_not_where_samples_are():
    """A disc of half the pitch: its wall is found within 0.07 samples of its true radius."""
    relief = cone(241, 0.025)
    level = replace(relief, heights=np.full_like(relief.heights, 2.0))
    lined = with_lines(lay_on(ground(0), level).field, 0.02)
    assert lined.lines is not None
    radii = np.hypot(lined.lines.places[:, 0] - 150, lined.lines.places[:, 1] - 100) * PITCH
    assert np.abs(radii - 3.0).max() < 0.07 * PITCH


def test_how_much_lies_beside_the_piece_is_told_and_blank_ground_stays_blank():
    field = ground()
    half = replace(field, coverage=np.where(np.arange(301) < 150, 1, 0)[None].repeat(201, 0).astype(np.float32))
    laid = lay_on(half, plate(centre=(15.0, 10.0)))
    assert laid.outside == pytest.approx(0.5, abs=0.03)
    assert np.array_equal(laid.field.coverage, half.coverage)
    assert np.array_equal(laid.field.heights[:, 150:], half.heights[:, 150:])
    assert lay_on(field, plate(centre=(-50.0, 0.0))).outside == 1


@given(
    x=st.floats(2, 28),
    y=st.floats(2, 18),
    turn=st.floats(-180, 180),
    blend=st.sampled_from(["highest", "lowest", "add", "cut", "merge"]),
    pitch=st.floats(0.02, 0.5),
)
def test_heights_stay_between_what_both_can_be(x, y, turn, blend, pitch):
    laid = lay_on(ground(1.0), cone(41, pitch, centre=(x, y), turn_deg=turn, blend=blend, width=0.5))
    heights = laid.field.heights
    low, high = {"cut": (-1, 1), "add": (1, 3), "lowest": (0, 1), "highest": (1, 2), "merge": (0, 2)}[blend]
    assert np.isfinite(heights).all() and heights.min() >= low - 1e-5 and heights.max() <= high + 1e-5
    assert 0 <= laid.outside <= 1
