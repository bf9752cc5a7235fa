"""What the collapse of edges is made of: order, places, guards, the bound, flat parts."""

import manifold3d
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.jit import compiled, lent
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.fewer.bound import empty_ring, hand_on, samples_of, stays_within
from nebrel.core.mesh.fewer.flats import NO_FLAT, at_rims, flats_of
from nebrel.core.mesh.fewer.guards import keeps_whole, no_marks, turns_over
from nebrel.core.mesh.fewer.levels import fewer_faces, first_level
from nebrel.core.mesh.fewer.net import FREE, ON_BORDER, ON_RIM, TANGLED, Net, net_of
from nebrel.core.mesh.fewer.quadric import best_place, fill_quadrics
from nebrel.core.mesh.fewer.queue import BUCKETS, beside, cheapest, empty_queue, put, take_out
from nebrel.core.mesh.topology import border_halfedges, opposite_halfedges
from nebrel.core.mesh.trouble import border_vertices
from tests.core.skins import sphere


@compiled
def put_all(queue, costs):
    for h in range(len(costs)):
        put(queue, h, costs[h])


@compiled
def take_all(queue, below):
    found = []
    while True:
        h = cheapest(queue, below)
        if h < 0:
            return found
        found.append(h)
        take_out(queue, h)


@compiled
def asked(net, marks, u, v):
    return keeps_whole(net, marks, u, v)


@compiled
def placed(net, u, v):
    return best_place(net, u, v)


@compiled
def folds(net, u, v, place):
    return turns_over(net, u, v, place)


@compiled
def total(record):
    first, (second, number) = lent(record)
    return first.sum() + second.sum() + number


def net(mesh: TriMesh) -> Net:
    """A net with the quadrics of its faces."""
    faces = mesh.faces.astype(np.int64)
    made = net_of(mesh.vertices.copy(), faces, flats_of(mesh), np.zeros(len(mesh.vertices), dtype=bool))
    fill_quadrics(made, np.zeros(3 * len(faces), dtype=bool))
    return made


def box(steps: int = 1) -> TriMesh:
    solid = manifold3d.Manifold.cube((4, 3, 2))
    return mesh_of(solid.refine(steps) if steps > 1 else solid)


def sheet(count: int = 6) -> TriMesh:
    """A flat square of unit cells, open all round."""
    y, x = np.mgrid[0:count, 0:count].astype(float)
    corner = np.arange(count * count).reshape(count, count)
    a, b, c, d = (quad.ravel() for quad in (corner[:-1, :-1], corner[:-1, 1:], corner[1:, 1:], corner[1:, :-1]))
    faces = np.vstack([np.column_stack([a, b, c]), np.column_stack([a, c, d])]).astype(np.uint32)
    return TriMesh(np.column_stack([x.ravel(), y.ravel(), 0 * x.ravel()]), faces)


class TestQueue:
    @settings(deadline=None)
    @given(st.lists(st.floats(1e-30, 1e6), min_size=1, max_size=60))
    def test_gives_the_cheapest_to_within_half_an_octave(self, costs):
        queue = empty_queue(len(costs))
        put_all(queue, np.array(costs))
        order = take_all(queue, BUCKETS)
        assert sorted(order) == list(range(len(costs)))
        dearest = 0.0
        for h in order:
            assert costs[h] >= dearest / 1.51
            dearest = max(dearest, costs[h])

    def test_stops_at_a_bucket_and_takes_no_number_for_the_dearest(self):
        queue = empty_queue(3)
        put_all(queue, np.array([np.nan, 1e-3, np.inf]))
        assert cheapest(queue, 1) == -1
        assert take_all(queue, BUCKETS)[0] == 1
        assert cheapest(queue, BUCKETS) == -1

    def test_two_over_the_same_edges_keep_apart(self):
        one = empty_queue(4)
        other = beside(one)
        put(one, 0, 1.0)
        put(other, 1, 1.0)
        assert (cheapest(one, BUCKETS), cheapest(other, BUCKETS)) == (0, 1)
        take_out(one, 0)
        assert (cheapest(one, BUCKETS), cheapest(other, BUCKETS)) == (-1, 1)


class TestPlaces:
    def test_two_places_on_a_ridge_meet_on_it(self):
        """Where two planes meet, the cost is nothing all along the line."""
        mesh = sheet()
        bent = TriMesh(mesh.vertices + np.abs(mesh.vertices[:, [0]] - 2) * [0, 0, -1], mesh.faces)
        made = net(bent)
        u, v = (int(np.flatnonzero((mesh.vertices == [2, y, 0]).all(axis=1))[0]) for y in (2, 3))
        made.kinds[:] = FREE
        place, cost = placed(made, u, v)
        assert place == pytest.approx((2, 2.5, 0), abs=1e-6)
        assert cost < 1e-9

    def test_a_corner_is_found_again(self):
        """Beside the corner of a box the three planes leave no choice."""
        mesh = box(4)
        made = net(mesh)
        made.kinds[:] = FREE
        at = int(np.flatnonzero((mesh.vertices == [0, 0, 0]).all(axis=1))[0])
        faces = mesh.faces[(mesh.faces == at).any(axis=1)]
        for beside_it in set(faces.ravel().tolist()) - {at}:
            place, cost = placed(made, at, beside_it)
            assert place == pytest.approx((0, 0, 0), abs=1e-6)
            assert 0 < cost < 1e-9

    def test_borders_and_rims_keep_places_of_theirs(self):
        made = net(sheet())
        assert made.kinds[0] == ON_BORDER
        assert made.kinds[7] == FREE
        place, _ = placed(made, 0, 7)
        assert place == (0.0, 0.0, 0.0)


