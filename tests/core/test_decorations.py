"""Decorations on skins whose true shape is known."""

from collections.abc import Callable

import manifold3d
import numpy as np
import pytest
import shapely
from scipy.ndimage import gaussian_filter

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof import check_soundness
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.surface.art import Edge, Setting, art_of_picture, art_of_region
from tests.core.rays import hits_along
from tests.core.skins import (
    RADIUS,
    ROUND,
    TOLERANCE,
    TUBE,
    UP,
    band,
    block,
    box_art,
    cone,
    cylinder,
    disc_art,
    lay,
    mesh_of,
    ring_art,
    sound,
    sphere,
    star_art,
)  # fmt: skip

SPOTS = 5000
HEIGHT_MM = 0.02
FACTS = SourceFacts("made", 0, 0, 16, "gray")

Points = np.ndarray


def on_cylinder(places: Points) -> tuple[Points, Points]:
    angle = places[:, 0] / RADIUS
    out = np.column_stack([np.cos(angle), np.sin(angle), np.zeros(len(angle))])
    return out * RADIUS + [0, 0, 30] * np.ones_like(out) + places[:, 1:] * UP, out


def on_cone(places: Points) -> tuple[Points, Points]:
    slope = 8 / 62
    high = 31 + places[:, 1]
    angle = places[:, 0] / 33
    out = np.column_stack([np.cos(angle), np.sin(angle), np.zeros(len(angle))])
    where = out * (29 + slope * high)[:, np.newaxis] + high[:, np.newaxis] * UP
    normal = out - slope * UP
    return where, normal / np.linalg.norm(normal, axis=1, keepdims=True)


def on_sphere(places: Points) -> tuple[Points, Points]:
    away = np.linalg.norm(places, axis=1, keepdims=True) / RADIUS
    way = places / np.maximum(np.linalg.norm(places, axis=1, keepdims=True), 1e-12)
    out = np.hstack([np.cos(away), np.sin(away) * way])
    return RADIUS * out, out


def on_band(places: Points) -> tuple[Points, Points]:
    tilt, turn = places[:, 1] / TUBE, places[:, 0] / (ROUND + TUBE)
    normal = np.column_stack([np.cos(tilt) * np.cos(turn), np.cos(tilt) * np.sin(turn), np.sin(tilt)])
    circle = np.column_stack([np.cos(turn), np.sin(turn), np.zeros(len(turn))])
    return ROUND * circle + TUBE * normal, normal


SKINS: list[
    tuple[str, Callable[[], TriMesh], tuple[float, float, float], Callable[[Points], tuple[Points, Points]]]
] = [
    ("cylinder", cylinder, (RADIUS, 0, 30), on_cylinder),
    ("cone", cone, (33, 0, 31), on_cone),
    ("sphere", sphere, (RADIUS, 0, 0), on_sphere),
    ("band", band, (ROUND + TUBE, 0, 0), on_band),
]


@pytest.mark.parametrize(
    ("name", "made", "at", "true", "depth"),
    [
        pytest.param(
            *skin, depth, id=f"{skin[0]} {depth}", marks=[pytest.mark.deep] * ((skin[0], depth) == ("band", 0.6))
        )
        for skin in SKINS
        for depth in (0.6, -0.6)
    ],
)
def test_a_plateau_is_as_high_as_asked_everywhere(name, made, at, true, depth):
    """Measured along the true skin's normal by a ray caster of its own, 5,000 spots well inside the outline."""
    decorated = lay(made(), at, disc_art(12 if name == "band" else 18), Setting(depth))
    assert sound(decorated.mesh)
    rng = np.random.default_rng(3)
    reach = (12 if name == "band" else 18) / 2 * 0.85
    away, turn = reach * np.sqrt(rng.random(SPOTS)), 2 * np.pi * rng.random(SPOTS)
    where, normal = true(np.column_stack([away * np.cos(turn), away * np.sin(turn)]))
    height = 5.0 - hits_along(decorated.mesh, where + 5.0 * normal, -normal)
    assert np.abs(height - depth).max() <= HEIGHT_MM


