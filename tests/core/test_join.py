"""Solids put together."""

import numpy as np
import pytest
import trimesh

from nebrel.core.csg.join import join, moved
from nebrel.core.errors import BadMeshError, BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.proof import check_soundness


def box(at: tuple[float, float, float] = (0, 0, 0), side: float = 10) -> TriMesh:
    solid = trimesh.creation.box((side, side, side))
    return TriMesh(np.asarray(solid.vertices) + at, np.asarray(solid.faces, dtype=np.uint32))


def ball(at: tuple[float, float, float], radius: float = 4) -> TriMesh:
    solid = trimesh.creation.icosphere(3, radius)
    return TriMesh(np.asarray(solid.vertices) + at, np.asarray(solid.faces, dtype=np.uint32))


def volume(mesh: TriMesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


def test_solids_that_overlap_become_one() -> None:
    made = join([box(), box((6, 0, 0)), ball((0, 0, 6))])
    assert made.meetings == {(0, 1): "overlap", (0, 2): "overlap", (1, 2): "overlap"}
    assert made.loose == ()
    report = check_soundness(made.mesh)
    assert (report.closed, report.manifold, report.shells) == (True, True, 1)
    assert 1600 < volume(made.mesh) < 1600 + volume(ball((0, 0, 0)))


def test_others_are_cut_away_from_the_first() -> None:
    made = join([box(), ball((0, 0, 5))], "cut")
    assert volume(made.mesh) == pytest.approx(1000 - volume(ball((0, 0, 0))) / 2, rel=0.01)
    assert check_soundness(made.mesh).closed


def test_kept_apart_they_stay_as_they_are() -> None:
    made = join([box(), box((6, 0, 0))], "apart")
    assert len(made.mesh.faces) == 24
    assert volume(made.mesh) == pytest.approx(2000)


def test_parts_that_only_touch_or_float_are_told() -> None:
    made = join([box(), box((10, 0, 0)), box((30, 0, 0)), ball((0, 0, 6))])
    assert made.meetings[0, 1] == "touch"
    assert (0, 2) not in made.meetings
    assert made.loose == (1, 2)


@pytest.mark.parametrize(
    ("one", "other", "meeting"),
    [
        (box(), ball((0, 0, 0), 2), "overlap"),
        (box(), box((9.98, 9.98, 9.98)), "overlap"),
        (box(), box((9.98, 0, 0)), "overlap"),
        (box(), box((10, 3, 2)), "touch"),
        (box(), ball((8.999, 8.999, 0)), "apart"),
        (ball((0, 0, 0), 10), ball((19.9, 0, 0), 10), "overlap"),
    ],
)
def test_how_two_meet_is_what_they_share(one: TriMesh, other: TriMesh, meeting: str) -> None:
    assert join([one, other], "apart").meetings[0, 1] == meeting


def test_what_a_hollow_part_holds_without_touching_does_not_overlap_it() -> None:
    hollow = join([box(), box(side=6)], "cut").mesh
    assert join([hollow, box(side=4)], "apart").meetings[0, 1] == "apart"


def test_colours_are_kept() -> None:
    red = np.tile(np.array([200, 0, 0, 255], np.uint8), (8, 1))
    blue = np.tile(np.array([0, 0, 200, 255], np.uint8), (8, 1))
    one, other = box(), box((6, 0, 0))
    made = join([TriMesh(one.vertices, one.faces, red), TriMesh(other.vertices, other.faces, blue)])
    assert made.mesh.colours is not None
    left = made.mesh.vertices[:, 0] < -4.9
    assert (made.mesh.colours[left] == red[0]).all()
    assert (made.mesh.colours[made.mesh.vertices[:, 0] > 10.9] == blue[0]).all()


@pytest.mark.parametrize(
    ("parts", "how", "error", "says"),
    [
        ([], "join", BadValueError, "0 parts"),
        ([box(), TriMesh(box().vertices, box().faces[:-1])], "join", BadMeshError, "Part 2 is not a closed"),
        ([box(), box(side=20)], "cut", BadValueError, "Nothing is left"),
    ],
)
def test_what_cannot_be_put_together_is_refused(parts, how, error, says: str) -> None:
    with pytest.raises(error, match=says):
        join(parts, how)


def test_a_part_is_moved() -> None:
    assert moved(box(), (1, 2, 3)).vertices.mean(axis=0) == pytest.approx([1, 2, 3])
