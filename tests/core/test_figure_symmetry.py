"""Both sides of a figure alike, about a line that is given or found."""

import numpy as np
import pytest

from nebrel.core.figure.figure import FigureWish, Hand, ShapedFigure, shape_figure
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.silhouette import Silhouette, silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.figure.symmetry import MirrorLine, find_line
from nebrel.core.proof import check_soundness

SIDE = 201
ACROSS, DOWN = np.meshgrid(np.arange(SIDE) - 100.0, np.arange(SIDE) - 100.0)
PLAIN = np.full((SIDE, SIDE, 1), 0.5, dtype=np.float32)


def outline(lean: float = 0.0, right: float = 30.0) -> Silhouette:
    """An egg with two ears, leaning; the right ear may be another size."""
    turn = np.radians(lean)
    x = ACROSS * np.cos(turn) - DOWN * np.sin(turn)
    y = -(ACROSS * np.sin(turn) + DOWN * np.cos(turn))
    body = (x / 55) ** 2 + (y / (70 + 0.2 * y)) ** 2 < 1
    ears = (np.hypot(x + 40, y - 55) < 30) | (np.hypot(x - 40, y - 55) < right)
    return silhouette_of((body | ears).astype(np.float32), 0.3, 100)


def shaped(silhouette: Silhouette, line: MirrorLine | None, *strokes: HandStroke) -> ShapedFigure:
    return shape_figure(silhouette, FigureWish(thinnest=0), hand=Hand(strokes, PLAIN), line=line)


def stroke(column: float, kind: str = "nearer") -> HandStroke:
    return HandStroke(kind, np.array([[column, 95.0], [column + 4, 105.0]]), 4.0, 5.0)


def turned_over(values: np.ndarray) -> np.ndarray:
    return values[:, ::-1]


class TestTheLine:
    @pytest.mark.parametrize("lean", [0.0, 6.0, -8.0])
    def test_is_found_with_its_lean(self, lean):
        line, likeness = find_line(outline(lean))
        assert line.lean == pytest.approx(lean, abs=2.1)
        assert likeness > 0.95

    def test_of_what_is_lopsided_says_so(self):
        assert find_line(outline(right=8.0))[1] < 0.97 * find_line(outline())[1]

    def test_takes_places_to_the_other_side_and_back(self):
        line = MirrorLine(3.0, 4.0, 20.0)
        x, y = np.array([1.0, -5.0]), np.array([2.0, 9.0])
        there = line.opposite(x, y)
        assert np.hypot(there[0] - x, there[1] - y).min() > 1
        assert line.opposite(*there)[0] == pytest.approx(x)
        assert line.opposite(*there)[1] == pytest.approx(y)


class TestBothSides:
    def line(self, silhouette: Silhouette, **more: float) -> MirrorLine:
        _, columns = np.nonzero(silhouette.inside)
        return MirrorLine(silhouette.low[0] + columns.mean() * silhouette.pitch, 20.0, **more)

    def test_get_what_a_stroke_gives_to_one(self):
        silhouette = outline()
        figure = shaped(silhouette, self.line(silhouette), stroke(60.0))
        middle = figure.form.middle
        inside = silhouette.inside & turned_over(silhouette.inside)
        assert middle[inside].max() > 4
        apart = np.abs(middle - turned_over(middle))[inside]
        assert apart.mean() < 0.02
        assert apart.max() < 0.6

    def test_differ_without_a_line(self):
        silhouette = outline()
        middle = shaped(silhouette, None, stroke(60.0)).form.middle
        assert np.abs(middle - turned_over(middle))[silhouette.inside].max() > 2

    def test_are_as_alike_as_the_strength_says(self):
        silhouette = outline(right=18.0)
        apart = [
            np.abs(form.half - turned_over(form.half))[inside].mean()
            for strength in (0.0, 0.5, 1.0)
            for form in (shaped(silhouette, self.line(silhouette, strength=strength)).form,)
            for inside in (silhouette.deep > 3,)
        ]
        assert apart[0] > apart[1] > apart[2]

    def test_keep_the_outline_and_a_sound_solid_without_a_seam(self):
        silhouette = outline(right=10.0)
        figure = shaped(silhouette, self.line(silhouette))
        assert ((figure.form.square > 0) == silhouette.inside).all()
        assert check_soundness(surface_of(figure.form)).sound
        steps = np.abs(np.diff(figure.form.half, axis=1))[silhouette.deep[:, 1:] > 2]
        assert (
            steps.max()
            < 1.3 * np.abs(np.diff(shaped(silhouette, None).form.half, axis=1))[silhouette.deep[:, 1:] > 2].max() + 0.1
        )

    def test_go_through_where_a_hole_does(self):
        silhouette = outline()
        figure = shaped(silhouette, self.line(silhouette), stroke(70.0, "hole"))
        mesh = surface_of(figure.form)
        assert len(mesh.vertices) - len(mesh.faces) // 2 == -2
