"""Decorations lie as large as they were asked to, on the coarsest and on fine meshes; where they cannot, it is said."""

import manifold3d
import numpy as np
import pytest
import shapely

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.surface.art import Setting
from nebrel.core.surface.parameterize.chart import Extent, tangents_at
from nebrel.core.surface.parameterize.follow import follow_skin
from nebrel.core.surface.parameterize.lengths import followed
from nebrel.core.surface.parameterize.shapes import round_at
from nebrel.core.surface.skin.divide import divided
from nebrel.core.surface.skin.skin import place_on, skin_of
from tests.core.skins import TOLERANCE, UP, block, box_art, lay, mesh_of, sound, sphere

R, HIGH, DEPTH = 20.0, 15.0, 0.5


def turned(profile: list[tuple[float, float]], sides: int) -> TriMesh:
    """What a lathe makes of a profile of radii and heights, closed at the axis."""
    section = manifold3d.CrossSection([np.array([*profile])])
    return mesh_of(manifold3d.Manifold.revolve(section, sides))


def capsule(sides: int, rings: int) -> TriMesh:
    angles = np.linspace(-np.pi / 2, np.pi / 2, rings)
    ball = [(R * np.cos(angle), R * np.sin(angle) + np.copysign(30, angle)) for angle in angles]
    return turned([(0.0, -50.0), *ball[1:-1], (0.0, 50.0)], sides)


def tube(radius: float, sides: int) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cylinder(60, radius, radius, sides))


def cone(top: float, sides: int) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cylinder(40, R, top, sides))


SHAPES = {
    "twelve long faces": (lambda: tube(R, 12), R, (R, 0, 30)),
    "256 long faces": (lambda: tube(R, 256), R, (R, 0, 30)),
    "cone of 16 sides": (lambda: cone(5, 16), 12.5, (12.5, 0, 20)),
    "cone of 120 sides": (lambda: cone(5, 120), 12.5, (12.5, 0, 20)),
    "pointed cone": (lambda: cone(0, 48), 10.0, (10, 0, 20)),
    "coarse capsule": (lambda: capsule(16, 10), R, (R, 0, 0)),
}


@pytest.mark.parametrize("share", [0.1, pytest.param(0.5, marks=pytest.mark.deep), 0.9])
@pytest.mark.parametrize("lie", ["follow", "wrap"])
@pytest.mark.parametrize("name", SHAPES)
def test_what_can_be_unrolled_keeps_its_size(name, lie, share):
    """From a tenth of the way round to nearly all of it."""
    made, radius, at = SHAPES[name]
    wide = share * 2 * np.pi * radius
    high = min(HIGH, wide)
    decorated = lay(made(), at, box_art(wide, high), Setting(DEPTH), lie=lie)
    assert sound(decorated.mesh)
    layout = decorated.outcomes[0].layout
    assert layout.laid_mm == pytest.approx((wide, high), rel=1e-3)
    assert layout.area == pytest.approx(1, abs=5e-3)
    assert decorated.deviation.max < 0.02
    assert layout.missing < 1e-3 and layout.twice < 1e-3
    assert not [each for each in decoration_findings(decorated, ["bar"], 0.8, TOLERANCE) if each.measure == "layout"]


@pytest.mark.parametrize("share", [0.5, 0.55])
def test_round_narrow_faces_that_were_divided_nothing_is_taken_back(share):
    """Corners within a face go with those at its ends, so none of its parts turns over."""
    decorated = lay(cone(5, 120), (12.5, 0, 20), box_art(share * 2 * np.pi * 12.5, 8), Setting(DEPTH), lie="wrap")
    assert decorated.fold.corners == 0
    assert decorated.deviation.max < 2e-3


def test_walls_over_ridges_that_part_are_as_straight_as_they_are_drawn():
    """On few wide faces the feet of a wall go different ways; two triangles from ridge to ridge were off by 0.023."""
    mesh = cone(5, 16)
    decorated = lay(mesh, (12.5, 0, 20), box_art(0.98 * 2 * np.pi * 12.5, 8), Setting(DEPTH))
    assert decorated.deviation.max < TOLERANCE
    assert sound(decorated.mesh)


