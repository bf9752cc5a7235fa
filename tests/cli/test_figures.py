"""`nebrel make figure`."""

import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.proof import check_soundness
from tests.trials import deep_but

CHECKED = {
    "size_mm",
    "triangles",
    "shells",
    "volume_mm3",
    "closed",
    "manifold",
    "outward",
    "duplicate_faces",
    "self_crossings",
    "self_crossings_capped",
    "overlapping_shells",
    "inner_shells",
    "debris_shells",
    "floating_shells",
    "touching_shells",
    "findings",
}
OWN = {"overlap_mask", "depth_mm", "source", "thickened_mm2"}
QUICK = ("--resolution", 64, "--tolerance", 0.3)


@pytest.fixture
def pear(tmp_path):
    """A cut-out pear, and the same on white paper."""
    x, y = np.meshgrid(np.arange(160), np.arange(200))
    inside = np.minimum(np.hypot(x - 80, y - 125) / 60, np.hypot(x - 80, y - 60) / 38) < 1
    tone = np.where(inside, 110, 255).astype(np.uint8)
    Image.fromarray(np.dstack([tone, tone, tone, np.where(inside, 255, 0).astype(np.uint8)])).save(
        tmp_path / "pear.png"
    )
    Image.fromarray(tone).save(tmp_path / "paper.png")
    Image.fromarray(np.tile(np.linspace(0, 255, 160).astype(np.uint8), (200, 1))).save(tmp_path / "depths.png")
    return tmp_path / "pear.png"


def report(nebrel, *arguments) -> dict:
    code, out, err = nebrel("make", "figure", *arguments, *QUICK, "--json")
    assert code == 0, err or out
    return json.loads(out)


def test_a_cut_out_picture_becomes_a_sound_solid_of_the_asked_width(nebrel, pear, tmp_path):
    target = tmp_path / "pear.stl"
    found = report(nebrel, pear, "-o", target, "--width", 50)
    assert set(found) >= CHECKED | OWN
    assert "lit" not in found
    assert "figure" not in found
    assert found["size_mm"][0] == pytest.approx(50, abs=0.6)
    assert found["overlap_mask"] > 0.985
    assert found["max_error_mm"] <= 0.3
    mesh = read_mesh(target.read_bytes(), target.name, None).mesh
    assert check_soundness(mesh).sound
    assert found["depth_mm"] == pytest.approx(np.ptp(mesh.vertices[:, 2]), abs=1e-3)
    # Y is up: a pear is wider below.
    low, high = (np.ptp(mesh.vertices[mask][:, 0]) for mask in thirds(mesh.vertices[:, 1]))
    assert low > 1.2 * high


def test_what_is_said_without_json(nebrel, pear, tmp_path):
    code, out, _ = nebrel("make", "figure", pear, "-o", tmp_path / "pear.stl", *QUICK)
    assert code == 0
    assert "seen from the front 9" in out
    assert "mm deep" in out


@pytest.mark.deep
def test_backs_profiles_and_thicknesses_change_the_solid(nebrel, pear, tmp_path):
    def made(*options) -> dict:
        return report(nebrel, pear, "-o", tmp_path / "out.stl", "--width", 40, "--depth", "swell", *options)

    plain = made()
    assert made("--back", "flat")["depth_mm"] < 0.6 * plain["depth_mm"]
    assert made("--back", "bulge:0.5")["depth_mm"] == pytest.approx(0.75 * plain["depth_mm"], rel=0.05)
    assert made("--thickness", "11mm")["depth_mm"] == pytest.approx(11, abs=0.3)
    assert made("--thickness", "x0.4")["depth_mm"] == pytest.approx(0.5 * plain["depth_mm"], rel=0.03)
    assert made("--profile", "flat")["volume_mm3"] > 1.1 * plain["volume_mm3"]


def test_depths_and_strokes_come_from_files(nebrel, pear, tmp_path):
    out = tmp_path / "out.stl"
    strokes = tmp_path / "strokes.json"
    strokes.write_text(
        json.dumps({"strokes": [{"kind": "nearer", "amount_mm": 9, "places": [[0.5, 0.35], [0.55, 0.4]]}]})
    )
    plain = report(nebrel, pear, "-o", out, "--width", 40)
    deep = report(nebrel, pear, "-o", out, "--width", 40, "--depth", tmp_path / "depths.png", "--span", 30)
    near = report(nebrel, pear, "-o", out, "--width", 40, "--strokes", strokes)
    both = ("--depth", tmp_path / "depths.png", "--depth-behind", tmp_path / "depths.png", "--span", 30)
    behind = report(nebrel, pear, "-o", out, "--width", 40, *both)
    assert behind["volume_mm3"] != pytest.approx(deep["volume_mm3"], rel=0.01)
    assert deep["source"] == "picture"
    assert deep["depth_mm"] > plain["depth_mm"] + 5
    assert near["depth_mm"] > plain["depth_mm"] + 2


