"""The check finds each fault, and only that."""

import functools

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.crossings import crossing_pairs
from nebrel.core.proof import check_soundness


def measures(mesh: TriMesh) -> set[str]:
    return {finding.measure for finding in check_soundness(mesh).findings if finding.severity == "fault"}


def test_a_box_is_sound_and_measured(box):
    report = check_soundness(box((5, 6, 7), (2, 3, 4)))
    assert report.sound
    assert report.size == (2, 3, 4)
    assert (report.triangles, report.vertices, report.shells) == (12, 8, 1)
    assert report.volume_mm3 == pytest.approx(24)
    assert report.area_mm2 == pytest.approx(2 * (6 + 8 + 12))


def test_far_from_the_origin_the_volume_is_still_right(box):
    assert check_soundness(box((1e5, 1e5, 1e5), (2, 3, 4))).volume_mm3 == pytest.approx(24, rel=1e-9)


def test_a_missing_face_opens_three_edges(box):
    mesh = box()
    open_box = TriMesh(mesh.vertices, mesh.faces[1:])
    report = check_soundness(open_box)
    assert not report.closed
    assert measures(open_box) == {"closed"}
    assert "3 edges" in report.findings[0].what


def test_a_face_turned_inwards(box):
    mesh = box()
    faces = mesh.faces.copy()
    faces[4] = faces[4][::-1]
    assert measures(TriMesh(mesh.vertices, faces)) == {"outward"}


def test_a_whole_box_turned_inwards(box):
    mesh = box()
    turned = TriMesh(mesh.vertices, mesh.faces[:, ::-1])
    assert measures(turned) == {"outward"}
    assert check_soundness(turned).volume_mm3 == pytest.approx(-1)


def test_a_cavity_is_no_fault_but_an_inward_part_beside_is(box, together):
    inner = box((0.25, 0.25, 0.25), (0.5, 0.5, 0.5))
    hollow = TriMesh(inner.vertices, inner.faces[:, ::-1])
    report = check_soundness(together(box(), hollow))
    assert report.sound
    assert report.shells == 2
    assert report.volume_mm3 == pytest.approx(1 - 0.125)
    beside = TriMesh(hollow.vertices + 5, hollow.faces)
    assert measures(together(box(), beside)) == {"outward"}


def test_boxes_that_share_an_edge_or_a_corner_are_not_manifold(box):
    first = box()
    edge = np.vstack([first.vertices, box((1, 1, 0)).vertices])
    faces = np.vstack([first.faces, box().faces + 8]).astype(np.uint32)
    welded, index = np.unique(edge, axis=0, return_inverse=True)
    assert measures(TriMesh(welded, index[faces].astype(np.uint32))) == {"manifold"}
    corner = np.vstack([first.vertices, box((1, 1, 1)).vertices])
    welded, index = np.unique(corner, axis=0, return_inverse=True)
    touching = TriMesh(welded, index[faces].astype(np.uint32))
    report = check_soundness(touching)
    assert measures(touching) == {"manifold"}
    assert report.closed
    assert report.shells == 2


def test_the_volume_of_parts_that_meet_along_a_whole_side_is_theirs_together(box, together):
    low, high = box((5, 6, 7), (2, 3, 4)), box((5, 6, 11), (2, 3, 1))
    assert check_soundness(together(low, high)).volume_mm3 == pytest.approx(2 * 3 * 5)


def test_degenerate_faces_are_counted(box):
    mesh = box()
    flat = np.array([[0, 1, 1], [2, 3, 2]], dtype=np.uint32)
    report = check_soundness(TriMesh(mesh.vertices, np.vstack([mesh.faces, flat])))
    assert report.degenerate_faces == 2
    needle = TriMesh(np.array([[0, 0, 0], [1, 0, 0], [0.5, 1e-10, 0]]), np.array([[0, 1, 2]], dtype=np.uint32))
    assert check_soundness(needle).degenerate_faces == 1
    small = TriMesh(np.array([[0, 0, 0], [1e-4, 0, 0], [0, 1e-4, 0]]), np.array([[0, 1, 2]], dtype=np.uint32))
    assert check_soundness(small).degenerate_faces == 0


