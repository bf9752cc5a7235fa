"""Solids put together: volumes, colours, what only touches, ready parts and their letters."""

import numpy as np
import pytest
import trimesh

from nebrel.core.csg.put_together import PlacedSolid, placed, put_together
from nebrel.core.csg.stands import make_stand
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.distance import nearest_faces
from nebrel.core.proof import check_soundness
from nebrel.core.region.lettering import lettering_runs
from nebrel.piece.ops.compose import font_file

RED, BLUE = (200, 30, 20, 255), (20, 40, 200, 255)


def box(size, at=(0.0, 0.0, 0.0)) -> TriMesh:
    made = trimesh.creation.box(size)
    return TriMesh(np.asarray(made.vertices) + np.array(at), np.asarray(made.faces, dtype=np.uint32))


def volume(mesh: TriMesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


def sound(mesh: TriMesh) -> bool:
    return check_soundness(mesh).sound


def test_a_part_is_set_with_the_middle_of_its_foot_at_a_place():
    made = placed(box((10, 20, 30), at=(100, -7, 3)), (1, 2, 5))
    np.testing.assert_allclose(made.vertices.min(axis=0), [-4, -8, 5])
    np.testing.assert_allclose(made.vertices.max(axis=0), [6, 12, 35])


def test_quarters_of_a_turn_and_sizes_are_exact():
    made = placed(box((10, 20, 30)), (0, 0, 0), (90, 0, 0), 2.0)
    assert made.vertices.max(axis=0).tolist() == [10.0, 30.0, 40.0]
    assert made.vertices.min(axis=0).tolist() == [-10.0, -30.0, 0.0]


def test_joined_and_cut_have_the_volumes_of_sets():
    base, peg = box((20, 20, 10)), box((4, 4, 10), at=(0, 0, 5))
    both = put_together([PlacedSolid(base), PlacedSolid(peg)])
    assert volume(both.mesh) == pytest.approx(4000 + 16 * 5, rel=1e-9)
    bored = put_together([PlacedSolid(base), PlacedSolid(peg, "cut")])
    assert volume(bored.mesh) == pytest.approx(4000 - 16 * 5, rel=1e-9)
    assert sound(both.mesh)
    assert sound(bored.mesh)
    assert both.loose == ()


def test_what_is_kept_apart_lies_beside_and_is_not_cut():
    parts = [
        PlacedSolid(box((4, 4, 4))),
        PlacedSolid(box((2, 2, 9)), "cut"),
        PlacedSolid(box((4, 4, 4), (9, 0, 0)), "apart"),
    ]
    made = put_together(parts)
    assert volume(made.mesh) == pytest.approx(64 - 16 + 64)


def test_what_only_touches_or_floats_is_told():
    parts = [
        PlacedSolid(box((4, 4, 4))),
        PlacedSolid(box((4, 4, 4), (4, 0, 0))),
        PlacedSolid(box((1, 1, 1), (0, 0, 30))),
    ]
    made = put_together(parts)
    assert made.meetings[0, 1] == "touch"
    assert set(made.loose) == {1, 2}


def test_every_face_has_the_colour_of_the_part_that_it_came_from():
    made = put_together(
        [PlacedSolid(box((20, 20, 10)), colour=RED), PlacedSolid(box((4, 4, 10), (0, 0, 6)), colour=BLUE)]
    )
    colours = made.mesh.corner_colours
    assert colours is not None
    middles = made.mesh.corners.mean(axis=1)
    of_peg = middles[:, 2] > 5 + 1e-6
    assert {tuple(each) for each in colours[of_peg][:, 0].tolist()} == {BLUE}
    assert {tuple(each) for each in colours[~of_peg][:, 0].tolist()} == {RED}
    assert put_together([PlacedSolid(box((1, 1, 1)))]).mesh.corner_colours is None


def test_joined_round_parts_are_sound_wherever_they_meet():
    rng = np.random.default_rng(5)
    ball = trimesh.creation.icosphere(subdivisions=3, radius=6.0)
    faces = np.asarray(ball.faces, dtype=np.uint32)
    for _ in range(4):
        places = rng.normal(0, 4, (5, 3))
        parts = [PlacedSolid(TriMesh(np.asarray(ball.vertices) + at, faces)) for at in places]
        assert sound(put_together(parts).mesh)


@pytest.mark.parametrize(
    ("parts", "words"),
    [
        ([], "Nothing is put together yet"),
        ([PlacedSolid(box((1, 1, 1)), "cut")], "nothing is left"),
        ([PlacedSolid(box((1, 1, 1))), PlacedSolid(box((2, 2, 2)), "cut")], "Nothing is left"),
    ],
)
def test_nothing_left_is_refused_in_a_sentence(parts, words):
    with pytest.raises(BadValueError, match=words):
        put_together(parts)


def test_an_open_part_is_refused_by_its_name():
    whole = box((1, 1, 1))
    with pytest.raises(BadMeshError, match="“Bust” is not a closed solid"):
        put_together([PlacedSolid(TriMesh(whole.vertices, whole.faces[1:]), name="Bust")])


def test_the_nearest_face_is_found():
    mesh = box((2, 2, 2))
    above = np.array([[0.1, 0.2, 5.0], [0.3, -0.2, -7.0]])
    normals = np.cross(mesh.corners[:, 1] - mesh.corners[:, 0], mesh.corners[:, 2] - mesh.corners[:, 0])
    assert np.sign(normals[nearest_faces(mesh, above)][:, 2]).tolist() == [1, -1]


@pytest.mark.parametrize("shape", ["plate", "disc", "plinth", "peg", "easel"])
def test_ready_parts_are_sound_and_as_large_as_asked(shape):
    made = make_stand(shape, (40.0, 30.0, 20.0))
    assert sound(made)
    np.testing.assert_allclose(np.ptp(made.vertices, axis=0), [40, 30, 20], atol=2e-3)
    np.testing.assert_allclose(made.vertices.min(axis=0), [-20, -15, 0], atol=2e-3)


def test_a_disc_and_a_plate_have_their_volumes():
    assert volume(make_stand("plate", (40, 30, 5))) == pytest.approx(6000, rel=1e-6)
    assert volume(make_stand("disc", (40, 40, 5))) == pytest.approx(np.pi * 400 * 5, rel=4e-3)


def test_letters_stand_out_of_a_plate_and_of_the_front_of_a_plinth():
    runs = lettering_runs("Fern 12", font_file("bold"), 6.0)
    plate = make_stand("plate", (60, 30, 4), runs, 1.5)
    assert sound(plate)
    assert plate.vertices[:, 2].max() == pytest.approx(5.5)
    plinth = make_stand("plinth", (60, 40, 24), runs, 3.5)
    assert sound(plinth)
    assert plinth.vertices[:, 1].min() < make_stand("plinth", (60, 40, 24)).vertices[:, 1].min() - 0.2


def test_capitals_are_as_tall_as_asked_and_lines_are_centred():
    runs = lettering_runs("HEH", font_file("bold"), 10.0)
    points = np.vstack(runs)
    assert np.ptp(points[:, 1]) == pytest.approx(10.0, rel=0.02)
    np.testing.assert_allclose((points.min(axis=0) + points.max(axis=0)) / 2, 0, atol=1e-9)
    two = np.vstack(lettering_runs("HEH\nI", font_file("bold"), 10.0))
    assert np.ptp(two[:, 1]) == pytest.approx(22.5, rel=0.02)


def test_words_without_letters_are_refused():
    with pytest.raises(BadValueError, match="no letters that can be drawn"):
        lettering_runs("\u4e2d", font_file("bold"), 5.0)


def test_a_stand_of_no_size_is_refused():
    with pytest.raises(BadValueError, match=r"at least 0\.2 mm"):
        make_stand("disc", (40, 40, 0.0))
