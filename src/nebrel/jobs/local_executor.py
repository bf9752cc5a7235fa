"""Tasks done by processes of this machine."""

import logging
import queue
import threading
from dataclasses import dataclass, field
from typing import Any

from nebrel.jobs.executor import STARTING, Handle, OnEnd, OnProgress, Outcome
from nebrel.jobs.processes import LEAVE_SECONDS, WorkingProcess, starting
from nebrel.jobs.worker import worker_main
from nebrel.settings import Settings
from nebrel.store.means import refusal_for

LOG = logging.getLogger("nebrel.jobs")
POLL_SECONDS = 0.05
# Kinds of task that wait for others elsewhere; they hold no worker up that builds.
ABROAD = ("service",)


@dataclass(eq=False)
class LocalTask:
    """A task that waits or runs here."""

    task_id: str
    kind: str
    payload: dict[str, Any]
    on_progress: OnProgress
    on_end: OnEnd
    cancelled: threading.Event = field(default_factory=threading.Event)


_Queue = queue.Queue[LocalTask | None]


class LocalExecutor:
    """One worker process a lane, each doing one task after another.

    A cancelled task's worker is ended and replaced, so cancelling takes effect at once whatever the work is. Whatever
    goes wrong with one task, the next is served.
    """

    def __init__(self, settings: Settings, workers: int | None = None) -> None:
        """
        Args:
            settings: of the data folder that is worked in.
            workers: how many processes work, beside one that waits for others elsewhere; the settings tell otherwise.
        """
        self._settings = settings
        self._workers = settings.workers if workers is None else workers
        self._waiting: _Queue = queue.Queue()
        self._abroad: _Queue = queue.Queue()
        self._context = starting()
        self._lanes = [self._waiting] * self._workers + [self._abroad]
        self._threads = [
            threading.Thread(target=self._serve, args=(lane,), name=f"jobs-{number}", daemon=True)
            for number, lane in enumerate(self._lanes)
        ]
        self._stopping = threading.Event()

    def start(self) -> None:
        """Start the workers."""
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End the workers."""
        self._stopping.set()
        for lane in self._lanes:
            lane.put(None)
        for thread in self._threads:
            thread.join(timeout=5)

    @property
    def alive(self) -> bool:
        """Whether every lane is served."""
        return all(thread.is_alive() for thread in self._threads)

    @property
    def outlasts(self) -> bool:
        """Its processes end with it."""
        return False

    def adopt(self, task_id: str, on_progress: OnProgress, on_end: OnEnd) -> None:
        """What ran before has ended with its server."""
        return

    def capacity(self) -> int:
        """How many tasks run beside each other."""
        return self._workers

    def submit(
        self, task_id: str, kind: str, payload: dict[str, Any], on_progress: OnProgress, on_end: OnEnd
    ) -> LocalTask:
        """Queue a task; see `Executor`."""
        task = LocalTask(task_id, kind, payload, on_progress, on_end)
        (self._abroad if kind in ABROAD else self._waiting).put(task)
        return task

    def cancel(self, handle: Handle) -> None:
        """End a task that waits or runs."""
        assert isinstance(handle, LocalTask)
        handle.cancelled.set()

    def _serve(self, lane: _Queue) -> None:
        worker: WorkingProcess | None = None
        while not self._stopping.is_set():
            try:
                # What waits for others is seldom asked for: its worker is not started before.
                if lane is self._waiting and (worker is None or not worker.alive):
                    worker = self._start_worker()
                worker = self._serve_next(lane, worker)
            except Exception:
                LOG.exception("A lane of jobs stumbled")
                self._stopping.wait(LEAVE_SECONDS)
        if worker is not None:
            worker.end()

    def _serve_next(self, lane: _Queue, worker: WorkingProcess | None) -> WorkingProcess | None:
        """Do the next task of a lane; returns the worker if it can go on."""
        task = lane.get()
        if task is None:
            return worker
        goes_on = False
        try:
            if not task.cancelled.is_set():
                worker = worker if worker is not None and worker.alive else self._start_worker()
                task.on_progress(STARTING, 0.0)
            if worker is None or task.cancelled.is_set():
                task.on_end(Outcome("cancelled"))
                return worker
            outcome = self._run(worker, task)
            goes_on = outcome is not None and outcome.state in ("done", "failed", "broken")
        except Exception as cause:
            LOG.exception("A job could not be served", extra={"job": task.task_id})
            means = refusal_for(cause)
            outcome = Outcome("broken", message=str(cause)) if means is None else Outcome("failed", message=str(means))
        if outcome is not None:
            task.on_end(outcome)
        if worker is None or goes_on:
            return worker
        worker.end()
        return None

    def _run(self, worker: WorkingProcess, task: LocalTask) -> Outcome | None:
        """How a task ended; None where it was left undone."""
        try:
            worker.connection.send((task.kind, task.payload))
            while True:
                if task.cancelled.is_set():
                    return Outcome("cancelled")
                if self._stopping.is_set():
                    return None
                if not worker.connection.poll(POLL_SECONDS):
                    if not worker.alive and not worker.connection.poll(0):
                        raise EOFError
                    continue
                message = worker.connection.recv()
                if message[0] == "progress":
                    task.on_progress(message[1], float(message[2]))
                elif message[0] == "done":
                    return Outcome("done", message[1])
                else:
                    return Outcome(message[0], message=message[1])
        except (EOFError, BrokenPipeError, ConnectionResetError):
            return Outcome("died", message=_obituary(worker))

    def _start_worker(self) -> WorkingProcess:
        return WorkingProcess(self._context, worker_main, "nebrel-worker", self._settings)


def _obituary(worker: WorkingProcess) -> str:
    signal = worker.exit_signal()
    how = "ended unexpectedly" if signal is None else f"was killed by signal {signal}"
    return f"The worker process {how} before the job was done; the piece is unharmed, please build it again."
