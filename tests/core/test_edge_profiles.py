"""Edges that rise from the foot of outlines, against what they are by formula; ropes; decorations that end so."""

import math

import numpy as np
import pytest
import trimesh
from shapely.geometry import MultiPolygon, Point, box

from nebrel.cli.spellings import edge_profile_of
from nebrel.core.errors import BadValueError
from nebrel.core.height.from_edge import ROPE_FURROW, ROPE_LAY, EdgeRule, edge_heights, rope
from nebrel.core.outline_solid.raised import RaisedBody, raised_outline
from nebrel.core.picture import Picture
from nebrel.core.picture.picture import SourceFacts
from nebrel.core.proof import check_soundness
from nebrel.core.surface.art import Art, Edge, _share


def region(*parts) -> MultiPolygon:
    return MultiPolygon(parts)


def volume(mesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


def raised(over: MultiPolygon, edge: str, reach: float, height: float):
    made = raised_outline([(over, height)], RaisedBody(edge=edge, edge_size=reach))
    assert check_soundness(made).sound
    return made


def test_a_roof_over_a_square_is_a_pyramid():
    made = raised(region(box(0, 0, 20, 20)), "roof", 10.0, 6.0)
    assert made.vertices[:, 2].max() == pytest.approx(6.0, abs=2e-3)
    assert volume(made) == pytest.approx(400 * 6 / 3, rel=1e-3)


def test_a_roof_that_is_wide_enough_has_a_level_top():
    made = raised(region(box(0, 0, 40, 20)), "roof", 4.0, 6.0)
    level = np.abs(made.corners[:, :, 2] - 6).max(axis=1) < 1e-6
    corners = made.corners[level]
    area = np.abs(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2]).sum() / 2
    assert area == pytest.approx(32 * 12, rel=1e-6)


def test_a_dome_over_a_disc_is_half_a_ball():
    made = raised(region(Point(0, 0).buffer(10, quad_segs=90)), "dome", 10.0, 10.0)
    assert volume(made) == pytest.approx(2 / 3 * math.pi * 1000, rel=4e-3)
    on_top = made.vertices[made.vertices[:, 2] > 0.5] - (10, 10, 0)
    assert np.abs(np.linalg.norm(on_top, axis=1) - 10).max() < 0.02


def test_a_cove_over_a_disc_is_what_a_dome_leaves_of_a_cylinder():
    disc = region(Point(0, 0).buffer(10, quad_segs=90))
    made = raised(disc, "cove", 10.0, 4.0)
    radius = np.linspace(0, 10, 20001)
    wanted = np.trapezoid(2 * np.pi * radius * 4 * (1 - np.sqrt(1 - ((10 - radius) / 10) ** 2)), radius)
    assert volume(made) == pytest.approx(wanted, rel=1e-2)


@pytest.mark.parametrize("edge", ["roof", "dome", "cove"])
def test_what_is_narrower_than_the_reach_goes_as_high_as_it_can(edge):
    made = raised(region(box(0, 0, 60, 6), box(20, 6, 26, 40)), edge, 10.0, 8.0)
    share = 3 / 10
    wanted = {"roof": share, "dome": math.sqrt(1 - (1 - share) ** 2), "cove": 1 - math.sqrt(1 - share**2)}[edge]
    highest = made.vertices[:, 2].max()
    # Where both bars meet, the middle lies further from the edge than half of either.
    deeper = 3 * math.sqrt(2) / 10
    most = {"roof": deeper, "dome": math.sqrt(1 - (1 - deeper) ** 2), "cove": 1 - math.sqrt(1 - deeper**2)}[edge]
    assert 8 * wanted - 0.01 <= highest <= 8 * most + 0.01


def test_a_hole_has_its_own_slope():
    ring = region(Point(0, 0).buffer(20, quad_segs=60).difference(Point(0, 0).buffer(10, quad_segs=60)))
    made = raised(ring, "roof", 5.0, 5.0)
    far = np.hypot(*(made.vertices[:, :2] - 20).T)
    top = made.vertices[:, 2] > 4.9
    assert np.abs(far[top] - 15).max() < 0.15


def mask(inside) -> Picture:
    rows, columns = inside.shape
    tones = inside.astype(np.float32)
    return Picture(tones, np.ones_like(tones), SourceFacts("png", columns, rows, 8, "gray"))


Y, X = np.mgrid[0:300, 0:300]
DISC = np.clip(120.5 - np.hypot(X - 149.5, Y - 149.5), 0, 1)


def test_a_rope_lies_along_the_edge_alone_and_turns_a_whole_number_of_times():
    found = rope(DISC.astype(np.float32), 24.0)
    far = 120.0 - np.hypot(X - 149.5, Y - 149.5)
    assert (found[far > 25] == 0).all()
    assert (found[far < -1] == 0).all()
    middle = np.abs(far - 12) < 0.6
    angles = np.arctan2(Y - 149.5, X - 149.5)[middle]
    values = found[middle][np.argsort(angles)]
    assert values.max() > 0.97
    assert values.min() < 0.75
    spectrum = np.abs(
        np.fft.rfft(np.interp(np.linspace(0, 1, 2048, endpoint=False), np.linspace(0, 1, len(values)), values))
    )
    turns = int(spectrum[1:].argmax()) + 1
    assert turns == round(2 * np.pi * (120 - 12) / (ROPE_LAY * 24))


