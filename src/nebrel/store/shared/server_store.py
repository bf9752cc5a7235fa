"""A server's results through HTTP, for workers that share no folder with it."""

import time
from collections.abc import Callable
from typing import BinaryIO

import httpx

from nebrel.core.errors import NoSpaceError
from nebrel.store.shared.objects import StoreError

# How long a server that does not answer is waited for: it may be starting again.
PATIENCE_SECONDS = 60.0
PAUSE_SECONDS = 0.5
CHUNK_BYTES = 2**20
# The server answers so when its disk is full.
FULL = 507


class ServerStore:
    """Keys under the address of a server, opened by the token that it gives to workers."""

    def __init__(self, address: str, token: str, patience: float = PATIENCE_SECONDS) -> None:
        """
        Args:
            address: of the server, such as `http://127.0.0.1:8642`.
            token: of its workers.
            patience: how many seconds it is waited for.
        """
        self._client = httpx.Client(
            base_url=f"{address.rstrip('/')}/api/shared/",
            headers={"Authorization": f"Bearer {token}"},
            timeout=httpx.Timeout(60.0, connect=5.0),
            trust_env=False,
        )
        self._address = address
        self._patience = patience

    def close(self) -> None:
        """Let go of its connections."""
        self._client.close()

    def has(self, key: str) -> bool:
        """Whether there is something under `key`."""
        return self._patiently(lambda: self._found(self._client.head(key)))

    def get(self, key: str, into: BinaryIO) -> bool:
        """Write what is under `key` into a file."""
        start = into.tell()

        def fetch() -> bool:
            into.seek(start)
            into.truncate()
            with self._client.stream("GET", key) as answer:
                if not self._found(answer):
                    return False
                for chunk in answer.iter_bytes(CHUNK_BYTES):
                    into.write(chunk)
            return True

        return self._patiently(fetch)

    def put(self, key: str, source: BinaryIO) -> None:
        """Keep what a file holds."""
        start = source.tell()

        def send() -> bool:
            source.seek(start)
            return self._found(self._client.put(key, content=iter(lambda: source.read(CHUNK_BYTES), b"")))

        self._patiently(send)

    def _found(self, answer: httpx.Response) -> bool:
        if answer.status_code == httpx.codes.NOT_FOUND:
            return False
        if answer.is_success:
            return True
        answer.read()
        try:
            why = str(answer.json()["message"])
        except (ValueError, KeyError, TypeError):
            why = f"The server at {self._address} answered {answer.status_code} where results were asked for."
        raise NoSpaceError(why) if answer.status_code == FULL else StoreError(why)

    def _patiently(self, ask: Callable[[], bool]) -> bool:
        end = time.monotonic() + self._patience
        while True:
            try:
                return ask()
            except httpx.TransportError as cause:
                if time.monotonic() >= end:
                    raise StoreError(
                        f"The server at {self._address} that keeps the results does not answer this worker ({cause}); "
                        "let it listen where its workers can reach it, with --host, or name a place for results that "
                        "all can reach with --results."
                    ) from cause
                time.sleep(PAUSE_SECONDS)
