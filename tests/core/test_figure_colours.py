"""Colours of the picture on a figure, and that they stay where they end when it is made light."""

import numpy as np
import pytest

from nebrel.core.figure.colour import colour_figure
from nebrel.core.figure.figure import FigureWish, ShapedFigure, shape_figure
from nebrel.core.figure.lighten import lighten
from nebrel.core.figure.silhouette import silhouette_of
from nebrel.core.figure.surface import surface_of
from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness

SIDE = 160
ACROSS, DOWN = np.meshgrid(np.arange(SIDE) - 79.5, np.arange(SIDE) - 79.5)
COVER = (np.hypot(ACROSS, DOWN) < 70).astype(np.float32)
RED, BLUE, WHITE = (0.8, 0.1, 0.1), (0.1, 0.2, 0.8), (1.0, 1.0, 1.0)


def painted(mark: bool = True) -> np.ndarray:
    """A red disc with a blue mark in its middle, on black that is cut away."""
    colours = np.zeros((SIDE, SIDE, 3), dtype=np.float32)
    colours[COVER > 0] = RED
    if mark:
        colours[np.hypot(ACROSS - 10, DOWN) < 25] = BLUE
    return colours


@pytest.fixture(scope="module")
def disc() -> tuple[ShapedFigure, TriMesh]:
    figure = shape_figure(silhouette_of(COVER, 0.25, 80), FigureWish(thinnest=0))
    return figure, surface_of(figure.form)


def near(mesh: TriMesh, colour: tuple[float, float, float]) -> np.ndarray:
    assert mesh.colours is not None
    return np.abs(mesh.colours[:, :3] / 255 - colour).max(axis=1) < 0.12


class TestColours:
    def test_lie_on_the_front_where_the_picture_has_them(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "edges")
        blue = near(mesh, BLUE)
        x, y, z = mesh.vertices[blue].T
        middle = 70 * 0.25
        assert blue.any()
        assert np.hypot(x - middle - 10 * 0.25, y - middle).max() < 26 * 0.25 + 0.4
        assert z.min() > 0

    def test_behind_are_those_of_the_edge_and_no_face(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "edges")
        behind = mesh.vertices[:, 2] < -4
        assert near(mesh, RED)[behind].all()

    def test_a_line_of_ink_along_the_outline_is_not_the_colour_of_the_back(self, disc):
        figure, bare = disc
        inked = painted()
        inked[np.hypot(ACROSS, DOWN) > 68.5] = (0.05, 0.05, 0.05)
        mesh = colour_figure(bare, figure.form, inked, COVER, "edges")
        assert near(mesh, RED)[mesh.vertices[:, 2] < -6].all()

    def test_are_behind_too_where_they_are_mirrored(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "mirror")
        assert near(mesh, BLUE)[mesh.vertices[:, 2] < -4].any()

    def test_of_what_was_cut_away_are_nowhere(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(mark=False), COVER, "edges")
        assert near(mesh, RED).all()

    def test_change_no_vertex(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "edges")
        assert mesh.vertices is bare.vertices or (mesh.vertices == bare.vertices).all()
        assert (mesh.colours[:, 3] == 255).all()

    def test_of_a_whole_picture_need_no_filling(self, disc):
        figure, bare = disc
        white = np.full((SIDE, SIDE, 3), WHITE, dtype=np.float32)
        assert near(colour_figure(bare, figure.form, white, np.ones_like(COVER), "edges"), WHITE).all()


class TestMadeLight:
    def test_borders_of_colours_stay_as_fine_and_the_rest_goes(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "edges")
        lighter = lighten(mesh, 0.1)
        assert lighter.deviation.max <= 0.1
        assert len(lighter.mesh.faces) < 0.5 * len(mesh.faces)
        assert check_soundness(lighter.mesh).sound
        share = [area(each, near(each, BLUE)) for each in (mesh, lighter.mesh)]
        assert share[1] == pytest.approx(share[0], rel=0.04)

    def test_a_tolerance_that_cannot_be_held_costs_triangles_and_nothing_else(self, disc):
        figure, bare = disc
        mesh = colour_figure(bare, figure.form, painted(), COVER, "edges")
        lighter = lighten(mesh, 1e-6)
        assert lighter.deviation.max <= 1e-6


def area(mesh: TriMesh, chosen: np.ndarray) -> float:
    """Of the faces whose corners are all chosen, mm²."""
    corners = mesh.corners[chosen[mesh.faces].all(axis=1)]
    return float(
        np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1).sum() / 2
    )
