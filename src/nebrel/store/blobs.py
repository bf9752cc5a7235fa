"""Bytes on disk, written to a temporary name, flushed and renamed, so that a crash leaves all or nothing."""

import hashlib
import os
import re
import shutil
import uuid
from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO, Protocol

from nebrel.core.errors import NotFoundError

# Files that are not whole yet begin with this.
PART = ".part-"
MISSING = "The source file of this piece is missing from the data folder."
_BLOB_NAME = re.compile("[0-9a-f]{64}")


def write_atomically(path: Path, write: Callable[[BinaryIO], None]) -> None:
    """Let `write` fill a temporary file beside `path`, flush it to disk, and give it its name.

    Others may read it as they may any file that is made there.
    """
    path.parent.mkdir(parents=True, exist_ok=True)
    temporary = path.parent / f"{PART}{uuid.uuid4().hex}"
    try:
        with temporary.open("xb") as file:
            write(file)
            file.flush()
            os.fsync(file.fileno())
        temporary.replace(path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise


def sweep(folder: Path) -> None:
    """Remove what killed processes left half written, anywhere in a folder."""
    for path in [*folder.rglob(f"{PART}*")]:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)


def blob_name(data: bytes) -> str:
    """The name that `BlobFolder` keeps `data` under: its SHA-256, as 64 hex digits."""
    return hashlib.sha256(data).hexdigest()


class Blobs(Protocol):
    """Source files, each under the SHA-256 of its bytes."""

    def add(self, data: bytes, known: str | None = None) -> str:
        """Keep `data`; returns its name, which is spared to be worked out again where it is `known`."""
        ...

    def read(self, name: str) -> bytes:
        """The bytes kept under `name`.

        Raises:
            NotFoundError: there are none.
        """
        ...


class Kept(Protocol):
    """Results that can be computed again, by key."""

    def get(self, key: str) -> bytes | None:
        """The bytes under `key`, or None."""
        ...

    def put(self, key: str, data: bytes) -> None:
        """Keep `data` under `key`."""
        ...

    def put_file(self, key: str, write: Callable[[BinaryIO], None]) -> Path:
        """Let `write` make the file under `key`; returns its path on this machine."""
        ...

    def path(self, key: str) -> Path | None:
        """Where on this machine the bytes under `key` are, or None."""
        ...


class BlobFolder:
    """Source files, each under the SHA-256 of its bytes; never changed."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder

    def add(self, data: bytes, known: str | None = None) -> str:
        """Keep `data`; returns its name, which is spared to be worked out again where it is `known`."""
        name = known or blob_name(data)
        path = self._path(name)
        try:
            # It is young again, so that nobody takes it for one that is not used.
            os.utime(path)
        except FileNotFoundError:
            write_atomically(path, lambda file: _write_all(file, data))
        return name

    def read(self, name: str) -> bytes:
        """The bytes kept under `name`.

        Raises:
            NotFoundError: there are none.
        """
        try:
            return self._path(name).read_bytes()
        except FileNotFoundError as cause:
            raise NotFoundError(MISSING) from cause

    def put_file(self, name: str, write: Callable[[BinaryIO], None]) -> None:
        """Let `write` make the file under `name`, which is the SHA-256 of its bytes."""
        write_atomically(self._path(name), write)

    def path(self, name: str) -> Path | None:
        """Where the bytes under `name` are, or None."""
        path = self._path(name)
        return path if path.exists() else None

    def _path(self, name: str) -> Path:
        if not _BLOB_NAME.fullmatch(name):
            raise NotFoundError(MISSING)
        return self._folder / name[:2] / name


class KeptFolder:
    """Results that can be computed again, by key; the least recently used go when there is no more room.

    Without a limit nothing goes: whose folder it is makes room in it.
    """

    def __init__(self, folder: Path, limit_bytes: int | None) -> None:
        self._folder = folder
        self._limit = limit_bytes

    def get(self, key: str) -> bytes | None:
        """The bytes under `key`, or None."""
        path = self._folder / key
        try:
            data = path.read_bytes()
            os.utime(path)
        except FileNotFoundError:
            return None
        return data

    def put(self, key: str, data: bytes) -> None:
        """Keep `data` under `key`."""
        self.put_file(key, lambda file: _write_all(file, data))

    def put_file(self, key: str, write: Callable[[BinaryIO], None]) -> Path:
        """Let `write` make the file under `key`; returns its path."""
        path = self._folder / key
        write_atomically(path, write)
        self._make_room(path)
        return path

    def path(self, key: str) -> Path | None:
        """Where the bytes under `key` are, or None."""
        path = self._folder / key
        return path if path.exists() else None

    def _make_room(self, newest: Path) -> None:
        if self._limit is None:
            return
        entries = []
        for path in self._folder.iterdir():
            try:
                facts = path.stat()
            except FileNotFoundError:
                continue
            entries.append((facts.st_mtime, facts.st_size, path))
        held = sum(size for _, size, _ in entries)
        for _, size, path in sorted(entries):
            if held <= self._limit:
                break
            if path != newest and not path.name.startswith(PART):
                path.unlink(missing_ok=True)
                held -= size


def _write_all(file: BinaryIO, data: bytes) -> None:
    file.write(data)
