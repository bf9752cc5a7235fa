"""What is kept outlives a restart, whole or not at all."""

import os
import sqlite3

import pytest

from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.store.blobs import BlobFolder, KeptFolder, sweep, write_atomically
from nebrel.store.database import newest_version, open_database
from nebrel.store.filaments import Filaments
from nebrel.store.jobs import JobRecords
from nebrel.store.kept_parts import bits_in
from nebrel.store.pieces import Pieces


@pytest.fixture
def path(tmp_path):
    return tmp_path / "data" / "nebrel.sqlite"


@pytest.fixture
def pieces(path):
    database = open_database(path)
    yield Pieces(database)
    database.close()


def titled(title: str) -> dict[str, object]:
    return {"title": title}


def test_undo_and_redo_survive_a_restart(path):
    database = open_database(path)
    pieces = Pieces(database)
    piece = pieces.create(titled("one"), "Started")
    second = pieces.revise(piece.id, piece.revision, titled("two"), "To two")
    third = pieces.revise(piece.id, second.revision, titled("three"), "To three")
    assert pieces.undo(piece.id, third.revision).document == titled("two")
    database.close()

    database = open_database(path)
    pieces = Pieces(database)
    state = pieces.get(piece.id)
    assert (state.document, state.undoes, state.redoes) == (titled("two"), "To two", "To three")
    assert pieces.redo(piece.id, second.revision).document == titled("three")
    state = pieces.redo(piece.id, third.revision)
    assert state.document == titled("three")
    for _ in range(5):
        state = pieces.undo(piece.id, state.revision)
    assert (state.document, state.undoes) == (titled("one"), None)
    database.close()


def test_an_edit_after_undo_starts_a_new_branch(pieces):
    piece = pieces.create(titled("one"), "Started")
    two = pieces.revise(piece.id, piece.revision, titled("two"), "To two")
    pieces.undo(piece.id, two.revision)
    other = pieces.revise(piece.id, piece.revision, titled("other"), "To other")
    pieces.undo(piece.id, other.revision)
    assert pieces.redo(piece.id, piece.revision).document == titled("other")


def test_a_stale_edit_is_refused(pieces):
    piece = pieces.create(titled("one"), "Started")
    pieces.revise(piece.id, piece.revision, titled("two"), "To two")
    with pytest.raises(ConflictError):
        pieces.revise(piece.id, piece.revision, titled("late"), "Late")
    assert pieces.get(piece.id).document == titled("two")


def test_removed_pieces_come_back(pieces):
    piece = pieces.create(titled("one"), "Started")
    pieces.set_removed(piece.id, True)
    assert pieces.all() == []
    pieces.set_removed(piece.id, False)
    assert [state.id for state in pieces.all()] == [piece.id]
    with pytest.raises(NotFoundError):
        pieces.get("nothing")


def test_the_database_keeps_wal_and_foreign_keys(path, pieces):
    pieces.create(titled("one"), "Started")
    with sqlite3.connect(path) as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone() == ("wal",)
        assert connection.execute("SELECT version_num FROM alembic_version").fetchone() == (newest_version(),)


def test_migrations_make_the_tables_that_the_code_knows(path):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext
    from sqlalchemy import create_engine

    from nebrel.store.tables import Table

    open_database(path).close()
    engine = create_engine(f"sqlite:///{path}")
    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Table.metadata) == []
    engine.dispose()


def test_interrupted_jobs_are_told_from_ended_ones(path):
    database = open_database(path)
    piece = Pieces(database).create(titled("one"), "Started")
    jobs = JobRecords(database)
    running, done = (jobs.create("build", piece.id, piece.revision) for _ in range(2))
    jobs.update(running.id, "running", stage="Triangulating", fraction=0.4)
    jobs.update(done.id, "done", result={})
    assert jobs.mark_interrupted() == 1
    assert {job.id: job.state for job in jobs.recent()} == {running.id: "interrupted", done.id: "done"}
    assert jobs.update(done.id, "running").state == "done"
    database.close()


class TestBlobs:
    def test_the_name_is_the_content(self, tmp_path):
        blobs = BlobFolder(tmp_path)
        name = blobs.add(b"picture")
        assert blobs.add(b"picture") == name
        assert blobs.read(name) == b"picture"
        with pytest.raises(NotFoundError):
            blobs.read("0" * 64)

    def test_a_write_that_fails_leaves_what_was_there(self, tmp_path):
        target = tmp_path / "file"
        write_atomically(target, lambda file: file.write(b"old"))

        def broken(file):
            file.write(b"half")
            raise RuntimeError

        with pytest.raises(RuntimeError):
            write_atomically(target, broken)
        assert target.read_bytes() == b"old"
        assert list(tmp_path.iterdir()) == [target]

    def test_the_least_recently_used_results_go(self, tmp_path):
        kept = KeptFolder(tmp_path, limit_bytes=250)
        for age, key in enumerate("abc"):
            kept.put(key, bytes(100)) if key != "c" else None
            if key != "c":
                os.utime(tmp_path / key, (age, age))
        assert kept.get("a") is not None
        kept.put("c", bytes(100))
        assert kept.get("b") is None
        assert kept.get("a") is not None
        (tmp_path / ".part-left").write_bytes(b"x")
        sweep(tmp_path)
        assert not (tmp_path / ".part-left").exists()


def test_a_name_is_taken_in_small_letters_and_capitals_of_any_script(path):
    database = open_database(path)
    filaments, bits = Filaments(database), bits_in(database)
    first = filaments.add("Öre Ünder", "#aabbcc")
    for name in ("Öre Ünder", "öre ünder", "ÖRE ÜNDER"):
        with pytest.raises(ConflictError, match="already"):
            filaments.add(name, "#aabbcc")
    assert filaments.change(first.id, "öre ünder", "#aabbcc").name == "öre ünder"
    kept = bits.add("Ĝ 3 mm", {})
    with pytest.raises(ConflictError, match="in the rack already"):
        bits.add("ĝ 3 mm", {})
    assert bits.change(kept.id, "ĝ 3 mm", {}).name == "ĝ 3 mm"
    database.close()
