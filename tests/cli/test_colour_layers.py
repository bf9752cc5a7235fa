"""`nebrel make lithophane` with colour layers, and lamps of several colours."""

import io
import json
import re
import zipfile

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh


@pytest.fixture(autouse=True)
def data_dir(tmp_path, monkeypatch):
    """No shelf yet."""
    monkeypatch.setenv("NEBREL_DATA_DIR", str(tmp_path / "shelf"))


@pytest.fixture
def flag(tmp_path):
    """Three stripes of colour, 90 × 60."""
    tones = np.repeat(np.array([(200, 60, 50), (250, 220, 90), (70, 110, 190)], dtype=np.uint8), 20, axis=0)
    path = tmp_path / "flag.png"
    Image.fromarray(np.repeat(tones[:, np.newaxis], 90, axis=1)).save(path)
    return path


@pytest.mark.parametrize("ending", ["3mf", "glb", "obj"])
def test_a_body_is_written_for_every_colour(nebrel, flag, tmp_path, ending):
    target = tmp_path / f"flag.{ending}"
    code, out, err = nebrel(
        "make", "lithophane", flag, "-o", target, "--width", 45, "--colour-layers", 3, "--colour-layer", 0.12, "--json"
    )
    assert code == 0, err or out
    colours = json.loads(out)["lit"]["colours"]
    names = [body["name"] for body in colours["bodies"]]
    assert names == ["White filament", "Cyan", "Magenta", "Yellow"]
    if ending == "3mf":
        model = zipfile.ZipFile(target).read("3D/3dmodel.model").decode()
        assert re.findall(r'<object id="\d+" name="([^"]+)"', model) == names
        assert sorted(re.findall(r'<base name="([^"]+)"', model)) == sorted(names)
    if ending == "obj":
        assert re.findall(r"^o (.+)$", target.read_text(), re.MULTILINE) == names
        assert target.with_suffix(".mtl").is_file()
    across = np.ptp(read_mesh(target.read_bytes(), target.name, "mm").mesh.vertices, axis=0)
    assert sorted(across) == pytest.approx(sorted(json.loads(out)["size_mm"]), rel=1e-4)
    assert "Colour layers" in (tmp_path / "flag-recipe.txt").read_text()


def test_a_table_of_ones_own_names_the_bodies(nebrel, flag, tmp_path):
    table = tmp_path / "tints.csv"
    table.write_text("name,mm,red,green,blue\nBrick,0.2,0.9,0.3,0.25\nBlue glass,0.2,30%,45%,90%\n")
    code, out, _ = nebrel(
        "make", "lithophane", flag, "-o", tmp_path / "flag.3mf", "--width", 45, "--colour-layers", 2, "--colour-table",
        table,
    )  # fmt: skip
    assert code == 0
    assert "body Brick:" in out
    assert "body Blue glass:" in out
    assert "off on average (CIEDE2000)" in out


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("-o", "flag.stl", "--colour-layers", 3), "STL cannot tell one colour's body"),
        (("-o", "flag.3mf", "--colour-layers", 3, "--form", "cylinder"), "--form is cylinder"),
        (("-o", "flag.3mf", "--colour-layers", 30), "30"),
        (("-o", "flag.3mf", "--colour-layers", 3, "--colour-layer", 0), "Height of a colour layer"),
        (("-o", "flag.stl", "--form", "sphere:60", "--hold-between"), "--form is sphere:60"),
        (("-o", "flag.3mf", "--colour-table", "flag.png"), "--colour-layers above 0"),
        (("-o", "flag.3mf", "--colour-layers", 3, "--colour-table", "flag.png"), "not plain text"),
        (("-o", "flag.3mf", "--colour-layers", 3, "--colour-table", "bad.csv"), "Line 1"),
        (("-o", "flag.3mf", "--colour-layers", 3, "--colour-table", "none.csv"), "none.csv"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(nebrel, flag, tmp_path, monkeypatch, options, words):
    monkeypatch.chdir(tmp_path)
    (tmp_path / "bad.csv").write_text("Brick,0.2,red,green,blue,thick\n")
    code, _, err = nebrel("make", "lithophane", flag, *options)
    assert code == 2
    assert words in err
    assert not (tmp_path / "flag.3mf").exists()


def test_lamps_of_several_colours_are_painted_side_by_side(nebrel, tmp_path, flag):
    target = tmp_path / "flag.stl"
    assert nebrel("make", "lithophane", flag, "-o", target, "--width", 45)[0] == 0
    lit = tmp_path / "lit.png"
    code, out, _ = nebrel("light", target, "-o", lit, "--lamp", "1900K, 6500k,#00ff00", "--ambient", 0, "--json")
    assert code == 0
    facts = json.loads(out)
    assert facts["lamps"][2] == "#00ff00"
    picture = np.asarray(Image.open(io.BytesIO(lit.read_bytes()))).astype(float)
    assert facts["width_px"] == picture.shape[1]
    candle, day, green = (part.mean(axis=(0, 1)) for part in np.split(picture, 3, axis=1))
    assert candle[0] > 2 * candle[2]
    assert day[2] > 0.9 * day[0]
    assert green[0] < 1 < green[1]
    assert "would do" in nebrel("light", target, "-o", lit, "--lamp", "hotK")[2]
    assert "K is asked for" in nebrel("light", target, "-o", lit, "--lamp", "100K")[2]
