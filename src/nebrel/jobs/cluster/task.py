"""A task as it runs in a worker of a cluster. It returns keys of results, and facts; results go to the store."""

import hashlib
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from distributed import get_worker

from nebrel.jobs.cluster.readiness import NEWS
from nebrel.jobs.executor import STARTING
from nebrel.jobs.work import KINDS
from nebrel.jobs.worker import Reporter, outcome_of
from nebrel.jobs.workplace import Whereabouts, Workplace, workplace_at
from nebrel.settings import Settings

MEMORY_BYTES = 64 * 2**20
_LOCK = threading.Lock()
_STOPPED: dict[str, threading.Event] = {}
_PLACES: dict[Whereabouts, Workplace] = {}


class _StoppedError(BaseException):
    """The task was cancelled; no `except Exception` on the way takes this for a fault."""


def run_task(where: Whereabouts, settings: Settings, kind: str, payload: dict[str, Any], key: str) -> tuple[str, Any]:
    """Do a task.

    Args:
        where: source files and results are.
        settings: of who asks.
        kind: of the work, see `jobs/work.py`.
        payload: what it is given.
        key: the name of the task.

    Returns:
        The state of an `Outcome`, and its result or its message.
    """
    worker = get_worker()
    stopped = threading.Event()

    def tell(stage: str, fraction: float) -> None:
        worker.log_event(NEWS, {"key": key, "stage": stage, "fraction": fraction, "worker": worker.address})

    def report(stage: str, fraction: float) -> None:
        if stopped.is_set():
            raise _StoppedError
        reporter(stage, fraction)

    reporter = Reporter(tell)
    with _LOCK:
        _STOPPED[key] = stopped
    try:
        tell(STARTING, 0.0)
        with _LOCK:
            place = _place(where, settings, Path(worker.local_directory))
        work: Callable[[], dict[str, Any]] = lambda: KINDS[kind](place, payload, report)  # noqa: E731
        return outcome_of(work)
    except _StoppedError:
        return "cancelled", ""
    finally:
        with _LOCK:
            del _STOPPED[key]


def stop_task(key: str) -> None:
    """Have a task of this worker end at its next report."""
    with _LOCK:
        stopped = _STOPPED.get(key)
    if stopped is not None:
        stopped.set()


def is_running(key: str) -> bool:
    """Whether this worker is at a task."""
    with _LOCK:
        return key in _STOPPED


def _place(where: Whereabouts, settings: Settings, folder: Path) -> Workplace:
    if where not in _PLACES:
        # One server at a time is the rule; what others had at hand is fetched again.
        _PLACES.clear()
        near = folder / f"nebrel-{hashlib.sha256(where.address.encode()).hexdigest()[:16]}"
        _PLACES[where] = workplace_at(where, settings.model_copy(update={"memory_cache_bytes": MEMORY_BYTES}), near)
    return _PLACES[where]