class TestGuards:
    def test_a_tetrahedron_does_not_collapse(self):
        made = net(mesh_of(manifold3d.Manifold.tetrahedron()))
        marks = no_marks(4)
        assert not any(asked(made, marks, u, v) for u in range(4) for v in range(4) if u != v)

    def test_a_tunnel_is_not_closed(self):
        """Round a hole of three sides every edge of its rim has a neighbour beyond."""
        frame = manifold3d.Manifold.cylinder(2, 5, 5, 3) - manifold3d.Manifold.cylinder(6, 2, 2, 3).translate(
            (0, 0, -2)
        )
        mesh = mesh_of(frame)
        level, _ = first_level(mesh, bounded=False, lines=np.zeros(3 * len(mesh.faces), dtype=bool))
        lighter, _ = fewer_faces(level, 4, 0.0)
        edges = 3 * len(lighter.faces) // 2
        assert len(lighter.places) - edges + len(lighter.faces) == 0

    def test_opposite_borders_do_not_meet(self):
        """A strip one cell wide would become a line."""
        strip = sheet(2)
        made = net(strip)
        diagonal = (0, 3)
        assert not asked(made, no_marks(4), *diagonal)

    def test_a_face_that_would_turn_over_is_seen(self):
        made = net(sheet())
        assert folds(made, 14, 15, (9.0, 2.0, 0.0))
        assert not folds(made, 14, 15, (2.4, 2.2, 0.0))

    def test_what_is_flat_is_not_left(self):
        made = net(sheet())
        assert (made.flats == 0).all()
        assert folds(made, 14, 15, (2.5, 2.2, 0.01))
        made.flats[:] = NO_FLAT
        assert not folds(made, 14, 15, (2.5, 2.2, 0.01))


class TestBound:
    def test_a_bump_may_go_only_within_it(self):
        """The top of a bump of 0.2 on a flat sheet."""
        mesh = sheet()
        mesh.vertices[14, 2] = 0.2
        made, samples = net(mesh), samples_of(mesh)
        ring = empty_ring(samples)
        assert not stays_within(made, samples, ring, 14, 15, (3.0, 2.0, 0.0), 0.15**2)
        assert stays_within(made, samples, ring, 14, 15, (3.0, 2.0, 0.0), 0.25**2)
        assert ring.counts[0] > 0
        hand_on(samples, ring)
        held = []
        for face in ring.faces[: ring.counts[0]]:
            k = samples.heads[face]
            while k >= 0:
                held.append(k)
                k = samples.after[k]
        assert sorted(held) == sorted(ring.moved[: ring.counts[1]].tolist())
        assert len(set(held)) == len(held)

    def test_every_sample_is_with_a_face_that_it_lies_on(self):
        mesh = sphere(60)
        samples = samples_of(mesh)
        for face in range(0, len(mesh.faces), 7):
            a, b, c = mesh.vertices[mesh.faces[face]]
            normal = np.cross(b - a, c - a)
            k = samples.heads[face]
            while k >= 0:
                assert abs((samples.places[k] - a) @ normal) < 1e-9 * (normal @ normal)
                k = samples.after[k]


class TestFlats:
    def test_sides_of_a_box_are_parts_of_their_own(self):
        mesh = box(5)
        parts = flats_of(mesh)
        assert set(parts.tolist()) == set(range(6))
        rims = at_rims(mesh.faces.astype(np.int64), parts, len(mesh.vertices))
        on_edges = (np.isin(mesh.vertices, [0]) | np.isclose(mesh.vertices, [4, 3, 2])).sum(axis=1) >= 2
        assert (rims == on_edges).all()
        assert (net(mesh).kinds == np.where(on_edges, ON_RIM, FREE)).all()

    def test_a_ball_has_none(self):
        assert (flats_of(sphere(120)) == NO_FLAT).all()


class TestNet:
    def test_borders_are_edges_of_one_face(self):
        mesh = sheet()
        faces = mesh.faces.astype(np.int64)
        opposite, _ = opposite_halfedges(faces, len(mesh.vertices))
        assert len(border_halfedges(faces, opposite, len(mesh.vertices))) == 20
        inner = (mesh.vertices[:, :2] > 0).all(axis=1) & (mesh.vertices[:, :2] < 5).all(axis=1)
        assert (border_vertices(mesh) == ~inner).all()

    def test_three_sheets_at_an_edge_are_tangled(self):
        mesh = sheet()
        third = TriMesh(
            np.vstack([mesh.vertices, [2.5, 2.5, 3]]), np.vstack([mesh.faces, [14, 15, 36]]).astype(np.uint32)
        )
        kinds = net(third).kinds
        assert kinds[14] == TANGLED
        assert kinds[15] == TANGLED
        assert kinds[36] == ON_BORDER
        assert kinds[7] == FREE

    def test_arrays_that_are_lent_are_those_that_were_given(self):
        assert total((np.arange(4.0), (np.ones(3), 2.5))) == 6 + 3 + 2.5
