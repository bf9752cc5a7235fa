"""The data folder before it is worked in: whether it can be, and that only one server does."""

import json
import os
import sqlite3
import tempfile
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from pathlib import Path

from filelock import FileLock, Timeout

from nebrel.core.errors import BadValueError, ConflictError
from nebrel.store.copies import copies_in
from nebrel.store.database import newest_version

DATABASE = "nebrel.sqlite"
_LOCK, _HOLDER = "server.lock", "server.json"


def make_folder(folder: Path) -> None:
    """Make the data folder, if it is missing, and try that it can be written to.

    Raises:
        BadValueError: it cannot be had.
    """
    if folder.exists() and not folder.is_dir():
        raise BadValueError(f"{folder} is a file; a folder is needed for Nebrel's data, which --data names.")
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as cause:
        raise BadValueError(f"The data folder {folder} cannot be made: {cause.strerror}.") from cause
    try:
        with tempfile.TemporaryFile(dir=folder):
            pass
    except OSError as cause:
        raise BadValueError(
            f"The data folder {folder} cannot be written to ({cause.strerror}); let this user write there, or choose "
            "another with --data."
        ) from cause


def check_database(folder: Path) -> None:
    """Look whether the database of a folder is whole, and of a version that is known here.

    Raises:
        BadValueError: it is not.
    """
    path = folder / DATABASE
    if not path.exists():
        return
    try:
        with closing(sqlite3.connect(f"{path.absolute().as_uri()}?mode=ro", uri=True)) as connection:
            (whole,) = connection.execute("PRAGMA quick_check(1)").fetchone()
            tables = {name for (name,) in connection.execute("SELECT name FROM sqlite_master")}
            told = connection.execute("SELECT version_num FROM alembic_version") if "alembic_version" in tables else ()
            version = max((number for (number,) in told), default="")
    except sqlite3.DatabaseError as cause:
        raise BadValueError(_damaged(folder)) from cause
    if whole != "ok":
        raise BadValueError(_damaged(folder))
    if version > newest_version():
        raise BadValueError(
            f"The data folder {folder} was made by a newer version of Nebrel (tables {version}, this one knows "
            f"{newest_version()}); use that version, or another folder with --data."
        )


def _damaged(folder: Path) -> str:
    copies = copies_in(folder)
    way = f"the last copy of it is there: nebrel restore {copies[-1]}" if copies else "restore a backup of yours"
    return f"The database in {folder} is damaged; {way}."


@contextmanager
def held_by_server(folder: Path, address: str) -> Iterator[None]:
    """Hold the folder for a server at `address`; one that was killed holds nothing any more.

    Raises:
        ConflictError: another server holds it.
    """
    lock = FileLock(folder / _LOCK)
    try:
        lock.acquire(timeout=0)
    except Timeout as cause:
        raise ConflictError(
            f"The data folder {folder} is in use by another server{_holder(folder)}; open that one, or choose another "
            "folder with --data."
        ) from cause
    try:
        (folder / _HOLDER).write_text(json.dumps({"process": os.getpid(), "address": address}))
        yield
    finally:
        (folder / _HOLDER).unlink(missing_ok=True)
        lock.release()


def _holder(folder: Path) -> str:
    with suppress(OSError, ValueError, KeyError):
        told = json.loads((folder / _HOLDER).read_text())
        return f", process {told['process']} at {told['address']}"
    return ""
