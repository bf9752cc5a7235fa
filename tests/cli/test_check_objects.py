"""`nebrel check` on files of several objects: each is judged by itself, and whether they keep apart."""

import io
import json

import manifold3d
import numpy as np
import pytest

from nebrel.core.mesh import TriMesh
from nebrel.core.mesh.formats import write_mesh
from nebrel.core.mesh.shells import together
from tests.core.skins import mesh_of


def cube(at=(0.0, 0.0, 0.0), side=10.0) -> TriMesh:
    return mesh_of(manifold3d.Manifold.cube((side, side, side)).translate(at))


@pytest.fixture
def checked(nebrel, tmp_path):
    """Checks a 3MF of named objects: exit code and report."""

    def check(*objects: tuple[str, TriMesh]) -> tuple[int, dict]:
        ends = np.cumsum([0, *(len(mesh.faces) for _, mesh in objects)])
        named = [(name, np.arange(ends[at], ends[at + 1])) for at, (name, _) in enumerate(objects)]
        file, path = io.BytesIO(), tmp_path / "objects.3mf"
        write_mesh(together([mesh for _, mesh in objects]), file, "3mf", objects=named)
        path.write_bytes(file.getvalue())
        code, out, _ = nebrel("check", path, "--json")
        return code, json.loads(out)

    return check


def test_bodies_that_touch_are_each_sound(checked):
    code, report = checked(("Left", cube()), ("Right", cube((10, 0, 0))), ("On top", cube((5, 0, 10))))
    assert code == 0
    assert [(each["name"], each["sound"], each["volume_mm3"]) for each in report["objects"]] == [
        ("Left", True, 1000), ("Right", True, 1000), ("On top", True, 1000),
    ]  # fmt: skip
    assert report["volume_mm3"] == pytest.approx(3000)
    assert (report["closed"], report["manifold"], report["shells"]) == (True, True, 3)
    assert "Each of its 3 objects is sound" in report["findings"][0]["what"]
    assert len(report["findings"]) == 1


@pytest.mark.parametrize(
    ("at", "shared_mm3"), [((8, 2, 2), 2 * 5 * 5), ((2, 2, 2), 5 * 5 * 5)], ids=["partly", "wholly"]
)
def test_bodies_in_the_same_room_are_told(checked, at, shared_mm3):
    code, report = checked(("Left", cube()), ("Inside", cube(at, 5)))
    assert code == 1
    (shared,) = [each for each in report["findings"] if each["measure"] == "objects_share"]
    assert shared["value"] == pytest.approx(shared_mm3)
    assert shared["severity"] == "fault"
    assert "“Left” and “Inside”" in shared["what"]
    assert [each["sound"] for each in report["objects"]] == [True, True]


def test_a_faulty_object_is_named(checked):
    whole = cube((10, 0, 0))
    code, report = checked(("Whole", cube()), ("Open", TriMesh(whole.vertices, whole.faces[1:])))
    assert code == 1
    assert [each["sound"] for each in report["objects"]] == [True, False]
    assert report["closed"] is False
    assert all(each["what"].startswith("“Open”: ") for each in report["findings"])


def test_one_object_is_told_as_before(checked, nebrel, tmp_path):
    code, report = checked(("Alone", cube()))
    assert (code, report["objects"], report["shells"]) == (0, [], 1)
    path = tmp_path / "two.stl"
    with path.open("wb") as file:
        write_mesh(together([cube(), cube((10, 0, 0))]), file, "stl")
    code, out, _ = nebrel("check", path, "--json")
    assert code == 1
    assert json.loads(out)["objects"] == []