def test_a_rope_is_as_tall_as_the_relief():
    field = edge_heights(mask(DISC), "bright", 60.0, EdgeRule("rope", 2.5, reach=4.0))
    assert field.heights.max() == pytest.approx(2.5, abs=0.05)
    assert field.heights[150, 150] == 0


@pytest.mark.parametrize(
    ("profile", "at_half"), [("bevel", 0.5), ("dome", math.sqrt(0.75)), ("cove", 1 - math.sqrt(0.75)), ("fade", 0.5)]
)
def test_a_decoration_ends_by_its_profile(profile, at_half):
    art = Art(None, region(box(-10, -10, 10, 10)), 20.0, 20.0)
    share = _share(art, (401, 401), 0.05, Edge(profile, 4.0))
    assert share[200, 200] == pytest.approx(1)
    assert share[200, 40] == pytest.approx(at_half, abs=0.01)


def test_a_pillow_over_a_disc_is_half_an_ellipsoid():
    made = raised(region(Point(0, 0).buffer(10, quad_segs=90)), "pillow", 1.0, 6.0)
    assert volume(made) == pytest.approx(2 / 3 * math.pi * 100 * 6, rel=5e-3)
    on_top = made.vertices[made.vertices[:, 2] > 0.5] - (10, 10, 0)
    away = np.hypot(on_top[:, 0], on_top[:, 1])
    assert np.abs(on_top[:, 2] - 6 * np.sqrt(np.maximum(0, 1 - (away / 10) ** 2)))[away < 9.9].max() < 0.03


def test_a_pillow_over_a_long_strip_is_half_an_elliptic_cylinder():
    made = raised(region(box(0, 0, 80, 8)), "pillow", 1.0, 3.0)
    middle = np.abs(made.vertices[:, 0] - 40) < 10
    top = made.vertices[middle & (made.vertices[:, 2] > 0.2)]
    assert len(top) > 50
    assert np.abs(top[:, 2] - 3 * np.sqrt(1 - ((top[:, 1] - 4) / 4) ** 2)).max() < 0.03


def test_a_pillow_stands_highest_where_the_outline_is_widest():
    made = raised(region(Point(0, 0).buffer(8).union(box(0, -1.5, 30, 1.5))), "pillow", 1.0, 5.0)
    tops = made.vertices[:, 2]
    assert tops.max() == pytest.approx(5.0, abs=0.01)
    assert 1.0 < tops[made.vertices[:, 0] > 8 + 20].max() < 2.0


@pytest.mark.deep
def test_a_rope_lies_along_an_outline_and_its_hole():
    ring = region(Point(0, 0).buffer(20, quad_segs=40).difference(Point(0, 0).buffer(10, quad_segs=40)))
    made = raised(ring, "rope", 3.0, 2.0)
    away = np.hypot(*(made.vertices[:, :2] - 20).T)
    assert ((away < 13.01) | (away > 16.98)).all()
    assert check_soundness(made).shells == 2
    assert made.vertices[:, 2].max() == pytest.approx(2.0, abs=0.02)
    crown = made.vertices[np.abs(away - 18.5) < 0.2][:, 2]
    assert crown.min() < 2.0 * (1 - 0.9 * ROPE_FURROW)


@pytest.mark.deep
def test_a_rope_through_a_narrow_place_stays_sound():
    raised(region(box(0, 0, 60, 6).union(box(20, 5, 26, 40))), "rope", 4.0, 3.0)


def test_a_decoration_swells_or_is_a_cord():
    art = Art(None, region(Point(0, 0).buffer(10, quad_segs=60)), 20.0, 20.0)
    pillow = _share(art, (401, 401), 0.05, Edge("pillow"))
    assert pillow[0, 0] == 0
    assert pillow[200, 200] == pytest.approx(1, abs=1e-3)
    assert pillow[200, 100] == pytest.approx(math.sqrt(0.75), abs=0.01)
    rope = _share(art, (401, 401), 0.05, Edge("rope", 4.0))
    assert rope[200, 200] == rope[0, 0] == 0
    assert 1 - ROPE_FURROW - 0.01 <= rope[200, 40] <= 1


@pytest.mark.parametrize("given", ["roof", "dome:", "rope", "pillow:3", "bell:4", "roof:90deg", "roof:0deg"])
def test_a_profile_that_is_none_is_refused(given):
    with pytest.raises(BadValueError, match="--edge-profile"):
        edge_profile_of(given, 5.0)


def test_a_roof_reaches_as_far_as_its_angle_says():
    assert edge_profile_of("roof:45deg", 5.0) == ("roof", pytest.approx(5.0))
    assert edge_profile_of("roof:30deg", 5.0)[1] == pytest.approx(5 * math.sqrt(3))
    assert edge_profile_of("dome:4", 5.0) == ("dome", 4.0)
    assert edge_profile_of("rope:3", 5.0) == ("rope", 3.0)
    assert edge_profile_of("pillow", 5.0) == ("pillow", None)