@pytest.mark.parametrize("ending", deep_but(["glb", "obj"], ["glb"]))
def test_a_texture_carries_the_picture(nebrel, pear, tmp_path, ending):
    out = tmp_path / f"out.{ending}"
    made = report(nebrel, pear, "-o", out, "--width", 40, "--texture")
    assert made["texture"]["mean_error"] < 0.01
    assert made["texture"]["charts"] > 1
    beside = sorted(path.suffix for path in tmp_path.glob("out.*"))
    assert beside == ([".glb"] if ending == "glb" else [".mtl", ".obj", ".png"])


def test_formats_without_textures_are_refused(nebrel, pear, tmp_path):
    code, _, err = nebrel("make", "figure", pear, "-o", tmp_path / "out.3mf", "--texture")
    assert code == 2
    assert ".glb or .obj would be accepted" in err


def test_parts_stand_in_the_order_of_a_file(nebrel, pear, tmp_path):
    picture, out, order = tmp_path / "spotted.png", tmp_path / "out.stl", tmp_path / "order.json"
    samples = np.array(Image.open(pear))
    samples[105:145, 60:100, :3] = 230
    Image.fromarray(samples).save(picture)
    order.write_text('{"order": [{"at": [0.5, 0.375], "step_mm": 6}]}')
    plain = report(nebrel, picture, "-o", out, "--width", 40)
    marked = report(nebrel, picture, "-o", out, "--width", 40, "--strokes", order)
    assert marked["closed"]
    assert marked["depth_mm"] == pytest.approx(plain["depth_mm"] + 6, abs=1)


@pytest.mark.deep
def test_symmetry_gives_both_sides_what_one_gets(nebrel, pear, tmp_path):
    out, strokes = tmp_path / "out.stl", tmp_path / "strokes.json"
    strokes.write_text('[{"kind": "ridge", "amount_mm": 5, "size_mm": 6, "places": [[0.3, 0.3], [0.3, 0.4]]}]')
    found = {
        line: report(
            nebrel,
            pear,
            "-o",
            out,
            "--width",
            40,
            "--depth",
            "swell",
            "--strokes",
            strokes,
            *(["--symmetry", line] if line else []),
        )
        for line in ("", "auto", "x:20")
    }
    assert found["auto"]["volume_mm3"] > found[""]["volume_mm3"]
    assert found["x:20"]["volume_mm3"] == pytest.approx(found["auto"]["volume_mm3"], rel=0.01)


@pytest.mark.deep
@pytest.mark.parametrize("ending", ["3mf", "glb", "ply", "obj"])
def test_colours_are_in_files_that_carry_them(nebrel, tmp_path, ending):
    x, y = np.meshgrid(np.arange(120), np.arange(120))
    cover = np.where(np.hypot(x - 60, y - 60) < 55, 255, 0).astype(np.uint8)
    red = np.where(x < 60, 230, 20).astype(np.uint8)
    Image.fromarray(np.dstack([red, 250 - red, red * 0, cover])).save(tmp_path / "halves.png")
    target = tmp_path / f"halves.{ending}"
    report(nebrel, tmp_path / "halves.png", "-o", target, "--width", 30, "--colour", "mirror")
    mesh = read_mesh(target.read_bytes(), target.name, None, lambda name: (tmp_path / name).read_bytes()).mesh
    tints = mesh.colours if mesh.colours is not None else mesh.corner_colours.reshape(-1, 4)
    assert np.ptp(tints[:, 0].astype(int)) > 150


