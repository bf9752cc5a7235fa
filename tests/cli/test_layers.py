"""`nebrel layers`, as a person asks it."""

import json

import manifold3d
import pytest
from PIL import Image

from nebrel.core.csg.boolean import mesh_of
from nebrel.core.mesh.formats import read_mesh, write_mesh
from nebrel.jobs.workshop import open_workshop
from nebrel.settings import Settings

KEYS = {
    "layers", "height_mm", "layer_mm", "cusp_mm", "thin_spots", "awkward_walls", "islands", "overhang_mm2",
    "support_mm3", "bridges",
    "minutes", "minutes_of", "grams", "support_grams", "findings",
}  # fmt: skip


@pytest.fixture
def shelf_board(tmp_path):
    """A board on two uprights, 30 mm apart."""
    solid = manifold3d.Manifold.cube((40, 10, 3)).translate((0, 0, 10))
    for x in (0, 35):
        solid += manifold3d.Manifold.cube((5, 10, 11)).translate((x, 0, 0))
    path = tmp_path / "board.stl"
    with path.open("wb") as file:
        write_mesh(mesh_of(solid), file, "stl")
    return path


def test_the_report_has_the_keys_that_were_promised(nebrel, shelf_board):
    code, out, _ = nebrel("layers", shelf_board, "--json")
    told = json.loads(out)
    assert code == 0 and set(told) == KEYS
    assert told["layers"] == 65
    [bridge] = told["bridges"]
    assert bridge["layer"] == 51 and bridge["span_mm"] == pytest.approx(30, abs=0.3)
    assert told["minutes"] == pytest.approx(sum(told["minutes_of"].values()), abs=0.1)
    assert told["support_mm3"] == pytest.approx(30 * 10 * 10, rel=0.05)


def test_options_count(nebrel, shelf_board):
    def told(*options: object) -> dict:
        return json.loads(nebrel("layers", shelf_board, "--json", *options)[1])

    assert told("--layer", 0.1)["layers"] == 130
    assert told("--layer", 0.2, "--first", 0.3)["layers"] == 65
    assert told("--bridge", 40)["support_mm3"] == 0
    assert told("--infill", 1)["grams"] > 1.2 * told()["grams"]
    assert told("--line", 0.8)["minutes"] < told()["minutes"]


def test_in_words_and_as_drawings(nebrel, shelf_board, tmp_path):
    code, out, _ = nebrel("layers", shelf_board, "-o", tmp_path / "layers.svg")
    assert code == 0 and "65 layers" in out and "lines hang over 30.0 mm" in out
    assert (tmp_path / "layers.svg").read_bytes().count(b"<g ") == 65
    code, _, _ = nebrel("layers", shelf_board, "-o", tmp_path / "pictures")
    pictures = sorted((tmp_path / "pictures").iterdir())
    assert code == 0 and len(pictures) == 65
    assert len({Image.open(path).size for path in pictures}) == 1


def test_a_piece_is_looked_at_with_its_own_printer(nebrel, tmp_path, hill, monkeypatch):
    monkeypatch.setenv("NEBREL_DATA_DIR", str(tmp_path / "data"))
    workshop = open_workshop(Settings())
    printing = {"infill": 1.0, "down": [0, -1, 0]}
    workshop.start_piece(hill, "hill.png", "Hill", maker={"layer_mm": 0.3})
    workshop.start_piece(hill, "hill.png", "Stands", maker={"layer_mm": 0.3}, printing=printing)
    workshop.close()
    told, standing = (json.loads(nebrel("layers", piece, "--json")[1]) for piece in ("hill", "stands"))
    assert told["layers"] == pytest.approx(told["height_mm"] / 0.3, abs=1)
    assert told["islands"] == []
    assert standing["height_mm"] == pytest.approx(80 * 89 / 119, abs=0.001)
    lighter = json.loads(nebrel("layers", "stands", "--infill", 0.1, "--json")[1])
    assert lighter["grams"] < standing["grams"]


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("--layer", 0.5), "higher than a line"),
        (("--layer", 0.00001), "layers"),
        (("--steepest", 95), "95°"),
        (("-o", "layers.pdf"), ".svg"),
    ],
)
def test_what_cannot_be_is_one_sentence(nebrel, shelf_board, options, words):
    code, _, told = nebrel("layers", shelf_board, *options)
    assert code == 2 and words in told and told.count("\n") == 1


def test_an_open_mesh_is_refused(nebrel, tmp_path):
    path = tmp_path / "open.off"
    path.write_text("OFF\n3 1 0\n0 0 0\n9 0 0\n0 9 5\n3 0 1 2\n")
    code, _, told = nebrel("layers", path)
    assert code == 2 and "not closed" in told


def test_the_best_turn_is_written_and_measured_against_what_came(nebrel, shelf_board, tmp_path):
    code, out, _ = nebrel("turn", shelf_board, "-o", tmp_path / "turned.stl", "--json")
    told = json.loads(out)
    assert code == 0 and set(told) == {"written", "turns", "before", "after"}
    assert told["after"]["support_mm3"] < 0.02 * told["before"]["support_mm3"]
    again = json.loads(nebrel("layers", tmp_path / "turned.stl", "--json")[1])
    assert again["support_mm3"] == pytest.approx(told["after"]["support_mm3"], rel=0.01, abs=1)
    scores = [turn["score"] for turn in told["turns"]]
    assert scores == sorted(scores)
    code, out, _ = nebrel("turn", shelf_board, "-o", tmp_path / "other.stl", "--best", 2)
    assert code == 0 and "turn 2 of" in out


def test_many_meshes_become_one_plate_of_objects(nebrel, shelf_board, tmp_path):
    path = tmp_path / "plate.3mf"
    code, out, _ = nebrel("plate", shelf_board, shelf_board, "-o", path, "--copies", 2, "--bed", "100x60", "--json")
    told = json.loads(out)
    assert code == 0 and len(told["pieces"]) == 4
    names = ["board 1", "board 2", "board 1", "board 2"]
    assert [piece["name"] for piece in told["pieces"]] == names
    read = read_mesh(path.read_bytes(), "plate.3mf")
    assert [name for name, _ in read.objects] == names
    checked = json.loads(nebrel("check", path, "--json")[1])
    assert checked["closed"] and checked["shells"] == 4


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("turn", "--best", 99), "there are"),
        (("turn", "--weight", "beauty:2"), "beauty"),
        (("turn", "--weight", "support"), "support:2"),
        (("plate", "--bed", "10x10"), "more than the bed"),
        (("plate", "--bed", "wide"), "220x220"),
        (("plate", "--copies", 0), "--copies 0"),
    ],
)
def test_what_cannot_be_turned_or_laid_is_one_sentence(nebrel, shelf_board, tmp_path, words, told):
    output = tmp_path / "out.stl"
    code, _, error = nebrel(words[0], shelf_board, "-o", output, *words[1:])
    assert code == 2 and told in error and error.count("\n") == 1
    assert not output.exists()
