"""Results in a store like S3, or any other that fsspec reaches."""

import shutil
from datetime import UTC, datetime
from typing import Any, BinaryIO

import fsspec

from nebrel.core.errors import BadValueError
from nebrel.store.shared.objects import StoreError, split


class BucketStore:
    """Keys below the address of a bucket, such as `s3://workshop/nebrel`."""

    def __init__(self, address: str) -> None:
        """
        Args:
            address: of a place that fsspec knows; how it is opened, its environment tells.

        Raises:
            BadValueError: there is no such way, or what it needs is not installed.
        """
        self._address = address
        try:
            self._files, self._root = fsspec.core.url_to_fs(address.rstrip("/"))
        except (ImportError, ValueError, OSError) as cause:
            raise BadValueError(
                f"Results cannot be kept at {address}: {cause}. A folder, http:// of a server, or a place that fsspec "
                "reaches would be accepted, such as s3://bucket/folder with s3fs installed."
            ) from cause

    def has(self, key: str) -> bool:
        """Whether there is something under `key`."""
        try:
            return bool(self._files.exists(self._path(key)))
        except OSError as cause:
            raise self._refusal(cause) from cause

    def get(self, key: str, into: BinaryIO) -> bool:
        """Write what is under `key` into a file."""
        try:
            with self._files.open(self._path(key), "rb") as file:
                shutil.copyfileobj(file, into)
        except FileNotFoundError:
            return False
        except OSError as cause:
            raise self._refusal(cause) from cause
        return True

    def put(self, key: str, source: BinaryIO) -> None:
        """Keep what a file holds. A store like S3 shows an object once all of it is there; others get it by a move."""
        path = self._path(key)
        part = f"{path}.part"
        try:
            self._files.makedirs(path.rpartition("/")[0], exist_ok=True)
            with self._files.open(part, "wb") as file:
                shutil.copyfileobj(source, file)
            self._files.mv(part, path)
        except OSError as cause:
            raise self._refusal(cause) from cause

    def make_room(self, most_bytes: int) -> int:
        """Delete the oldest results beyond so many bytes; returns how many went. For the server alone."""
        try:
            found = self._files.find(f"{self._root}/kept", detail=True) if self._files.exists(self._root) else {}
            files = sorted(found.values(), key=_moment)
            held = sum(each["size"] or 0 for each in files)
            gone = 0
            for each in files:
                if held <= most_bytes:
                    break
                self._files.rm_file(each["name"])
                held -= each["size"] or 0
                gone += 1
        except OSError as cause:
            raise self._refusal(cause) from cause
        return gone

    def _path(self, key: str) -> str:
        split(key)
        return f"{self._root}/{key}"

    def _refusal(self, cause: OSError) -> StoreError:
        return StoreError(f"The results at {self._address} cannot be reached: {cause.strerror or cause}.")


def _moment(facts: dict[str, Any]) -> float:
    """When an object was written; what does not say so is old."""
    told = next((facts[name] for name in ("mtime", "LastModified", "created") if facts.get(name) is not None), 0.0)
    if isinstance(told, datetime):
        return (told if told.tzinfo else told.replace(tzinfo=UTC)).timestamp()
    return float(told)