@pytest.mark.parametrize("lie", ["follow", "wrap"])
@pytest.mark.parametrize("depth", [0.6, -0.6])
def test_the_volume_on_a_cylinder_is_the_analytic_one(lie, depth):
    art = ring_art(24)
    decorated = lay(cylinder(), (RADIUS, 0, 30), art, Setting(depth), lie=lie)
    # A sector between two radii.
    asked = art.region.area * abs(depth) * (1 + depth / (2 * RADIUS))
    got = decorated.added_mm3 if depth > 0 else decorated.removed_mm3
    assert got == pytest.approx(asked, rel=0.005)
    assert volume(decorated.mesh) - volume(cylinder()) == pytest.approx(np.sign(depth) * asked, rel=0.005)


@pytest.mark.parametrize("depth", [3.0, -3.0])
def test_what_was_added_is_exactly_what_the_model_gained(depth):
    """Deep on a strong bend, where a rule of lower order than Simpson's is off by several thousandths."""
    decorated = lay(sphere(), (RADIUS, 0, 0), disc_art(18), Setting(depth), up=(0, 0, 1))
    gained = volume(decorated.mesh) - volume(sphere())
    assert abs(gained) > 500
    assert decorated.added_mm3 - decorated.removed_mm3 == pytest.approx(gained, rel=1e-5)


@pytest.mark.parametrize("width", [10.0, 40.0, 90.0])
def test_an_outline_wrapped_on_a_cylinder_keeps_its_arc_length(width):
    decorated = lay(cylinder(), (RADIUS, 0, 30), box_art(width, 10), Setting(0.5), lie="wrap")
    raised = decorated.mesh.vertices[np.hypot(*decorated.mesh.vertices[:, :2].T) > RADIUS + 0.4]
    angles = np.arctan2(raised[:, 1], raised[:, 0])
    assert np.ptp(angles) * RADIUS == pytest.approx(width, rel=0.001)
    assert np.ptp(raised[:, 2]) == pytest.approx(10, abs=0.002)


@pytest.mark.parametrize(("name", "made", "at", "true"), SKINS, ids=[name for name, *_ in SKINS])
def test_faces_outside_are_unchanged_to_the_last_bit(name, made, at, true):
    mesh = made()
    decorated = lay(mesh, at, star_art(12), Setting(0.6))
    kept = decorated.mesh.corners[: decorated.untouched]
    before = {corners.tobytes() for corners in mesh.corners}
    assert decorated.untouched < len(mesh.faces)
    assert all(corners.tobytes() in before for corners in kept)
    crossed = len(mesh.faces) - decorated.untouched
    touched = {
        face.tobytes() for face in mesh.corners if np.linalg.norm(face.mean(axis=0) - np.array(at)) < 45
    }  # fmt: skip
    assert crossed <= len(touched)


def test_a_relief_is_as_true_as_its_tolerance():
    rng = np.random.default_rng(1)
    tones = gaussian_filter(rng.normal(size=(240, 240)), 9)
    tones = ((tones - tones.min()) / np.ptp(tones)).astype(np.float32)
    art = art_of_picture(Picture(tones, np.ones_like(tones), FACTS), 24, "bright", False)
    decorated = lay(cylinder(), (RADIUS, 0, 30), art, Setting(1.2))
    assert sound(decorated.mesh)
    columns, rows = rng.integers(12, 228, 2000), rng.integers(12, 228, 2000)
    places = np.column_stack([(columns - 119.5), (119.5 - rows)]) * 24 / 239
    where, normal = on_cylinder(places)
    height = 5.0 - hits_along(decorated.mesh, where + 5.0 * normal, -normal)
    assert np.percentile(np.abs(height - 1.2 * tones[rows, columns]), 99) <= 0.02
    assert np.abs(height - 1.2 * tones[rows, columns]).max() <= 0.04


def test_tones_go_both_ways_from_middle_gray():
    ramp = np.broadcast_to(np.linspace(0, 1, 60, dtype=np.float32), (40, 60)).copy()
    art = art_of_picture(Picture(ramp, np.ones_like(ramp), FACTS), 20, "bright", True)
    decorated = lay(block(), (30, 20, 20), art, Setting(1.0), up=(0, 1, 0))
    assert sound(decorated.mesh)
    top, bottom = (
        decorated.mesh.vertices[:, 2].max(),
        decorated.mesh.vertices[:, 2][decorated.mesh.vertices[:, 2] > 10].min(),
    )
    assert top == pytest.approx(21, abs=1e-4)
    assert bottom == pytest.approx(19, abs=1e-4)
    assert decorated.added_mm3 == pytest.approx(decorated.removed_mm3, rel=0.02)


