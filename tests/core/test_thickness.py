"""Thickness by the largest sphere inside, on solids whose walls are known, and beside the way straight inwards."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh.distance import distances_to
from nebrel.core.mesh.inscribed import inscribed_diameters
from nebrel.core.mesh.nearest import shares_between
from nebrel.core.panel.body import PanelBody
from nebrel.core.panel.build import build_panel
from nebrel.core.panel.layout import layout_of
from nebrel.core.proof.thickness import measure_thickness

Manifold = manifold3d.Manifold


@pytest.fixture(scope="module")
def stepped():
    """A plate 20 by 10 by 2 mm with a step 3 mm high on it, whose sides lean in by a fifth of a degree."""
    foot = Manifold.cube((20, 10, 2))
    step = manifold3d.CrossSection([[(8, 1), (12, 1), (12, 9), (8, 9)]]).extrude(3, scale_top=(0.9965, 0.9965))
    return mesh_of((foot + step.translate((0, 0, 2))).refine_to_length(0.6))


@pytest.fixture(scope="module")
def grainy(field_of):
    """A panel at least 2 mm thick with a plateau of 3 mm on it, grainy by some hundredths of a millimetre."""
    grain = np.random.default_rng(5)

    def heights(x, y):
        plateau = np.hypot(x - 20, y - 15) < 8
        return np.where(plateau, 5.0, 2.2) + grain.uniform(-0.05, 0.05, x.shape)

    return build_panel(layout_of(field_of(heights), PanelBody(1.0)), 0.01).mesh


def test_a_box_is_as_thick_as_its_shortest_side(box):
    thickness = measure_thickness(box(size=(9, 7, 2)))
    assert thickness.thinnest == pytest.approx(2.0, abs=1e-6)
    assert thickness.by == "sphere"
    assert thickness.share_below(1.99) == 0


def test_spheres_touch_the_other_side_and_stay_inside(stepped):
    corners = stepped.corners
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    inwards = -normals / np.linalg.norm(normals, axis=1)[:, np.newaxis]
    places = corners.mean(axis=1)
    found = inscribed_diameters(stepped, places, inwards)
    assert np.isfinite(found).all()
    below = np.isclose(places[:, 2], 0) & (np.abs(places[:, 0] - 3) < 2) & (np.abs(places[:, 1] - 5) < 3)
    assert below.sum() > 20
    assert found[below] == pytest.approx(2.0, abs=1e-6)
    middles = places[below] + inwards[below] * found[below, np.newaxis] / 2
    assert distances_to(stepped, middles) == pytest.approx(1.0, abs=1e-6)


def test_a_ray_grazes_the_grain_of_a_thick_panel_and_a_sphere_does_not(grainy):
    by_sphere, by_ray = measure_thickness(grainy), measure_thickness(grainy, by="ray")
    assert by_ray.share_below(1.9) > 10 * by_sphere.share_below(1.9)
    assert by_sphere.share_below(1.9) < 1e-3


def test_a_surface_that_is_open_has_no_other_side(box):
    plate = box(size=(4, 4, 1))
    lid = plate.corners[:, :, 2].min(axis=1) > 0.5
    open_plate = type(plate)(plate.vertices, plate.faces[lid])
    assert np.isinf(measure_thickness(open_plate).of_face).all()


@pytest.mark.parametrize(
    ("point", "shares"),
    [
        ((0.2, 0.3, 5.0), (0.2, 0.3)),
        ((-1.0, -1.0, 0.0), (0.0, 0.0)),
        ((3.0, -1.0, 0.0), (1.0, 0.0)),
        ((-1.0, 3.0, 0.0), (0.0, 1.0)),
        ((0.4, -1.0, 0.0), (0.4, 0.0)),
        ((-1.0, 0.4, 0.0), (0.0, 0.4)),
        ((1.0, 1.0, 0.0), (0.5, 0.5)),
    ],
)
def test_the_nearest_place_of_a_triangle_is_in_each_of_its_seven_regions(point, shares):
    assert shares_between(point, (0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0)) == pytest.approx(shares)


def test_a_triangle_without_area_has_a_nearest_place():
    assert shares_between((1.0, 1.0, 0.0), (0.0, 0.0, 0.0), (2.0, 0.0, 0.0), (2.0, 0.0, 0.0)) == pytest.approx(
        (0.5, 0.0)
    )
