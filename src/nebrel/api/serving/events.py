"""News for every open page."""

import asyncio
import threading
from collections.abc import AsyncIterator
from dataclasses import dataclass

MOST_WAITING = 256


@dataclass(frozen=True)
class News:
    """One event: its name, and the message as plain data."""

    event: str
    data: dict[str, object]


class Newsroom:
    """Hands news from any thread to every page that listens. A page that does not keep up loses the oldest news."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._listeners: dict[asyncio.Queue[News | None], asyncio.AbstractEventLoop] = {}

    def tell(self, news: News | None) -> None:
        """Send `news` to all; None tells them to hang up."""
        with self._lock:
            listeners = list(self._listeners.items())
        for waiting, loop in listeners:
            try:
                loop.call_soon_threadsafe(_put, waiting, news)
            except RuntimeError:
                continue

    @property
    def listeners(self) -> int:
        """How many streams are open."""
        with self._lock:
            return len(self._listeners)

    async def listen(self) -> AsyncIterator[News]:
        """All news from now on."""
        waiting: asyncio.Queue[News | None] = asyncio.Queue()
        with self._lock:
            self._listeners[waiting] = asyncio.get_running_loop()
        try:
            while (news := await waiting.get()) is not None:
                yield news
        finally:
            with self._lock:
                self._listeners.pop(waiting, None)


def _put(waiting: "asyncio.Queue[News | None]", news: News | None) -> None:
    if waiting.qsize() >= MOST_WAITING:
        waiting.get_nowait()
    waiting.put_nowait(news)
