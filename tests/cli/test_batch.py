"""`nebrel batch` as a person runs it, with workers of its own."""

import csv
import json

import numpy as np
import pytest

import nebrel as interface


@pytest.fixture
def pictures(tmp_path):
    folder = tmp_path / "pictures"
    folder.mkdir()
    for name, height in (("low", 0.7), ("tall", 1.0)):
        tones = np.clip(height - np.hypot(*np.mgrid[-1:1:40j, -1:1:40j]), 0, 1)
        (folder / f"{name}.png").write_bytes(interface.read_picture(tones).data)
    (folder / "broken.png").write_bytes(b"no")
    (folder / "notes.txt").write_text("not one")
    return folder


def test_what_is_asked_of_a_cluster_is_refused_at_once(nebrel, pictures, tmp_path):
    for asked, words in (
        (("--scheduler", "10.0.0.5"), "--scheduler is 10.0.0.5"),
        (("--results", "s3://bucket"), "--results has no effect without --scheduler"),
        (("--scheduler", "tcp://127.0.0.1:9"), "There is no scheduler at tcp://127.0.0.1:9"),
    ):
        code, _, refused = nebrel("batch", pictures, "--recipe", "Coin", "-o", tmp_path / "out", "--resume", *asked)
        assert (code, words in refused) == (2, True)


def test_a_folder_by_a_recipe_and_again(nebrel, pictures, tmp_path):
    out = tmp_path / "out"
    code, told, lines = nebrel("batch", pictures, "--recipe", "Coin", "-o", out)
    assert code == 1
    assert "2 of 3 done" in told
    assert "1/3  refused  broken.png: broken.png is not a picture" in lines
    assert "3/3  done" in lines
    with (out / "report.csv").open(newline="") as file:
        rows = {row["title"]: row for row in csv.DictReader(file)}
    assert {name: row["state"] for name, row in rows.items()} == {"broken": "refused", "low": "done", "tall": "done"}
    assert (out / "sheet.pdf").read_bytes().startswith(b"%PDF")
    assert interface.check(interface.read_mesh(out / rows["tall"]["file"])).sound
    assert not (out / ".nebrel-batch" / "work").exists()

    code, _, refused = nebrel("batch", pictures, "--recipe", "Coin", "-o", out)
    assert (code, "add --resume to go on" in refused) == (2, True)
    (pictures / "broken.png").unlink()
    code, told, lines = nebrel("batch", pictures, "--recipe", "Coin", "-o", out, "--resume", "--json")
    report = json.loads(told)
    assert (code, lines) == (0, "")
    assert (report["done"], report["earlier"], report["not_done"], report["unsound"]) == (2, 2, 0, 0)
    assert report["pieces"][0]["report"]["triangles"] == int(rows["low"]["triangles"])


def test_a_folder_that_cannot_be_written_into_is_one_sentence(nebrel, pictures, tmp_path):
    (tmp_path / "out").mkdir()
    (tmp_path / "out" / ".nebrel-batch").write_text("in the way")
    code, _, refused = nebrel("batch", pictures, "--recipe", "Coin", "-o", tmp_path / "out", "--resume")
    assert code == 2
    assert "cannot be written into" in refused and refused.count("\n") == 1
    code, _, refused = nebrel("batch", pictures, "--recipe", "Coin", "-o", pictures / "low.png")
    assert (code, "is a file; the name of a folder is needed" in refused) == (2, True)


@pytest.mark.parametrize(
    ("options", "sentence"),
    [
        (["--recipe", "Coin", "--jobs", "0"], "--jobs is 0; 1 to 16"),
        (["--recipe", "Coin", "--format", "dwg"], "--format is “dwg”"),
        (["--recipe", "Cake"], "There is no ready recipe named Cake; Night-light"),
        (["--recipe", "cake.json"], "There is no file cake.json"),
    ],
)
def test_what_is_wrong_is_said_before_anything_is_made(nebrel, pictures, tmp_path, options, sentence):
    code, _, refused = nebrel("batch", pictures, "-o", tmp_path / "out", *options)
    assert code == 2
    assert sentence in refused
    assert not (tmp_path / "out").exists()
