"""Copies, lies, regions and colours of decorations."""

import numpy as np
import pytest
import shapely
from scipy.ndimage import gaussian_filter

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.measure import volume
from nebrel.core.picture import Picture, SourceFacts
from nebrel.core.proof.skin_audit import decoration_findings
from nebrel.core.surface.art import Art, Setting, art_of_picture, art_of_region, laid_on
from nebrel.core.surface.colour import Looks
from nebrel.core.surface.decorate import decorate
from nebrel.core.surface.laying import Decoration
from nebrel.core.surface.outcome import Decorated
from nebrel.core.surface.parameterize.chart import Extent, tangents_at
from nebrel.core.surface.parameterize.follow import follow_skin
from nebrel.core.surface.parameterize.shapes import round_at
from nebrel.core.surface.parameterize.wrap import wrap_round
from nebrel.core.surface.pick import Pick
from nebrel.core.surface.scatter.copies import Copies, copies_of, walk
from nebrel.core.surface.skin.skin import place_on, skin_of
from tests.core.rays import hits_along
from tests.core.skins import (
    RADIUS,
    ROUND,
    TOLERANCE,
    TUBE,
    UP,
    WALL,
    band,
    block,
    box_art,
    cone,
    cylinder,
    disc_art,
    lay,
    ring_art,
    sound,
    sphere,
    star_art,
)  # fmt: skip
from tests.trials import deep_but

FACTS = SourceFacts("made", 0, 0, 16, "gray")


def together(overlap: str) -> Decorated:
    skin = skin_of(block())
    laid = [
        Decoration(
            box_art(20, 10), np.array([x, 20.0, 20.0]), np.array([0.0, 1.0, 0.0]), Setting(depth, overlap=overlap)
        )  # type: ignore[arg-type]
        for x, depth in ((26.0, 1.0), (34.0, 0.4))
    ]
    return decorate(skin, laid, 0.01, 0.8)


@pytest.mark.parametrize(
    ("overlap", "asked"),
    [("highest", 200 + 8 * 10 * 0.4), ("sum", 200 + 80), ("last", 8 * 10 * 1.0 + 200 * 0.4)],
)
def test_where_decorations_meet(overlap, asked):
    decorated = together(overlap)
    assert sound(decorated.mesh)
    assert decorated.added_mm3 == pytest.approx(asked, rel=1e-3)
    assert len(decorated.outcomes) == 2


def test_raised_and_sunk_may_cross():
    skin = skin_of(block())
    laid = [
        Decoration(box_art(20, 10), np.array([x, 20.0, 20.0]), np.array([0.0, 1.0, 0.0]), Setting(depth, turn_deg=turn))
        for x, depth, turn in ((28.0, 0.6, 0), (32.0, -0.8, 33))
    ]
    assert sound(decorate(skin, laid, 0.01, 0.8).mesh)


@pytest.mark.parametrize(
    ("copies", "count"),
    [
        (Copies("row", 4, across=9), 4),
        (Copies("grid", 3, 2, 9, 9), 6),
        (Copies("scatter", 9, across=7, up=16, seed=4), 9),
    ],
)
def test_copies_on_a_cylinder_all_have_the_same_volume(copies, count):
    one = lay(cylinder(), (RADIUS, 0, 30), star_art(6), Setting(0.6))
    many = lay(cylinder(), (RADIUS, 0, 30), star_art(6), Setting(0.6), copies=copies)
    assert sound(many.mesh)
    assert many.outcomes[0].copies == count
    assert many.added_mm3 == pytest.approx(count * one.added_mm3, rel=0.005)


def test_copies_round_a_cone_stand_at_equal_angles():
    decorated = lay(cone(), (33, 0, 31), disc_art(8), Setting(1.0), copies=Copies("ring", 8), lie="wrap")
    assert sound(decorated.mesh)
    out = np.hypot(*decorated.mesh.vertices[:, :2].T) - (29 + 8 / 62 * decorated.mesh.vertices[:, 2])
    high = decorated.mesh.vertices[out > 0.5]
    angles = np.degrees(np.arctan2(high[:, 1], high[:, 0]))
    for turn in range(8):
        near = (angles - 45 * turn + 180) % 360 - 180
        assert np.abs(near[np.abs(near) < 20].mean()) < 0.3


