"""`nebrel make mould`: from a mesh to what it is cast in."""

import json

import pytest
import trimesh

from nebrel.core.mesh.formats import read_mesh


@pytest.fixture
def ball(tmp_path):
    path = tmp_path / "ball.stl"
    trimesh.creation.icosphere(3, 10).export(path)
    return path


def test_halves_of_a_ball_close_on_it(nebrel, ball, tmp_path):
    out = tmp_path / "mould.3mf"
    code, text, _ = nebrel(
        "make", "mould", ball, "-o", out, "--kind", "halves", "--shrink", "2", "--rim", "7", "--detail", "0.3", "--json"
    )
    assert code == 0
    report = json.loads(text)
    assert report["closed"] and report["shells"] == 2
    told = report["mould"]
    assert told["parts"] == 2 and told["plane_mm"] == pytest.approx(10 / 0.98, abs=0.3)
    assert told["reaches_in_mm"] <= 2 * 0.02 and told["least_draft_deg"] >= 2.5
    mesh = read_mesh(out.read_bytes(), out.name, "mm").mesh
    assert len(mesh.faces) == report["triangles"]


def test_words_tell_what_it_holds(nebrel, ball, tmp_path):
    code, text, _ = nebrel("make", "mould", ball, "-o", tmp_path / "mould.stl", "--detail", "0.4")
    assert code == 0 and "cm³" in text and "the mould fills them" in text


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--keys", "4"), "without --kind halves"),
        (("--kind", "both"), "open, halves or die"),
        (("--kind", "halves", "--spout", "behind:3"), "none, below"),
        (("--kind", "halves", "--keys", "30"), "do not fit on a rim"),
        (("--plane", "90"), "parting plane"),
        (("--shrink", "90"), "Shrinkage"),
        (("--draft", "steep"), "an angle"),
    ],
)
def test_what_cannot_be_is_refused_in_one_sentence(nebrel, ball, tmp_path, options, words):
    out = tmp_path / "mould.stl"
    code, _, errors = nebrel("make", "mould", ball, "-o", out, *options)
    assert code == 2 and words in errors and not out.exists()
