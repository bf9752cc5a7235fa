"""One small protocol for bytes by key, and the folder as the first of its homes."""

import re
import shutil
from pathlib import Path
from typing import BinaryIO, Literal, Protocol, cast

from nebrel.core.errors import NebrelError
from nebrel.store.blobs import BlobFolder, KeptFolder

Shelf = Literal["blobs", "kept"]
_KEY = re.compile("(blobs|kept)/([0-9a-f]{64})")


class StoreError(NebrelError):
    """The store of results does not answer, or refuses."""


class ObjectStore(Protocol):
    """Bytes by key: `blobs/SHA-256` for source files, which never change, `kept/KEY` for what can be computed again."""

    def has(self, key: str) -> bool:
        """Whether there is something under `key`."""
        ...

    def get(self, key: str, into: BinaryIO) -> bool:
        """Write what is under `key` into a file; False, with nothing written, where there is nothing."""
        ...

    def put(self, key: str, source: BinaryIO) -> None:
        """Keep what a file holds, from where it stands to its end, under `key`; all of it or nothing.

        Raises:
            StoreError: there is no room, or no answer.
        """
        ...


def split(key: str) -> tuple[Shelf, str]:
    """The shelf that a key belongs to, and its name there.

    Raises:
        ValueError: it is no key.
    """
    found = _KEY.fullmatch(key)
    if found is None:
        raise ValueError(f"{key} is no key; blobs/ or kept/ and 64 hex digits are.")
    return cast(Shelf, found[1]), found[2]


class FolderStore:
    """The folder of a server itself, for who can reach it through a file system."""

    def __init__(self, blobs: BlobFolder, kept: KeptFolder) -> None:
        self._shelves: dict[Shelf, BlobFolder | KeptFolder] = {"blobs": blobs, "kept": kept}

    def path(self, key: str) -> Path | None:
        """Where the bytes are, for the server alone."""
        shelf, name = split(key)
        return self._shelves[shelf].path(name)

    def has(self, key: str) -> bool:
        """Whether there is something under `key`."""
        return self.path(key) is not None

    def get(self, key: str, into: BinaryIO) -> bool:
        """Write what is under `key` into a file."""
        path = self.path(key)
        try:
            if path is None:
                return False
            with path.open("rb") as file:
                shutil.copyfileobj(file, into)
        except FileNotFoundError:
            return False
        return True

    def put(self, key: str, source: BinaryIO) -> None:
        """Keep what a file holds."""
        shelf, name = split(key)
        self._shelves[shelf].put_file(name, lambda file: shutil.copyfileobj(source, file))
