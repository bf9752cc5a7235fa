"""Cutting faces into pieces: whatever is drawn, the pieces still cover each face once and know their neighbours."""

import numpy as np
import pytest
import shapely
from hypothesis import example, given, settings
from hypothesis import strategies as st
from shapely.geometry import MultiPolygon

from nebrel.core.errors import BadMeshError
from nebrel.core.mesh import TriMesh
from nebrel.core.surface.art import Art, Edge, Setting, art_of_region, laid_on
from nebrel.core.surface.displace.limits import limit_folds, limit_to_wall
from nebrel.core.surface.parameterize.chart import Chart, Way, doubled_areas, stretches, tangents_at
from nebrel.core.surface.pick import Pick, picked_faces, picked_region
from nebrel.core.surface.placing import Box, place_decoration, snap
from nebrel.core.surface.scatter.copies import Copies
from nebrel.core.surface.skin.patch import all_round, disc_round, smooth_round
from nebrel.core.surface.skin.skin import LONGEST_MITRE, place_on, skin_of
from nebrel.core.surface.subdivide.carving import Carving, Field, Laid, carving_of
from nebrel.core.surface.subdivide.subtriangles import find_piece
from tests.core.skins import RADIUS, UP, block, cylinder, disc_art, sphere, star_art

places = st.floats(-14, 14, allow_nan=False).map(lambda value: round(value, 3))


def sheet(seed: int = 0, side: int = 6) -> TriMesh:
    """A flat sheet of 40 mm with uneven triangles."""
    rng = np.random.default_rng(seed)
    axis = np.linspace(-20, 20, side)
    x, y = np.meshgrid(axis, axis)
    shake = rng.uniform(-2, 2, (side, side, 2))
    shake[[0, -1]] = shake[:, [0, -1]] = 0
    points = np.column_stack([(x + shake[..., 0]).ravel(), (y + shake[..., 1]).ravel(), np.zeros(side * side)])
    at = np.arange(side * side).reshape(side, side)
    a, b, c, d = at[:-1, :-1].ravel(), at[:-1, 1:].ravel(), at[1:, 1:].ravel(), at[1:, :-1].ravel()
    return TriMesh(points, np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.uint32))


def flat_chart(mesh: TriMesh) -> Chart:
    return Chart(np.arange(len(mesh.faces)), mesh.corners[..., :2].copy(), 0.0, 0.0, "sheet")


def is_whole(carving: Carving, mesh: TriMesh) -> None:
    """Pieces are counter-clockwise, cover every face once, and neighbours share their side both ways."""
    count = carving.count
    areas = doubled_areas(carving.pieces.corner_place[:count])
    assert (areas > 0).all()
    corners = mesh.corners[..., :2]
    assert np.bincount(carving.pieces.face_of[:count], areas, len(mesh.faces)) == pytest.approx(
        doubled_areas(corners), rel=1e-9
    )
    corner_vertex, neighbour = carving.pieces.corner_vertex[:count], carving.pieces.neighbour[:count]
    piece, side = np.nonzero(neighbour >= 0)
    other = neighbour[piece, side]
    ends = np.column_stack([corner_vertex[piece, side], corner_vertex[piece, (side + 1) % 3]])
    assert all(
        {a, b} <= set(corners) for (a, b), corners in zip(ends.tolist(), corner_vertex[other].tolist(), strict=True)
    )
    assert (neighbour[other] == piece[:, np.newaxis]).any(axis=1).all()
    # Of every vertex a piece is known.
    used = np.unique(corner_vertex)
    assert (corner_vertex[carving.pieces.piece_at[used]] == used[:, np.newaxis]).any(axis=1).all()


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.lists(st.tuples(places, places), min_size=3, max_size=9), st.integers(0, 5))
def test_any_polygon_can_be_drawn(corners, seed):
    mesh = sheet(seed)
    area = shapely.make_valid(shapely.Polygon(corners))
    polygons = [part for part in getattr(area, "geoms", [area]) if part.geom_type == "Polygon" and part.area > 0.5]
    region = MultiPolygon(polygons[:1])
    carving = carving_of(skin_of(mesh), [flat_chart(mesh)])
    inside = carving.add(Laid(flat_chart(mesh), region, None), 0.01)
    is_whole(carving, mesh)
    assert carving.left_chart == 0
    assert doubled_areas(carving.pieces.corner_place[inside]).sum() / 2 == pytest.approx(
        region.area, abs=0.02 + 1e-3 * region.area
    )


