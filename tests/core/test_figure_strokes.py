"""What strokes change of a figure, and what they leave alone."""

import numpy as np
import pytest

from nebrel.core.errors import BadPictureError
from nebrel.core.figure.figure import FigureWish, Hand, ShapedFigure, shape_figure
from nebrel.core.figure.hand import HandStroke
from nebrel.core.figure.silhouette import silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.mesh.topology import opposite_halfedges
from nebrel.core.proof import check_soundness

SIDE = 200
PX = 0.25
ACROSS, DOWN = np.meshgrid(np.arange(SIDE), np.arange(SIDE))
BODY = np.hypot(ACROSS - 100, DOWN - 100) < 80
"""A wing of another tone over the right of the body."""
WING = np.hypot(ACROSS - 130, DOWN - 105) < 30
TONES = np.where(WING, 0.2, 0.8).astype(np.float32)[..., np.newaxis]
WING_LINE = np.column_stack([np.linspace(120, 140, 9), np.full(9, 105.0)])
UPRIGHT = np.column_stack([np.full(30, 100.0), np.linspace(70, 130, 30)])


def stroke(kind: str, amount: float = 4.0, places=WING_LINE, radius: float = 5.0) -> HandStroke:
    return HandStroke(kind, places, radius, amount)


def shaped(*strokes: HandStroke, guide=TONES, body=BODY, **wish) -> ShapedFigure:
    silhouette = silhouette_of(body.astype(np.float32), PX, 100)
    return shape_figure(silhouette, FigureWish(thinnest=0.0, **wish), hand=Hand(strokes, guide))


def at(figure: ShapedFigure, values, column: float, row: float) -> float:
    """A value of the figure under a pixel of the picture."""
    top, left, step = figure.form.silhouette.corner
    return float(values[round((row - top) / step), round((column - left) / step)])


PLAIN = shaped()


class TestMovedParts:
    def test_come_forward_by_as_much_as_is_said_and_the_rest_stays(self):
        figure = shaped(stroke("nearer", 4.0))
        by = figure.form.front - PLAIN.form.front
        assert at(figure, by, 130, 105) == pytest.approx(4, abs=0.1)
        assert at(figure, by, 115, 92) == pytest.approx(4, abs=0.6)
        assert abs(at(figure, by, 50, 100)) < 0.4

    def test_leave_what_goes_on_behind_them_where_it_was(self):
        figure = shaped(stroke("nearer", 4.0))
        behind = figure.form.back - PLAIN.form.back
        assert abs(at(figure, behind, 130, 105)) < 0.1
        assert np.nanmax(np.abs(behind)) < 0.5

    def test_go_back(self):
        figure = shaped(stroke("farther", 3.0))
        assert at(figure, figure.form.middle, 130, 105) == pytest.approx(-3, abs=0.1)

    def test_end_at_edges_of_the_picture_and_not_without_them(self):
        edge = shaped(stroke("nearer"))
        none = shaped(stroke("nearer"), guide=np.full_like(TONES, 0.5))
        beside = 92, 105
        assert at(edge, edge.form.middle, *beside) < 0.5 * at(none, none.form.middle, *beside)

    def test_the_later_of_two_strokes_holds(self):
        figure = shaped(stroke("nearer", 4.0), stroke("farther", 2.0))
        assert at(figure, figure.form.middle, 130, 105) == pytest.approx(-2, abs=0.1)

    def test_come_to_one_depth(self):
        apart = shaped(stroke("nearer", 6.0))
        line = np.column_stack([np.linspace(60, 135, 40), np.full(40, 105.0)])
        level = shaped(stroke("nearer", 6.0), stroke("level", places=line))
        by = [each.form.front - PLAIN.form.front for each in (apart, level)]
        depth = [[at(apart, each, column, 105) for column in (70, 130)] for each in by]
        assert abs(depth[0][0] - depth[0][1]) > 4
        assert abs(depth[1][0] - depth[1][1]) < 0.5

    def test_a_stroke_beside_the_figure_changes_nothing(self):
        figure = shaped(stroke("nearer", places=np.array([[3.0, 3.0], [8.0, 5.0]])))
        assert figure.form.middle == pytest.approx(PLAIN.form.middle)


