"""`nebrel decorate` as a person runs it."""

import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.core.mesh.measure import volume
from tests.core.skins import cylinder, sphere

SVG = """<svg xmlns="http://www.w3.org/2000/svg" width="{0}mm" height="10mm" viewBox="0 0 20 10">
<rect width="20" height="10"/></svg>"""
KEYS = {"added_mm3", "removed_mm3", "untouched_faces", "max_stretch", "thinnest_wall_mm"}
CHECK_KEYS = {"size_mm", "triangles", "vertices", "shells", "volume_mm3", "area_mm2", "closed", "manifold", "outward",
              "degenerate_faces",
              "duplicate_faces", "self_crossings", "self_crossings_capped", "overlapping_shells", "inner_shells",
              "debris_shells", "floating_shells", "touching_shells", "findings"}  # fmt: skip


@pytest.fixture
def drum(tmp_path):
    path = tmp_path / "drum.stl"
    with path.open("wb") as file:
        write_mesh(cylinder(), file, "stl")
    return path


@pytest.fixture
def mark(tmp_path):
    path = tmp_path / "mark.svg"
    path.write_text(SVG.format(20))
    return path


def test_the_report_has_the_promised_keys(nebrel, drum, mark, tmp_path):
    out = tmp_path / "out.stl"
    code, text, _ = nebrel("decorate", drum, "--with", mark, "-o", out, "--at", "30,0,30", "--width", "20", "--json")
    report = json.loads(text)
    assert code == 0
    assert set(report) >= KEYS | CHECK_KEYS
    assert report["closed"]
    assert report["added_mm3"] == pytest.approx(200 * 0.6 * 1.01, rel=0.005)
    assert report["removed_mm3"] == 0
    assert 0 < report["max_error_mm"] < 0.002
    assert report["rms_error_mm"] < report["max_error_mm"]
    assert (report["error_how"][:26], report["error_where"]) == ("from the depths asked for,", "at samples")
    assert report["untouched_faces"] < len(cylinder().faces)
    made = read_mesh(out.read_bytes(), "out.stl").mesh
    assert volume(made) - volume(cylinder()) == pytest.approx(report["added_mm3"], rel=1e-3)


def test_sunk_repeated_turned_and_wrapped(nebrel, drum, mark, tmp_path):
    code, text, _ = nebrel(
        "decorate", drum, "--with", mark, "-o", tmp_path / "out.3mf", "--at", "30,0,30", "--width", "12", "--depth",
        "0.5", "--sink", "--turn", "-15deg", "--mirror", "--lie", "wrap", "--repeat", "ring:8", "--json",
    )  # fmt: skip
    report = json.loads(text)
    assert code == 0
    assert report["copies"] == 8
    assert report["removed_mm3"] == pytest.approx(8 * 12 * 6 * 0.5 * (1 - 0.5 / 60), rel=0.005)
    assert report["max_stretch"] < 0.001


def test_in_words_it_tells_what_stayed(nebrel, drum, mark, tmp_path):
    code, text, _ = nebrel("decorate", drum, "--with", mark, "-o", tmp_path / "o.ply", "--at", "30,0,30", "--fade", "3")
    assert code == 0
    assert "faces are as they came" in text
    assert "note: The skin itself is moved" in text


def test_a_picture_is_laid_as_a_relief(nebrel, drum, tmp_path):
    ramp = np.tile(np.linspace(0, 255, 80).astype(np.uint8), (60, 1))
    Image.fromarray(ramp).save(tmp_path / "ramp.png")
    code, text, _ = nebrel(
        "decorate", drum, "--with", tmp_path / "ramp.png", "-o", tmp_path / "o.obj", "--at", "30,0,30", "--width",
        "0.8in", "--depth", "1", "--json",
    )  # fmt: skip
    report = json.loads(text)
    assert code == 0
    width = 0.8 * 25.4
    assert report["added_mm3"] == pytest.approx(width * width * 59 / 79 / 2, rel=0.03)


@pytest.mark.parametrize("form", ["3mf", "glb", "ply"])
def test_colour_alone_reaches_the_file(nebrel, drum, mark, tmp_path, form):
    out = tmp_path / f"o.{form}"
    code, _, _ = nebrel("decorate", drum, "--with", mark, "-o", out, "--at", "30,0,30", "--colour", "#0a7850")
    assert code == 0
    found = read_mesh(out.read_bytes(), out.name).mesh
    assert volume(found) == pytest.approx(volume(cylinder()), rel=1e-5)
    if form != "ply":
        assert found.colours is not None
        assert (np.abs(found.colours[:, :3].astype(int) - [10, 120, 80]).max(axis=1) < 3).any()


