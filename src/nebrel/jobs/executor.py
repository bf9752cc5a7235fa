"""Who does long work: one interface, whoever stands behind it."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal, Protocol

OnProgress = Callable[[str, float], None]
STARTING = "Starting"


@dataclass(frozen=True)
class Outcome:
    """How a task ended.

    Attributes:
        state: `done`; `failed`, for what was asked for; `broken`, by a mistake of ours; `died`, with its worker; or
            `cancelled`.
        result: what it returned, when it is done.
        message: why it failed, in words for people; of a mistake, what the log is to tell.
        retried: whether another worker has been tried after one that died.
    """

    state: Literal["done", "failed", "broken", "died", "cancelled"]
    result: dict[str, Any] | None = None
    message: str = ""
    retried: bool = False


OnEnd = Callable[[Outcome], None]


class Handle(Protocol):
    """A task that was submitted."""

    @property
    def task_id(self) -> str:
        """The name that it was submitted by."""
        ...


class Executor(Protocol):
    """Does tasks, several at a time, in processes here or elsewhere."""

    def start(self) -> None:
        """Begin to take tasks."""
        ...

    def stop(self) -> None:
        """End the workers, whatever they do; what they did not end is told to nobody."""
        ...

    @property
    def alive(self) -> bool:
        """Whether tasks are taken still."""
        ...

    @property
    def outlasts(self) -> bool:
        """Whether tasks go on when the server stops."""
        ...

    def adopt(self, task_id: str, on_progress: OnProgress, on_end: OnEnd) -> Handle | None:
        """Follow a task that was submitted before this server started; None where there is none any more."""
        ...

    def capacity(self) -> int:
        """How many tasks run beside each other."""
        ...

    def submit(
        self, task_id: str, kind: str, payload: dict[str, Any], on_progress: OnProgress, on_end: OnEnd
    ) -> Handle:
        """Queue a task.

        Args:
            task_id: its name.
            kind: of the work, see `jobs/work.py`.
            payload: what the work is given.
            on_progress: called with stage and fraction, first with `STARTING` and 0 when a worker takes it.
            on_end: called once, with how it ended.
        """
        ...

    def cancel(self, handle: Handle) -> None:
        """End a task that waits or runs; one that has ended stays as it ended."""
        ...