@settings(max_examples=15, deadline=None, derandomize=True)
@given(st.integers(0, 1000), st.floats(0.3, 3.0))
@example(207, 2.5)
@example(207, 2.875)
def test_any_field_is_followed_to_its_tolerance(seed, waves):
    mesh = sheet(seed)
    row, column = np.mgrid[0:61, 0:61] / 60
    depths = (np.sin(6 * waves * column + seed) * np.cos(5 * waves * row)).astype(np.float32)
    to_grid = np.array([[2.0, 0, 30], [0, -2.0, 30]])
    carving = carving_of(skin_of(mesh), [flat_chart(mesh)])
    region = MultiPolygon([shapely.box(-14.9, -14.9, 14.9, 14.9)])
    inside = carving.add(Laid(flat_chart(mesh), region, Field(depths, to_grid, 0.5)), 0.02)
    is_whole(carving, mesh)
    rng = np.random.default_rng(seed)
    columns, rows = rng.integers(3, 57, 200), rng.integers(3, 57, 200)
    for c, r in zip(columns, rows, strict=True):
        x, y = (c - 30) / 2, (30 - r) / 2
        t = find_piece(x, y, 0, carving.pieces.corner_place, carving.count)
        one, two = (
            carving.pieces.corner_place[t, 1] - carving.pieces.corner_place[t, 0],
            carving.pieces.corner_place[t, 2] - carving.pieces.corner_place[t, 0],
        )
        w = np.linalg.solve(np.column_stack([one, two]), np.array([x, y]) - carving.pieces.corner_place[t, 0])
        got = carving.pieces.corner_depth[t] @ [1 - w.sum(), *w]
        assert abs(got - depths[r, c]) < 0.0201
    assert len(inside) > 0


def test_faces_that_nothing_crosses_stay_whole():
    mesh = sheet()
    carving = carving_of(skin_of(mesh), [flat_chart(mesh)])
    carving.add(Laid(flat_chart(mesh), MultiPolygon([shapely.box(-3, -3, 3, 3)]), None), 0.01)
    pieces = np.bincount(carving.pieces.face_of[: carving.count], minlength=len(mesh.faces))
    far = np.abs(mesh.corners[..., :2]).min(axis=(1, 2)) > 8
    assert (pieces[far] == 1).all()


def test_the_owner_of_a_piece_is_what_covers_it_last():
    mesh = sheet()
    carving = carving_of(skin_of(mesh), [flat_chart(mesh)] * 2)
    for shift in (0, 4):
        carving.add(Laid(flat_chart(mesh), MultiPolygon([shapely.box(-6 + shift, -6, 2 + shift, 6)]), None), 0.01)
    areas = doubled_areas(carving.pieces.corner_place[: carving.count]) / 2
    assert areas[carving.owner == 1].sum() == pytest.approx(4 * 12, rel=1e-3)
    assert areas[carving.owner == 2].sum() == pytest.approx(8 * 12, rel=1e-3)


@pytest.mark.parametrize("edge", [Edge(), Edge("bevel", 1.0), Edge("fade", 2.0), Edge("fade", 2.0, "top")])
def test_a_share_of_the_depth_is_left_at_the_edge(edge):
    art = art_of_region(MultiPolygon([shapely.box(0, 0, 10, 6)]), 10)
    mesh = sheet()
    laid = laid_on(flat_chart(mesh), art, Setting(0.5, edge=edge))
    assert laid.field is not None
    assert laid.field.depths.max() == pytest.approx(0.5, abs=1e-6)
    border = laid.field.depths[[0, -1]].max() if edge.side == "around" else laid.field.depths[0].max()
    assert border == pytest.approx(0.5 if edge.profile == "square" else 0.0, abs=0.01)


def test_a_turn_turns_the_region_counter_clockwise():
    art = Art(None, MultiPolygon([shapely.box(0, 0, 5, 1)]), 5, 1)
    laid = laid_on(flat_chart(sheet()), art, Setting(0.5, turn_deg=90))
    assert laid.region is not None
    assert laid.region.bounds == pytest.approx((-1, 0, 0, 5))


def test_a_flat_skin_is_raised_straight_and_a_crease_by_a_mitre():
    skin = skin_of(block())
    assert np.linalg.norm(skin.offset_vectors, axis=1).max() <= LONGEST_MITRE + 1e-9
    carving = carving_of(skin, [Chart(np.arange(12), np.zeros((12, 3, 2)), 0, 0, "")])
    carving.pieces.corner_depth[: carving.count] = 1.0
    _, offset_vectors = carving.positions()
    # Around a corner of a block all three sides move by 1 mm, as far as a mitre may reach.
    assert np.abs(offset_vectors[:8]).min() > 0.85


def test_a_mesh_without_area_has_no_skin():
    with pytest.raises(BadMeshError, match="no skin to decorate"):
        skin_of(TriMesh(np.zeros((3, 3)), np.array([[0, 1, 2]], np.uint32)))


