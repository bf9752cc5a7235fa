"""Counting of values against numpy's own."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.histogram import best_threshold, usual_beside


@given(seed=st.integers(0, 10_000), runs=st.integers(2, 40))
@settings(max_examples=60, deadline=None)
def test_what_is_usual_on_either_side_is_the_median(seed, runs):
    rng = np.random.default_rng(seed)
    values = np.repeat(rng.random(runs), rng.integers(1, 30, runs)).astype(np.float32)
    values[0], values[-1] = 0.0, 1.0
    low, high = usual_beside(values, 0.5)
    # To the width of a bin, and between both middle values where there are two.
    for found, side in ((low, values[values < 0.5]), (high, values[values >= 0.5])):
        middle = np.sort(side)[[(len(side) - 1) // 2, len(side) // 2]]
        assert middle[0] - 1 / 4096 <= found <= middle[1] + 1 / 4096


def test_two_heaps_are_parted_between_them():
    rng = np.random.default_rng(3)
    values = np.concatenate([rng.normal(0.2, 0.02, 5000), rng.normal(0.8, 0.02, 500)]).clip(0, 1)
    parted = best_threshold(values, 256)
    assert values[:5000].max() < parted < values[5000:].min()


def test_runs_of_one_value_count_as_often_as_they_are_there():
    values = np.array([0.0] * 7 + [1.0] * 2 + [0.0] * 3 + [0.25] * 30 + [1.0], dtype=np.float32)
    assert usual_beside(values, 0.5) == pytest.approx((0.25, 1.0))
