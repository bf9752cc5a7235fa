"""Copies of one's work, by command."""

import json

import pytest

from nebrel.jobs.workshop import open_workshop
from nebrel.settings import Settings


@pytest.fixture
def here(tmp_path, hill):
    """A data folder with a piece that has a version."""
    workshop = open_workshop(Settings(data_dir=tmp_path / "here"))
    state = workshop.start_piece(hill, "hill.png", "Hill")
    workshop.versions.name(state.id, "First")
    workshop.close()
    return tmp_path / "here"


def titles(folder) -> list[str]:
    workshop = open_workshop(Settings(data_dir=folder))
    try:
        return [str(state.document["title"]) for state in workshop.pieces.all()]
    finally:
        workshop.close()


def test_a_piece_goes_to_another_shelf_as_a_file(nebrel, tmp_path, here):
    file, there = tmp_path / "hill.piece.zip", tmp_path / "there"
    code, out, _ = nebrel("save-piece", "hill", "-o", file, "--data", here)
    assert code == 0 and "Hill" in out
    code, out, _ = nebrel("open-piece", file, "--data", there)
    assert code == 0 and out == "Hill is on the shelf, with 1 version.\n"
    assert titles(there) == ["Hill"]


def test_what_is_no_piece_is_one_sentence(nebrel, tmp_path, here):
    file = tmp_path / "hill.piece.zip"
    file.write_bytes(b"PK nothing")
    for words, told in (
        (("save-piece", "dale", "-o", file), "called dale"),
        (("save-piece", "hill", "-o", tmp_path / "hill.zip"), ".piece.zip"),
        (("open-piece", file), "piece.json"),
        (("open-piece", tmp_path / "none.piece.zip"), "There is no file"),
    ):
        code, _, error = nebrel(*words, "--data", here)
        assert code == 2 and told in error and error.count("\n") == 1
    assert file.read_bytes() == b"PK nothing"


def test_a_backup_brings_all_back_and_tells_what_it_holds(nebrel, tmp_path, here):
    file, there = tmp_path / "all.nebrel", tmp_path / "there"
    code, out, _ = nebrel("backup", file, "--data", here, "--json")
    assert code == 0 and json.loads(out)["pieces"] == 1
    code, out, _ = nebrel("restore", file, "--data", there)
    assert code == 0 and "1 piece" in out
    assert titles(there) == ["Hill"]


def test_what_a_folder_holds_is_told_and_can_be_let_go(nebrel, here):
    code, out, _ = nebrel("data", "--data", here, "--json")
    told = json.loads(out)
    assert code == 0 and told["sources"]["files"] == 1 and told["removed_pieces"] == 0
    code, out, _ = nebrel("data", "--data", here, "--thin-history", "--forget-results", "--empty-removed")
    assert code == 0 and "0 older states" in out and "free on the disk" in out
