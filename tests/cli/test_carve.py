"""`nebrel carve`, `nebrel simulate` and `nebrel reach`."""

import json

import numpy as np
import pytest
from PIL import Image

CARVED = ("--width", 24, "--relief", 2, "--stock", "40x40x8", "--bit", "ball:3", "--scallop", 0.05)


@pytest.fixture
def programs(nebrel, picture, tmp_path):
    """Programs of the hill, and their report."""
    code, out, err = nebrel("carve", picture, "-o", tmp_path / "hill.nc", *CARVED, "--rough-bit", "flat:4", "--json")
    assert code == 0, err
    return json.loads(out)


def test_one_program_a_bit_with_a_report_of_what_was_measured(programs, tmp_path):
    assert [path.name for path in sorted(tmp_path.glob("*.nc"))] == ["hill-1-rough-flat4.nc", "hill-2-finish-ball3.nc"]
    assert [one["kind"] for one in programs["passes"]] == ["rough", "finish"]
    assert {"kind", "bit", "points", "length_m", "minutes", "lifts", "left_share"} == set(programs["passes"][0])
    assert programs["gouge_max_mm"] <= 0.001
    assert programs["rapids_in_stock"] == programs["steep_entries"] == 0
    assert programs["minutes"] == pytest.approx(sum(one["minutes"] for one in programs["passes"]), rel=0.05)
    assert 0 <= programs["left_rms_mm"] < programs["left_max_mm"]
    assert programs["cannot_reach_max_mm"] <= programs["left_max_mm"]
    assert "left_over_reachable_max_mm" in programs
    text = (tmp_path / "hill-2-finish-ball3.nc").read_text()
    assert "ball 3 mm" in text
    assert text.split("\n")[5:8] == ["G21", "G90", "G17"]


def test_simulating_them_against_the_solid_finds_the_same(nebrel, programs, picture, tmp_path):
    solid = tmp_path / "hill.stl"
    assert nebrel("make", "relief", picture, "-o", solid, "--width", 24, "--relief", 2)[0] == 0
    files = sorted(tmp_path.glob("*.nc"))
    stock = ("--stock", "40x40x8", "--bits", "flat:4", "--bits", "ball:3")
    code, out, err = nebrel("simulate", *files, *stock, "--against", solid, "--json")
    assert code == 0, err
    seen = json.loads(out)
    assert seen["faults"] == []
    assert seen["minutes"] == pytest.approx(programs["minutes"], rel=0.02)
    # The solid is a mesh within 0.02 mm of the heights that were carved.
    assert seen["gouge_max_mm"] < 0.06
    assert seen["left_rms_mm"] == pytest.approx(programs["left_rms_mm"], abs=0.02)


def test_planted_faults_make_it_fail(nebrel, tmp_path):
    program = tmp_path / "bad.nc"
    program.write_text("G21\nG90\nS9000 M3\nG0 X10 Y10 Z2\nG0 Z-3\nG1 X20 F500\nG0 Z5\nM5\nM30\n")
    code, out, _ = nebrel("simulate", program, "--stock", "40x40x8", "--bits", "flat:4", "--json")
    assert code == 1
    assert [(one["kind"], one["line"]) for one in json.loads(out)["faults"]] == [("rapid", 5)]
    program.write_text("G21\nG77 X3\n")
    code, _, err = nebrel("simulate", program, "--stock", "40x40x8", "--bits", "flat:4")
    assert code == 2
    assert "Line 2" in err


def test_reach_is_a_map_and_figures_for_every_bit(nebrel, picture, tmp_path):
    target = tmp_path / "reach.png"
    code, out, err = nebrel(
        "reach",
        picture,
        "--width",
        24,
        "--relief",
        6,
        "--bit",
        "ball:6",
        "--bit",
        "taper:0.25:5deg",
        "-o",
        target,
        "--json",
    )
    assert code == 0, err
    facts = json.loads(out)
    assert facts["bits"][0]["cannot_reach_max_mm"] > facts["bits"][1]["cannot_reach_max_mm"]
    assert facts["cannot_reach_max_mm"] <= facts["bits"][1]["cannot_reach_max_mm"] + 1e-9
    assert np.asarray(Image.open(target)).max() == 255


