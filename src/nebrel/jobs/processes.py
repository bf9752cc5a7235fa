"""Processes that work for the server: how they start, and how they end."""

import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from multiprocessing.context import ForkServerContext, SpawnContext

LEAVE_SECONDS = 0.5
PARENT_CHECK_SECONDS = 2.0
# Loaded once by the process that all others are forked from.
PRELOADED = ["nebrel.jobs.work", "nebrel.jobs.workshop", "nebrel.jobs.readers"]


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
        self._process = context.Process(target=main, args=(theirs, *given), daemon=True, name=name)
        self._process.start()
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


def end_with_parent() -> None:
    """A killed server must not leave processes behind; called in one."""
    parent = os.getppid()

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(PARENT_CHECK_SECONDS)
        os._exit(1)

    threading.Thread(target=watch, daemon=True).start()
