"""All of a data folder's work in one file, made while others work in it, and put back.

The file is a ZIP of `backup.json`, which tells what is in it, the database as it was at one moment, and the sources
under the SHA-256 of their bytes. Results that can be made again are left out.
"""

import hashlib
import json
import shutil
import sqlite3
import tempfile
import zipfile
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import BinaryIO

from nebrel.core.errors import BadValueError
from nebrel.store.blobs import write_atomically
from nebrel.store.copies import copy_database
from nebrel.store.database import newest_version, open_database
from nebrel.store.folder import DATABASE, check_database, make_folder

ENDING = ".nebrel"
_INDEX, _SOURCES, _VERSION = "backup.json", "blobs", 1
_SQLITE = b"SQLite format 3\0"


@dataclass(frozen=True)
class Backup:
    """What a backup holds."""

    pieces: int
    sources: int
    bytes: int


def back_up(folder: Path, target: Path) -> Backup:
    """Write a backup of a data folder, read it again and compare.

    Raises:
        BadValueError: there is no data folder, or what was written is not what was read.
    """
    if not (folder / DATABASE).exists():
        raise BadValueError(f"{folder} is no data folder of Nebrel; --data names the one to back up.")
    with tempfile.TemporaryDirectory() as room:
        copy = Path(room) / DATABASE
        copy_database(folder / DATABASE, copy)
        # Sources never change, and are there before the states that name them.
        sources = sorted(path for path in (folder / _SOURCES).glob("??/*") if not path.name.startswith("."))
        pieces = _pieces_in(copy)
        write_atomically(target, lambda file: _write(file, copy, sources, pieces))
    _read_again(target)
    return Backup(pieces, len(sources), target.stat().st_size)


def put_back(backup: Path, folder: Path, replace: bool = False) -> Backup:
    """Make a data folder of a backup, or put a copy of its database back in its place.

    What is there before stays beside it, under a name of its own, until a person deletes it.

    Args:
        backup: a file that `back_up` wrote, or a copy of the database.
        folder: no server may work in it.
        replace: whether what is in the folder is put aside.

    Raises:
        BadValueError: the file is no backup, is damaged or of a newer version, or the folder holds pieces.
    """
    if not backup.is_file():
        raise BadValueError(f"There is no file {backup}.")
    with backup.open("rb") as file:
        is_copy = file.read(len(_SQLITE)) == _SQLITE
    make_folder(folder)
    in_use = (folder / DATABASE).exists()
    if in_use and not replace and not is_copy:
        raise BadValueError(f"{folder} holds pieces already; name an empty folder with --data, or say --replace.")
    if not is_copy:
        _read_again(backup)
    with tempfile.TemporaryDirectory(dir=folder, prefix=".part-") as room:
        fresh = Path(room)
        if is_copy:
            shutil.copyfile(backup, fresh / DATABASE)
        else:
            with zipfile.ZipFile(backup) as archive:
                archive.extractall(fresh)
        check_database(fresh)
        open_database(fresh / DATABASE).close()
        pieces = _pieces_in(fresh / DATABASE)
        if in_use:
            _put_aside(folder)
        for source in (fresh / _SOURCES).glob("??/*"):
            kept = folder / _SOURCES / source.parent.name / source.name
            kept.parent.mkdir(parents=True, exist_ok=True)
            if not kept.exists():
                source.replace(kept)
        (fresh / DATABASE).replace(folder / DATABASE)
    sources = list((folder / _SOURCES).glob("??/*"))
    return Backup(pieces, len(sources), backup.stat().st_size)


def _write(file: BinaryIO, database: Path, sources: list[Path], pieces: int) -> None:
    told = {
        "version": _VERSION, "tables": newest_version(), "made": datetime.now(UTC).isoformat(), "pieces": pieces,
        "sources": len(sources), "database_sha256": _sha256(database),
    }  # fmt: skip
    with zipfile.ZipFile(file, "w", zipfile.ZIP_STORED) as archive:
        archive.writestr(_INDEX, json.dumps(told, indent=2))
        archive.write(database, DATABASE, zipfile.ZIP_DEFLATED)
        for path in sources:
            archive.write(path, f"{_SOURCES}/{path.parent.name}/{path.name}")


def _read_again(backup: Path) -> None:
    """Look whether a backup is whole: every file has the bytes that its name, or the index, tells.

    Raises:
        BadValueError: it is not.
    """
    try:
        with zipfile.ZipFile(backup) as archive:
            told = json.loads(archive.read(_INDEX))
            if told["version"] != _VERSION or told["tables"] > newest_version():
                raise BadValueError(f"{backup} was made by a newer version of Nebrel; use that one to put it back.")
            names = [name for name in archive.namelist() if name not in (_INDEX, DATABASE)]
            whole = _entry_sha256(archive, DATABASE) == told["database_sha256"] and len(names) == told["sources"]
            for name in names:
                digest = name.rpartition("/")[2]
                whole &= name == f"{_SOURCES}/{digest[:2]}/{digest}" and _entry_sha256(archive, name) == digest
    except BadValueError:
        raise
    except Exception as cause:
        raise BadValueError(
            f"{backup} is no backup of Nebrel, or damaged; a file of nebrel backup is needed."
        ) from cause
    if not whole:
        raise BadValueError(f"{backup} is damaged: what is in it is not what it tells; use another backup.")


def _entry_sha256(archive: zipfile.ZipFile, name: str) -> str:
    with archive.open(name) as file:
        return hashlib.file_digest(file, "sha256").hexdigest()  # type: ignore[arg-type]


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _pieces_in(database: Path) -> int:
    with closing(sqlite3.connect(database)) as connection:
        (count,) = connection.execute("SELECT count(*) FROM pieces WHERE removed IS NULL").fetchone()
    return int(count)


def _put_aside(folder: Path) -> None:
    """Give the database of a folder, and its journal, a name beside it."""
    when = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    for path in folder.glob(f"{DATABASE}*"):
        path.replace(folder / path.name.replace(DATABASE, f"before-{when}.sqlite"))
