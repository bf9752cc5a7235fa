"""`nebrel make relief --form`: heights that follow depth."""

import io
import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh


def png(samples: np.ndarray) -> bytes:
    file = io.BytesIO()
    Image.fromarray(np.round(samples * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


ROWS, COLUMNS = np.mgrid[0:120, 0:160].astype(float)
DISC = np.hypot(ROWS - 60, COLUMNS - 70) < 45
BALL = np.hypot(ROWS - 60, COLUMNS - 90) < 20


@pytest.fixture
def shapes(tmp_path):
    """A bright disc with a dark ball before it, cut out; and how near both are."""
    tones = np.where(BALL, 0.15, np.where(DISC, 0.85, 0.5))
    path, depths = tmp_path / "shapes.png", tmp_path / "near.png"
    path.write_bytes(png(np.dstack([tones, tones, tones, DISC | BALL])))
    depths.write_bytes(png(np.where(BALL, 0.9, np.where(DISC, 0.4, 0.0))))
    return path, depths


def heights_at(path, *places):
    mesh = read_mesh(path.read_bytes(), path.name, "mm").mesh
    upper = mesh.vertices[mesh.vertices[:, 2] > 1.2 - 1e-6]
    return [float(upper[np.argmin(np.hypot(*(upper[:, :2] - place).T)), 2]) - 1.2 for place in places]


def test_a_depth_picture_makes_the_dark_ball_stand_before_the_bright_disc(nebrel, shapes, tmp_path):
    picture, depths = shapes
    out = tmp_path / "out.stl"
    code, text, _ = nebrel(
        "make", "relief", picture, "-o", out, "--form", depths, "--span", "20", "--relief", "4", "--json"
    )
    assert code == 0
    report = json.loads(text)
    assert report["form"]["source"] == "picture" and report["form"]["order_kept"] >= 0.95
    assert report["form"]["overlaps_mm"] == pytest.approx(2 * np.pi * 20 * 80 / 159, rel=0.3)
    # In mm of a panel 80 wide: in the middle of the ball, and of the disc beside it.
    ball, disc, ground = heights_at(out, (45.3, 29.7), (20, 29.7), (76, 6))
    assert ball == pytest.approx(4, abs=0.2) and 0.3 < disc < ball - 0.2 and ground == pytest.approx(0, abs=1e-6)


def test_strokes_say_what_is_nearer_without_a_depth_picture(nebrel, shapes, tmp_path):
    strokes = tmp_path / "strokes.json"
    strokes.write_text(
        json.dumps([{"kind": "nearer", "amount_mm": 12, "places": [[0.55, 0.5], [0.58, 0.52]], "size_mm": 5}])
    )
    made = {}
    for name, more in (("plain", ()), ("strokes", ("--strokes", strokes))):
        out = tmp_path / f"{name}.stl"
        code, _, err = nebrel("make", "relief", shapes[0], "-o", out, "--form", "swell", "--hold-back", "0.2", *more)
        assert code == 0, err
        made[name] = np.subtract(*heights_at(out, (45.3, 29.7), (20, 29.7)))
    assert made["strokes"] > made["plain"] + 0.3


def test_fine_tones_and_no_ground_are_asked_for(nebrel, shapes, tmp_path):
    reports = {}
    for name, more in (("plain", ()), ("alone", ("--no-ground",)), ("fine", ("--fine", "0.8:3"))):
        code, text, err = nebrel(
            "make", "relief", shapes[0], "-o", tmp_path / "out.stl", "--form", "swell", *more, "--json"
        )
        assert code == 0, err
        reports[name] = json.loads(text)
    assert reports["alone"]["size_mm"][0] < 60 < reports["plain"]["size_mm"][0]
    assert reports["fine"]["volume_mm3"] != reports["plain"]["volume_mm3"]
    assert "form" in reports["plain"] and reports["plain"]["form"]["order_kept"] == 1


@pytest.mark.parametrize(
    "options, words",
    [
        (("--hold-back", "0.3"), "--hold-back has no effect without --form"),
        (("--step", "1"), "--step has no effect without --form"),
        (("--no-ground",), "--ground has no effect without --form"),
        (("--form", "swell", "--rule", "compress"), "--rule is for heights that follow tones"),
        (("--form", "swell", "--raise", "dark"), "--raise is for heights that follow tones"),
        (("--form", "learned", "--span", "9"), "--span has no effect without a depth picture"),
        (("--form", "deep"), "--form is “deep”; swell, light, learned, depths.png or model.onnx would be accepted"),
        (("--form", "swell", "--hold-back", "1.5"), "--hold-back"),
        (("--form", "missing.png"), "missing.png"),
    ],
)
def test_what_would_have_no_effect_or_cannot_be_is_refused_in_a_sentence(nebrel, shapes, tmp_path, options, words):
    code, _, err = nebrel("make", "relief", shapes[0], "-o", tmp_path / "out.stl", *options)
    assert code == 2 and words in err and len(err.strip().splitlines()) == 1


def test_a_report_on_tones_tells_of_no_form(nebrel, picture, tmp_path):
    code, text, _ = nebrel("make", "relief", picture, "-o", tmp_path / "out.stl", "--json")
    assert code == 0 and "form" not in json.loads(text)


def test_a_texture_lies_on_the_ground_or_everywhere(nebrel, shapes, tmp_path):
    volumes = {}
    for texture in ("hammered:3x0.4", "all:hammered:3x0.4"):
        options = ("--form", "swell", "--texture", texture, "--json")
        code, text, err = nebrel("make", "relief", shapes[0], "-o", tmp_path / "out.stl", *options)
        assert code == 0, err
        volumes[texture] = json.loads(text)["volume_mm3"]
    assert volumes["all:hammered:3x0.4"] > 1.02 * volumes["hammered:3x0.4"]


@pytest.mark.parametrize("texture", ["woolly", "wood:3", "wood:3xdeep", "leather:0x1", ""])
def test_a_texture_that_is_none_is_refused(nebrel, shapes, tmp_path, texture):
    code, _, err = nebrel("make", "relief", shapes[0], "-o", tmp_path / "out.stl", "--texture", texture)
    assert code == 2 and len(err.strip().splitlines()) == 1
