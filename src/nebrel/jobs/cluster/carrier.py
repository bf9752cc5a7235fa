"""What the server brings to a store that only its workers use, and takes back."""

import json
import re
import threading
from pathlib import Path
from typing import Any, BinaryIO

from nebrel.jobs.workplace import Whereabouts
from nebrel.store.blobs import BlobFolder, KeptFolder
from nebrel.store.shared.bucket_store import BucketStore
from nebrel.store.shared.objects import FolderStore

_NAMED = re.compile(r"[0-9a-f]{64}")
# Room is made in the store after so many results.
ROOM_EVERY = 50


class Carrier:
    """Between the server's folder and a store elsewhere; where workers reach the folder itself, nothing is carried."""

    def __init__(self, folder: Path, where: Whereabouts, most_bytes: int) -> None:
        """
        Args:
            folder: the data folder of the server.
            where: its workers find source files and results.
            most_bytes: of results that stay there.
        """
        self._kept = KeptFolder(folder / "kept", most_bytes)
        self._own = FolderStore(BlobFolder(folder / "blobs"), self._kept)
        own = where.is_server or (where.is_folder and Path(where.address) == folder.absolute())
        self._there = None if own else where.store()
        self._most_bytes = most_bytes
        self._fetched = 0
        self._lock = threading.Lock()

    def bring(self, payload: dict[str, Any]) -> None:
        """Have the source files that a payload names where workers find them."""
        if self._there is None:
            return
        for name in sorted(set(_NAMED.findall(json.dumps(payload)))):
            path = self._own.path(f"blobs/{name}")
            if path is not None and not self._there.has(f"blobs/{name}"):
                with path.open("rb") as file:
                    self._there.put(f"blobs/{name}", file)

    def take(self, result: dict[str, Any]) -> None:
        """Have what a result names in the server's folder."""
        there = self._there
        if there is None:
            return
        for name in sorted(set(_NAMED.findall(json.dumps(result)))):
            key = f"kept/{name}"
            if self._own.has(key) or not there.has(key):
                continue

            def fill(file: BinaryIO, key: str = key) -> None:
                there.get(key, file)

            self._kept.put_file(name, fill)
        with self._lock:
            self._fetched += 1
            full = self._fetched % ROOM_EVERY == 0
        if full and isinstance(there, BucketStore):
            there.make_room(self._most_bytes)