@pytest.mark.parametrize(
    ("low", "size", "crosses"),
    [
        ((0.5, 0.5, 0.5), (1, 1, 1), True),
        ((0.3, 0.2, 0.1), (1, 1, 1), True),
        ((0.25, 0.25, 0.5), (0.5, 0.5, 3), True),
        ((0.5, 0.0, 0.0), (1, 1, 1), True),
        ((0.25, 0.25, 0.25), (0.5, 0.5, 0.5), False),
        ((2, 0, 0), (1, 1, 1), False),
        ((1, 1, 1), (1, 1, 1), False),
        ((0.25, 0.25, 1.001), (0.5, 0.5, 1), False),
    ],
)
def test_boxes_through_each_other(box, together, low, size, crosses):
    assert bool(check_soundness(together(box(), box(low, size))).self_crossings) == crosses


@pytest.mark.deep
def test_crossings_agree_with_brute_force_on_random_triangles():
    rng = np.random.default_rng(8)
    for _ in range(30):
        corners = rng.uniform(0, 1, (40, 3, 3))
        mesh = TriMesh(corners.reshape(-1, 3), np.arange(120, dtype=np.uint32).reshape(-1, 3))
        found = {tuple(sorted(pair)) for pair in crossing_pairs(mesh, 2000).tolist()}
        expected = {(i, j) for i in range(40) for j in range(i + 1, 40) if _pierce_each_other(corners[i], corners[j])}
        assert found == expected


def _pierce_each_other(f, g) -> bool:
    return any(
        _pierces(*edge, other)
        for face, other in ((f, g), (g, f))
        for edge in zip(face, np.roll(face, 1, 0), strict=True)
    )


def _pierces(p, q, face) -> bool:
    """Solve p + t (q - p) = a + u (b - a) + v (c - a)."""
    a, b, c = face
    t, u, v = np.linalg.solve(np.column_stack([p - q, b - a, c - a]), p - a)
    return 0 < t < 1 and u > 0 and v > 0 and u + v < 1


def test_a_folded_neighbour_is_a_crossing():
    vertices = np.array([[0, 0, 0], [1, 0, 0], [0.5, 1, 0], [0.5, 0.5, 0]], dtype=float)
    folded = TriMesh(vertices, np.array([[0, 1, 2], [1, 0, 3]], dtype=np.uint32))
    assert len(crossing_pairs(folded)) == 1
    vertices[3, 1] = -0.5
    assert len(crossing_pairs(TriMesh(vertices, folded.faces))) == 0


def test_volume_counts_material_once_wherever_parts_lie(box, together):
    """A ball in a solid, a ball in its cavity, boxes that cross, and one whose corners all lie in the other's plane."""
    inner = box((0.25, 0.25, 0.25), (0.5, 0.5, 0.5))
    within = check_soundness(together(box(), inner))
    assert (within.inner_shells, within.volume_mm3) == (1, pytest.approx(1.0))
    assert not within.sound and {f.measure for f in within.findings if f.severity == "fault"} == {"overlap"}
    cavity, seed = TriMesh(inner.vertices, inner.faces[:, ::-1]), box((0.4, 0.4, 0.4), (0.2, 0.2, 0.2))
    nested = check_soundness(together(together(box(), cavity), seed))
    assert nested.sound and nested.volume_mm3 == pytest.approx(1 - 0.125 + 0.008)
    crossing = check_soundness(together(box(), box((0.5, 0.5, 0.5))))
    assert (crossing.overlapping_shells, crossing.volume_mm3) == (2, pytest.approx(2 - 0.125))
    ball = mesh_of(manifold3d.Manifold.sphere(0.3, 48).translate((1, 0.5, 0.5)))
    through = check_soundness(together(box(), ball))
    assert through.overlapping_shells == 2
    assert through.volume_mm3 == pytest.approx(1 + check_soundness(ball).volume_mm3 / 2, rel=1e-5)


