"""`nebrel trace` and `nebrel make outline`, `cutter`, `stamp`."""

import io
import json

import numpy as np
import pytest
from PIL import Image, ImageDraw

from nebrel.core.mesh.formats import read_mesh
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.proof import check_soundness
from nebrel.core.region.curves import figure_region
from tests.core.drawn import disc, drawn

KEYS = {"regions", "holes", "nodes", "area_mm2", "max_deviation_mm", "open_ends"}


@pytest.fixture
def ring(tmp_path):
    """A dark ring of 12 and 5 mm radius on white paper, 300 pixels of 0.1 mm wide."""
    path = tmp_path / "ring.png"
    tones = 1 - drawn(disc().difference(disc(15, 15, 5)))
    Image.fromarray(np.round(tones * 255).astype(np.uint8)).save(path)
    return path


@pytest.fixture
def leaf(tmp_path):
    """White paper, a gray leaf, black veins."""
    sheet = Image.new("L", (600, 480), 255)
    pen = ImageDraw.Draw(sheet)
    pen.ellipse((60, 60, 540, 420), fill=128)
    for x in (200, 300, 400):
        pen.rectangle((x - 6, 140, x + 6, 340), fill=0)
    path = tmp_path / "leaf.png"
    sheet.save(path)
    return path


def report(nebrel, *arguments) -> dict:
    code, out, err = nebrel(*arguments, "--json")
    assert code == 0, err or out
    return json.loads(out)


@pytest.mark.parametrize("ending", ["svg", "dxf"])
def test_a_picture_is_traced_to_true_size(nebrel, ring, tmp_path, ending):
    target = tmp_path / f"ring.{ending}"
    found = report(nebrel, "trace", ring, "-o", target, "--width", "30")
    assert set(found) >= KEYS
    assert (found["regions"], found["holes"], found["open_ends"]) == (1, 1, 0)
    assert found["area_mm2"] == pytest.approx(np.pi * (144 - 25), rel=0.002)
    assert found["max_deviation_mm"] <= 0.1
    back = read_drawing(target.read_bytes(), target.name)
    assert back.size_given
    assert figure_region(back.figure).area == pytest.approx(found["area_mm2"], rel=1e-3)


def test_tones_and_centre_lines(nebrel, leaf, tmp_path):
    tones = report(nebrel, "trace", leaf, "-o", tmp_path / "t.svg", "--width", "60", "--tones", "3")
    assert tones["area_mm2"] == pytest.approx(60 * 60 * 480 / 600, rel=1e-6)
    lines = report(nebrel, "trace", leaf, "-o", tmp_path / "c.svg", "--width", "60", "--level", "0.3", "--centre-line")
    assert lines["open_ends"] == 6
    code, _, err = nebrel("trace", leaf, "-o", tmp_path / "x.svg", "--tones", "3", "--centre-line")
    assert (code, "one of them" in err) == (2, True)


@pytest.mark.parametrize(
    "options",
    [
        (),
        ("--base", "outline:3x1.2", "--edge", "bevel:0.5"),
        ("--base", "rectangle:4x2", "--cut"),
        ("--shell", "inside:1.5"),
        ("--inlay", "0.15"),
        ("--tones", "3", "--heights", "4,2,0"),
    ],
)
def test_outlines_become_closed_solids(nebrel, leaf, tmp_path, options):
    target = tmp_path / "made.stl"
    found = report(nebrel, "make", "outline", leaf, "-o", target, "--width", "50", "--thickness", "3", *options)
    assert (found["closed"], found["manifold"], found["self_crossings"]) == (True, True, 0)
    assert check_soundness(read_mesh(target.read_bytes(), target.name).mesh).sound


