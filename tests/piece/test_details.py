"""Strokes and decorations are kept once, however many states of a piece have them."""

import json
import os
import sqlite3
from contextlib import closing

import pytest
from sqlalchemy import select

from nebrel.core.errors import NotFoundError
from nebrel.store.database import open_database
from nebrel.store.details import MISSING
from nebrel.store.housekeeping import Housekeeping
from nebrel.store.pieces import Pieces
from nebrel.store.tables import DetailRow, RevisionRow

PLACES = 60


@pytest.fixture
def path(tmp_path):
    return tmp_path / "nebrel.sqlite"


@pytest.fixture
def database(path):
    opened = open_database(path)
    yield opened
    opened.close()


@pytest.fixture
def pieces(database) -> Pieces:
    return Pieces(database)


def stroke(number: int) -> dict[str, object]:
    return {"id": f"s{number}", "on": True, "places": [[at / PLACES, number / 200, 0.5] for at in range(PLACES)]}


def figure(strokes: int) -> dict[str, object]:
    return {"title": "Hare", "figure": {"strokes": [stroke(at) for at in range(strokes)]}, "strokes": []}


def details(database) -> int:
    with database.reading() as session:
        return len(session.scalars(select(DetailRow.id)).all())


def raw(database) -> str:
    with database.reading() as session:
        return json.dumps(session.scalars(select(RevisionRow.document)).all())


def test_a_hundred_and_fifty_strokes_one_after_another_take_little_room(database, pieces, path):
    state = pieces.create(figure(0), "Begun")
    whole = 0
    for count in range(1, 151):
        whole += len(json.dumps(figure(count)))
        state = pieces.revise(state.id, state.revision, figure(count), "Stroke")
    assert state.document == figure(150)
    assert details(database) == 150
    database.shrink()
    assert path.stat().st_size < whole / 20


def test_documents_come_back_as_they_were_whatever_they_share(database, pieces):
    decorated = {"title": "Bowl", "decorations": [{"grain": {"places": [1, 2]}, "strokes": [stroke(1)]}], "n": [1, 2]}
    together = {"assembly": [{"source": {"document": figure(2)}}, {"source": {"document": decorated}}]}
    plain = {"title": "Panel", "strokes": [], "decorations": []}
    states = [pieces.create(document, "Begun") for document in (figure(2), decorated, together, plain)]
    for state, document in zip(states, (figure(2), decorated, together, plain), strict=True):
        assert pieces.get(state.id).document == document
        assert pieces.document_of(state.revision) == document
    assert {state.id: state.document for state in pieces.all()} == {state.id: state.document for state in states}
    assert details(database) == 3
    assert "places" not in raw(database)


def test_what_goes_takes_along_what_no_other_state_has(database, pieces, tmp_path):
    kept, gone = pieces.create(figure(2), "Begun"), pieces.create(figure(5), "Begun")
    pieces.set_removed(gone.id, True)
    Housekeeping(database, tmp_path).empty_removed()
    assert details(database) == 2
    assert pieces.get(kept.id).document == figure(2)
    # A number is never given again: what one process has read stays what it was.
    pieces.create({"strokes": [stroke(9)]}, "Begun")
    with database.reading() as session:
        assert max(session.scalars(select(DetailRow.id))) == 6


def test_thinning_keeps_the_parts_of_what_stays(database, pieces, tmp_path):
    state = pieces.create(figure(0), "Begun")
    for count in range(1, 81):
        state = pieces.revise(state.id, state.revision, figure(1) if count % 2 else figure(count), "Stroke")
    assert Housekeeping(database, tmp_path).thin_history() > 0
    assert pieces.get(state.id).document == figure(80)


def test_sources_that_only_a_decoration_names_stay(database, pieces, tmp_path):
    name = "ab" * 32
    source = tmp_path / "blobs" / "ab" / name
    source.parent.mkdir(parents=True)
    source.write_bytes(b"leaf")
    pieces.create({"decorations": [{"art": {"kind": "picture", "blob": name}}]}, "Begun")
    os.utime(source, (0, 0))
    assert Housekeeping(database, tmp_path).drop_unused() == 0
    assert source.exists()


def test_a_missing_part_is_told(database, pieces):
    state = pieces.create(figure(1), "Begun")
    with database.writing() as session:
        session.delete(session.get(DetailRow, 1))
    with pytest.raises(NotFoundError, match=MISSING[:20]):
        pieces.get(state.id)


def test_a_data_folder_of_before_is_carried_over_and_back(path):
    database = open_database(path)
    state = Pieces(database).create({"title": "Hare"}, "Begun")
    database.close()
    _migrated(path, "0011")
    with closing(sqlite3.connect(path)) as connection, connection:
        connection.execute("UPDATE revisions SET document = ?", (json.dumps(figure(3)),))
    database = open_database(path)
    assert Pieces(database).get(state.id).document == figure(3)
    assert details(database) == 3
    database.close()
    _migrated(path, "0011")
    with closing(sqlite3.connect(path)) as connection:
        assert json.loads(connection.execute("SELECT document FROM revisions").fetchone()[0]) == figure(3)


def _migrated(path, version: str) -> None:
    from alembic import command
    from alembic.config import Config
    from sqlalchemy import create_engine

    import nebrel.store.database as module

    engine, config = create_engine(f"sqlite:///{path}"), Config()
    config.set_main_option("script_location", str(module._MIGRATIONS))
    config.attributes["engine"] = engine
    command.downgrade(config, version)
    engine.dispose()