def test_dark_tones_can_stand_tall():
    spot = np.ones((40, 40), dtype=np.float32)
    spot[15:25, 15:25] = 0
    art = art_of_picture(Picture(spot, np.ones_like(spot), FACTS), 20, "dark", False)
    decorated = lay(block(), (30, 20, 20), art, Setting(1.0), up=(0, 1, 0))
    assert 20 < decorated.added_mm3 < 40


@pytest.mark.parametrize(
    ("edge", "share"),
    [(Edge("bevel", 2.0), 1 - 2 / 9 + (2 / 9) ** 2 / 3), (Edge("fade", 18.0, "left"), 0.5)],
)
def test_edges_slope_as_far_as_asked(edge, share):
    art = disc_art(18)
    decorated = lay(block(), (30, 20, 20), art, Setting(1.0, edge=edge), up=(0, 1, 0))
    assert sound(decorated.mesh)
    # A cone's frustum, and half a disc.
    assert decorated.added_mm3 == pytest.approx(art.region.area * share, rel=0.01)


def test_a_square_edge_stands_upright():
    decorated = lay(block(), (30, 20, 20), box_art(20, 10), Setting(1.0), up=(0, 1, 0))
    assert decorated.added_mm3 == pytest.approx(200, rel=1e-4)
    high = decorated.mesh.vertices[decorated.mesh.vertices[:, 2] > 20.5]
    assert np.ptp(high, axis=0) == pytest.approx([20, 10, 0], abs=1e-4)


def test_turned_and_mirrored():
    corner = art_of_region(
        shapely.MultiPolygon([shapely.Polygon([(0, 0), (10, 0), (10, 4), (4, 4), (4, 20), (0, 20)])]), 10
    )
    plain, turned, mirrored = (
        lay(block(), (30, 20, 20), corner, setting, up=(0, 1, 0)).mesh
        for setting in (Setting(1.0), Setting(1.0, turn_deg=90), Setting(1.0, mirrored=True))
    )
    middle = [
        mesh.corners[mesh.corners[..., 2].min(axis=1) > 20.5].mean(axis=(0, 1)) for mesh in (plain, turned, mirrored)
    ]
    boxes = [np.ptp(mesh.vertices[mesh.vertices[:, 2] > 20.5], axis=0)[:2] for mesh in (plain, turned, mirrored)]
    assert boxes[0] == pytest.approx([10, 20], abs=1e-3)
    assert boxes[1] == pytest.approx([20, 10], abs=1e-3)
    assert middle[2][0] - 30 == pytest.approx(30 - middle[0][0], abs=0.3)


def test_the_wall_is_kept():
    pot = mesh_of(
        manifold3d.Manifold.cylinder(60, 30, 30, 240)
        - manifold3d.Manifold.cylinder(60, 28.5, 28.5, 240).translate((0, 0, 2))
    )
    decorated = lay(pot, (30, 0, 30), disc_art(), Setting(-1.2), thinnest=0.9)
    assert sound(decorated.mesh)
    assert decorated.thinnest_wall == pytest.approx(0.9, abs=0.005)
    assert decorated.wall.by == pytest.approx(0.6, abs=0.01)
    told = [finding.measure for finding in decoration_findings(decorated, ["disc"], 0.9, TOLERANCE)]
    assert "thinnest_wall" in told


def test_folds_are_found_and_limited():
    """Inside a narrow tube a plateau deeper than its radius would turn over."""
    tube = mesh_of(manifold3d.Manifold.cube((40, 40, 30), True) - manifold3d.Manifold.cylinder(40, 3, 3, 90, True))
    decorated = lay(tube, (3, 0, 0), box_art(4, 10), Setting(4.0), lie="wrap")
    assert sound(decorated.mesh)
    assert decorated.fold.corners > 0
    assert decorated.fold.by > 1
    assert any("too tightly" in finding.what for finding in decoration_findings(decorated, ["box"], 0.8, TOLERANCE))


