"""Copies of the database that are made by themselves: a week of them."""

import sqlite3
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path

from nebrel.store.blobs import PART

KEPT = 7
# A copy is made when the last one is as old as this.
EVERY = timedelta(hours=24)
_FOLDER, _FORM = "copies", "nebrel-%Y%m%d-%H%M%S.sqlite"


def copies_in(folder: Path) -> list[Path]:
    """The copies in a data folder, the oldest first."""
    return sorted((folder / _FOLDER).glob("nebrel-*.sqlite"))


def copy_database(source: Path, target: Path) -> None:
    """Copy a database as it is at one moment, also while others write to it, and look whether the copy is whole.

    Raises:
        OSError, sqlite3.Error: it could not be copied; nothing is left at `target`.
    """
    target.parent.mkdir(parents=True, exist_ok=True)
    half = target.with_name(f"{PART}{target.name}")
    try:
        with closing(sqlite3.connect(source)) as here, closing(sqlite3.connect(half)) as there:
            here.backup(there)
            # What stands alone needs no journal beside it.
            there.execute("PRAGMA journal_mode=DELETE")
            (whole,) = there.execute("PRAGMA quick_check(1)").fetchone()
            if whole != "ok":
                raise sqlite3.DatabaseError(whole)
        half.replace(target)
    finally:
        half.unlink(missing_ok=True)


def copy_when_due(folder: Path, database: Path, now: datetime | None = None) -> Path | None:
    """Make a copy where the last is a day old, and let the oldest go; returns it, None where none was due."""
    now = now or datetime.now(UTC)
    copies = copies_in(folder)
    if copies and now - made_at(copies[-1]) < EVERY:
        return None
    target = folder / _FOLDER / now.strftime(_FORM)
    copy_database(database, target)
    for old in copies_in(folder)[:-KEPT]:
        old.unlink(missing_ok=True)
    return target


def made_at(copy: Path) -> datetime:
    """When a copy was made."""
    try:
        return datetime.strptime(copy.name, _FORM).replace(tzinfo=UTC)
    except ValueError:
        return datetime.fromtimestamp(copy.stat().st_mtime, UTC)