def test_an_open_model_is_decorated_and_reported(nebrel, mark, tmp_path):
    mesh = sphere(60)
    lower = mesh.corners[..., 2].mean(axis=1) < 20
    path = tmp_path / "bowl.ply"
    with path.open("wb") as file:
        write_mesh(type(mesh)(mesh.vertices, mesh.faces[lower]), file, "ply")
    code, text, _ = nebrel("decorate", path, "--with", mark, "-o", tmp_path / "o.stl", "--at", "30,0,0", "--json")
    report = json.loads(text)
    assert code == 1
    assert not report["closed"]
    assert report["added_mm3"] > 0
    assert any("open edges; decorated, it has them still" in finding["what"] for finding in report["findings"])


def test_a_texture_goes_all_over_the_way_that_strokes_say(nebrel, drum, mark, tmp_path):
    out = tmp_path / "o.stl"
    stroke = "30,0,5:21.2,21.2,30:0,30,55"
    options = ("--tile", "--width", "12", "--grain", stroke, "--at", "30,0,30", "--json")
    code, text, _ = nebrel("decorate", drum, "--with", mark, "-o", out, *options)
    report = json.loads(text)
    assert code == 0
    assert report["covered"] > 0.8
    assert report["copies"] == report["copies_asked"] == 1
    assert report["came_with"]["open_edges"] == 0
    assert report["lost_mm2"] >= 0


@pytest.mark.parametrize(
    ("options", "sentence"),
    [
        (["--at", "30,0"], "--at is “30,0”; three lengths like 10,0,25 would be accepted."),
        (["--at", "30,0,30", "--width", "0"], "Width is 0 mm; 0.1 to 3,000 mm would be accepted."),
        (["--at", "30,0,30", "--depth", "deep"], "“deep” is not a length"),
        (["--at", "30,0,30", "--lie", "hover"], "--lie is “hover”; follow, wrap or project would be accepted."),
        (["--at", "30,0,30", "--repeat", "ring:many"], "--repeat is “ring:many”"),
        (["--at", "30,0,30", "--sink", "--colour", "#000000"], "exclude each other"),
        (["--at", "30,0,30", "--fade", "1", "--bevel", "1"], "exclude each other"),
        (["--at", "30,0,30", "--up", "0,0,0"], "--up has no direction"),
        (["--at", "30,0,30", "--tile", "--fade", "1"], "--tile covers all of the skin"),
        (["--at", "30,0,30", "--grain", "30,0,0:30,0,9"], "so it goes with --tile"),
        (["--at", "30,0,30", "--tile", "--grain", "30,0,0"], "two places or more"),
        (["--at", "30,0,30", "--along", "z"], "--along is for --lie project"),
        (["--at", "30,0,30", "--fade-side", "left"], "--fade-side needs --fade or --bevel"),
        (["--at", "30,0,30", "--both"], "--both is for pictures"),
        (["--at", "30,0,30", "--edges", "pixels"], "--edges is for a picture that is raised"),
        (["--at", "30,0,30", "--colour", "green"], "Colour is “green”"),
        (["--at", "30,0,60", "--lie", "wrap"], None),
    ],
)
def test_bad_options_get_one_sentence_and_no_file(nebrel, drum, mark, tmp_path, options, sentence):
    out = tmp_path / "never.stl"
    code, _, refusal = nebrel("decorate", drum, "--with", mark, "-o", out, *options)
    if sentence is None:
        assert code in (0, 1, 2)
        return
    assert code == 2
    assert sentence in refusal
    assert not out.exists()


def test_a_model_in_metres_is_asked_about(nebrel, mark, tmp_path):
    mesh = cylinder()
    path = tmp_path / "metres.stl"
    with path.open("wb") as file:
        write_mesh(type(mesh)(mesh.vertices / 1000, mesh.faces), file, "stl")
    options = ("--with", mark, "-o", tmp_path / "o.stl", "--at", "30,0,30")
    code, _, refusal = nebrel("decorate", path, *options)
    assert code == 2
    assert "--unit mm, cm, m, in or ft" in refusal
    assert nebrel("decorate", path, *options, "--unit", "m")[0] == 0
