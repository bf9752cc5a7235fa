"""Results of evaluation steps, kept by key: memory first, then a folder; the least recently used go first."""

import hashlib
import json
import threading
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import fields, is_dataclass
from typing import Protocol, TypeVar

import numpy as np

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


class ResultCache:
    """Remembers what steps returned. Safe to use from several threads; a key is computed once at a time."""

    def __init__(self, memory_bytes: int, kept: KeptBytes | None = None) -> None:
        self._limit = memory_bytes
        self._kept = kept
        self._held = 0
        self._results: OrderedDict[str, tuple[object, int]] = OrderedDict()
        self._lock = threading.Lock()
        self._busy: dict[str, threading.Lock] = {}

    def get(
        self,
        key: str,
        compute: Callable[[], Result],
        encode: Callable[[Result], bytes] | None = None,
        decode: Callable[[bytes], Result] | None = None,
    ) -> Result:
        """The result under `key`; computed when it is in neither place. With a codec it is kept in the folder too."""
        with self._lock:
            found = self._results.get(key)
            if found is not None:
                self._results.move_to_end(key)
                return found[0]  # type: ignore[return-value]
            turn = self._busy.setdefault(key, threading.Lock())
        try:
            with turn:
                with self._lock:
                    found = self._results.get(key)
                if found is not None:
                    return found[0]  # type: ignore[return-value]
                result = self._from_folder(key, decode)
                if result is None:
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
        size = held_bytes(result)
        if size > self._limit:
            return
        with self._lock:
            self._results[key] = (result, size)
            self._held += size
            while self._held > self._limit:
                _, (_, freed) = self._results.popitem(last=False)
                self._held -= freed


def held_bytes(result: object) -> int:
    """Memory that a result of arrays, bytes and dataclasses of them holds, about."""
    if isinstance(result, np.ndarray):
        return int(result.nbytes)
    if isinstance(result, bytes | str):
        return len(result)
    if is_dataclass(result):
        return 64 + sum(held_bytes(getattr(result, field.name)) for field in fields(result))
    return 64
