"""The process that does one job after another and tells its parent how far it is."""

import signal
import time
import traceback
from collections.abc import Callable
from functools import partial
from multiprocessing.connection import Connection
from typing import Any

from nebrel.core.errors import NebrelError
from nebrel.jobs.processes import end_with_parent
from nebrel.settings import Settings
from nebrel.store.means import refusal_for

REPORT_EVERY_SECONDS = 0.1


def worker_main(connection: Connection, settings: Settings) -> None:
    """Answer tasks `(kind, payload)` with `("progress", stage, fraction)` and one `("done", result)`, `("failed",
    sentence)` or, for a mistake of ours, `("broken", traceback)`, until the other end closes."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    end_with_parent()
    from nebrel.jobs.work import KINDS
    from nebrel.jobs.workshop import open_workshop

    def work(kind: str, payload: dict[str, Any]) -> dict[str, Any]:
        return KINDS[kind](workshop, payload, _Reporter(connection))

    workshop = open_workshop(settings.model_copy(update={"memory_cache_bytes": 64 * 2**20}))
    try:
        while True:
            kind, payload = connection.recv()
            connection.send(_outcome(partial(work, kind, payload)))
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return


def _outcome(work: Callable[[], dict[str, Any]]) -> tuple[str, dict[str, Any] | str]:
    try:
        return "done", work()
    except NebrelError as refusal:
        return "failed", str(refusal)
    except MemoryError:
        return "failed", "There is not enough memory for this; a coarser tolerance needs less."
    except (BrokenPipeError, ConnectionResetError):
        raise
    except Exception as fault:
        means = refusal_for(fault)
        return ("broken", traceback.format_exc()) if means is None else ("failed", str(means))


class _Reporter:
    """Sends progress, no more often than anyone can read."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._stage = ""
        self._sent = 0.0

    def __call__(self, stage: str, fraction: float) -> None:
        moment = time.monotonic()
        if stage != self._stage or moment - self._sent >= REPORT_EVERY_SECONDS:
            self._stage, self._sent = stage, moment
            message: tuple[str, Any, Any] = ("progress", stage, fraction)
            self._connection.send(message)