def test_scattered_copies_keep_apart_and_follow_their_seed():
    skin = skin_of(sphere(90))
    place = place_on(skin, np.array([RADIUS, 0, 0]))
    found = [copies_of(skin, place, UP, Copies("scatter", 12, across=6, up=20, seed=seed)) for seed in (1, 1, 2)]
    points = [np.array([copy.place.point for copy in copies]) for copies in found]
    assert np.array_equal(points[0], points[1])
    assert not np.array_equal(points[0], points[2])
    away = np.linalg.norm(points[0][:, np.newaxis] - points[0], axis=2)[~np.eye(12, dtype=bool)]
    assert away.min() > 5.5


def test_a_walk_over_a_sphere_is_a_great_circle():
    skin = skin_of(sphere())
    start = place_on(skin, np.array([RADIUS, 0.0, 0.0]))
    walked = walk(skin, start, tangents_at(start, UP), 3.0, 20.0)
    assert walked is not None
    there = walked[0].point
    assert np.degrees(np.arccos(there @ start.point / RADIUS**2)) == pytest.approx(
        np.degrees(np.hypot(3, 20) / RADIUS), abs=0.15
    )
    assert there[1] / there[2] == pytest.approx(3 / 20, abs=0.01)


def test_a_walk_off_an_open_skin_ends_nowhere():
    skin = skin_of(TriMesh(np.array([[0, 0, 0], [9, 0, 0], [0, 9, 0]], float), np.array([[0, 1, 2]], np.uint32)))
    start = place_on(skin, np.array([2.0, 2.0, 0.0]))
    assert walk(skin, start, tangents_at(start, UP), 50.0, 0.0) is None


@pytest.mark.parametrize(
    ("made", "at", "kind", "size"),
    [
        (cylinder, (RADIUS, 0, 30), "cylinder", RADIUS),
        (cone, (33, 0, 31), "cone", None),
        (sphere, (0, 0, RADIUS), "sphere", RADIUS),
    ],
)
def test_round_skins_are_recognised(made, at, kind, size):
    skin = skin_of(made())
    found = round_at(skin, place_on(skin, np.array(at, float)))
    assert found is not None
    assert found.kind == kind
    if size:
        assert found.radius == pytest.approx(size, rel=2e-4)
    else:
        assert abs(found.slope) == pytest.approx(8 / 62, rel=1e-3)


@pytest.mark.parametrize("made", [block, band])
def test_other_skins_are_not_taken_for_round_ones(made):
    skin = skin_of(made())
    at = np.array([60.0, 20, 10]) if made is block else np.array([ROUND + TUBE, 0, 0])
    assert round_at(skin, place_on(skin, at)) is None
    if made is block:
        with pytest.raises(BadValueError, match="no part of a cylinder, cone or sphere"):
            lay(skin, tuple(at), star_art(), Setting(0.6), lie="wrap")


@pytest.mark.parametrize("made", [cylinder, cone])
def test_what_can_be_unrolled_is_not_stretched(made):
    at = (RADIUS, 0, 30) if made is cylinder else (33, 0, 31)
    for lie in ("follow", "wrap"):
        assert lay(made(), at, star_art(24), Setting(0.6), lie=lie).most_stretch < 0.001  # type: ignore[arg-type]
    straight = lay(made(), at, star_art(24), Setting(0.6), lie="project")
    assert straight.most_stretch > 0.05


def test_projected_along_a_direction_it_keeps_its_shape_seen_that_way():
    """Onto the side of a ball from above: seen from there it is as wide and as high as asked."""
    at = np.array([0.6, 0.0, 0.8]) * RADIUS
    decorated = lay(
        sphere(), tuple(at), box_art(12, 8), Setting(0.5), lie="project", up=(0, 1, 0), along=np.array([0.0, 0, -1])
    )
    assert sound(decorated.mesh)
    high = decorated.mesh.vertices[np.linalg.norm(decorated.mesh.vertices, axis=1) > RADIUS + 0.4]
    # What is raised along the normals of a ball grows with it.
    assert np.ptp(high[:, 0]) == pytest.approx(12 * (1 + 0.5 / RADIUS), abs=0.03)
    assert np.ptp(high[:, 1]) == pytest.approx(8 * (1 + 0.5 / RADIUS), abs=0.03)


