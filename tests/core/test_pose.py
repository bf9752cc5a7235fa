"""How a mesh lies: turned, mirrored, sized and stood up, exactly."""

import numpy as np
import pytest
import trimesh
from numpy.typing import NDArray

from nebrel.core.errors import BadValueError
from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.pose import (
    angle_of,
    flat_sides,
    mirrored,
    scaled,
    sized,
    stand_up,
    turn_about,
    turn_onto,
    turned,
)

DOWN = np.array([0.0, 0.0, -1.0])


def mesh_of(solid: trimesh.Trimesh, at: tuple[float, float, float] = (3, -2, 5)) -> TriMesh:
    return TriMesh(np.asarray(solid.vertices) + at, np.asarray(solid.faces, dtype=np.uint32))


def block(x: float = 10, y: float = 20, z: float = 30) -> TriMesh:
    return mesh_of(trimesh.creation.box((x, y, z)))


def sides(mesh: TriMesh) -> NDArray[np.float64]:
    return np.asarray(np.ptp(mesh.vertices, axis=0))


def volume(mesh: TriMesh) -> float:
    return float(trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).volume)


def bottle() -> TriMesh:
    """A round body with a neck, upright: wide and flat below."""
    profile = np.array([[0, 0], [12, 0], [14, 8], [14, 40], [5, 55], [4, 70], [0, 70]])
    return mesh_of(trimesh.creation.revolve(profile, sections=64))


def test_quarters_of_a_turn_are_exact_and_four_of_them_change_nothing() -> None:
    mesh = block()
    assert sides(turned(mesh, turn_about("x", 90))).tolist() == [10, 30, 20]
    around = mesh
    for _ in range(4):
        around = turned(around, turn_about("y", 90))
    assert np.abs(around.vertices - mesh.vertices).max() <= 1e-14


@pytest.mark.parametrize("axis", ["x", "y", "z"])
def test_a_turn_is_counter_clockwise_seen_from_the_end_of_its_axis(axis) -> None:
    at = "xyz".index(axis)
    first, then = np.roll(np.eye(3), at, axis=1)[1], np.roll(np.eye(3), at, axis=1)[2]
    assert turn_about(axis, 90) @ first == pytest.approx(then)
    assert turn_about(axis, 37) @ turn_about(axis, -37) == pytest.approx(np.eye(3), abs=1e-15)
    assert angle_of(turn_about(axis, 37)) == pytest.approx(37)


@pytest.mark.parametrize("matrix", [turn_about("x", 33), turn_about("z", 90) @ turn_about("y", 12)])
def test_a_turned_mesh_keeps_shape_middle_and_ground(matrix) -> None:
    mesh = bottle()
    there = turned(mesh, matrix)
    assert volume(there) == pytest.approx(volume(mesh), rel=1e-12)
    middle = (mesh.vertices.min(axis=0) + mesh.vertices.max(axis=0)) / 2
    found = (there.vertices.min(axis=0) + there.vertices.max(axis=0)) / 2
    assert found[:2] == pytest.approx(middle[:2], abs=1e-12)
    assert there.vertices[:, 2].min() == pytest.approx(mesh.vertices[:, 2].min(), abs=1e-12)


def test_the_shortest_turn_also_turns_right_round() -> None:
    rng = np.random.default_rng(3)
    for one, other in [*rng.standard_normal((6, 2, 3)), (DOWN, -DOWN), (DOWN, DOWN)]:
        matrix = turn_onto(one, other)
        assert matrix @ (one / np.linalg.norm(one)) == pytest.approx(other / np.linalg.norm(other), abs=1e-12)
        assert np.linalg.det(matrix) == pytest.approx(1)
        assert matrix @ matrix.T == pytest.approx(np.eye(3), abs=1e-12)