def test_what_runs_into_another_part_is_joined_by_a_boolean():
    cube = manifold3d.Manifold.cube
    clip = mesh_of(cube((60, 40, 10)) + cube((10, 40, 30)) + cube((40, 40, 10)).translate((0, 0, 12)))
    decorated = lay(clip, (35, 20, 10), ring_art(), Setting(3.0), up=(0, 1, 0))
    assert decorated.joined == "boolean"
    assert sound(decorated.mesh)
    notes = decoration_findings(decorated, ["ring"], 0.8, TOLERANCE)
    assert any("exact boolean" in note.what for note in notes)


def test_an_open_model_stays_open_and_is_told():
    whole = cylinder()
    keep = np.abs(whole.corners[..., 2].mean(axis=1) - 60) > 1
    open_skin = TriMesh(whole.vertices, whole.faces[keep])
    decorated = lay(open_skin, (RADIUS, 0, 30), star_art(), Setting(0.6))
    before, after = check_soundness(open_skin, surface_only=True), check_soundness(decorated.mesh, surface_only=True)
    assert decorated.came_with.open_edges > 0
    assert after.self_crossings == before.self_crossings == 0
    assert decorated.added_mm3 > 50
    assert any(finding.measure == "closed" for finding in decoration_findings(decorated, ["star"], 0.8, TOLERANCE))


def test_a_model_that_is_inside_out_is_told_about():
    mesh = cylinder(60)
    decorated = lay(TriMesh(mesh.vertices, mesh.faces[:, ::-1].copy()), (RADIUS, 0, 30), star_art(), Setting(0.6))
    assert any(finding.measure == "inside_out" for finding in decoration_findings(decorated, ["star"], 0.8, TOLERANCE))


def test_a_sheet_without_thickness_is_raised_as_a_skin():
    sheet = TriMesh(
        np.array([[0, 0, 0], [60, 0, 0], [60, 40, 0], [0, 40, 0]], float), np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    )
    decorated = lay(sheet, (30, 20, 0), box_art(), Setting(0.6), up=(0, 1, 0))
    assert decorated.added_mm3 == pytest.approx(120, rel=1e-3)


def test_over_a_sharp_crease_it_follows_and_is_told():
    decorated = lay(block(), (60, 20, 20), box_art(12, 12), Setting(0.6), up=(0, 1, 0), rim="continue")
    assert sound(decorated.mesh)
    assert decorated.outcomes[0].creased is not None
    assert decorated.outcomes[0].missing < 0.005
    # Equally high on both sides of the crease.
    assert decorated.mesh.vertices.max(axis=0) == pytest.approx([60.6, 40, 20.6], abs=0.01)


def test_larger_than_the_model_it_is_cut_and_told():
    width, share = 300.0, 0.5
    with pytest.raises(BadValueError, match=r"would lie .* where .* was asked"):
        lay(sphere(90), (0, 0, RADIUS), disc_art(width), Setting(0.6))
    decorated = lay(sphere(90), (0, 0, RADIUS), disc_art(width), Setting(0.6), any_size=True)
    assert sound(decorated.mesh)
    assert decorated.outcomes[0].missing > share
    assert any(finding.measure == "beyond_skin" for finding in decoration_findings(decorated, ["disc"], 0.8, TOLERANCE))


def test_off_the_edge_of_an_open_skin_the_rest_is_left_out():
    sheet = TriMesh(
        np.array([[0, 0, 0], [60, 0, 0], [60, 40, 0], [0, 40, 0]], float), np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
    )
    decorated = lay(sheet, (60, 20, 0), box_art(20, 10), Setting(0.6), up=(0, 1, 0))
    assert decorated.outcomes[0].missing == pytest.approx(0.5, abs=0.01)
    assert decorated.outcomes[0].open_edge
    assert decorated.added_mm3 == pytest.approx(60, rel=0.01)


def test_across_a_hole_the_skin_that_is_there_is_moved():
    plate = mesh_of(
        manifold3d.Manifold.cube((60, 40, 4)) - manifold3d.Manifold.cylinder(10, 3, 3, 64).translate((30, 20, -1))
    )
    decorated = lay(plate, (36, 20, 4), box_art(24, 10), Setting(0.6), up=(0, 1, 0), lie="project")
    assert sound(decorated.mesh)
    assert decorated.outcomes[0].missing == pytest.approx(np.pi * 9 / 240, abs=0.02)