def sharp_sides(figure: ShapedFigure) -> int:
    """How many sides of triangles the surface is bent over by more than 40 degrees."""
    mesh = surface_of(figure.form)
    corners = mesh.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    faces = mesh.faces.astype(np.int64)
    opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
    bend = (normals[np.arange(len(opposite)) // 3] * normals[opposite // 3]).sum(axis=1)
    return int((bend < np.cos(np.radians(40))).sum())


@pytest.mark.parametrize("kinds", [["nearer"], ["thinner"], ["nearer", "thinner"]])
def test_the_rim_has_no_stairs_where_a_part_that_reaches_it_is_moved(kinds):
    plain = np.full_like(TONES, 0.5)
    beside_it = np.array([[163.0, 70.0], [174.0, 100.0], [163.0, 130.0]])
    figure = shaped(*(stroke(kind, 8.0, beside_it, 6.0) for kind in kinds), guide=plain)
    assert sharp_sides(figure) <= sharp_sides(shaped(guide=plain)) + 20


class TestThickness:
    @pytest.mark.parametrize(("kind", "sign"), [("thicker", 1), ("thinner", -1)])
    def test_changes_near_the_stroke_only(self, kind, sign):
        figure = shaped(stroke(kind, 6.0, radius=8.0))
        grown = 2 * (figure.form.half - PLAIN.form.half)
        assert sign * at(figure, grown, 125, 105) > 4
        assert abs(at(figure, grown, 40, 100)) < 0.15 * 6

    def test_never_goes_below_nothing(self):
        figure = shaped(stroke("thinner", 500.0))
        assert (figure.form.square[figure.form.silhouette.inside] > 0).all()
        assert check_soundness(surface_of(figure.form)).sound

    def test_of_the_least_is_kept_after_all_strokes(self):
        figure = shaped(stroke("thinner", 500.0))
        kept = shape_figure(PLAIN.asked, FigureWish(thinnest=3.0), hand=Hand([stroke("thinner", 500.0)], TONES))
        deep = kept.form.silhouette.deep > 2
        assert 2 * kept.form.half[deep].min() >= 3 - 1e-6
        assert 2 * figure.form.half[deep].min() < 3
        assert kept.thickened > 0


class TestTheFront:
    @pytest.mark.parametrize(("kind", "sign"), [("ridge", 1), ("crease", -1)])
    def test_rises_or_sinks_along_the_stroke_and_the_back_stays(self, kind, sign):
        figure = shaped(stroke(kind, 2.0, UPRIGHT, 12.0))
        by = figure.form.front - PLAIN.form.front
        assert sign * at(figure, by, 100, 100) == pytest.approx(2, abs=0.15)
        assert sign * at(figure, by, 106, 100) == pytest.approx(1, abs=0.3)
        assert at(figure, by, 115, 100) == pytest.approx(0, abs=1e-6)
        assert figure.form.back[BODY_INSIDE] == pytest.approx(PLAIN.form.back[BODY_INSIDE], abs=1e-6)

    def test_becomes_level_under_a_stroke(self):
        figure = shaped(
            stroke("flat", places=np.column_stack([np.linspace(60, 140, 40), np.full(40, 100.0)]), radius=10)
        )
        line = [at(figure, figure.form.front, column, 100) for column in range(65, 136, 5)]
        bent = [at(PLAIN, PLAIN.form.front, column, 100) for column in range(65, 136, 5)]
        assert np.abs(np.diff(line, 2)).max() < 0.1 * np.abs(np.diff(bent, 2)).max() + 0.02

    def test_keeps_its_outline(self):
        figure = shaped(stroke("ridge", 5.0, np.column_stack([np.full(50, 100.0), np.linspace(0, 199, 50)]), 10.0))
        assert ((figure.form.square > 0) == PLAIN.form.silhouette.inside).all()


class TestHoles:
    def test_go_through(self):
        figure = shaped(stroke("hole", places=np.array([[70.0, 100.0]]), radius=10))
        mesh = surface_of(figure.form)
        assert check_soundness(mesh).sound
        assert len(mesh.vertices) - len(mesh.faces) // 2 == 0
        assert not at(figure, figure.form.silhouette.inside, 70, 100)

    def test_that_take_everything_are_refused(self):
        with pytest.raises(BadPictureError, match="holes take away all"):
            shaped(stroke("hole", places=np.array([[100.0, 100.0]]), radius=400))


@pytest.mark.parametrize(
    "kind", ["nearer", "farther", "level", "thicker", "thinner", "ridge", "crease", "flat", "hole"]
)
@pytest.mark.parametrize("back", ["mirror", "flat"])
def test_every_stroke_leaves_a_sound_solid(kind, back):
    assert check_soundness(surface_of(shaped(stroke(kind, 9.0, radius=7), back=back).form)).sound


BODY_INSIDE = PLAIN.form.silhouette.inside