@pytest.mark.deep
def test_detail_is_fine_relief_of_the_picture(nebrel, tmp_path):
    x, y = np.meshgrid(np.arange(160), np.arange(160))
    stripes = np.where(x // 8 % 2, 220, 60).astype(np.uint8)
    cover = np.where(np.hypot(x - 80, y - 80) < 70, 255, 0).astype(np.uint8)
    Image.fromarray(np.dstack([stripes, stripes, stripes, cover])).save(tmp_path / "striped.png")
    areas = [
        report(nebrel, tmp_path / "striped.png", "-o", tmp_path / "out.stl", "--width", 40, "--detail", detail)[
            "area_mm2"
        ]
        for detail in ("0", "2:4", "-2:4")
    ]
    assert areas[1] > 1.03 * areas[0]
    assert areas[2] == pytest.approx(areas[1], rel=0.05)


def test_a_plain_background_is_cut_away_where_that_is_asked(nebrel, pear, tmp_path):
    paper = pear.with_name("paper.png")
    code, _, err = nebrel("make", "figure", paper, "-o", tmp_path / "out.stl", *QUICK)
    assert code != 0
    assert "Nothing is cut out of its background" in err
    assert not (tmp_path / "out.stl").exists()
    assert report(nebrel, paper, "-o", tmp_path / "out.stl", "--width", 50, "--cut-out")["overlap_mask"] > 0.98


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--depth", "deep"), "learned, depths.png or model.onnx"),
        (("--depth", "none.png"), "none.png"),
        (("--back", "bulgy"), "mirror, flat or bulge"),
        (("--back", "bulge:much"), "bulge:0.6"),
        (("--thickness", "xl"), "20 or x0.8"),
        (("--profile", "sharp"), "round, soft or flat"),
        (("--width", "0"), "more than 0"),
        (("--resolution", "9000"), "64 to 512"),
        (("--near", "left"), "bright or dark"),
        (("--near", "dark"), "--near has no effect without a depth picture"),
        (("--depth", "swell", "--span", "9"), "--span has no effect without a depth picture"),
        (("--symmetry", "yes"), "auto, or a place like x:40"),
        (("--symmetry", "x:900"), "beside the figure"),
        (("--detail", "much"), "much"),
        (("--colour", "red"), "edges or mirror"),
    ],
)
def test_what_cannot_be_is_refused_in_a_sentence(nebrel, pear, tmp_path, options, words):
    code, _, err = nebrel("make", "figure", pear, "-o", tmp_path / "out.stl", *options)
    assert code != 0
    assert words in err
    assert len(err.strip().splitlines()) == 1


@pytest.mark.parametrize(
    "text", ["not json", '{"strokes": 3}', "[1, 2]", '[{"kind": "nearer"}]', '[{"kind": "melt", "places": [[0, 0]]}]']
)
def test_a_file_of_no_strokes_is_refused(nebrel, pear, tmp_path, text):
    (tmp_path / "strokes.json").write_text(text)
    code, _, err = nebrel("make", "figure", pear, "-o", tmp_path / "out.stl", "--strokes", tmp_path / "strokes.json")
    assert code != 0
    assert len(err.strip().splitlines()) == 1


def thirds(y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Whether places are in the lower or in the upper third."""
    low, high = y.min(), y.max()
    return y < low + (high - low) / 3, y > high - (high - low) / 3


@pytest.mark.parametrize("source", ["light", "learned"])
def test_depth_may_come_from_other_sources(nebrel, pear, tmp_path, source):
    found = report(nebrel, pear, "-o", tmp_path / "pear.stl", "--depth", source)
    assert found["source"] == source
    assert found["overlap_mask"] > 0.985
    assert found["closed"]


def test_a_network_of_ones_own_is_refused_where_it_is_none(nebrel, pear, tmp_path):
    (tmp_path / "mine.onnx").write_bytes(b"no network")
    code, _, err = nebrel("make", "figure", pear, "-o", tmp_path / "x.stl", "--depth", tmp_path / "mine.onnx", *QUICK)
    assert code == 2
    assert "mine.onnx cannot be run" in err
    (tmp_path / "mine.json").write_text("{", encoding="utf-8")
    code, _, err = nebrel("make", "figure", pear, "-o", tmp_path / "x.stl", "--depth", tmp_path / "mine.onnx", *QUICK)
    assert code == 2
    assert "mine.json is not JSON" in err
    assert not (tmp_path / "x.stl").exists()


@pytest.mark.deep
def test_it_may_stand_on_a_plinth_with_a_picture_of_its_back(nebrel, pear, tmp_path):
    plain = report(nebrel, pear, "-o", tmp_path / "plain.stl", "--width", 50)
    target = tmp_path / "pear.ply"
    found = report(
        nebrel, pear, "-o", target, "--width", 50, "--foot", 2, "--plinth", "5:3", "--stand", "--back", pear,
        "--colour", "edges",
    )  # fmt: skip
    assert found["closed"]
    assert found["size_mm"][2] == pytest.approx(plain["size_mm"][1] + 3, abs=0.2)
    mesh = read_mesh(target.read_bytes(), target.name, None).mesh
    # Z is up in the file, and sizes are told as the file has them.
    assert np.ptp(mesh.vertices, axis=0) == pytest.approx(found["size_mm"], abs=0.01)
    code, _, err = nebrel("make", "figure", pear, "-o", target, "--foot", 500, *QUICK)
    assert code == 2
    assert "mm tall" in err
