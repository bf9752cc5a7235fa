"""`nebrel place`."""

import json

import numpy as np
import pytest
import trimesh


@pytest.fixture
def lying(tmp_path):
    """A tapered post that lies along X."""
    solid = trimesh.creation.revolve(np.array([[0, 0], [8, 0], [4, 60], [0, 60]]), sections=48)
    solid.apply_transform(trimesh.transformations.rotation_matrix(np.pi / 2, [0, 1, 0]))
    path = tmp_path / "post.stl"
    solid.export(path)
    return path


def test_a_mesh_is_stood_up_and_sized(nebrel, lying, tmp_path):
    out = tmp_path / "stood.stl"
    code, told, err = nebrel("place", lying, "-o", out, "--stand", "--size", "z:90", "--json")
    assert code == 0, err
    report = json.loads(told)
    assert report["size_mm"][2] == pytest.approx(90, abs=1e-3)
    assert report["closed"]
    stood = trimesh.load(out)
    assert stood.bounds[0] == pytest.approx([0, 0, 0], abs=1e-5)
    low = stood.vertices[:, 2] < 1e-3
    assert np.ptp(stood.vertices[low, 0]) == pytest.approx(24, abs=0.1)


def test_turns_are_made_in_their_order_then_it_is_mirrored(nebrel, lying, tmp_path):
    out = tmp_path / "turned.stl"
    code, told, err = nebrel(
        "place", lying, "-o", out, "--turn", "y:90deg", "--turn", "x:90deg", "--mirror", "y", "--json"
    )
    assert code == 0, err
    assert json.loads(told)["size_mm"] == pytest.approx([16, 60, 16], abs=0.05)
    assert trimesh.load(out).volume == pytest.approx(trimesh.load(lying).volume, rel=1e-4)


def test_it_is_laid_on_a_flat_side_and_says_so(nebrel, lying, tmp_path):
    code, told, err = nebrel("place", lying, "-o", tmp_path / "flat.stl", "--side", 1)
    assert code == 0, err
    assert "On flat side 1 of" in told


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("--turn", "w:90deg"), "an axis and a value like x:90deg"),
        (("--turn", "x:much"), "--turn"),
        (("--size", "90"), "an axis and a value like z:90"),
        (("--size", "z:0"), "cannot be"),
        (("--mirror", "up"), "--mirror"),
        (("--stand", "--side", "2"), "only one"),
    ],
)
def test_what_cannot_be_done_is_refused_in_one_sentence(nebrel, lying, tmp_path, given, says):
    code, _, err = nebrel("place", lying, "-o", tmp_path / "out.stl", *given)
    assert code == 2
    assert says in err
    assert err.count("\n") == 1
