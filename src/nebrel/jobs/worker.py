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
    from nebrel.jobs.workplace import workplace_in

    def work(kind: str, payload: dict[str, Any]) -> dict[str, Any]:
        return KINDS[kind](place, payload, Reporter(tell))

    def tell(stage: str, fraction: float) -> None:
        message: tuple[str, Any, Any] = ("progress", stage, fraction)
        connection.send(message)

    place = workplace_in(settings.model_copy(update={"memory_cache_bytes": 64 * 2**20}))
    try:
        while True:
            kind, payload = connection.recv()
            connection.send(outcome_of(partial(work, kind, payload)))
    except (EOFError, BrokenPipeError, ConnectionResetError):
        return


def outcome_of(work: Callable[[], dict[str, Any]]) -> tuple[str, dict[str, Any] | str]:
    """How work ended: `done` and its result, `failed` and a sentence, or, for a mistake of ours, `broken` and where."""
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


class Reporter:
    """Tells progress, no more often than anyone can read."""

    def __init__(self, tell: Callable[[str, float], None]) -> None:
        self._tell = tell
        self._stage = ""
        self._sent = 0.0

    def __call__(self, stage: str, fraction: float) -> None:
        moment = time.monotonic()
        if stage != self._stage or moment - self._sent >= REPORT_EVERY_SECONDS:
            self._stage, self._sent = stage, moment
            self._tell(stage, fraction)