@pytest.mark.parametrize(("wide", "lie"), [(100.0, "follow"), (80.0, "follow"), (100.0, "wrap")])
def test_a_wide_bar_round_long_faces_is_a_band_of_its_height(wide, lie):
    """Told by the finished mesh alone: what stands out, between which heights and angles."""
    decorated = lay(tube(R, 256), (R, 0, 30), box_art(wide, 25), Setting(0.6), lie=lie)
    out = decorated.mesh.vertices[np.hypot(*decorated.mesh.vertices[:, :2].T) > R + 0.5]
    assert (out[:, 2].min(), out[:, 2].max()) == pytest.approx((17.5, 42.5), abs=0.01)
    angles = np.arctan2(out[:, 1], out[:, 0])
    assert R * np.ptp(angles) == pytest.approx(wide, rel=2e-3)
    grown = wide * 25 * 0.6 * (1 + 0.3 / R)
    assert volume(decorated.mesh) - volume(tube(R, 256)) == pytest.approx(grown, rel=3e-3)


@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_round_a_ball_both_middles_are_as_long_as_asked(share):
    wide = share * 2 * np.pi * 30
    layout = lay(sphere(60), (30, 0, 0), box_art(wide, HIGH), Setting(DEPTH), lie="wrap").outcomes[0].layout
    assert layout.laid_mm == pytest.approx((wide, HIGH), rel=1e-3)
    # Above and below its middle a ball is narrower, and so is what goes round it.
    assert layout.area == pytest.approx(np.sin(HIGH / 60) / (HIGH / 60), abs=5e-3)


def test_too_far_from_as_asked_it_is_refused_unless_that_is_allowed():
    art = box_art(100, 15)
    with pytest.raises(BadValueError, match=r"would lie 100\.0 × 15\.0 mm .* of the area"):
        lay(sphere(60), (30, 0, 0), art, Setting(DEPTH))
    decorated = lay(sphere(60), (30, 0, 0), art, Setting(DEPTH), any_size=True)
    found = [each for each in decoration_findings(decorated, ["bar"], 0.8, TOLERANCE) if each.measure == "layout"]
    assert len(found) == 1 and "where 100.0 × 15.0 mm was asked" in found[0].what


@pytest.mark.parametrize(("rim", "missing", "highest"), [("clip", 1 / 6, 60.0), ("continue", 0.0, 60.6)])
def test_at_a_sharp_edge_it_ends_or_goes_on(rim, missing, highest):
    decorated = lay(block(), (56, 20, 20), box_art(12, 12), Setting(0.6), up=(0, 1, 0), rim=rim)
    assert sound(decorated.mesh)
    outcome = decorated.outcomes[0]
    assert outcome.missing == pytest.approx(missing, abs=0.005)
    assert outcome.rim == (rim == "clip")
    assert decorated.mesh.vertices[:, 0].max() == pytest.approx(highest, abs=0.01)
    told = {each.measure for each in decoration_findings(decorated, ["bar"], 0.8, TOLERANCE)}
    assert ("beyond_skin" in told) == (rim == "clip")


@pytest.mark.parametrize("rim", ["clip", "continue"])
def test_a_hole_is_left_out_and_all_round_it_lies_where_it_should(rim):
    """Going on down the walls of a hole would lie over itself, so that it ends there too."""
    plate = mesh_of(
        manifold3d.Manifold.cube((80, 60, 6))
        - manifold3d.Manifold.cylinder(20, 5, 5, 48).translate((30, 30, -5))
        - manifold3d.Manifold.cylinder(20, 4, 4, 48).translate((52, 30, -5))
    )
    decorated = lay(plate, (40, 30, 6), box_art(50, 20), Setting(0.5), up=(0, 1, 0), rim=rim)
    assert sound(decorated.mesh)
    found = {each.measure: each for each in decoration_findings(decorated, ["bar"], 0.8, TOLERANCE)}
    assert ("go on round the edge" in found["beyond_skin"].why) == (rim == "clip")
    holes = sum(
        shapely.Polygon([(r * np.cos(a), r * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 49)[:-1]]).area
        for r in (5, 4)
    )
    assert decorated.outcomes[0].missing == pytest.approx(holes / 1000, abs=0.005)
    assert decorated.added_mm3 == pytest.approx(0.5 * (1000 - holes), rel=2e-3)
    assert decorated.outcomes[0].layout.laid_mm == pytest.approx((50, 20), rel=1e-6)