@pytest.mark.parametrize(
    ("options", "says"),
    [
        (("--stock", "40x40", "--bit", "ball:3"), "--stock is “40x40”"),
        (("--stock", "40x40x8", "--bit", "round:3"), "a bit like ball:6"),
        (("--stock", "40x40x8", "--bit", "ball:0"), "diameter of the ball bit is 0 mm"),
        (("--stock", "40x40x1", "--bit", "ball:3"), "too thin"),
        (("--stock", "20x40x8", "--bit", "ball:3"), "a stock as large as the piece"),
        (("--stock", "40x40x8", "--bit", "ball:3,flute=wide"), "is not a length"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--scallop", "0"), "--scallop is 0 mm"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--post", "none"), "--post is “none”"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--allowance", "-1"), "allowance is -1 mm"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--rest", "0"), "finer bits may leave is 0 mm"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--path-tolerance", "0"), "tolerance of paths is 0 mm"),
        (("--stock", "40x40x8", "--bit", "flat:3", "--cut-out", "piece", "--tabs", "4:0:1"), "width of tabs is 0 mm"),
        (("--stock", "40x40x8", "--bit", "ball:3", "--odd", "1"), "--odd"),
    ],
)
def test_what_cannot_be_is_refused_in_one_sentence(nebrel, picture, tmp_path, options, says):
    code, _, err = nebrel("carve", picture, "--width", 24, "--relief", 2, "-o", tmp_path / "hill.nc", *options)
    assert code == 2
    assert says in err
    assert err.count("\n") == 1
    assert not list(tmp_path.glob("*.nc"))


SIGN = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="30mm" viewBox="0 0 40 30">'
    '<path d="M2 2H20V28H2Z"/><circle cx="32" cy="15" r="1.5"/></svg>'
)


@pytest.fixture
def sign(tmp_path):
    """A drawing of a plate and a round hole."""
    path = tmp_path / "sign.svg"
    path.write_text(SIGN)
    return path


def test_a_drawing_is_v_carved(nebrel, sign, tmp_path):
    stock = ("--stock", "60x60x18", "--width", 31.5, "--json")
    code, out, err = nebrel(
        "carve", sign, "-o", tmp_path / "s.nc", "--outlines", "v", "--depth", 2, "--bit", "v:60deg:12",
        "--rough-bit", "flat:3", *stock,
    )  # fmt: skip
    assert code == 0, err
    told = json.loads(out)
    assert [one["kind"] for one in told["passes"]] == ["pocket", "v-carve"]
    assert told["gouge_max_mm"] <= 0.001
    assert [path.name for path in sorted(tmp_path.glob("*.nc"))] == ["s-1-pocket-flat3.nc", "s-2-v-carve-v60.nc"]


def test_pockets_and_a_drilled_hole_in_inches_by_a_post_of_its_own(nebrel, sign, tmp_path):
    code, out, err = nebrel(
        "carve", sign, "-o", tmp_path / "s.nc", "--outlines", "pockets", "--bit", "flat:3", "--bit", "drill:3",
        "--stock", "60x60x18", "--width", 31.5, "--unit", "in", "--post", "pause", "--json",
    )  # fmt: skip
    assert code == 0, err
    told = json.loads(out)
    assert [one["kind"] for one in told["passes"]] == ["drill", "pocket"]
    text = (tmp_path / "s.nc").read_text()
    assert "G20" in text
    assert "M0\n" in text


@pytest.mark.parametrize(
    ("given", "says"),
    [
        (("--bit", "v:60deg:12"), "--outlines v or --outlines pockets"),
        (("--outlines", "v", "--bit", "flat:3"), "needs a V bit"),
        (("--outlines", "deep", "--bit", "flat:3"), "--outlines"),
        (("--outlines", "v", "--bit", "v:60deg:12", "--post", "mine"), "straight would be accepted"),
        (("--outlines", "v", "--bit", "v:60deg:12", "--depth", "900"), "depth of sunk outlines"),
    ],
)
def test_outlines_that_cannot_be_sunk_are_refused(nebrel, sign, tmp_path, given, says):
    code, _, err = nebrel("carve", sign, "-o", tmp_path / "s.nc", "--stock", "60x60x18", *given)
    assert code == 2
    assert says in err
    assert not list(tmp_path.glob("*.nc"))


def test_a_cut_out_is_drawn_as_svg_and_dxf(nebrel, picture, tmp_path):
    code, out, err = nebrel(
        "carve", picture, "-o", tmp_path / "hill.nc", *CARVED, "--rough-bit", "flat:4", "--cut-out", "piece", "--json"
    )
    assert code == 0, err
    drawn = [path.rsplit("/")[-1] for path in json.loads(out)["files"]][-2:]
    assert drawn == ["hill-cut-out.svg", "hill-cut-out.dxf"]
    assert all((tmp_path / name).stat().st_size > 100 for name in drawn)
