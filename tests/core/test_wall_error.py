"""Walls of prisms, measured on the mesh against the edges that were asked for."""

from dataclasses import replace

import numpy as np
import pytest
import shapely
from shapely.affinity import translate

from nebrel.core.outline_solid.offset_extrusion import prism
from nebrel.core.proof.wall_error import measure_walls
from nebrel.core.region.grid import polygons_of

PLATE = shapely.Polygon([(0, 0), (30, 0), (40, 20), (10, 26)], [[(8, 6), (14, 6), (14, 12), (8, 12)]])


@pytest.fixture
def made():
    return prism(polygons_of(PLATE), 0.0, 3.0)


def test_a_prism_that_is_as_asked(made):
    most, rms = measure_walls(made, polygons_of(PLATE), 3.0)
    assert most < 1e-5
    assert rms <= most


def test_wherever_the_outline_lies(made):
    assert measure_walls(made, polygons_of(translate(PLATE, 300, -80)), 3.0)[0] < 1e-5


def test_a_corner_that_was_moved_and_one_that_was_cut_off(made):
    moved = made.vertices.copy()
    moved[np.isclose(made.vertices[:, :2], (10, 26), atol=1e-6).all(axis=1), 1] += 0.3
    assert measure_walls(replace(made, vertices=moved), polygons_of(PLATE), 3.0)[0] == pytest.approx(0.29, abs=0.02)
    blunt = polygons_of(PLATE.difference(shapely.box(28, -1, 41, 2)))
    most, rms = measure_walls(prism(blunt, 0.0, 3.0), polygons_of(PLATE), 3.0)
    # The corner at (30, 0) is a tip of two millimetres by two and one, gone.
    assert most == pytest.approx(2, abs=0.01)
    assert 0.1 < rms < most


def test_a_hole_that_was_filled_and_one_that_was_not_asked_for(made):
    whole = polygons_of(shapely.Polygon(PLATE.exterior))
    # From the middle of the hole's side to the nearest outer wall.
    assert measure_walls(prism(whole, 0.0, 3.0), polygons_of(PLATE), 3.0)[0] > 5
    assert measure_walls(made, whole, 3.0)[0] > 5


def test_another_height_is_off_by_what_it_is_taller(made):
    most, rms = measure_walls(made, polygons_of(PLATE), 2.75)
    assert most == pytest.approx(0.25, abs=1e-6)
    assert 0 < rms < most


def test_what_has_no_walls_is_infinitely_far(made):
    lying = replace(made, faces=made.faces[np.ptp(made.corners[..., 2], axis=1) < 1e-9])
    assert measure_walls(lying, polygons_of(PLATE), 3.0)[0] == float("inf")
