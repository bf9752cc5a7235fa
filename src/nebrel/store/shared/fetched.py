"""What a worker has of source files and results: its own folder, and behind that the store of all."""

from collections.abc import Callable
from pathlib import Path
from typing import BinaryIO

from nebrel.core.errors import NotFoundError
from nebrel.store.blobs import MISSING, KeptFolder, blob_name
from nebrel.store.shared.objects import ObjectStore


class FetchedBlobs:
    """Source files out of a store, the last ones at hand."""

    def __init__(self, near: KeptFolder, store: ObjectStore) -> None:
        self._near = near
        self._store = store

    def add(self, data: bytes, known: str | None = None) -> str:
        """Keep `data` in the store; returns its name."""
        name = known or blob_name(data)
        self._near.put(name, data)
        if not self._store.has(f"blobs/{name}"):
            _send(self._near, name, self._store, "blobs")
        return name

    def read(self, name: str) -> bytes:
        """The bytes kept under `name`.

        Raises:
            NotFoundError: there are none.
        """
        data = self._near.get(name) if _fetch(self._near, name, self._store, "blobs") else None
        if data is None:
            raise NotFoundError(MISSING)
        return data


class FetchedKept:
    """Results out of a store, the last ones at hand; what is made goes to the store as well."""

    def __init__(self, near: KeptFolder, store: ObjectStore) -> None:
        self._near = near
        self._store = store

    def get(self, key: str) -> bytes | None:
        """The bytes under `key`, or None."""
        return self._near.get(key) if _fetch(self._near, key, self._store, "kept") else None

    def put(self, key: str, data: bytes) -> None:
        """Keep `data` under `key`."""
        self._near.put(key, data)
        _send(self._near, key, self._store, "kept")

    def put_file(self, key: str, write: Callable[[BinaryIO], None]) -> Path:
        """Let `write` make the file under `key`; returns its path on this machine."""
        path = self._near.put_file(key, write)
        _send(self._near, key, self._store, "kept")
        return path

    def path(self, key: str) -> Path | None:
        """Where on this machine the bytes under `key` are, or None."""
        return self._near.path(key) if _fetch(self._near, key, self._store, "kept") else None


class _MissingError(Exception):
    """The store has nothing under the key."""


def _fetch(near: KeptFolder, name: str, store: ObjectStore, shelf: str) -> bool:
    """Have at hand what a store has; whether it is there."""

    def fill(file: BinaryIO) -> None:
        if not store.get(f"{shelf}/{name}", file):
            raise _MissingError

    if near.path(name) is None:
        try:
            near.put_file(name, fill)
        except _MissingError:
            return False
    return True


def _send(near: KeptFolder, name: str, store: ObjectStore, shelf: str) -> None:
    path = near.path(name)
    assert path is not None
    with path.open("rb") as file:
        store.put(f"{shelf}/{name}", file)