def test_grains_of_a_rough_skin_are_no_rims():
    """Single faces that stand up steeply from a rough sheet belong to it."""
    rng = np.random.default_rng(3)
    solid = manifold3d.Manifold.cube((60, 40, 10)).refine(24)
    mesh = mesh_of(solid)
    top = mesh.vertices[:, 2] > 9.99
    inside = top & (np.abs(mesh.vertices[:, 0] - 30) < 28) & (np.abs(mesh.vertices[:, 1] - 20) < 18)
    rough = mesh.vertices.copy()
    rough[inside, 2] += rng.choice([0.0, 2.5], inside.sum(), p=[0.97, 0.03])
    decorated = lay(
        TriMesh(rough, mesh.faces), (30, 20, 10), box_art(20, 10), Setting(0.3), up=(0, 1, 0), any_size=True
    )
    assert decorated.outcomes[0].missing < 0.01


def test_a_line_of_a_chart_is_as_long_as_the_skin_under_it():
    skin = skin_of(tube(R, 12))
    place = place_on(skin, np.array([R, 0.0, 30.0]))
    chart = follow_skin(skin, place, tangents_at(place, UP), Extent(40.0, 50.0, 10.0))
    side = 2 * R * np.sin(np.pi / 12)
    found = followed(skin, chart, np.array([-2.5 * side, 1.0]), np.array([2.5 * side, 1.0]))
    assert found.over == pytest.approx(5 * side, rel=1e-6)
    assert found.length == pytest.approx(5 * side, rel=1e-6)


def test_a_narrow_part_of_a_cone_is_no_ball_and_no_cylinder():
    """The corners of two rims lie on a ball as well."""
    skin = skin_of(cone(5, 200))
    place = place_on(skin, np.array([12.5, 0.0, 20.0]))
    chart = follow_skin(skin, place, tangents_at(place, UP), Extent(5.0, 7.0, 7.0))
    assert chart.description.startswith("cone of 20.6")
    assert round_at(skin, place).kind == "cone"


def test_divided_faces_enclose_the_same_and_all_others_stay():
    mesh = cone(0, 32)
    side = np.flatnonzero(np.abs(mesh.corners[:, :, 2]).max(axis=1) > 1)[:8]
    found, part_of = divided(mesh, side, 2.0, UP)
    assert sound(found)
    assert volume(found) == pytest.approx(volume(mesh), rel=1e-9)
    counts = np.bincount(part_of)
    assert counts[side].min() >= 20
    whole = np.flatnonzero(counts == 1)
    where = np.array([np.flatnonzero(part_of == each)[0] for each in whole])
    assert (found.faces[where] == mesh.faces[whole]).all()
    assert len(whole) >= len(mesh.faces) - len(side) - 2


def test_flat_faces_may_be_turned_so_that_far_fewer_come_of_it():
    mesh = tube(R, 120)
    every = np.arange(len(mesh.faces))
    (many, _), (few, part_of) = divided(mesh, every, 2.0), divided(mesh, every, 2.0, turning=True)
    assert len(few.faces) < 0.5 * len(many.faces)
    assert volume(few) == pytest.approx(volume(mesh), rel=1e-9)
    assert sound(few)
    assert set(part_of.tolist()) <= set(every.tolist())
    sides = few.corners - np.roll(few.corners, 1, axis=1)
    assert np.linalg.norm(sides, axis=2).max() <= 2.0


def test_colours_are_kept_where_faces_are_divided():
    mesh = cone(0, 16)
    tints = np.zeros((len(mesh.vertices), 4), np.uint8)
    tints[:, 0] = np.where(mesh.vertices[:, 2] > 1, 200, 0)
    coloured = TriMesh(mesh.vertices, mesh.faces, tints)
    found, _ = divided(coloured, np.arange(len(mesh.faces)), 5.0)
    along = found.vertices[:, 2] / 40
    assert np.abs(found.colours[:, 0] - 200 * along).max() <= 2