@pytest.mark.deep
def test_the_width_is_that_of_the_outline(nebrel, leaf, tmp_path):
    found = report(nebrel, "make", "outline", leaf, "-o", tmp_path / "made.stl", "--width", "50")
    assert found["size_mm"][0] == pytest.approx(50, abs=0.001)
    cutter = report(
        nebrel, "make", "cutter", leaf, "-o", tmp_path / "cut.3mf", "--width", "60", "--lines", "4", "--line", "0.45",
        "--height", "16", "--edge", "0.8x4", "--rim", "4x2.5",
    )  # fmt: skip
    assert cutter["size_mm"] == pytest.approx((68, 68 - 60 + 60 * 361 / 481, 16), abs=0.1)
    stamp = report(
        nebrel, "make", "stamp", leaf, "-o", tmp_path / "s.stl", "--width", "40", "--relief", "2", "--plate", "3"
    )
    assert stamp["size_mm"][2] == pytest.approx(5, abs=0.001)


@pytest.mark.deep
def test_an_imprint_comes_from_the_other_tones(nebrel, leaf, tmp_path):
    plain = report(nebrel, "make", "cutter", leaf, "-o", tmp_path / "a.stl")
    pressed = report(nebrel, "make", "cutter", leaf, "-o", tmp_path / "b.stl", "--tones", "3", "--imprint", "3")
    assert pressed["volume_mm3"] > plain["volume_mm3"] + 1000
    assert pressed["closed"]


def test_drawings_are_made_solid_and_asked_for_their_unit(nebrel, tmp_path):
    drawing = tmp_path / "plate.svg"
    drawing.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 40"><rect width="60" height="40"/></svg>'
    )
    found = report(nebrel, "make", "outline", drawing, "-o", tmp_path / "p.stl", "--width", "30", "--thickness", "2")
    assert found["volume_mm3"] == pytest.approx(30 * 20 * 2, rel=1e-5)
    traced = report(nebrel, "trace", drawing, "-o", tmp_path / "p.dxf", "--width", "60", "--unit", "mm")
    assert traced["area_mm2"] == pytest.approx(2400, rel=1e-5)


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("make", "outline", "leaf.png", "-o", "a.stl", "--edge", "bevel"), "a size is needed too"),
        (("make", "outline", "leaf.png", "-o", "a.stl", "--base", "outline:3"), "two measures like"),
        (("make", "outline", "leaf.png", "-o", "a.stl", "--cut"), "no base to cut"),
        (("make", "cutter", "leaf.png", "-o", "a.stl", "--height", "6"), "Edge and rim take"),
        (("make", "stamp", "leaf.png", "-o", "a.txt"), "does not end in"),
        (("trace", "leaf.png", "-o", "a.svg", "--level", "bright"), "auto or a tone"),
        (("trace", "leaf.png", "-o", "a.svg", "--level", "1.5"), "from 0 to 1"),
        (("trace", "none.png", "-o", "a.svg"), "There is no file"),
    ],
)
def test_bad_input_gets_one_sentence(nebrel, leaf, monkeypatch, arguments, words):
    monkeypatch.chdir(leaf.parent)
    code, _, err = nebrel(*arguments)
    assert code == 2
    assert words in err
    assert err.count("\n") == 1


def test_a_picture_with_nothing_beyond_the_level_is_refused(nebrel, tmp_path):
    path = tmp_path / "plain.png"
    held = io.BytesIO()
    Image.new("L", (50, 50), 200).save(held, "PNG")
    path.write_bytes(held.getvalue())
    code, _, err = nebrel("trace", path, "-o", tmp_path / "a.svg", "--level", "0.5", "--ink", "dark")
    assert (code, "Nothing of the picture is beyond the level" in err) == (2, True)


def test_ten_thousand_specks_are_left_out(nebrel, tmp_path):
    rng = np.random.default_rng(2)
    sheet = np.full((1000, 1000), 255, np.uint8)
    rows, columns = rng.integers(2, 997, (2, 10_000))
    sheet[rows, columns] = 0
    sheet[300:700, 300:700] = 0
    path = tmp_path / "dust.png"
    Image.fromarray(sheet).save(path)
    found = report(nebrel, "trace", path, "-o", tmp_path / "a.svg", "--width", "100", "--smallest", "1")
    assert (found["regions"], found["holes"]) == (1, 0)
    assert found["area_mm2"] == pytest.approx(40 * 40, rel=0.01)


