"""`nebrel colours`, and few colours of `nebrel make figure`."""

import json
from collections import Counter

import lib3mf
import numpy as np
import pytest
import trimesh
from PIL import Image

KEYS = {
    "tints", "error", "least_error", "patches", "smallest_patch_mm2", "layers", "layers_in_several", "swaps",
    "purged_mm3",
}  # fmt: skip
CLAY, SKY = {"name": "Clay & “loam”", "colour": "#A03020"}, {"name": "Sky", "colour": "#4080d0"}


@pytest.fixture
def ball(tmp_path):
    """A ball whose colours run from red through many tones to blue, as GLB."""
    made = trimesh.creation.icosphere(4, 0.02)
    share = made.vertices[:, 1:2] / 0.04 + 0.5
    made.visual.vertex_colors = np.hstack([255 * (1 - share), 0 * share + 60, 255 * share]).astype(np.uint8)
    made.export(tmp_path / "ball.glb")
    return tmp_path / "ball.glb"


@pytest.fixture
def filaments(tmp_path):
    path = tmp_path / "filaments.json"
    path.write_text(json.dumps([CLAY, SKY, {"name": "Moss", "colour": "#3f6b38"}]), encoding="utf-8")
    return path


def painted(path) -> list[str]:
    """The colours that a file holds, hex."""
    visual = trimesh.load(path, force="mesh", process=False).visual
    visual = visual if visual.kind in ("face", "vertex") else visual.to_color()
    tints = visual.face_colors if visual.kind == "face" else visual.vertex_colors
    return sorted({f"#{bytes(rgb).hex()}" for rgb in np.atleast_2d(tints)[:, :3].tolist()})


def made_of(path) -> dict[str, int]:
    """Names of the materials of a 3MF, and how many triangles are wholly of each, as the consortium's library reads."""
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromFile(str(path))
    assert reader.GetWarningCount() == 0
    groups, bodies = model.GetBaseMaterialGroups(), model.GetMeshObjects()
    assert groups.MoveNext()
    group = groups.GetCurrentBaseMaterialGroup()
    assert bodies.MoveNext()
    whole = Counter(
        own.PropertyIDs[0] if len(set(own.PropertyIDs)) == 1 else None
        for own in bodies.GetCurrentMeshObject().GetAllTriangleProperties()
    )
    named = {group.GetName(at): whole[at] for at in group.GetAllPropertyIDs()}
    assert sum(named.values()) == whole.total()
    return named


@pytest.mark.parametrize("ending", ["glb", "ply", "obj"])
def test_four_colours_are_in_the_file_and_in_the_report(nebrel, ball, tmp_path, ending):
    target = tmp_path / f"few.{ending}"
    code, out, err = nebrel("colours", ball, "-o", target, "--to", "4", "--json")
    assert code == 0, err
    found = json.loads(out)
    assert set(found) == KEYS
    assert len(found["tints"]) == 4
    assert found["smallest_patch_mm2"] >= 1
    assert found["error"] <= 1.05 * found["least_error"]
    assert sum(tint["area_mm2"] for tint in found["tints"]) == pytest.approx(4 * np.pi * 400, rel=0.01)
    assert painted(target) == sorted(tint["colour"] for tint in found["tints"])


def test_own_filaments_are_called_by_their_names(nebrel, ball, filaments, tmp_path):
    target = tmp_path / "few.3mf"
    code, out, _ = nebrel("colours", ball, "-o", target, "--to", f"2:{filaments}", "--up", "y")
    assert code == 0
    assert "Clay & “loam” #a03020" in out
    assert "Sky #4080d0" in out
    assert "Moss" not in out
    assert set(made_of(target)) == {CLAY["name"], "Sky"}
    assert min(made_of(target).values()) > 1000


def test_upright_bands_change_every_layer_and_level_ones_hardly(nebrel, ball, tmp_path):
    swaps = {}
    for up in ("y", "z"):
        _, out, _ = nebrel("colours", ball, "-o", tmp_path / "few.3mf", "--to", "2", "--up", up, "--json")
        swaps[up] = json.loads(out)["swaps"]
    # The bands of this ball lie across Y.
    assert swaps["y"] < 10
    assert 150 < swaps["z"] <= 200


@pytest.mark.parametrize(
    ("given", "sentence"),
    [
        (("--to", "0"), "1 to 16"),
        (("--to", "many"), "a number like 4"),
        (("--to", "absent.json"), "absent.json"),
        (("--smallest", "-1"), "0 or more"),
        (("--layer", "0"), "more than 0"),
        (("--up", "x"), "y or z"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(nebrel, ball, tmp_path, given, sentence):
    code, _, err = nebrel("colours", ball, "-o", tmp_path / "few.3mf", *given)
    assert code == 2
    assert sentence in err


@pytest.mark.parametrize("text", ["no json", "[]", '{"filaments": 3}', '[{"name": "x"}]', '[{"colour": "red"}]'])
def test_files_without_filaments_are_refused(nebrel, ball, tmp_path, text):
    (tmp_path / "bad.json").write_text(text, encoding="utf-8")
    code, _, err = nebrel("colours", ball, "-o", tmp_path / "few.3mf", "--to", tmp_path / "bad.json")
    assert code == 2
    assert "#a03020" in err


def test_formats_and_meshes_without_colours_are_refused(nebrel, ball, tmp_path):
    code, _, err = nebrel("colours", ball, "-o", tmp_path / "few.stl")
    assert code == 2
    assert "keep no colours" in err
    trimesh.creation.box((10, 10, 10)).export(tmp_path / "plain.stl")
    code, _, err = nebrel("colours", tmp_path / "plain.stl", "-o", tmp_path / "few.3mf")
    assert code == 2
    assert "no colours" in err


def test_a_figure_is_made_of_two_filaments(nebrel, filaments, tmp_path):
    x, y = np.meshgrid(np.arange(120), np.arange(120))
    inside = np.hypot(x - 60, y - 60) < 50
    picture = np.zeros((120, 120, 4), dtype=np.uint8)
    picture[inside] = (160, 48, 32, 255)
    picture[inside & (x < 50)] = (64, 128, 208, 255)
    Image.fromarray(picture).save(tmp_path / "disc.png")
    target = tmp_path / "disc.3mf"
    quick = ("--resolution", 64, "--tolerance", 0.3)
    code, out, err = nebrel(
        "make", "figure", tmp_path / "disc.png", "-o", target, "--colours", f"2:{filaments}", *quick, "--json"
    )
    assert code == 0, err
    found = json.loads(out)["colours"]
    assert set(found) == KEYS
    assert {tint["name"] for tint in found["tints"]} == {CLAY["name"], "Sky"}
    assert set(made_of(target)) == {CLAY["name"], "Sky"}


def test_few_colours_stay_as_sharp_when_they_are_made_fewer(nebrel, ball, tmp_path):
    four, two = tmp_path / "four.3mf", tmp_path / "two.3mf"
    nebrel("colours", ball, "-o", four, "--to", "4")
    code, out, err = nebrel("colours", four, "-o", two, "--to", "4", "--json")
    assert code == 0, err
    # Nothing is off from four colours that are there already.
    assert json.loads(out)["error"] == pytest.approx(0, abs=1e-4)
    assert made_of(two) == made_of(four)
