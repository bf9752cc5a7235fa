"""`nebrel join` and `nebrel new`."""

import json

import numpy as np
import pytest
import trimesh
from PIL import Image


@pytest.fixture
def two(tmp_path):
    """A plate and a post, both with their corner at the origin."""
    plate, post = trimesh.creation.box((30, 30, 4)), trimesh.creation.box((6, 6, 20))
    paths = []
    for name, solid in (("plate", plate), ("post", post)):
        solid.apply_translation(-solid.bounds[0])
        solid.export(tmp_path / f"{name}.stl")
        paths.append(tmp_path / f"{name}.stl")
    return paths


def test_a_post_set_into_a_plate_is_one_solid(nebrel, two, tmp_path):
    out = tmp_path / "stand.stl"
    code, told, err = nebrel("join", *two, "-o", out, "--at", "2:12,12,3", "--json")
    assert code == 0, err
    report = json.loads(told)
    assert (report["shells"], report["closed"]) == (1, True)
    assert [finding["measure"] for finding in report["findings"]] == ["sound"]
    assert report["size_mm"] == pytest.approx([30, 30, 23])
    assert trimesh.load(out).volume == pytest.approx(3600 + 36 * 19, rel=1e-6)


def test_one_is_cut_away_and_both_are_kept_apart(nebrel, two, tmp_path):
    code, _, err = nebrel("join", *two, "-o", tmp_path / "cut.stl", "--at", "2:12,12,-5", "--cut")
    assert code == 0, err
    assert trimesh.load(tmp_path / "cut.stl").volume == pytest.approx(3600 - 36 * 4, rel=1e-6)
    code, told, err = nebrel("join", *two, "-o", tmp_path / "apart.stl", "--at", "2:50,0,0", "--apart", "--json")
    assert code == 0, err
    assert json.loads(told)["shells"] == 2


def test_parts_that_touch_or_float_are_told(nebrel, two, tmp_path):
    _, told, _ = nebrel("join", *two, "-o", tmp_path / "a.stl", "--at", "2:30,0,0", "--json")
    assert "parts_touch" in [finding["measure"] for finding in json.loads(told)["findings"]]
    _, told, _ = nebrel("join", *two, "-o", tmp_path / "b.stl", "--at", "2:90,0,0", "--json")
    assert "part_floats" in [finding["measure"] for finding in json.loads(told)["findings"]]


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("--at", "3:1,2,3"), "a part from 1 to 2"),
        (("--at", "2:1,2"), "three lengths"),
        (("--cut", "--apart"), "only one"),
    ],
)
def test_what_cannot_be_joined_is_refused_in_one_sentence(nebrel, two, tmp_path, given, says):
    code, _, err = nebrel("join", *two, "-o", tmp_path / "out.stl", *given)
    assert code == 2
    assert says in err
    assert not (tmp_path / "out.stl").exists()


def test_a_new_sheet_has_its_size_its_ground_and_its_lettering(nebrel, tmp_path):
    out = tmp_path / "sheet.png"
    code, told, err = nebrel(
        "new", "-o", out, "--size", "180x50", "--ground", "0.5", "--text", "Fern 12", "--height", 20
    )
    assert code == 0, err
    assert "lettering" in told
    sheet = Image.open(out)
    tones = np.asarray(sheet, dtype=float) / 65535
    assert tones[0, 0] == pytest.approx(0.5, abs=1e-3)
    assert (tones.shape[1] - 1) / sheet.info["dpi"][0] * 25.4 == pytest.approx(180, rel=1e-3)
    rows = np.flatnonzero((tones > 0.75).any(axis=1))
    assert (rows[-1] - rows[0]) / sheet.info["dpi"][0] * 25.4 == pytest.approx(20, abs=0.3)
    assert tones.max() == pytest.approx(1, abs=1e-3)


def test_a_blank_sheet_is_a_relief_of_its_letters_alone(nebrel, tmp_path):
    out = tmp_path / "blank.png"
    assert nebrel("new", "-o", out, "--size", "60x20", "--ground", "blank", "--text", "OAK")[0] == 0
    code, told, err = nebrel("make", "relief", out, "-o", tmp_path / "oak.stl", "--width", 60, "--json")
    assert code == 0, err
    assert json.loads(told)["shells"] == 3


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("--size", "60"), "--size"),
        (("--size", "0x20"), "a side"),
        (("--ground", "gray"), "--ground"),
        (("--ground", "2"), "--ground"),
        (("--text", " "), "no letters"),
        (("--text", "Fern", "--height", "90"), "would be accepted"),
        (("--text", "Fern", "--tone", "3"), "--tone"),
        (("--size", "3000x3000"), "pixels along one side"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused_in_one_sentence(nebrel, tmp_path, given, says):
    code, _, err = nebrel("new", "-o", tmp_path / "out.png", *given)
    assert code == 2
    assert says in err
    assert err.count("\n") == 1