def test_a_mirrored_mesh_is_as_large_points_outward_and_is_its_other_self() -> None:
    mesh = bottle()
    other = mirrored(mesh, "x")
    assert volume(other) == pytest.approx(volume(mesh))
    assert sides(other) == pytest.approx(sides(mesh))
    assert np.abs(mirrored(other, "x").vertices - mesh.vertices).max() < 1e-12
    colours = np.arange(len(mesh.faces) * 12, dtype=np.uint64).reshape(-1, 3, 4).astype(np.uint8)
    painted = mirrored(TriMesh(mesh.vertices, mesh.faces, None, colours), "z")
    assert painted.corner_colours is not None
    assert (painted.corner_colours[:, ::-1] == colours).all()


@pytest.mark.parametrize(("axis", "wanted"), [("x", [90, 180, 270]), ("z", [30, 60, 90])])
def test_a_typed_size_is_met_and_the_others_follow(axis, wanted) -> None:
    assert sides(sized(block(), axis, 90)) == pytest.approx(wanted, abs=1e-9)


def test_one_direction_alone_may_be_sized_and_a_factor_taken() -> None:
    assert sides(sized(block(), "y", 5, alone=True)) == pytest.approx([10, 5, 30])
    larger = scaled(block(), [25.4] * 3)
    assert sides(larger) == pytest.approx([254, 508, 762])
    assert larger.vertices[:, 2].min() == pytest.approx(block().vertices[:, 2].min())


def test_flat_sides_of_a_block_are_its_six_the_largest_first() -> None:
    found = flat_sides(block())
    assert [round(side.area, 6) for side in found] == [600, 600, 300, 300, 200, 200]
    assert abs(found[0].outward[0]) == pytest.approx(1)
    assert flat_sides(mesh_of(trimesh.creation.icosphere(4)))[0].area < 0.1


@pytest.mark.parametrize(
    "lies", [turn_about("x", 90), turn_about("y", -90), turn_about("z", 20) @ turn_about("x", 140)]
)
def test_what_lies_is_stood_on_its_flat_base_the_right_way_up(lies) -> None:
    upright = bottle()
    matrix, by = stand_up(turned(upright, lies))
    stood = turned(turned(upright, lies), matrix)
    assert "flat side of 45" in by
    assert sides(stood)[2] == pytest.approx(70, abs=1e-6)
    low = stood.vertices[:, 2] < stood.vertices[:, 2].min() + 1e-6
    assert np.hypot(*np.ptp(stood.vertices[low, :2], axis=0)) > 20


def test_without_a_flat_base_the_longest_direction_goes_upright_the_wider_end_down() -> None:
    egg = trimesh.creation.icosphere(4)
    egg.vertices *= [10, 10, 25]
    egg.vertices[:, :2] *= 1 - 0.4 * (egg.vertices[:, 2:] / 25)
    lying = turned(mesh_of(egg), turn_about("y", 70))
    matrix, by = stand_up(lying)
    stood = turned(lying, matrix)
    assert "wider end down" in by
    assert sides(stood)[2] == pytest.approx(50, abs=0.5)
    up = stood.vertices[:, 2] - stood.vertices[:, 2].min()
    across = stood.vertices[:, :2] - stood.vertices[:, :2].mean(axis=0)
    assert np.hypot(*across[up < 15].T).max() > 1.3 * np.hypot(*across[up > 35].T).max()


@pytest.mark.parametrize(
    ("work", "says"),
    [
        (lambda: sized(block(), "z", 0), "cannot be"),
        (lambda: sized(block(), "z", float("nan")), "cannot be"),
        (lambda: scaled(block(), [1, 0, 1]), "more than 0"),
        (lambda: sized(TriMesh(np.eye(3) * [1, 1, 0], np.array([[0, 1, 2]], np.uint32)), "z", 5), "flat along Z"),
        (lambda: flat_sides(TriMesh(np.eye(3), np.array([[0, 1, 2]], np.uint32))), "with a volume"),
        (lambda: turned(TriMesh(np.eye(3), np.zeros((0, 3), np.uint32)), np.eye(3)), "no faces"),
    ],
)
def test_what_cannot_be_placed_is_refused_in_one_sentence(work, says: str) -> None:
    with pytest.raises(BadValueError, match=says):
        work()