def test_lengths_from_the_place_are_true_on_a_small_patch_of_a_sphere():
    skin = skin_of(sphere())
    place = place_on(skin, np.array([RADIUS, 0.0, 0.0]))
    chart = follow_skin(skin, place, tangents_at(place, UP), Extent(6.0))
    corners = skin.mesh.vertices[skin.faces[chart.faces]].reshape(-1, 3)
    true = RADIUS * np.arccos(np.clip(corners @ place.point / RADIUS**2, -1, 1))
    flat = np.linalg.norm(chart.plane.reshape(-1, 2), axis=1)
    assert np.abs(flat - true).max() < 0.03
    # Up is up: what lies higher on the sphere lies higher in the plane.
    assert np.corrcoef(corners[:, 2], chart.plane.reshape(-1, 2)[:, 1])[0, 1] > 0.999


def test_a_wrapped_chart_comes_round():
    skin = skin_of(cylinder())
    place = place_on(skin, np.array([RADIUS, 0.0, 30.0]))
    chart = wrap_round(skin, place, tangents_at(place, UP), Extent(10.0))
    assert chart.period == pytest.approx(2 * np.pi * RADIUS, rel=1e-4)


def test_a_texture_meets_itself_round_a_cylinder():
    """A tile that is not as wide as the way round divides is scaled a little, and no seam is left."""
    tones = np.zeros((40, 40), np.float32)
    tones[10:30, 10:30] = 1
    tones = gaussian_filter(tones, 2)
    art = art_of_picture(Picture(tones, np.ones_like(tones), FACTS), 19, "bright", False)
    decorated = lay(cylinder(120), (RADIUS, 0, 30), art, Setting(0.5, tiled=True), lie="wrap")
    assert sound(decorated.mesh)
    middle = np.abs(decorated.mesh.corners[..., 2].mean(axis=1) - 30) < 20
    out = np.hypot(*decorated.mesh.corners[middle].mean(axis=1)[:, :2].T)
    assert out.max() == pytest.approx(RADIUS + 0.5, abs=0.05)
    steep = np.linalg.norm(
        np.cross(*(decorated.mesh.corners[middle][:, i] - decorated.mesh.corners[middle][:, 0] for i in (1, 2))), axis=1
    )
    assert np.isfinite(steep).all()
    # Opposite the place, where the chart begins and ends, heights are as everywhere.
    angles = np.linspace(0, 2 * np.pi, 720, endpoint=False)
    ways = np.column_stack([np.cos(angles), np.sin(angles), np.zeros(720)])
    heights = 40 - hits_along(decorated.mesh, 40 * ways + 30 * UP, -ways) - RADIUS
    jumps = np.abs(np.diff(np.append(heights, heights[0])))
    assert jumps.max() < 0.12
    assert len(set(np.flatnonzero(jumps > 0.08) // 90)) != 1


@pytest.mark.parametrize("turn", [0.0, 30.0, 71.0, 90.0])
def test_a_turned_texture_meets_itself_too(turn):
    """However it is turned, the way round is a whole number of tiles across and up."""
    tones = gaussian_filter(np.random.default_rng(2).random((40, 60)).astype(np.float32), 3, mode="wrap")
    art = art_of_picture(Picture(tones, np.ones_like(tones), FACTS), 19, "bright", False)
    skin = skin_of(cylinder())
    place = place_on(skin, np.array([RADIUS, 0.0, 30.0]))
    chart = wrap_round(skin, place, tangents_at(place, UP), Extent(60.0))
    field = laid_on(chart, art, Setting(0.5, turn_deg=turn, tiled=True)).field
    assert field is not None
    rows, columns = field.depths.shape
    apart = field.to_grid[:, :2] @ [chart.period, 0.0] / [columns, rows]
    assert np.abs(apart - np.round(apart)).max() < 1e-9
    assert np.abs(apart).max() > 0.5
    # The tile is still nearly as large as asked: 19 mm less its faded strips.
    assert 1 / np.linalg.norm(field.to_grid[:, 0]) == pytest.approx(19 / 59, rel=0.2)


def test_a_texture_says_how_much_of_the_skin_it_covers():
    """Round a cylinder it covers the side and not the ends; kept to a region it is not expected to."""
    tones = gaussian_filter(np.random.default_rng(2).random((40, 60)).astype(np.float32), 3, mode="wrap")
    art = art_of_picture(Picture(tones, np.ones_like(tones), FACTS), 19, "bright", False)
    mesh, setting = cylinder(), Setting(0.3, tiled=True)
    decorated = lay(mesh, (RADIUS, 0, 30), art, setting, lie="wrap")
    side, ends = 2 * np.pi * RADIUS * 60, 2 * np.pi * RADIUS**2
    share = side / (side + ends)
    assert decorated.outcomes[0].covered == pytest.approx(share, rel=1e-3)
    (told,) = [
        each for each in decoration_findings(decorated, ["moss"], 0.8, TOLERANCE) if each.measure == "covered_skin"
    ]
    assert told.severity == "note" and told.value == pytest.approx(100 * share, rel=1e-3) and told.unit == "%"
    assert told.what == "“moss” covers 67% of what is meant."
    picked = lay(
        mesh, (RADIUS, 0, 30), art, setting, lie="wrap", pick=Pick("brush", np.array([[RADIUS, 0.0, 30]]), radius=8.0)
    )
    assert picked.outcomes[0].covered == 1


@pytest.mark.parametrize(
    ("pick", "area"),
    [
        (Pick("faces", np.array([[30.0, 20, 20]]), 30.0), 300.0),
        (Pick("lasso", np.array([[20.0, 1, 20], [60, 1, 20], [60, 39, 20], [20, 39, 20]])), 300.0),
    ],
)
def test_a_picked_region_keeps_the_decoration_in(pick, area):
    """Over the edge of a block, kept to its upper side."""
    decorated = lay(block(), (52.5, 20, 20), box_art(30, 20), Setting(1.0), up=(0, 1, 0), pick=pick)
    assert sound(decorated.mesh)
    assert decorated.mesh.vertices[:, 0].max() <= 60.001
    assert decorated.added_mm3 == pytest.approx(area * 1.5, rel=0.01)


def test_a_brushed_region_keeps_the_decoration_in():
    skin = skin_of(sphere())
    free = lay(skin, (RADIUS, 0, 0), disc_art(18), Setting(0.6))
    painted = lay(
        skin, (RADIUS, 0, 0), disc_art(18), Setting(0.6), pick=Pick("brush", np.array([[RADIUS, 0.0, 0.0]]), radius=4.0)
    )
    assert sound(painted.mesh)
    assert painted.added_mm3 == pytest.approx(free.added_mm3 * 16 / 81, rel=0.12)


def test_nothing_picked_is_refused():
    with pytest.raises(BadValueError, match="No face is picked"):
        lay(block(), (30, 20, 20), box_art(), Setting(1.0), pick=Pick("brush"))


def test_colour_alone_splits_faces_along_the_outline_and_moves_nothing():
    mesh = block()
    art = ring_art(24)
    decorated = lay(mesh, (30, 20, 20), art, Setting(1.0, flat=True), up=(0, 1, 0), looks=Looks((10, 120, 90, 255)))
    assert sound(decorated.mesh)
    assert volume(decorated.mesh) == pytest.approx(volume(mesh), rel=1e-6)
    colours = decorated.mesh.corner_colours
    assert colours is not None
    green = (colours == (10, 120, 90, 255)).all(axis=(1, 2))
    corners = decorated.mesh.corners[green]
    areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
    assert areas.sum() == pytest.approx(art.region.area, rel=1e-4)


def test_walls_belong_to_the_decoration_that_stands_out_there():
    """Two decorations on the same two large faces: the colour of one does not run down the walls of the other."""
    red = (200, 20, 10, 255)
    raised = Decoration(box_art(10, 10), np.array([15.0, 20, 20]), np.array([0.0, 1, 0]), Setting(1.0))
    sunk = Decoration(ring_art(10), np.array([30.0, 20, 20]), np.array([0.0, 1, 0]), Setting(-1.0))
    flat = Decoration(
        ring_art(12), np.array([46.0, 20, 20]), np.array([0.0, 1, 0]), Setting(1.0, flat=True), looks=Looks(red)
    )
    for laid in ([raised, sunk, flat], [flat, sunk, raised]):
        decorated = decorate(skin_of(block()), laid, TOLERANCE, WALL)
        mesh, around = decorated.mesh, decorated.mesh.corners.mean(axis=1)
        assert mesh.corner_colours is not None
        coloured = (mesh.corner_colours == red).all(axis=(1, 2))
        assert (np.hypot(around[coloured, 0] - 46, around[coloured, 1] - 20) < 6).all()
        normals = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
        upright = (np.abs(normals[:, 2]) < 1e-6) & (np.abs(around[:, 2] - 20) < 1) & (around[:, 2] != 20)
        of_raised = upright & (np.abs(around[:, 0] - 15) < 5.01) & (np.abs(around[:, 1] - 20) < 5.01)
        of_sunk = upright & (np.hypot(around[:, 0] - 30, around[:, 1] - 20) < 5.01)
        assert of_raised.sum() >= 8 and of_sunk.sum() > 100
        assert (decorated.of_decoration[of_raised] == 1 + laid.index(raised)).all()
        assert (decorated.of_decoration[of_sunk] == 1 + laid.index(sunk)).all()


def test_a_picture_alone_colours_the_skin():
    ramp = np.broadcast_to(0.5 - 0.5 * np.cos(np.linspace(0, np.pi, 60)), (40, 60)).astype(np.float32)
    colours = np.stack([ramp, 1 - ramp, np.zeros_like(ramp)], axis=2)
    art = art_of_picture(Picture(ramp, np.ones_like(ramp), FACTS), 30, "bright", False)
    decorated = lay(block(), (30, 20, 20), art, Setting(1.0, flat=True), up=(0, 1, 0), looks=Looks(picture=colours))
    mesh = decorated.mesh
    assert mesh.corner_colours is not None
    centres = mesh.corners.mean(axis=1)
    inside = (centres[:, 2] > 19.99) & (np.abs(centres[:, 0] - 30) < 15) & (np.abs(centres[:, 1] - 20) < 10.08)
    asked = 0.5 - 0.5 * np.cos(np.pi * (mesh.corners[inside, :, 0] - 15) / 30)
    assert np.abs(mesh.corner_colours[inside, :, 0] / 255 - asked).max() < 0.02
    assert np.abs(mesh.corner_colours[inside, :, 1] / 255 - (1 - asked)).max() < 0.02
    # Outside, to the very edge, nothing is coloured.
    assert (mesh.corner_colours[~inside] == mesh.corner_colours[~inside][0, 0]).all()


@pytest.mark.parametrize("blank", ["tones", "coverage"])
def test_art_that_would_not_stand_out_is_refused(blank):
    tones = np.zeros((20, 20), np.float32) if blank == "tones" else np.ones((20, 20), np.float32)
    coverage = np.ones((20, 20), np.float32) if blank == "tones" else np.zeros((20, 20), np.float32)
    with pytest.raises(BadValueError, match="nothing that would stand out"):
        art_of_picture(Picture(tones, coverage, FACTS), 20, "bright", False)


def test_a_drawing_without_area_is_refused():
    with pytest.raises(BadValueError, match="encloses no area"):
        art_of_region(shapely.MultiPolygon(), 20)


@pytest.mark.parametrize("seed", deep_but(range(8), [1, 3, 6]))
def test_anywhere_on_an_organic_skin_the_result_is_sound(seed):
    """Random places, sizes and turns on a bumpy sphere."""
    rng = np.random.default_rng(seed)
    mesh = sphere(120)
    way = mesh.vertices / np.linalg.norm(mesh.vertices, axis=1, keepdims=True)
    bumps = 1 + 0.12 * np.sin(5 * way[:, 0] + seed) * np.cos(4 * way[:, 1]) * np.sin(3 * way[:, 2] + 1)
    lumpy = TriMesh(mesh.vertices * bumps[:, np.newaxis], mesh.faces)
    at = rng.normal(size=3)
    at = tuple(at / np.linalg.norm(at) * RADIUS)
    art: Art = star_art(rng.uniform(6, 24))
    decorated = lay(
        lumpy, at, art, Setting(rng.uniform(-0.8, 1.2), turn_deg=rng.uniform(0, 360), mirrored=bool(seed % 2)),
        up=rng.normal(size=3),
    )  # fmt: skip
    assert sound(decorated.mesh)
    asked = (
        art.region.area
        * abs(decorated.added_mm3 - decorated.removed_mm3)
        / max(decorated.added_mm3, decorated.removed_mm3)
    )
    assert asked > 0
