"""Results of evaluation steps, kept by key: memory first, then a folder; the least recently used go first."""

import hashlib
import json
import threading
from collections.abc import Callable
from typing import NamedTuple, Protocol, TypeVar, cast

from cachetools import LRUCache

from nebrel.piece.evaluation.held import held_bytes

Result = TypeVar("Result")


class KeptBytes(Protocol):
    """A bounded place for bytes that may be computed again."""

    def get(self, key: str) -> bytes | None:
        """The bytes under `key`, or None."""
        ...

    def put(self, key: str, data: bytes) -> None:
        """Keep `data` under `key` until room is needed."""
        ...


def step_key(name: str, version: int, parameters: object, *inputs: str) -> str:
    """SHA-256 over a step's name, version, parameters and the keys of its inputs, as 64 hex digits."""
    recipe = json.dumps([name, version, parameters, inputs], sort_keys=True, separators=(",", ":"))
    return hashlib.sha256(recipe.encode()).hexdigest()


class NotKeptError(LookupError):
    """A result is not kept, and is not to be computed here."""


class ResultCache:
    """Remembers what steps returned. Safe to use from several threads; a key is computed once at a time.

    One that never `computes` gives what is kept.
    """

    def __init__(self, memory_bytes: int, kept: KeptBytes | None = None, computes: bool = True) -> None:
        self._kept = kept
        self._computes = computes
        self._results: LRUCache[str, _Remembered] = LRUCache(memory_bytes, getsizeof=lambda held: held.size)
        self._lock = threading.Lock()
        self._busy: dict[str, threading.Lock] = {}

    @property
    def held_bytes(self) -> int:
        """What is remembered now, in bytes."""
        with self._lock:
            return int(self._results.currsize)

    def get(
        self,
        key: str,
        compute: Callable[[], Result],
        encode: Callable[[Result], bytes] | None = None,
        decode: Callable[[bytes], Result] | None = None,
    ) -> Result:
        """The result under `key`; computed when it is in neither place. With a codec it is kept in the folder too.

        Raises:
            NotKeptError: it is in neither place, and nothing is computed here.
        """
        with self._lock:
            found = self._results.get(key)
            if found is not None:
                return cast(Result, found.result)
            turn = self._busy.setdefault(key, threading.Lock())
        try:
            with turn:
                with self._lock:
                    found = self._results.get(key)
                if found is not None:
                    return cast(Result, found.result)
                result = self._from_folder(key, decode)
                if result is None:
                    if not self._computes:
                        raise NotKeptError
                    result = compute()
                    if self._kept is not None and encode is not None:
                        self._kept.put(key, encode(result))
                self._remember(key, result)
                return result
        finally:
            with self._lock:
                self._busy.pop(key, None)

    def _from_folder(self, key: str, decode: Callable[[bytes], Result] | None) -> Result | None:
        if self._kept is None or decode is None:
            return None
        data = self._kept.get(key)
        return decode(data) if data is not None else None

    def _remember(self, key: str, result: object) -> None:
        held = _Remembered(result, held_bytes(result))
        with self._lock:
            if held.size <= self._results.maxsize:
                self._results[key] = held


class _Remembered(NamedTuple):
    result: object
    size: int
