"""Distances between meshes, and lighter meshes that keep them."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.errors import NebrelError
from nebrel.core.heightfield.slab import build_slab
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import distances_to, measure_between
from nebrel.core.mesh.fewer.simplify import to_count, to_tolerance
from nebrel.core.mesh.shells import together
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


def test_the_furthest_place_is_found_between_samples(fine_box, ball):
    low, high = np.array([7.1, 3.3, 10.0]), np.array([7.1, 3.3, 12.0])
    needle = made(manifold3d.Manifold.cube((0.02, 0.02, 3.0), True))
    pricked = together([fine_box, TriMesh(needle.vertices + (low + high) / 2, needle.faces)])
    assert measure_between(fine_box, pricked).max == pytest.approx(2.5, abs=1e-3)
    light = to_count(bumpy(ball), len(ball.faces) // 3)
    away = [
        distances_to(light.mesh, anywhere_on(bumpy(ball), 50_000)).max(),
        distances_to(bumpy(ball), anywhere_on(light.mesh, 50_000)).max(),
    ]
    assert max(away) <= 1.01 * light.deviation.max
    beyond = measure_between(bumpy(ball), light.mesh, limit=0.8 * light.deviation.max).beyond
    assert 0 < len(beyond) < 0.1 * len(ball.faces)


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


def sheet(count: int, bumps: float) -> TriMesh:
    """A bumpy square of 30 mm that is open all round."""
    y, x = np.mgrid[0:count, 0:count] * (30.0 / (count - 1))
    corner = np.arange(count * count).reshape(count, count)
    a, b, c, d = (quad.ravel() for quad in (corner[:-1, :-1], corner[:-1, 1:], corner[1:, 1:], corner[1:, :-1]))
    points = np.column_stack([x.ravel(), y.ravel(), bumps * (np.sin(x / 1.3) * np.cos(y / 1.7)).ravel()])
    return TriMesh(points, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.uint32))


def bumpy(ball: TriMesh) -> TriMesh:
    x, y, z = ball.vertices.T
    return TriMesh(ball.vertices * (1 + 0.03 * np.sin(x) * np.cos(1.3 * y + z))[:, np.newaxis], ball.faces)


def anywhere_on(mesh: TriMesh, count: int) -> np.ndarray:
    """Random places on a mesh, which nothing that simplifies looks at."""
    random = np.random.default_rng(7)
    corners = mesh.corners
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    chosen = corners[random.choice(len(corners), count, p=areas / areas.sum())]
    shares = random.dirichlet([1, 1, 1], count)
    return np.einsum("kc,kcx->kx", shares, chosen)


@pytest.mark.parametrize("tolerance", [0.01, 0.05, 0.3])
@pytest.mark.parametrize("kind", ["closed", "open", "two parts"])
def test_no_place_of_either_surface_leaves_the_bound(ball, tolerance, kind):
    rough = bumpy(ball)
    if kind == "open":
        rough = sheet(120, 0.8)
    if kind == "two parts":
        rough = together([rough, TriMesh(ball.vertices * 0.3 + 40, ball.faces)])
    light = to_tolerance(rough, tolerance)
    assert len(light.mesh.faces) < 0.99 * len(rough.faces)
    assert distances_to(light.mesh, anywhere_on(rough, 20_000)).max() <= 1.005 * tolerance
    assert distances_to(rough, anywhere_on(light.mesh, 20_000)).max() <= 1.005 * tolerance
    assert light.deviation.max > 0.6 * tolerance
    before, after = analyse(rough), analyse(light.mesh)
    assert (after.closed, after.manifold, after.shells) == (before.closed, before.manifold, before.shells)


def test_one_bad_fin_does_not_keep_the_rest_as_it_came(ball):
    """A blade a hundredth of a millimetre thick, so wavy that hardly an edge of it can go."""
    blade = made(manifold3d.Manifold.cube((12, 0.01, 12), True).refine(40))
    wave = 0.3 * np.sin(3 * blade.vertices[:, [2]]) * np.array([0, 1, 0])
    scan = together([bumpy(ball), TriMesh(blade.vertices + wave + np.array([40, 0, 0]), blade.faces)])
    light, alone = to_tolerance(scan, 0.06).mesh, to_tolerance(bumpy(ball), 0.06).mesh
    at_ball = light.corners.mean(axis=1)[:, 0] < 30
    assert at_ball.sum() == pytest.approx(len(alone.faces), rel=0.1)
    assert len(alone.faces) < 0.8 * len(ball.faces)


@pytest.mark.parametrize("share", [2, 10, 40])
@pytest.mark.parametrize("kind", ["closed", "open"])
def test_a_count_costs_no_more_than_elsewhere(ball, share, kind):
    import fast_simplification

    rough = bumpy(ball) if kind == "closed" else sheet(150, 0.8)
    asked = len(rough.faces) // share
    light = to_count(rough, asked)
    points, faces = fast_simplification.simplify(rough.vertices.astype(np.float32), rough.faces, target_count=asked)
    other = TriMesh(np.asarray(points, np.float64), np.asarray(faces, np.uint32))
    assert 0.98 * asked <= len(light.mesh.faces) <= asked
    assert light.why_not == ""
    assert light.deviation.rms <= measure_between(rough, other).rms


def test_facets_of_a_coarse_solid_do_not_keep_a_count_from_being_reached():
    drum = made(manifold3d.Manifold.cylinder(20, 15, 12, 24).refine(6))
    light = to_count(drum, 60)
    assert len(light.mesh.faces) <= 61
    assert light.why_not == ""
    few = to_count(drum, 24)
    assert len(few.mesh.faces) <= 24
    assert analyse(few.mesh).closed


def test_what_keeps_a_count_from_being_reached_is_told(ball):
    speck = made(manifold3d.Manifold.tetrahedron())
    specks = together([TriMesh(speck.vertices + 4 * np.array(at), speck.faces) for at in np.ndindex(5, 5, 5)])
    light = to_count(specks, 100)
    assert len(light.mesh.faces) == len(specks.faces)
    assert "125 parts" in light.why_not
    assert "100" in light.why_not


def test_a_bound_that_nothing_holds_is_told(ball):
    light = to_tolerance(made(manifold3d.Manifold.cube((3, 4, 5))), 0.1)
    assert len(light.mesh.faces) == 12
    assert "0.1 mm" in light.why_not


def test_colours_of_faces_end_where_they_ended(ball):
    """The upper half red, the lower green, with a seam that no edge may leave far."""
    upper = ball.corners[:, :, 2].mean(axis=1) > 0
    tints = np.where(upper[:, np.newaxis], np.array([255, 0, 0, 255]), np.array([0, 255, 0, 90])).astype(np.uint8)
    painted = TriMesh(ball.vertices, ball.faces, corner_colours=np.repeat(tints[:, np.newaxis], 3, axis=1))
    light = to_tolerance(painted, 0.1).mesh
    assert light.corner_colours is not None
    red = (light.corner_colours == [255, 0, 0, 255]).all(axis=2)
    green = (light.corner_colours == [0, 255, 0, 90]).all(axis=2)
    assert (red.all(axis=1) | green.all(axis=1)).mean() > 0.97
    heights = light.corners[:, :, 2].mean(axis=1)
    assert heights[red.all(axis=1)].min() > -0.3
    assert heights[green.all(axis=1)].max() < 0.3


def test_fixed_vertices_stay(ball):
    fixed = ball.vertices[:, 2] > 10
    light = to_tolerance(ball, 0.3, fixed=fixed).mesh
    kept = {tuple(row) for row in np.round(light.vertices, 5).tolist()}
    assert all(tuple(row) in kept for row in np.round(ball.vertices[fixed], 5).tolist())
    assert len(light.faces) < 0.7 * len(ball.faces)


def test_nothing_goes_where_all_is_fixed(ball):
    assert to_tolerance(ball, 0.3, fixed=np.ones(len(ball.vertices), dtype=bool)).mesh is ball


def test_a_relief_goes_down_to_its_corners(field_of):
    """With four triangles it would cross itself, so that all of the last six are held."""
    cone = field_of(lambda x, y: np.clip(3 - np.hypot(x - 20, y - 15) / 6, 0, None))
    light = to_count(build_slab(cone, 2.0, 0.002).mesh, 4).mesh
    assert len(light.faces) <= 12
    assert check_soundness(light).sound


def test_a_tangled_mesh_gets_lighter_and_no_worse(ball):
    """Three sheets at one edge, a pinch, a face the wrong way round."""
    other = TriMesh(ball.vertices + np.array([0, 0, 40.0]), ball.faces)
    both = together([ball, other])
    top, bottom = int(ball.vertices[:, 2].argmax()), len(ball.vertices) + int(other.vertices[:, 2].argmin())
    faces = np.where(both.faces == bottom, top, both.faces)
    faces[5] = faces[5][::-1]
    faces = np.vstack([faces, [faces[9][0], faces[9][1], top]]).astype(np.uint32)
    tangled = TriMesh(both.vertices, faces)
    light = to_count(tangled, len(faces) // 10)
    assert len(light.mesh.faces) <= 1.02 * (len(faces) // 10)
    before, after = analyse(tangled), analyse(light.mesh)
    for count in ("open_edges", "crowded_edges", "flipped_edges", "pinched_vertices"):
        assert getattr(after, count) <= getattr(before, count), count


def test_senseless_targets_are_refused(ball):
    with pytest.raises(NebrelError, match="at least 4"):
        to_count(ball, 2)
    with pytest.raises(NebrelError, match="more than 0"):
        to_tolerance(ball, 0.0)


@pytest.mark.parametrize("turned", [0.0, 0.4])
def test_what_a_thing_stands_on_stays_flat(field_of, turned):
    bumpy_field = field_of(lambda x, y: 1.5 + np.sin(x / 3) * np.cos(y / 4))
    mesh = build_slab(bumpy_field, 2.0, 0.005).mesh
    turn = np.array([[1, 0, 0], [0, np.cos(turned), -np.sin(turned)], [0, np.sin(turned), np.cos(turned)]])
    lying = TriMesh((mesh.vertices @ turn.T).astype(np.float32).astype(np.float64), mesh.faces)
    for light in (to_count(lying, len(mesh.faces) // 15).mesh, to_tolerance(lying, 0.3).mesh):
        assert len(light.faces) < len(mesh.faces) / 10
        heights = (light.vertices @ turn)[:, 2]
        level = heights[heights < heights.min() + 0.05]
        assert len(level) >= 4
        assert np.ptp(level) < 2e-5
        assert np.ptp((light.vertices @ turn)[heights < heights.min() + 0.05], axis=0)[:2] == pytest.approx(
            np.ptp(mesh.vertices, axis=0)[:2], abs=1e-4
        )


@pytest.mark.parametrize("triangles", [3000, 1200])
def test_a_thin_relief_with_steep_walls_stays_sound(field_of, triangles):
    steep = field_of(lambda x, y: 3.0 * (np.hypot(x - 20, y - 15) < 9 + 2 * np.sin(7 * np.arctan2(y - 15, x - 20))))
    mesh = build_slab(steep, 0.4, 0.02).mesh
    report = check_soundness(to_count(mesh, triangles).mesh)
    assert report.sound, report.findings
    report = check_soundness(to_tolerance(mesh, 0.2).mesh)
    assert report.sound, report.findings
