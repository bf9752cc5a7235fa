"""The process that looks at pieces for pages: it has so much memory, and leaves off where nobody waits any more."""

import ctypes
import os
import pickle
import signal
import threading
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from multiprocessing.connection import Connection
from typing import Any

from nebrel.core.errors import NebrelError
from nebrel.core.jit import get_ready
from nebrel.jobs.processes import end_with_parent, limit_bytes, send_block
from nebrel.jobs.workshop import Workshop, open_workshop
from nebrel.settings import Settings
from nebrel.store.means import refusal_for

REPORT_EVERY_SECONDS = 0.1
# Bytes from which on an answer is worth to be sent without being copied.
LARGE = 2**16
# Pending interruptions arrive between steps of the interpreter; so many are enough for one to arrive.
SETTLING = 64
_births = threading.Lock()


class LeftOff(BaseException):
    """Nobody waits for this any more."""


@dataclass(frozen=True)
class Room:
    """What is worked with: an opened data folder, of which nothing but kept results is written, and who hears how far
    it is."""

    workshop: Workshop
    progress: Callable[[str, float], None]


def looker_main(control: Connection, hands: list[Connection], cache_bytes: int, most_bytes: int) -> None:
    """Answer orders `(number, settings, work, given, named)` on each of `hands` until the other end closes.

    `work` is a function of a module, called with a `Room`, what is `given` and what is given by name. Answers are
    `("progress", (stage, part))`, then one of `("made", what)`, `("block", size)` with so many bytes after it,
    `("refused", error)`, `("memory", None)`, `("left", None)` and, for a mistake of ours, `("broken", traceback)`. An
    order whose number comes through `control` is left off.
    """
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    limit_bytes(cache_bytes + most_bytes)
    get_ready()
    _one_birth_at_a_time()
    folder = _Folder(cache_bytes)
    each = [_Hand(hand, folder) for hand in hands]
    for hand in each:
        threading.Thread(target=hand.serve, daemon=True).start()
    try:
        while True:
            number = control.recv()
            for hand in each:
                hand.leave_off(number)
    except (EOFError, OSError):
        return


def _one_birth_at_a_time() -> None:
    """Have no thread begin while another is interrupted.

    CPython 3.11 lists a new thread under the number of the one that begins it until it runs itself. An interruption
    that comes then ends the newborn, and who began it waits for it for ever.
    """
    begin = threading.Thread.start

    def begin_alone(thread: threading.Thread) -> None:
        with _births:
            begin(thread)

    setattr(threading.Thread, "start", begin_alone)  # noqa: B010


class _Folder:
    """The data folder that was last asked about, opened."""

    def __init__(self, cache_bytes: int) -> None:
        self._cache_bytes = cache_bytes
        self._settings: Settings | None = None
        self._opened: Workshop | None = None
        self._lock = threading.Lock()

    def opened(self, settings: Settings) -> Workshop:
        with self._lock:
            if self._opened is None or self._settings != settings:
                before = self._opened
                own = settings.model_copy(update={"memory_cache_bytes": self._cache_bytes})
                # In this order, so that what is left off half way leaves what was.
                self._opened, self._settings = open_workshop(own), settings
                if before is not None:
                    before.close()
            return self._opened


class _Hand:
    """Does one order after another."""

    def __init__(self, connection: Connection, folder: _Folder) -> None:
        self._connection = connection
        self._folder = folder
        self._lock = threading.Lock()
        self._number = 0
        self._thread = 0

    def serve(self) -> None:
        self._thread = threading.get_ident()
        try:
            while True:
                number, settings, work, given, named = self._connection.recv()
                answer = self._answer(number, partial(self._made, settings, work, given, named))
                self._send(*answer)
                del work, given, named, answer
        except (EOFError, OSError):
            return

    def _send(self, kind: str, what: Any) -> None:
        """Large blocks of bytes go as they are where the system can; all else is pickled."""
        if isinstance(what, bytes) and len(what) >= LARGE and hasattr(os, "readv"):
            self._connection.send(("block", len(what)))
            send_block(self._connection, what)
        else:
            self._connection.send_bytes(pickle.dumps((kind, what), pickle.HIGHEST_PROTOCOL))

    def leave_off(self, number: int) -> None:
        """Interrupt the order of that number, if it is still at work."""
        with self._lock, _births:
            if self._number == number:
                ctypes.pythonapi.PyThreadState_SetAsyncExc(ctypes.c_ulong(self._thread), ctypes.py_object(LeftOff))

    def _answer(self, number: int, made: Callable[[], tuple[str, Any]]) -> tuple[str, Any]:
        try:
            with self._lock:
                self._number = number
            try:
                return made()
            finally:
                with self._lock:
                    self._number = 0
                for _ in range(SETTLING):
                    pass
        except LeftOff:
            return "left", None

    def _made(
        self, settings: Settings, work: Callable[..., Any], given: tuple[Any, ...], named: dict[str, Any]
    ) -> tuple[str, Any]:
        try:
            return "made", work(Room(self._folder.opened(settings), self._reporter()), *given, **named)
        except NebrelError as refusal:
            return "refused", refusal
        except (MemoryError, RecursionError):
            return "memory", None
        except Exception as fault:
            means = refusal_for(fault)
            return ("broken", traceback.format_exc()) if means is None else ("refused", means)

    def _reporter(self) -> Callable[[str, float], None]:
        told = 0.0

        def tell(stage: str, fraction: float) -> None:
            nonlocal told
            moment = time.monotonic()
            if moment - told >= REPORT_EVERY_SECONDS:
                told = moment
                self._connection.send_bytes(pickle.dumps(("progress", (stage, fraction))))

        return tell
