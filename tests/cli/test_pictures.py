"""`nebrel prepare` and `nebrel audit`."""

import json

import numpy as np
import pytest
from PIL import Image

from nebrel.core.picture import read_picture

FINDING_KEYS = {"code", "severity", "value", "unit", "message", "fix"}


@pytest.fixture
def prepared(nebrel, picture, tmp_path):
    """Prepare the hill with some words; returns the picture that was written."""

    def run(*words: object, ending: str = "png"):
        out = tmp_path / f"out.{ending}"
        code, text, err = nebrel("prepare", picture, "-o", out, *words)
        assert (code, err) == (0, ""), err
        assert str(out) in text
        return read_picture(out.read_bytes())

    return run


def test_without_ops_the_picture_stays_as_it_is(prepared, hill):
    for ending in ("png", "tif"):
        again = prepared(ending=ending)
        assert np.array_equal(again.tones, read_picture(hill).tones)
        assert again.facts.bit_depth == 16


def test_the_file_says_how_large_it_is(prepared):
    for ending in ("png", "tif"):
        facts = prepared("--width", "80", ending=ending).facts
        assert 25.4 / facts.dpi * (facts.width_px - 1) == pytest.approx(80, rel=1e-3)


def test_shorthands_work_in_the_order_given(prepared):
    rim_last = prepared("--invert", "--border", "4mm:black")
    rim_first = prepared("--border", "4mm:black", "--invert")
    assert (rim_last.tones[0, 0], rim_first.tones[0, 0]) == (0.0, 1.0)
    assert rim_last.shape == rim_first.shape == (104, 134)


def test_every_shorthand_does_what_its_name_says(prepared, hill):
    plain = read_picture(hill).tones
    assert np.allclose(prepared("--invert").tones, 1 - plain, atol=2 / 65535)
    assert set(np.unique(prepared("--tones", "3").tones)) <= set(np.unique(prepared("--tones=3").tones))
    assert len(np.unique(prepared("--tones", "3").tones)) == 3
    snapped = prepared("--snap", "0.1").tones
    assert (snapped[plain < 0.1] == 0).all()
    assert (snapped[plain > 0.9] == 1).all()
    parted = prepared("--threshold", "0.4").tones
    assert (parted[plain > 0.47] == 1).all()
    assert (parted[plain < 0.33] == 0).all()
    assert len(np.unique(np.round(prepared("--threshold", "auto").tones))) == 2
    assert prepared("--resize", "60x").shape == (45, 60)
    assert prepared("--cut-out", "auto").coverage[0, 0] == 0
    assert np.abs(prepared("--denoise", "0.2mm").tones - plain).max() < 0.1
    assert prepared("--auto-level").tones.max() == 1


def test_ops_from_a_file(prepared, tmp_path):
    ops = tmp_path / "ops.json"
    ops.write_text(json.dumps([{"kind": "crop", "box": {"right": 0.5}}, {"kind": "invert", "on": False}]))
    assert prepared("--ops", ops, "--invert").shape == (90, 61)


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (["--sharpen", "3"], "--sharpen is not known"),
        (["--snap", "0.9"], "a number from 0 to 0.5"),
        (["--snap"], "needs a value"),
        (["--threshold", "bright"], "--threshold is “bright”"),
        (["--border", "wide"], "4mm:black"),
        (["--border", "60mm"], "borders take up"),
        (["--cut-out", "by-hand"], "auto or alpha"),
        (["--resize", "600x400x"], "a width in pixels"),
        (["--width", "0"], "Width is 0 mm"),
        (["--ops", "missing.json"], "missing.json"),
    ],
)
def test_bad_words_get_one_sentence(nebrel, picture, tmp_path, words, told):
    code, out, err = nebrel("prepare", picture, "-o", tmp_path / "out.png", *words)
    assert (code, out) == (2, "")
    assert told in err
    assert err.count("\n") == 1
    assert not (tmp_path / "out.png").exists()


def test_ops_that_are_no_list_are_refused(nebrel, picture, tmp_path):
    ops = tmp_path / "ops.json"
    for text in ("{", '{"kind": "invert"}', "[1, 2]"):
        ops.write_text(text)
        code, _, err = nebrel("prepare", picture, "-o", tmp_path / "out.png", "--ops", ops)
        assert code == 2
        assert str(ops) in err


def test_audit_tells_findings_by_code(nebrel, tmp_path):
    rng = np.random.default_rng(3)
    sheet = np.full((400, 600), 0.88) + rng.normal(0, 0.02, (400, 600))
    sheet[180:183, 100:500] = 0.05
    path = tmp_path / "sheet.png"
    Image.fromarray((np.clip(sheet, 0, 1) * 255).astype(np.uint8)).save(path)
    code, text, err = nebrel("audit", path, "--width", "80", "--relief", "3", "--line", "0.5", "--json")
    assert (code, err) == (0, "")
    findings = json.loads(text)["findings"]
    assert all(set(finding) == FINDING_KEYS for finding in findings)
    codes = {finding["code"]: finding for finding in findings}
    assert {"noise", "near-white", "thin-stroke"} <= set(codes)
    assert codes["thin-stroke"]["value"] == pytest.approx(3 * 80 / 599, abs=80 / 599)
    assert codes["thin-stroke"]["unit"] == "mm"
    assert codes["noise"]["fix"]["kind"] == "denoise"
    code, text, _ = nebrel("audit", path)
    assert code == 0
    assert "[near-white]" in text
