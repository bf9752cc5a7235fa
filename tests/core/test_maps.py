"""Thickness, lean and overhang of solids that are known by formula; sections in any direction."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.heightfield.from_above import heights_from_above
from nebrel.core.mesh.rays import first_hits
from nebrel.core.mesh.shading import shade
from nebrel.core.proof.facing import draft_angles, overhang_angles
from nebrel.core.proof.maps import surface_map
from nebrel.core.proof.section import cut_mesh
from nebrel.core.proof.thickness import measure_thickness

Manifold = manifold3d.Manifold


@pytest.fixture(scope="module")
def bowl():
    """A ball of 10 mm with a ball of 9.2 mm taken out, its middle 0.3 mm off: the wall is 0.5 to 1.1 mm thick."""
    return mesh_of(Manifold.sphere(10, 160) - Manifold.sphere(9.2, 160).translate((0.3, 0, 0)))


def test_rays_meet_the_nearest_face(box):
    origins = np.array([[0.5, 0.5, 5.0], [0.5, 0.5, 0.5], [3.0, 3.0, 3.0]])
    directions = np.array([[0, 0, -1.0], [1.0, 0, 0], [0, 0, 1.0]])
    found = first_hits(box(size=(1, 1, 1)), origins, directions, np.zeros(3))
    assert found == pytest.approx([4.0, 0.5, np.inf])


@pytest.mark.deep
def test_the_wall_of_a_bowl_is_as_thick_as_it_is(bowl):
    thickness = measure_thickness(bowl)
    assert thickness.thinnest == pytest.approx(0.5, abs=0.02)
    assert thickness.spot[0] > 9
    assert thickness.of_face.max() == pytest.approx(1.1, abs=0.03)
    assert thickness.share_below(0.45) == 0
    assert 0.4 < thickness.share_below(0.8) < 0.6


def test_walls_and_undercuts_of_a_mushroom():
    cap = Manifold.cylinder(2, 6, 6, 64).translate((0, 0, 6))
    foot = Manifold.cylinder(6, 5, 3, 64)
    mesh = mesh_of(foot + cap)
    angles = draft_angles(mesh)
    assert np.nanmin(angles) == pytest.approx(-90)
    assert np.isnan(angles).sum() > 0
    lean = np.degrees(np.arctan2(2, 6))
    assert np.isclose(angles, lean, atol=0.5).any()
    hanging = overhang_angles(mesh, "lying")
    assert np.nanmax(hanging) == pytest.approx(90)
    assert np.nanmax(overhang_angles(mesh, "standing")) > 80


def test_a_map_has_a_value_for_every_vertex_and_names_the_spot(bowl):
    shaded = shade(bowl)
    found = surface_map(bowl, shaded, "thickness", lambda: np.zeros(len(bowl.faces)))
    assert found.values.shape == (len(shaded.positions),)
    assert found.least == pytest.approx(0.5, abs=0.02)
    assert found.spot[0] > 9
    nothing = surface_map(bowl, shaded, "deviation", lambda: np.full(len(bowl.faces), np.nan))
    assert np.isnan(nothing.values).all()
    assert nothing.spot is None


class TestSections:
    def area(self, outlines) -> float:
        total = 0.0
        for outline in outlines:
            x, y = outline.T
            total += float(np.sum(x * np.roll(y, -1) - np.roll(x, -1) * y)) / 2
        return total

    def test_a_level_section_of_a_cone(self):
        cone = mesh_of(Manifold.cylinder(12, 10, 4, 256).translate((10, 10, 0)))
        outlines = cut_mesh(cone, (0, 10), (20, 10), 90, 6.0)
        assert self.area(outlines) == pytest.approx(np.pi * 49, rel=1e-3)

    def test_a_leaning_section_of_a_cylinder_is_an_ellipse(self):
        upright = mesh_of(Manifold.cylinder(40, 5, 5, 256).translate((10, 10, 0)))
        for tilt in (0.0, 30.0, -30.0):
            lift = 20.0
            outlines = cut_mesh(upright, (0, 10), (20, 10), tilt, lift)
            wanted = 10 * 40 if tilt == 0 else np.pi * 5 * 5 / np.sin(np.radians(30))
            assert abs(self.area(outlines)) == pytest.approx(wanted, rel=2e-3)


def test_a_model_from_above():
    dome = mesh_of(Manifold.sphere(10, 128).translate((10, 10, 10)))
    field = heights_from_above(dome, 201)
    assert field.heights.shape == (201, 201)
    assert field.heights[100, 100] == pytest.approx(20, abs=0.05)
    assert not field.material[2, 2]
    assert field.heights[100, 160] == pytest.approx(10 + np.sqrt(100 - 36), abs=0.05)
