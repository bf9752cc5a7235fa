"""How low bits may go: against the definition, and against shapes whose answer is known."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from nebrel.core.carve.asked import asked_of
from nebrel.core.carve.bits import Bit, profile_table, taper_diameter
from nebrel.core.carve.board import shank_touches
from nebrel.core.carve.offset import block_maxima, highest_left, lowest_tips, lowest_tips_at
from nebrel.core.carve.reach import reach_of
from nebrel.core.errors import BadValueError
from nebrel.core.height import HeightField

BITS = {
    "flat": Bit("flat", 1.7),
    "ball": Bit("ball", 1.7),
    "v": Bit("v", 1.7, angle_deg=60),
    "taper": Bit("taper", taper_diameter(0.3, 5, 4, 2), 0.3, 5),
}
PITCH = 0.1


def by_definition(heights: NDArray[np.float64], bit: Bit) -> NDArray[np.float64]:
    """The dilation of heights by a bit, sample by sample."""
    reach = math.floor(bit.radius / PITCH + 1e-9)
    table, _ = profile_table(bit.profile, PITCH, 0)
    padded = np.pad(heights, reach, constant_values=-np.inf)
    rows, columns = heights.shape
    size = 2 * reach + 1
    return np.array([[(padded[y : y + size, x : x + size] - table).max() for x in range(columns)] for y in range(rows)])


@pytest.mark.parametrize("kind", BITS)
@settings(max_examples=12, deadline=None)
@given(seed=st.integers(0, 10_000), rows=st.integers(1, 37), columns=st.integers(1, 37), tall=st.floats(0.01, 20))
def test_offset_is_that_of_the_definition(kind: str, seed: int, rows: int, columns: int, tall: float) -> None:
    heights = np.random.default_rng(seed).random((rows, columns)) * tall
    expected = by_definition(heights, BITS[kind])
    tips = lowest_tips(heights, PITCH, BITS[kind].profile)
    assert np.abs(tips - expected).max() < 1e-9
    some = np.arange(0, rows, 3, dtype=np.int64)
    assert np.abs(lowest_tips(heights, PITCH, BITS[kind].profile, some) - expected[some]).max() < 1e-9
    places = np.argwhere(np.ones((rows, columns)))[:, ::-1].astype(np.float64)
    anywhere = lowest_tips_at(heights, block_maxima(heights), PITCH, BITS[kind].profile, places)
    assert np.abs(anywhere.reshape(rows, columns) - expected).max() < 1e-9


def test_a_ball_in_a_groove_stays_up_by_its_circle() -> None:
    # Walls 4 mm tall, 1 mm apart: a ball of radius 2 hangs on both edges.
    heights = np.full((41, 61), 4.0)
    heights[:, 26:35] = 0.0
    tips = lowest_tips(heights, PITCH, Bit("ball", 4).profile)
    assert tips[20, 30] == pytest.approx(4 - (2 - math.sqrt(4 - 0.25)), abs=1e-9)


def test_what_stays_is_never_below_the_heights_and_never_rises_with_a_finer_ball() -> None:
    heights = np.random.default_rng(4).random((60, 60)) * 2
    left = [
        highest_left(lowest_tips(heights, PITCH, Bit("ball", size).profile), PITCH, Bit("ball", size).profile)
        for size in (3.0, 1.5, 0.5)
    ]
    assert all((one >= heights - 1e-9).all() for one in left)
    assert left[0].mean() > left[1].mean() > left[2].mean()


def test_reach_tells_each_bit_and_all_together() -> None:
    row = np.where(np.abs(np.arange(81) - 40) < 5, 0.0, 3.0)
    field = HeightField(np.tile(row, (61, 1)).astype(np.float32), np.ones((61, 81), np.float32), PITCH)
    found = reach_of(asked_of(field, 5.0), (Bit("flat", 2), Bit("flat", 0.6)), 0.05)
    assert found.each_most == pytest.approx((3.0, 0.0))
    assert found.each_share[0] == pytest.approx(9 / 81, abs=0.03)
    assert found.most == 0
    assert found.all.shape == (61, 81)


def test_a_thick_shank_touches_a_wall_that_a_thin_one_passes() -> None:
    heights = np.zeros((201, 201), np.float32)
    heights[:, 100:] = 8.0
    asked = asked_of(HeightField(heights, np.ones_like(heights), PITCH), 5.0)
    assert shank_touches(asked, Bit("ball", 2, flute=5, shank=6)) == pytest.approx(3.0, abs=0.01)
    assert shank_touches(asked, Bit("ball", 2, flute=9, shank=6)) == 0
    assert shank_touches(asked, Bit("ball", 2, flute=5, shank=1.5)) == 0


@pytest.mark.parametrize(
    ("kind", "sizes", "word"),
    [
        ("ball", {"diameter": 0}, "diameter"),
        ("flat", {"diameter": -3}, "diameter"),
        ("v", {"diameter": 6, "angle_deg": 0}, "angle"),
        ("taper", {"diameter": 3, "tip_radius": 0, "angle_deg": 5}, "tip radius"),
        ("ball", {"diameter": math.nan}, "diameter"),
        ("ball", {"diameter": 3, "feed": 0}, "feed"),
    ],
)
def test_bits_that_cannot_be_are_refused(kind: str, sizes: dict[str, float], word: str) -> None:
    with pytest.raises(BadValueError, match=f"{word}.*would be accepted"):
        Bit(kind, **sizes)  # type: ignore[arg-type]
