"""Many read while one writes; what holds the file for long is waited for, and told apart from a mistake."""

import contextlib
import sqlite3
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from sqlalchemy.exc import OperationalError

from nebrel.store import database as store
from nebrel.store.database import is_busy, open_database
from nebrel.store.pieces import Pieces
from nebrel.store.tables import FilamentRow


@pytest.fixture
def impatient(monkeypatch):
    monkeypatch.setattr(store, "BUSY_SECONDS", 0.3)


@pytest.fixture
def path(tmp_path):
    return tmp_path / "nebrel.sqlite"


@pytest.fixture
def database(path, impatient):
    opened = open_database(path)
    yield opened
    opened.close()


@contextlib.contextmanager
def held(path):
    """Another program that writes meanwhile."""
    other = sqlite3.connect(path, isolation_level=None)
    other.execute("BEGIN IMMEDIATE")
    yield
    other.execute("ROLLBACK")
    other.close()


def hold(path, seconds: float) -> threading.Thread:
    """Another program that writes for some time."""
    begun = threading.Event()

    def write():
        with held(path):
            begun.set()
            time.sleep(seconds)

    thread = threading.Thread(target=write)
    thread.start()
    begun.wait()
    return thread


def test_reading_waits_for_no_one(database, path):
    pieces = Pieces(database)
    made = pieces.create({"title": "one"}, "Start")
    with held(path):
        assert pieces.get(made.id).revision == made.revision
        assert [piece.id for piece in pieces.all()] == [made.id]


def test_a_write_waits_for_another_program_and_is_then_done(database, path):
    other = hold(path, 0.7)
    assert Pieces(database).create({"title": "one"}, "Start").revision
    other.join()


def test_a_write_that_waits_too_long_is_told_apart(database, path):
    with held(path), pytest.raises(OperationalError) as refused:
        Pieces(database).create({"title": "one"}, "Start")
    assert is_busy(refused.value)
    assert Pieces(database).create({"title": "two"}, "Start").revision


def test_what_only_reads_cannot_write(database):
    with pytest.raises(OperationalError, match="readonly"), database.reading() as session:
        session.add(FilamentRow(name="White", colour="#ffffff"))
    with database.writing() as session:
        session.add(FilamentRow(name="White", colour="#ffffff"))


def test_a_reader_sees_one_state_while_others_write(database):
    pieces = Pieces(database)
    made = pieces.create({"title": "one"}, "Start")
    with database.reading() as session:
        before = session.execute(store.text("SELECT count(*) FROM revisions")).scalar()
        pieces.revise(made.id, made.revision, {"title": "two"}, "To two")
        assert session.execute(store.text("SELECT count(*) FROM revisions")).scalar() == before


def test_fifty_at_once_all_get_what_they_ask(database):
    pieces = Pieces(database)
    first = pieces.create({"title": "one"}, "Start")

    def ask(number: int) -> None:
        for turn in range(4):
            if (number + turn) % 5 == 0:
                pieces.create({"title": str(number)}, "Start")
            else:
                assert pieces.get(first.id).document == {"title": "one"} and pieces.all()

    with ThreadPoolExecutor(50) as pages:
        list(pages.map(ask, range(50)))
    assert pieces.count() == 1 + 40
