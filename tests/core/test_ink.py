"""Which tone is taken for what is drawn: by what lies round it, not by how much of it there is."""

import numpy as np
import pytest

from nebrel.core.picture import Picture
from nebrel.core.picture.ink import drawn_ink, guess_ink
from nebrel.core.picture.picture import SourceFacts

SIDE = 120
Y, X = np.mgrid[0:SIDE, 0:SIDE]
FROM_MIDDLE = np.hypot(X - (SIDE - 1) / 2, Y - (SIDE - 1) / 2)


def picture(dark: np.ndarray, coverage: np.ndarray | None = None) -> Picture:
    tones = np.where(dark, 0.1, 0.95).astype(np.float32)
    covered = np.ones_like(tones) if coverage is None else coverage.astype(np.float32)
    return Picture(tones, covered, SourceFacts("png", SIDE, SIDE, 8, "gray"))


DRAWN = {
    "a small disc": FROM_MIDDLE < 20,
    "a disc on two thirds of the page": FROM_MIDDLE < 0.465 * SIDE,
    "a disc that reaches all sides": FROM_MIDDLE < 0.5 * SIDE,
    "a ring": np.abs(FROM_MIDDLE - 45) < 5,
    "a badge with a hole": (FROM_MIDDLE < 55) & ~((np.abs(X - 60) < 20) & (np.abs(Y - 60) < 20)),
    "a bar across the page": np.abs(Y - 60) < 15,
    "a ridge that fills the lower half": 70 + 10 * np.sin(X / 15) < Y,
    "a badge that fills all corners but three that are round": (FROM_MIDDLE < 0.68 * SIDE) | ((X < 60) & (Y < 60)),
    "lines": (X % 20 < 3) & (np.abs(Y - 60) < 50),
    "a frame within the page": (np.maximum(np.abs(X - 59.5), np.abs(Y - 59.5)) < 55)
    & (np.maximum(np.abs(X - 59.5), np.abs(Y - 59.5)) > 40),
}


@pytest.mark.parametrize("name", DRAWN)
def test_dark_on_bright_paper_is_dark_and_the_other_way_round(name):
    assert drawn_ink(picture(DRAWN[name])) == "dark"
    assert drawn_ink(picture(~DRAWN[name])) == "bright" or guess_ink(picture(~DRAWN[name])).close


@pytest.mark.parametrize("name", ["a small disc", "a ring", "a disc on two thirds of the page"])
def test_what_is_clear_is_told_as_sure(name):
    assert guess_ink(picture(DRAWN[name])).sure > 0.9
    assert guess_ink(picture(~DRAWN[name])).sure > 0.9
    assert drawn_ink(picture(~DRAWN[name])) == "bright"


def test_halves_are_a_close_call():
    assert guess_ink(picture(X < SIDE / 2)).close


def test_of_a_cut_out_badge_its_body_is_drawn():
    inside = FROM_MIDDLE < 50
    glyph = np.abs(X - 60) < 10
    assert drawn_ink(picture(inside & ~glyph, inside)) == "dark"
    assert drawn_ink(picture(~(inside & ~(FROM_MIDDLE < 20)), inside)) == "bright"


def test_a_picture_of_nothing_is_no_sure_thing():
    assert guess_ink(picture(FROM_MIDDLE < 20, np.zeros((SIDE, SIDE)))).close