MARK = b'<svg xmlns="http://www.w3.org/2000/svg" %b><rect x="10" y="5" width="20" height="10"/></svg>'
IN_MM = b'width="40mm" height="20mm" viewBox="0 0 40 20"'


@pytest.fixture
def mark(tmp_path):
    path = tmp_path / "mark.svg"
    path.write_bytes(MARK % IN_MM)
    return path


@pytest.mark.parametrize(
    ("head", "options", "wide", "source"),
    [
        (IN_MM, (), 20, "stated"),
        (IN_MM, ("--width", "50"), 50, "asked"),
        (b'viewBox="0 0 40 20"', ("--unit", "in"), 20 * 25.4, "asked"),
        (b'viewBox="0 0 40 20"', (), 60, "assumed"),
        (b'width="40" height="20"', (), 60, "assumed"),
        (b'width="80mm" viewBox="0 0 40 20"', (), 40, "stated"),
    ],
)
def test_a_drawing_keeps_the_size_that_it_states(nebrel, tmp_path, head, options, wide, source):
    path = tmp_path / "mark.svg"
    path.write_bytes(MARK % head)
    traced = report(nebrel, "trace", path, "-o", tmp_path / "out.svg", *options)
    made = report(nebrel, "make", "outline", path, "-o", tmp_path / "out.stl", *options)
    assert traced["size_mm"][0] == pytest.approx(wide, rel=1e-6)
    assert made["size_mm"][0] == pytest.approx(wide, rel=1e-6)
    assert traced["size_source"] == made["size_source"] == source


def test_a_picture_without_a_width_is_told_to_be_assumed(nebrel, leaf, tmp_path):
    made = report(nebrel, "make", "outline", leaf, "-o", tmp_path / "a.stl")
    assert made["size_source"] == "assumed"
    assert made["size_mm"][0] == pytest.approx(60, abs=1e-3)
    assert (made["ink"], made["ink_sure"]) == ("dark", 1.0)


def test_what_a_picture_shows_besides_its_ink_is_told(nebrel, tmp_path):
    sheet = Image.new("L", (300, 300), 255)
    pen = ImageDraw.Draw(sheet)
    pen.ellipse((40, 40, 260, 260), fill=190)
    pen.rectangle((120, 60, 180, 240), fill=0)
    sheet.save(tmp_path / "two.png")
    pen.ellipse((0, 0, 300, 300), fill=255)
    pen.rectangle((120, 60, 180, 240), fill=0)
    sheet.save(tmp_path / "one.png")
    assert report(nebrel, "trace", tmp_path / "one.png", "-o", tmp_path / "a.svg")["differs_from_picture"] < 0.003
    assert report(nebrel, "trace", tmp_path / "two.png", "-o", tmp_path / "a.svg")["differs_from_picture"] > 0.3
    _, said, _ = nebrel("trace", tmp_path / "two.png", "-o", tmp_path / "a.svg")
    assert "caution: Tones between ink and paper" in said
    asked = report(nebrel, "trace", tmp_path / "two.png", "-o", tmp_path / "a.svg", "--level", "0.4")
    assert "differs_from_picture" not in asked


def test_the_page_of_a_picture_is_kept(nebrel, leaf, tmp_path):
    report(nebrel, "trace", leaf, "-o", tmp_path / "a.svg", "--width", "60")
    assert 'width="60mm" height="48mm" viewBox="0 0 60 48"' in (tmp_path / "a.svg").read_text()


