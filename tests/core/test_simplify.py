"""Distances between meshes, and lighter meshes that keep them."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.errors import NebrelError
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to, measure_between
from nebrel.core.mesh.simplify import to_count, to_tolerance
from nebrel.core.mesh.topology import analyse
from nebrel.core.proof import check_soundness


def made(solid: manifold3d.Manifold) -> TriMesh:
    mesh = solid.to_mesh()
    return TriMesh(np.asarray(mesh.vert_properties)[:, :3].astype(np.float64), np.asarray(mesh.tri_verts, np.uint32))


@pytest.fixture(scope="module")
def ball() -> TriMesh:
    return made(manifold3d.Manifold.sphere(20, 160))


@pytest.fixture(scope="module")
def fine_box() -> TriMesh:
    return made(manifold3d.Manifold.cube((30, 20, 10)).refine(24))


def test_distances_to_a_box_are_exact(fine_box):
    points = np.array([[15, 10, 12.5], [33, 24, 5], [-3, -4, -12], [15, 10, 5], [30, 20, 10], [1, 10, 5]], float)
    assert distances_to(fine_box, points) == pytest.approx([2.5, 5, 13, 5, 0, 1], abs=1e-6)


def test_distances_to_a_ball_are_its_radius(ball):
    points = np.random.default_rng(2).normal(size=(500, 3)) * 30
    away = distances_to(ball, points)
    assert np.abs(away - np.abs(np.linalg.norm(points, axis=1) - 20)).max() < 0.01


def test_deviation_is_measured_both_ways(fine_box):
    taller = TriMesh(fine_box.vertices * [1, 1, 1.05], fine_box.faces)
    apart = measure_between(fine_box, taller)
    assert apart.max == pytest.approx(0.5, abs=1e-6)
    assert 0 < apart.rms < apart.max
    assert measure_between(fine_box, fine_box).max < 1e-9


def test_a_flat_sided_solid_needs_only_its_corners(fine_box):
    light = to_tolerance(fine_box, 0.001)
    assert len(light.mesh.faces) <= 40
    assert light.deviation.max <= 0.001
    assert analyse(light.mesh).closed
    assert np.ptp(light.mesh.vertices, axis=0) == pytest.approx((30, 20, 10))


@pytest.mark.parametrize("tolerance", [0.02, 0.1, 0.5])
def test_a_tolerance_holds_and_the_solid_stays_closed(ball, tolerance):
    light = to_tolerance(ball, tolerance)
    assert light.deviation.max <= tolerance
    topology = analyse(light.mesh)
    assert topology.closed
    assert topology.manifold
    assert len(light.mesh.faces) < len(ball.faces)


def test_a_count_is_kept_and_colours_come_along(ball):
    painted = TriMesh(ball.vertices, ball.faces, np.tile(np.array([9, 8, 7, 255], np.uint8), (len(ball.vertices), 1)))
    light = to_count(painted, 1000)
    assert len(light.mesh.faces) <= 1000
    assert analyse(light.mesh).closed
    assert (light.mesh.colours == [9, 8, 7, 255]).all()
    assert 0 < light.deviation.rms < light.deviation.max < 1


def test_borders_stay_where_they_are():
    y, x = np.mgrid[0:30, 0:40].astype(float)
    corner = np.arange(1200).reshape(30, 40)
    quads = [corner[:-1, :-1], corner[:-1, 1:], corner[1:, 1:], corner[1:, :-1]]
    a, b, c, d = (quad.ravel() for quad in quads)
    sheet = TriMesh(
        np.column_stack([x.ravel(), y.ravel(), np.sin(x / 5).ravel()]),
        np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.uint32),
    )
    light = to_tolerance(sheet, 0.05).mesh
    assert light.vertices.min(axis=0)[:2] == pytest.approx((0, 0))
    assert light.vertices.max(axis=0)[:2] == pytest.approx((39, 29))
    assert len(light.faces) < len(sheet.faces) / 2


def test_senseless_targets_are_refused(ball):
    with pytest.raises(NebrelError, match="at least 4"):
        to_count(ball, 2)
    with pytest.raises(NebrelError, match="more than 0"):
        to_tolerance(ball, 0.0)


@pytest.mark.parametrize("triangles", [3000, 1200])
def test_a_thin_relief_with_steep_walls_stays_sound(field_of, triangles):
    steep = field_of(lambda x, y: 3.0 * (np.hypot(x - 20, y - 15) < 9 + 2 * np.sin(7 * np.arctan2(y - 15, x - 20))))
    mesh = build_slab(steep, 0.4, 0.02).mesh
    report = check_soundness(to_count(mesh, triangles).mesh)
    assert report.sound, report.findings
    report = check_soundness(to_tolerance(mesh, 0.2).mesh)
    assert report.sound, report.findings
