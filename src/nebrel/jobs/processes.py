"""Processes that work for the server: how they start, and how they end."""

import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext, SpawnContext
from multiprocessing.process import BaseProcess
from pathlib import Path

try:
    import resource
except ImportError:  # There are no such limits on this system.
    resource = None  # type: ignore[assignment]

LEAVE_SECONDS = 0.5
# How long is waited before a process that did not start is started again.
START_PAUSES = (0.1, 0.3, 1.0, 2.0)
PARENT_CHECK_SECONDS = 2.0
# Loaded once by the process that all others are forked from.
PRELOADED = ["nebrel.jobs.preloaded"]


def starting() -> ForkServerContext | SpawnContext:
    """How they start: where the system can, from a process that has loaded everything, so one is there at once."""
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(PRELOADED)
    return context


class WorkingProcess:
    """A process and our end of its pipe."""

    def __init__(
        self, context: ForkServerContext | SpawnContext, main: Callable[..., None], name: str, *given: object
    ) -> None:
        self.connection, theirs = context.Pipe()
        self._process = _started(context, main, (theirs, *given), name)
        theirs.close()

    @property
    def pid(self) -> int:
        """Its number in the system."""
        return self._process.pid or 0

    @property
    def alive(self) -> bool:
        """Whether it works still."""
        return self._process.is_alive()

    def end(self) -> None:
        """End it, whatever it does."""
        self.connection.close()
        self._process.terminate()
        self._process.join(LEAVE_SECONDS)
        if self._process.is_alive():
            self._process.kill()
            self._process.join()

    def exit_signal(self) -> int | None:
        """The signal that ended it, if one did."""
        self._process.join(LEAVE_SECONDS)
        code = self._process.exitcode
        return -code if code is not None and code < 0 else None


def _started(
    context: ForkServerContext | SpawnContext, main: Callable[..., None], given: tuple[object, ...], name: str
) -> BaseProcess:
    """A process that has started; again where what it is forked from has just come to an end.

    Raises:
        OSError, EOFError: the system starts none.
    """
    for pause in (*START_PAUSES, None):
        process = context.Process(target=main, args=given, daemon=True, name=name)
        try:
            process.start()
        except (OSError, EOFError):
            if pause is None:
                raise
            time.sleep(pause)
        else:
            return process
    raise AssertionError


def send_block(connection: Connection, block: bytes) -> None:
    """Send many bytes as they are, for `receive_block` at the other end: no copy of them is made on the way."""
    rest, handle = memoryview(block), connection.fileno()
    while rest:
        rest = rest[os.write(handle, rest) :]


def receive_block(connection: Connection, size: int) -> bytes:
    """The bytes that `send_block` sent.

    Raises:
        EOFError: the other end closed before all had come.
    """
    block, handle = bytearray(size), connection.fileno()
    rest = memoryview(block)
    while rest:
        came = os.readv(handle, [rest])
        if not came:
            raise EOFError
        rest = rest[came:]
    return bytes(block)


def end_with_parent() -> None:
    """A killed server must not leave processes behind; called in one."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(PARENT_CHECK_SECONDS)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()


def limit_bytes(most: int | None) -> None:
    """Let this process take so many bytes more than it has; None for as many as it likes."""
    if resource is not None:
        _set_limit(resource.RLIMIT_AS, None if most is None else _taken() + most)


def limit_seconds(seconds: float | None) -> None:
    """Let this process work for so many seconds more, then the system ends it; None for as many as it likes."""
    if resource is not None:
        used = resource.getrusage(resource.RUSAGE_SELF)
        worked = used.ru_utime + used.ru_stime
        _set_limit(resource.RLIMIT_CPU, None if seconds is None else int(worked + seconds) + 1)


def _set_limit(kind: int, bound: int | None) -> None:
    _, highest = resource.getrlimit(kind)
    resource.setrlimit(kind, (highest if bound is None else bound, highest))


def _taken() -> int:
    """Bytes of addresses that this process has."""
    try:
        pages = int(Path("/proc/self/statm").read_text().split()[0])
    except (OSError, ValueError):
        return 2**34
    return pages * resource.getpagesize()