def test_debris_and_parts_in_the_air_are_told(box, together):
    crumbs = together(box((3, 3, 0), (0.005, 0.005, 0.005)), box((2, 2, 0), (0.004, 0.004, 0.004)))
    found = check_soundness(together(box(), crumbs))
    assert found.sound and (found.debris_shells, found.floating_shells) == (2, 0)
    assert "debris" in {each.measure for each in found.findings}
    lifted = check_soundness(together(box(), box((3, 3, 1))))
    assert lifted.sound and (lifted.debris_shells, lifted.floating_shells) == (0, 1)
    assert {each.measure for each in lifted.findings} == {"sound", "floating"}


def test_an_inward_part_in_the_hollow_of_another_is_none_of_its_cavities(box, together):
    """It lies in the other's box, but not in its material."""
    bowl = mesh_of(manifold3d.Manifold.cube((4, 4, 4)) - manifold3d.Manifold.cube((2, 2, 3)).translate((1, 1, 2)))
    inner = box((1.5, 1.5, 2.5), (0.5, 0.5, 0.5))
    found = check_soundness(together(bowl, TriMesh(inner.vertices, inner.faces[:, ::-1])))
    assert not found.outward and not found.sound


def test_faces_that_are_there_twice_are_told(box):
    block = box()
    twice = TriMesh(block.vertices, np.vstack([block.faces, block.faces[:2, [0, 2, 1]]]))
    found = check_soundness(twice)
    assert found.duplicate_faces == 4
    assert "duplicate_faces" in {each.measure for each in found.findings}


@pytest.mark.parametrize(
    ("places", "sizes", "floating", "touching"),
    [
        # A tower of three, a hair between each and the next.
        ([(0, 0, 0), (0.2, 0.2, 1.00001), (0.3, 0.3, 1.50002)], [1, 0.5, 0.2], 0, 3),
        # Two that hold each other, and nothing that holds them.
        ([(0, 0, 0), (3, 0, 5), (3.2, 0.2, 6.00001)], [1, 1, 0.5], 2, 2),
        # Laid across each other: no corner of one lies on the other.
        ([(0, 0.4, 0), (0.4, 0, 0.200001)], [(1, 0.2, 0.2), (0.2, 1, 0.2)], 0, 2),
        # Faces in one plane count as passing through each other; what they carry is held.
        ([(0, 0, 0), (0.2, 0.2, 1)], [1, 0.5], 0, 0),
        # Near, but apart.
        ([(0, 0, 0), (0.2, 0.2, 1.1)], [1, 0.5], 1, 0),
        # Side by side on the ground.
        ([(0, 0, 0), (1.00001, 0, 0), (2.1, 0, 0)], [1, 1, 1], 0, 2),
    ],
)
def test_what_touches_holds_and_what_nothing_holds_floats(box, together, places, sizes, floating, touching):
    sides = [size if isinstance(size, tuple) else (size,) * 3 for size in sizes]
    parts = [box(place, side) for place, side in zip(places, sides, strict=True)]
    found = check_soundness(functools.reduce(together, parts))
    assert (found.floating_shells, found.touching_shells) == (floating, touching)
    assert ("touching" in {each.measure for each in found.findings}) == (touching > 0)


def test_a_part_in_the_mouth_of_a_bowl_floats_unless_it_lies_in_it(together):
    """Its box lies in that of the bowl either way."""
    bowl = mesh_of(manifold3d.Manifold.cube((4, 4, 4)) - manifold3d.Manifold.cube((2, 2, 3)).translate((1, 1, 2)))
    seed = manifold3d.Manifold.sphere(0.5, 32)
    for lifted, floating in ((2.5, 0), (3.0, 1)):
        found = check_soundness(together(bowl, mesh_of(seed.translate((2, 2, lifted)))))
        assert (found.floating_shells, found.touching_shells) == (floating, 2 - 2 * floating)


def test_a_loose_ball_in_a_hollow_lies_on_its_floor_or_floats(together):
    hollow = mesh_of(manifold3d.Manifold.cube((4, 4, 4)) - manifold3d.Manifold.cube((2, 2, 2)).translate((1, 1, 1)))
    ball = manifold3d.Manifold.sphere(0.5, 32)
    for lifted, floating in ((1.5, 0), (2.0, 1)):
        found = check_soundness(together(hollow, mesh_of(ball.translate((2, 2, lifted)))))
        assert found.sound and found.floating_shells == floating
