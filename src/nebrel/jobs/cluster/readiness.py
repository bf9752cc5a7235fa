"""What every worker of a cluster is made to do before it counts.

This file crosses to workers and to the scheduler as its text, not by its name: they need no Nebrel to read it, so one
that lacks it can be told.
"""

from importlib.metadata import version
from typing import Any

from distributed import WorkerPlugin

# A worker takes what asks for this, once it has it.
RESOURCE = "nebrel"
NEWS = "nebrel"
# A task whose worker ends is given to one other.
MOST_FAILURES = 1


class Readiness(WorkerPlugin):  # type: ignore[misc]
    """Loads Nebrel and what it has compiled; then, and only where it is the same version, the worker counts."""

    name = "nebrel"

    def __init__(self, version: str) -> None:
        self._version = version

    def setup(self, worker: Any) -> None:
        """Get a worker ready."""
        try:
            from nebrel.jobs import preloaded

            assert preloaded
            there = version("nebrel")
        except ImportError as cause:
            why = f"has no Nebrel ({cause})"
        except Exception as cause:
            why = f"cannot load Nebrel ({cause})"
        else:
            why = "" if there == self._version else f"has Nebrel {there}, and this is {self._version}"
        if why:
            worker.log_event(NEWS, {"unfit": f"The worker {worker.address} {why}; it is given no work."})
        else:
            worker.loop.add_callback(worker.set_resources, **{RESOURCE: 1})


def expect_failures(dask_scheduler: Any) -> None:
    """Let the scheduler give up a task after its second worker; one that gives up sooner stays so."""
    dask_scheduler.allowed_failures = min(dask_scheduler.allowed_failures, MOST_FAILURES)
