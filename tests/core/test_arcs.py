"""Arcs found in paths."""

import math

import numpy as np
import pytest
from numpy.typing import NDArray

from nebrel.core.carve.arcs import arcs_in
from nebrel.core.carve.bits import Bit
from nebrel.core.carve.program import Pass, Post, Setting, Way, program_of
from nebrel.core.router.interpreter import read_program

TURNS = np.linspace(0, 1.5 * math.pi, 181)


def circle(radius: float = 5.0, climb: float = 0.0, turns: NDArray[np.float64] = TURNS) -> NDArray[np.float64]:
    return np.column_stack([10 + radius * np.cos(turns), 8 + radius * np.sin(turns), climb * turns])


def test_a_circle_is_one_arc_and_a_helix_too() -> None:
    for climb in (0.0, -0.3):
        (arc,) = arcs_in(circle(climb=climb))
        assert (arc.first, arc.last, arc.clockwise) == (0, 180, False)
        assert (arc.x, arc.y) == pytest.approx((10, 8), abs=1e-9)
    assert arcs_in(circle()[::-1])[0].clockwise


@pytest.mark.parametrize(
    "path",
    [
        np.column_stack([np.arange(30.0), np.zeros(30), np.zeros(30)]),
        np.column_stack([np.arange(30.0), np.zeros(30), np.sin(np.arange(30.0))]),
        # Chords that bulge by more than it may be off.
        circle(turns=np.linspace(0, 5, 12)),
        # It climbs unevenly.
        circle() + np.column_stack([np.zeros((181, 2)), 0.05 * np.sin(np.arange(181.0))]),
        circle()[:3],
        # A spiral is no circle for long.
        np.column_stack([np.cos(TURNS) * (3 + TURNS), np.sin(TURNS) * (3 + TURNS), 0 * TURNS])[::15],
    ],
    ids=["straight", "in-height-only", "coarse", "uneven", "too-few", "spiral"],
)
def test_what_is_no_circle_stays_straight(path: NDArray[np.float64]) -> None:
    assert arcs_in(path) == []


@pytest.mark.parametrize("style", ["centre", "radius"])
@pytest.mark.parametrize("unit", ["mm", "in"])
def test_written_arcs_are_read_as_the_same_path(style, unit) -> None:
    line = np.column_stack([np.linspace(0, 15, 9), np.full(9, 8.0), np.zeros(9)])
    path = np.concatenate([line, circle(climb=-0.2), circle(climb=-0.2)[::-1]])
    told = program_of((Pass("pocket", Bit("flat", 3), (Way(path, 1.0),)),), Setting(unit), Post(arcs=style))
    assert told.text.count("G2") + told.text.count("G3") >= 2
    moves = read_program(told.text, (0, 0, 5))
    cut = moves.places[1:][~moves.rapid]
    nearest = np.linalg.norm(cut[:, np.newaxis] - path, axis=2).min(axis=1)
    between = np.linalg.norm(np.diff(circle(), axis=0), axis=1).max() / 2
    assert nearest[cut[:, 0] > 0.1].max() < 1.0
    on = np.abs(np.hypot(cut[:, 0] - 10, cut[:, 1] - 8) - 5)
    assert np.quantile(on, 0.9) < 0.002
    assert between < 0.1
