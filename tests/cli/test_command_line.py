"""The command line keeps its promise: names, units, keys, exit codes."""

import io
import json
import subprocess

import numpy as np
import pytest
import tifffile
from PIL import Image
from tools.running import PROGRAM

from nebrel.core.mesh.formats.stl import read_stl
from nebrel.core.proof import check_soundness

MESH_KEYS = {
    "size_mm", "triangles", "vertices", "shells", "volume_mm3", "area_mm2", "closed", "manifold", "outward",
    "degenerate_faces", "duplicate_faces", "self_crossings", "self_crossings_capped", "overlapping_shells",
    "inner_shells", "debris_shells", "floating_shells", "touching_shells", "findings",
}  # fmt: skip
BUILD_KEYS = MESH_KEYS | {
    "max_error_mm", "rms_error_mm", "max_error_between_mm", "error_how", "error_where", "tolerance_mm", "file_bytes",
    "printed",
    "seconds",
}  # fmt: skip


def test_make_relief_writes_a_true_size_solid(nebrel, picture, tmp_path):
    out = tmp_path / "out.stl"
    code, text, err = nebrel(
        "make", "relief", picture, "-o", out, "--width", "80", "--relief", "3", "--backing", "1.2", "--json"
    )
    assert (code, err) == (0, "")
    report = json.loads(text)
    assert set(report) == BUILD_KEYS
    assert report["size_mm"] == pytest.approx([80, 80 * 89 / 119, 4.2], abs=0.001)
    assert report["max_error_mm"] <= report["tolerance_mm"] == 0.02
    assert report["max_error_between_mm"] >= report["max_error_mm"]
    assert (report["error_how"], report["error_where"]) == ("vertically", "at samples")
    mesh = read_stl(out.read_bytes())
    assert check_soundness(mesh).size == pytest.approx(report["size_mm"], abs=1e-5)
    assert out.stat().st_size == report["file_bytes"]


def test_lengths_may_be_inches_and_dark_may_stand_tall(nebrel, picture, tmp_path):
    volumes = {}
    for tall in ("bright", "dark"):
        out = tmp_path / f"{tall}.stl"
        code, text, _ = nebrel(
            "make", "relief", picture, "-o", out, "--width", "2in", "--relief", "0.1in", "--backing", "2",
            "--raise", tall, "--tolerance", "0.01", "--smooth", "0.2", "--json",
        )  # fmt: skip
        assert code == 0
        report = json.loads(text)
        assert report["size_mm"][0] == pytest.approx(50.8, abs=0.001)
        volumes[tall] = report["volume_mm3"]
    area = 50.8 * 50.8 * 89 / 119
    assert volumes["bright"] + volumes["dark"] == pytest.approx(area * (2.54 + 4), rel=0.002)
    assert volumes["dark"] > volumes["bright"]


def test_walls_follow_curves_unless_pixels_are_asked_for(nebrel, tmp_path):
    y, x = np.mgrid[0:120, 0:160]
    path = tmp_path / "disc.png"
    Image.fromarray(np.where(np.hypot(x - 80.3, y - 59.2) < 40, 255, 0).astype(np.uint8)).save(path)
    reports = {}
    for edges in ("curves", "pixels"):
        code, text, _ = nebrel("make", "relief", path, "-o", tmp_path / "out.stl", "--edges", edges, "--json")
        assert code == 0
        reports[edges] = json.loads(text)
    assert set(reports["pixels"]) == BUILD_KEYS
    assert set(reports["curves"]) == BUILD_KEYS | {"edges"}
    pitch = 80 / 159
    assert reports["curves"]["edges"]["walls_mm"] == pytest.approx(2 * np.pi * 40 * pitch, rel=0.01)
    assert reports["curves"]["edges"]["max_error_mm"] < 0.75 * pitch
    assert reports["curves"]["triangles"] < reports["pixels"]["triangles"]
    code, words, _ = nebrel("make", "relief", path, "-o", tmp_path / "out.stl")
    assert code == 0
    assert "of walls along curves" in words
    code, _, err = nebrel("make", "relief", path, "-o", tmp_path / "out.stl", "--edges", "soft")
    assert code == 2
    assert "curves" in err


def test_check_tells_sound_from_broken(nebrel, picture, tmp_path):
    out = tmp_path / "out.stl"
    nebrel("make", "relief", picture, "-o", out)
    code, text, _ = nebrel("check", out, "--json")
    assert code == 0
    assert set(json.loads(text)) == MESH_KEYS | {"objects", "thinnest_wall_mm", "walls_looked_at"}
    data = bytearray(out.read_bytes())
    count = int.from_bytes(data[80:84], "little")
    data[80:84] = (count - 1).to_bytes(4, "little")
    broken = tmp_path / "broken.stl"
    broken.write_bytes(data[:-50])
    code, text, _ = nebrel("check", broken, "--json")
    assert code == 1
    report = json.loads(text)
    assert not report["closed"]
    assert report["findings"][0]["severity"] == "fault"
    code, text, _ = nebrel("check", broken)
    assert "The surface is open along 3 edges." in text


