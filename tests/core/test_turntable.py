"""A solid turned once round before the eye."""

import manifold3d
import numpy as np
import pytest

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.proof.turntable import likely_up, turntable

PX = (96, 96)


def box(wide: float, tall: float, deep: float, red_axis: int | None = None) -> TriMesh:
    """A box in mm; its corners on the high side of an axis are red, the others blue."""
    mesh = mesh_of(manifold3d.Manifold.cube((wide, tall, deep)).refine(6))
    if red_axis is None:
        return mesh
    high = mesh.vertices[:, red_axis] > np.ptp(mesh.vertices[:, red_axis]) - 1e-6
    colours = np.where(high[:, np.newaxis], [230, 20, 20, 255], [20, 20, 230, 255]).astype(np.uint8)
    return TriMesh(mesh.vertices, mesh.faces, colours)


def middle_of(picture: np.ndarray) -> np.ndarray:
    """The colour of the middle of a picture."""
    rows, columns = (side // 2 for side in picture.shape[:2])
    return picture[rows - 3 : rows + 3, columns - 3 : columns + 3].reshape(-1, 3).mean(axis=0)


def covered(picture: np.ndarray) -> np.ndarray:
    """Where a coloured thing is seen, and not the gray stage."""
    return np.ptp(picture.astype(int), axis=2) > 60


class TestTurning:
    def test_begins_in_front_and_shows_the_back_halfway(self):
        pictures = list(turntable(box(30, 40, 20, red_axis=2), 4, PX, "y", 0))
        assert len(pictures) == 4
        assert all(picture.shape == (96, 96, 3) for picture in pictures)
        front, behind = middle_of(pictures[0]), middle_of(pictures[2])
        assert front[0] > front[2] + 50
        assert behind[2] > behind[0] + 50

    def test_of_what_stands_looks_along_y(self):
        front = middle_of(next(turntable(box(30, 20, 40, red_axis=1), 4, PX, "z", 0)))
        behind = middle_of(list(turntable(box(30, 20, 40, red_axis=1), 4, PX, "z", 0))[2])
        assert front[2] > front[0] + 50
        assert behind[0] > behind[2] + 50

    def test_keeps_its_size(self):
        seen = [covered(each) for each in turntable(box(30, 40, 4, red_axis=2), 8, PX, "y", 0)]
        tall = [np.flatnonzero(each.any(axis=1)).size for each in seen]
        wide = [np.flatnonzero(each.any(axis=0)).size for each in seen]
        assert max(tall) - min(tall) <= 2
        assert min(wide) < 0.4 * max(wide)

    def test_is_looked_down_on_by_as_much_as_is_said(self):
        level, above = (covered(next(turntable(box(30, 5, 30, red_axis=1), 4, PX, "y", tilt))) for tilt in (0, 60))
        assert above.sum() > 2 * level.sum()
        top = next(turntable(box(30, 5, 30, red_axis=1), 4, PX, "y", 60))
        assert middle_of(top)[0] > middle_of(top)[2] + 50

    def test_keeps_the_lamp_where_it_is(self):
        ball = mesh_of(manifold3d.Manifold.sphere(10, 64))
        pictures = [each.astype(float).mean(axis=2) for each in turntable(ball, 4, PX, "y", 0)]
        for picture in pictures[1:]:
            assert np.abs(picture - pictures[0]).mean() < 2


@pytest.mark.parametrize(("sides", "up"), [((30, 40, 10), "y"), ((30, 10, 40), "z"), ((30, 30, 30), "z")])
def test_what_is_up_is_told_by_the_sides(sides, up):
    assert likely_up(box(*sides)) == up


@pytest.mark.parametrize(
    ("frames", "size", "tilt", "words"),
    [(2, PX, 0, "4 to 720"), (9000, PX, 0, "4 to 720"), (8, (8, 96), 0, "64 to 2048"), (8, PX, 95, "-80 to 80")],
)
def test_what_is_out_of_range_is_refused_before_anything_is_drawn(frames, size, tilt, words):
    with pytest.raises(BadValueError, match=words):
        turntable(box(10, 10, 10), frames, size, "y", tilt)