def test_a_disc_never_closes_round_a_cylinder():
    skin = skin_of(cylinder(60))
    place = place_on(skin, np.array([RADIUS, 0, 30]))
    near, far = disc_round(skin, place, 10.0), disc_round(skin, place, 70.0)
    assert near.whole
    assert not far.whole
    edges = np.sort(skin.faces[far.faces][:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    vertices, edge_count = len(np.unique(edges)), len(np.unique(edges, axis=0))
    assert vertices - edge_count + len(far.faces) == 1
    assert len(all_round(skin, place, 70.0).faces) == len(skin.faces)


def test_smooth_faces_end_at_an_edge():
    skin = skin_of(block())
    top = place_on(skin, np.array([30, 20, 20])).face
    assert len(smooth_round(skin, top, 45)) == 2
    assert len(smooth_round(skin, top, 100)) == 12


def test_the_nearest_place_can_be_asked_to_look_one_way():
    skin = skin_of(block(60, 40, 1))
    below = place_on(skin, np.array([30, 20, 0.4]))
    above = place_on(skin, np.array([30, 20, 0.4]), np.array([0, 0, 1]))
    assert (below.point[2], above.point[2]) == (0, 1)
    assert above.normal == pytest.approx([0, 0, 1])


@pytest.mark.parametrize("up", [(0, 0, 1), (0, 1, 0), (1, 0, 0), (3, 0.1, 0)])
def test_directions_at_a_place_are_square_and_right_handed(up):
    place = place_on(skin_of(cylinder(60)), np.array([RADIUS, 0, 30]))
    tangents = tangents_at(place, np.array(up, float))
    matrix = np.column_stack([tangents.right, tangents.up, tangents.out])
    assert matrix.T @ matrix == pytest.approx(np.eye(3), abs=1e-9)
    assert np.linalg.det(matrix) == pytest.approx(1)


def test_stretch_is_told_as_a_share():
    mesh = sheet()
    plane = mesh.corners[..., :2] * [1.1, 1.0]
    assert stretches(skin_of(mesh), np.arange(len(mesh.faces)), plane) == pytest.approx(0.1)
    turned_over = mesh.corners[..., :2] * [-1, 1]
    assert np.isinf(stretches(skin_of(mesh), np.arange(len(mesh.faces)), turned_over)).all()


def test_what_is_painted_and_encircled():
    mesh = sheet()
    skin, chart = skin_of(mesh), flat_chart(mesh)
    painted = picked_region(skin, Pick("brush", np.array([[0.0, 0, 0], [1, 0, 0]]), radius=2.0), chart)
    assert painted is not None
    assert 4 * np.pi < painted.area < 4 * np.pi + 4.1
    ring = np.array([[0.0, 0, 0], [6, 0, 0], [6, 6, 0], [0, 6, 0]])
    encircled = picked_region(skin, Pick("lasso", ring), chart)
    assert encircled is not None
    assert encircled.area == pytest.approx(36)
    assert picked_region(skin, Pick(), chart) is None
    assert picked_faces(skin, Pick()) is None
    assert len(picked_faces(skin_of(block()), Pick("faces", np.array([[30.0, 20, 20]]), 30.0))) == 2


def test_limits_leave_shallow_depths_alone():
    mesh = sphere(60)
    skin = skin_of(mesh)
    carving = carving_of(skin, [Chart(np.arange(len(mesh.faces)), np.zeros((len(mesh.faces), 3, 2)), 0, 0, "")])
    carving.pieces.corner_depth[: carving.count] = -1.0
    assert limit_folds(carving).corners == 0
    assert limit_to_wall(carving, 2.0).corners == 0
    carving.pieces.corner_depth[: carving.count] = -40.0
    assert limit_folds(carving).by > 10


@pytest.mark.parametrize("lie", ["follow", "wrap", "project"])
def test_the_box_under_the_pointer_has_its_size(lie):
    skin = skin_of(cylinder())
    found = place_decoration(skin, np.array([RADIUS, 0, 30]), UP, Box((12.0, 8.0), way=Way(lie)), Copies(), 1, True)
    low, high = np.array(found.handles[0]), np.array(found.handles[2])
    assert high[2] - low[2] == pytest.approx(8, abs=0.05)
    assert np.linalg.norm(high[:2] - low[:2]) == pytest.approx(12, abs=0.2)
    inside = ((found.shares >= 0) & (found.shares <= 1)).all(axis=(1, 2))
    assert found.description
    assert len(found.corners) > inside.sum()


def test_beyond_the_skin_there_is_nothing_to_hold():
    skin = skin_of(sheet())
    found = place_decoration(skin, np.array([19.0, 19, 0]), np.array([0, 1.0, 0]), Box((8.0, 8.0)), Copies(), 1, True)
    assert found.handles[0] is not None
    assert found.handles[2] is None


@pytest.mark.parametrize(
    ("to", "at", "expected"),
    [
        ("face-centre", (10, 5, 20), (30, 20, 20)),
        ("half-height", (60, 5, 3), (60, 5, 10)),
    ],
)
def test_places_snap_on_a_block(to, at, expected):
    assert snap(skin_of(block()), np.array(at, float), UP, to).point == pytest.approx(expected, abs=1e-6)


def test_decorations_at_the_same_place_twice_are_no_trouble():
    mesh = sphere(60)
    skin = skin_of(mesh)
    from nebrel.core.proof import check_soundness
    from nebrel.core.surface.decorate import decorate
    from nebrel.core.surface.laying import Decoration

    same = [Decoration(star_art(14), np.array([RADIUS, 0.0, 0]), UP, Setting(0.5)) for _ in range(2)]
    one, two = decorate(skin, same[:1], 0.01, 0.8), decorate(skin, same, 0.01, 0.8)
    assert check_soundness(two.mesh).sound
    assert two.added_mm3 == pytest.approx(one.added_mm3, rel=1e-3)
    assert disc_art().radius == pytest.approx(9)