@pytest.mark.parametrize(
    "options",
    [
        ["--width", "0"],
        ["--width", "-4"],
        ["--width", "10000000"],
        ["--width", "wide"],
        ["--width", "nan"],
        ["--relief", "0"],
        ["--backing", "0"],
        ["--tolerance", "0"],
        ["--smooth", "-1"],
        ["--raise", "red"],
        ["--unknown"],
        ["-o", "picture.doc"],
        ["-o", "no/such/folder/x.stl"],
    ],
)
def test_bad_input_is_one_sentence_and_code_2(nebrel, picture, tmp_path, options):
    out = tmp_path / "out.stl"
    code, text, err = nebrel("make", "relief", picture, "-o", out, *options)
    assert (code, text) == (2, "")
    assert err.startswith("nebrel: ")
    assert err.count("\n") == 1
    assert not out.exists()


def test_bad_pictures_are_one_sentence_and_leave_the_old_file(nebrel, tmp_path, encode, hill):
    infinite = io.BytesIO()
    tifffile.imwrite(infinite, np.array([[0, np.inf], [1, 0.5]], dtype=np.float32))
    bad = {
        "empty.png": b"",
        "cut.png": hill[:1000],
        "text.png": b"not a picture",
        "dot.png": encode(np.zeros((1, 1), dtype=np.uint8)),
        "plain.png": encode(np.full((9, 9), 70, dtype=np.uint8)),
        "clear.png": encode(np.zeros((9, 9, 4), dtype=np.uint8)),
        "infinite.tif": infinite.getvalue(),
    }
    out = tmp_path / "out.stl"
    out.write_bytes(b"precious")
    for name, data in bad.items():
        (tmp_path / name).write_bytes(data)
        code, text, err = nebrel("make", "relief", tmp_path / name, "-o", out)
        assert (code, text, err.count("\n")) == (2, "", 1), name
        assert out.read_bytes() == b"precious"
    assert nebrel("make", "relief", tmp_path / "missing.png", "-o", out)[0] == 2
    assert nebrel("make", "relief", tmp_path, "-o", out)[0] == 2
    assert nebrel("check", tmp_path / "text.png")[0] == 2
    assert nebrel("make")[0] == 2


def test_a_name_with_odd_letters_is_no_trouble(nebrel, tmp_path, hill):
    path = tmp_path / ("größe & co '%s' " + "x" * 150 + ".png")
    path.write_bytes(hill)
    assert nebrel("make", "relief", path, "-o", tmp_path / "out.stl")[0] == 0


def test_the_installed_program_runs(picture, tmp_path):
    done = subprocess.run(
        [*PROGRAM, "make", "relief", str(picture), "-o", str(tmp_path / "x.stl")],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
    assert "80.000 × 59.832 × 4.200 mm" in done.stdout
    assert subprocess.run([*PROGRAM, "--help"], capture_output=True, check=False).returncode == 0


@pytest.fixture
def disc(tmp_path):
    """A white disc of 30 mm on 40 mm of black, its edge soft."""
    row, column = np.mgrid[0:401, 0:401] - 200.0
    tones = np.clip(150.5 - np.hypot(row, column), 0, 1)
    path = tmp_path / "disc.png"
    Image.fromarray((tones * 255).round().astype(np.uint8)).save(path)
    return path


@pytest.mark.parametrize(
    ("rule", "volume"),
    [
        ("edge:roof:20deg", np.pi * 15**3 * np.tan(np.radians(20)) / 3),
        ("edge:dome:15", 2 / 3 * np.pi * 15**2 * 6),
        ("edge:pillow", 2 / 3 * np.pi * 15**2 * 6),
        # A cove is a disc less a quarter of an ellipse turned about its rim (Pappus).
        ("edge:cove:15", 6 * (np.pi * 15**2 - 2 * np.pi * (15**2 * np.pi / 4 - 15**2 / 3))),
    ],
)
def test_heights_rise_from_the_edge_of_a_disc(nebrel, disc, tmp_path, rule, volume):
    out = tmp_path / "disc.stl"
    code, told, err = nebrel("make", "relief", disc, "-o", out, "--width", 40, "--relief", 6, "--rule", rule, "--json")
    assert code == 0, err
    report = json.loads(told)
    assert report["volume_mm3"] - 40 * 40 * 1.2 == pytest.approx(volume, rel=0.02)
    tallest = 15 * np.tan(np.radians(20)) if "roof" in rule else 6
    # The cove comes to a point in the middle, steeper than any sample meets.
    assert report["size_mm"][2] == pytest.approx(1.2 + tallest, abs=0.3 if "cove" in rule else 0.06)


@pytest.mark.parametrize("rule", ["edge", "edge:vault:3", "edge:roof", "edge:pillow:3", "edge:dome:0", "edge:roof:95"])
def test_an_edge_rule_that_cannot_be_is_refused(nebrel, disc, tmp_path, rule):
    code, _, err = nebrel("make", "relief", disc, "-o", tmp_path / "out.stl", "--rule", rule)
    assert code == 2
    assert err.count("\n") == 1