@pytest.mark.parametrize("side", [16, 600])
def test_a_square_is_as_large_as_its_pixels(nebrel, tmp_path, side):
    sheet = Image.new("L", (side, side), 255)
    ImageDraw.Draw(sheet).rectangle((side // 4, side // 4, 3 * side // 4 - 1, 3 * side // 4 - 1), fill=0)
    sheet.save(tmp_path / "square.png")
    found = report(nebrel, "trace", tmp_path / "square.png", "-o", tmp_path / "a.svg", "--width", "60")
    assert found["size_mm"] == pytest.approx((30, 30), rel=1e-3)


def test_the_source_is_never_written_over(nebrel, mark):
    before = mark.read_bytes()
    code, _, err = nebrel("trace", mark, "-o", mark)
    assert (code, "overwritten" in err) == (2, True)
    assert mark.read_bytes() == before


def test_what_was_left_out_reaches_the_terminal(nebrel, tmp_path):
    path = tmp_path / "mark.svg"
    path.write_bytes((MARK % IN_MM).replace(b"</svg>", b'<text font-family="Other">a</text></svg>'))
    found = report(nebrel, "trace", path, "-o", tmp_path / "a.svg")
    assert any("Other" in remark for remark in found["remarks"])
    _, out, _ = nebrel("trace", path, "-o", tmp_path / "a.svg")
    assert "left out: Text in “Other”" in out


def test_a_close_call_is_told_and_can_be_settled(nebrel, tmp_path):
    sheet = Image.new("L", (200, 100), 255)
    ImageDraw.Draw(sheet).rectangle((0, 0, 99, 99), fill=0)
    sheet.save(tmp_path / "halves.png")
    guessed = report(nebrel, "make", "outline", tmp_path / "halves.png", "-o", tmp_path / "a.stl", "--width", "30")
    assert any(finding["measure"] == "ink" for finding in guessed["findings"])
    other = "bright" if guessed["ink"] == "dark" else "dark"
    told = report(
        nebrel, "make", "outline", tmp_path / "halves.png", "-o", tmp_path / "a.stl", "--width", "30", "--ink", other
    )
    assert "ink" not in told
    assert not any(finding["measure"] == "ink" for finding in told["findings"])


def test_what_touches_in_a_point_is_told_alike_by_make_and_check(nebrel, tmp_path):
    path = tmp_path / "two.svg"
    path.write_bytes((MARK % IN_MM).replace(b"</svg>", b'<rect x="30" y="0" width="10" height="5"/></svg>'))
    code, out, _ = nebrel("make", "outline", path, "-o", tmp_path / "two.stl", "--json")
    made = json.loads(out)
    assert (code, made["manifold"]) == (1, False)
    assert any(finding["measure"] == "touching" for finding in made["findings"])
    code, out, _ = nebrel("check", tmp_path / "two.stl", "--json")
    assert (code, json.loads(out)["manifold"]) == (1, False)


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("cutter", "leaf.png", "--imprint", "3"), "needed with it"),
        (("cutter", "leaf.png", "--tones", "3", "--imprint", "20"), "less than its height"),
        (("outline", "leaf.png", "--cut", "--inlay", "0.1"), "--cut changes nothing beside --inlay"),
        (("outline", "leaf.png", "--shell", "inside:1", "--inlay", "0.1"), "--shell changes nothing beside --inlay"),
        (("outline", "leaf.png", "--both"), "the edge is square"),
        (("outline", "leaf.png", "--tones", "2", "--heights", "1,2,3"), "names 3 heights for 2 layers"),
        (("outline", "leaf.png", "--smooth", "1.5"), "from 0 to 1"),
        (("outline", "leaf.png", "--tones", "3", "--level", "0.5"), "one of them"),
        (("outline", "leaf.png", "--unit", "in"), "is a picture"),
        (("outline", "mark.svg", "--tones", "3"), "is for pictures"),
        (("outline", "mark.svg", "--ink", "dark"), "is for pictures"),
        (("outline", "mark.svg", "--unit", "in"), "so --unit does not apply"),
        (("outline", "mark.svg", "--edge-profile", "pillow:3"), "--edge-profile"),
    ],
)
def test_options_that_change_nothing_are_refused(nebrel, leaf, mark, monkeypatch, options, words):
    monkeypatch.chdir(leaf.parent)
    kind, file, *more = options
    code, _, err = nebrel("make", kind, file, "-o", "a.stl", *more)
    assert code == 2
    assert words in err
    assert not (leaf.parent / "a.stl").exists()


def test_a_raised_ground_is_as_wide_as_asked(nebrel, leaf, tmp_path):
    made = report(
        nebrel, "make", "outline", leaf, "-o", tmp_path / "a.stl", "--width", "50", "--tones", "3", "--heights", "1,2,3"
    )
    assert made["size_mm"][0] == pytest.approx(50, abs=1e-3)
