"""Parts of a figure in an order front to back: who stands before whom, and what goes on behind."""

import numpy as np
import pytest

from nebrel.core.figure.figure import FigureWish, Hand, ShapedFigure, shape_figure
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.order import PartMark
from nebrel.core.figure.silhouette import silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.proof import check_soundness

SIDE = 200
PX = 0.25
ACROSS, DOWN = np.meshgrid(np.arange(SIDE), np.arange(SIDE))
BODY = np.hypot(ACROSS - 90, DOWN - 100) < 70
WING = np.hypot(ACROSS - 90, DOWN - 100) < 25
ARM = (np.abs(DOWN - 100) < 12) & (ACROSS > 130) & (ACROSS < 195)
"""A body of one tone, a round wing on it, and an arm that reaches out beside it."""
TONES = np.select([WING, ARM], [0.2, 0.5], 0.9).astype(np.float32)[..., np.newaxis]
ON_WING, ON_ARM, ON_BODY = (90.0, 100.0), (150.0, 100.0), (60.0, 60.0)


def figure(*marks: tuple[tuple[float, float], float], **wish) -> ShapedFigure:
    silhouette = silhouette_of((BODY | ARM).astype(np.float32), PX, 128)
    order = [PartMark(np.array(place), step) for place, step in marks]
    return shape_figure(silhouette, FigureWish(thinnest=0.0, **wish), hand=Hand((), TONES, order))


def at(shaped: ShapedFigure, values, place: tuple[float, float]) -> float:
    top, left, step = shaped.form.silhouette.corner
    return float(values[round((place[1] - top) / step), round((place[0] - left) / step)])


PLAIN = figure()


def nearer(shaped: ShapedFigure, place: tuple[float, float], side: str = "front") -> float:
    return at(shaped, getattr(shaped.form, side) - getattr(PLAIN.form, side), place)


class TestAPartBeforeTheRest:
    def test_stands_out_by_its_step_and_the_rest_stays(self):
        made = figure((ON_WING, 3.0))
        assert nearer(made, ON_WING) == pytest.approx(3.0, abs=0.4)
        assert abs(nearer(made, ON_BODY)) < 0.05

    def test_what_it_hides_goes_on_behind_it(self):
        assert abs(nearer(figure((ON_WING, 3.0)), ON_WING, "back")) < 0.05

    def test_takes_its_back_along_where_it_reaches_out_over_nothing(self):
        made = figure((ON_ARM, 3.0))
        assert nearer(made, (185.0, 100.0), "back") == pytest.approx(nearer(made, (185.0, 100.0)), abs=0.5)
        assert nearer(made, (185.0, 100.0), "back") > 2

    def test_has_a_round_rim(self):
        made = figure((ON_WING, 3.0))
        rises = [nearer(made, (90.0 + away, 100.0)) for away in (0, 16, 20, 23, 28)]
        assert rises == sorted(rises, reverse=True)
        assert rises[3] < 0.8 * rises[0]

    def test_that_stands_far_enough_already_stays(self):
        far = figure((ON_WING, 3.0)).form
        assert np.nanmax(np.abs(figure((ON_WING, 0.0)).form.front - PLAIN.form.front)) < 0.05 * np.nanmax(far.front)

    def test_gives_a_sound_solid(self):
        assert check_soundness(surface_of(figure((ON_WING, 4.0), (ON_ARM, 6.0)).form)).sound


class TestOrder:
    def test_the_first_stands_before_the_second(self):
        arm_first, body_first = figure((ON_ARM, 2.0), (ON_BODY, 2.0)), figure((ON_BODY, 2.0), (ON_ARM, 2.0))
        edge = [(134.0, 92.0), (126.0, 80.0)]
        arm, body = ([nearer(each, place) for place in edge] for each in (arm_first, body_first))
        assert arm[0] - arm[1] > 1
        assert body[1] - body[0] > 1

    def test_of_two_marks_on_one_part_the_first_counts(self):
        assert figure((ON_WING, 3.0), ((95.0, 104.0), 9.0)).form.front == pytest.approx(
            figure((ON_WING, 3.0)).form.front, nan_ok=True
        )

    def test_a_mark_beside_the_figure_changes_nothing(self):
        assert figure(((3.0, 3.0), 5.0)).form.front == pytest.approx(PLAIN.form.front, nan_ok=True)


def grooved(fade: float) -> ShapedFigure:
    """A body that is thinner along a line; its mirror shows that behind until it fades."""
    line = np.column_stack([np.full(30, 60.0), np.linspace(60, 140, 30)])
    silhouette = silhouette_of(BODY.astype(np.float32), PX, 128)
    hand = Hand([HandStroke("thinner", line, 3.0, 8.0)], np.where(ACROSS < 66, 0.2, 0.8)[..., np.newaxis])
    return shape_figure(silhouette, FigureWish(thinnest=0.0, fade=fade), hand=hand)


class TestFadingBehind:
    def test_smooths_the_back_and_leaves_the_front(self):
        sharp, soft = grooved(0.0), grooved(3.0)
        inner = sharp.form.silhouette.deep > 4
        assert soft.form.front[inner] == pytest.approx(sharp.form.front[inner], abs=1e-6)
        rough = [np.abs(np.diff(each.form.back, 2, axis=1)[inner[:, 1:-1]]).max() for each in (sharp, soft)]
        assert rough[1] < 0.5 * rough[0]

    def test_keeps_the_outline_and_a_sound_solid(self):
        soft = figure(fade=4.0)
        assert ((soft.form.square > 0) == (PLAIN.form.square > 0)).all()
        assert check_soundness(surface_of(soft.form)).sound

    def test_keeps_the_least_thickness(self):
        made = figure(fade=6.0)
        thick = shape_figure(PLAIN.asked, FigureWish(thinnest=3.0, fade=6.0))
        deep = made.form.silhouette.deep > 1.6
        assert 2 * thick.form.half[deep].min() > 2.9
