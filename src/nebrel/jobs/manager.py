"""Hands jobs to worker processes, one at a time each, and outlives whatever happens to them."""

import logging
import multiprocessing
import queue
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext, SpawnContext
from multiprocessing.process import BaseProcess
from typing import Any

from nebrel.jobs.worker import worker_main
from nebrel.jobs.workshop import Workshop
from nebrel.store.jobs import ENDED, JobRecord

Listener = Callable[[JobRecord], None]
_Queue = queue.Queue[tuple[str, str, dict[str, Any]] | None]
# Kinds of job that wait for others elsewhere; they hold no worker up that builds.
ABROAD = ("service",)
LOG = logging.getLogger("nebrel.jobs")
MISTAKE = "Nebrel made a mistake here; the piece is unharmed. The log tells what it was."
POLL_SECONDS = 0.05
LEAVE_SECONDS = 0.5
# Loaded once by the process that workers are forked from.
PRELOADED = ["nebrel.jobs.work", "nebrel.jobs.workshop"]


class JobManager:
    """Runs jobs in worker processes and tells a listener of every change.

    A cancelled job's worker is ended and replaced, so cancelling takes effect at once whatever the work is.
    """

    def __init__(self, workshop: Workshop, listener: Listener = lambda _: None) -> None:
        self._workshop = workshop
        self._listener = listener
        self._waiting: _Queue = queue.Queue()
        self._abroad: _Queue = queue.Queue()
        self._cancelled: set[str] = set()
        self._context = _context()
        self._lanes = [self._waiting] * workshop.settings.workers + [self._abroad]
        self._threads = [
            threading.Thread(target=self._serve, args=(lane,), name=f"jobs-{number}", daemon=True)
            for number, lane in enumerate(self._lanes)
        ]
        self._stopping = threading.Event()

    def start(self) -> None:
        """Offer what a crash interrupted, and start the workers."""
        self._workshop.jobs.mark_interrupted()
        self._workshop.kept.sweep()
        for thread in self._threads:
            thread.start()

    def stop(self) -> None:
        """End the workers; what they were doing is marked as interrupted."""
        self._stopping.set()
        for lane in self._lanes:
            lane.put(None)
        for thread in self._threads:
            thread.join(timeout=5)
        self._workshop.jobs.mark_interrupted()

    def submit(self, kind: str, piece_id: str, revision: int, payload: dict[str, Any]) -> JobRecord:
        """Queue a job; its progress arrives at the listener."""
        job = self._workshop.jobs.create(kind, piece_id, revision)
        self._listener(job)
        (self._abroad if kind in ABROAD else self._waiting).put((job.id, kind, payload))
        return job

    def cancel(self, job_id: str) -> JobRecord:
        """End a waiting or running job; an ended one stays as it is."""
        job = self._workshop.jobs.get(job_id)
        if job.state in ENDED:
            return job
        self._cancelled.add(job_id)
        return self._note(job_id, "cancelled", message="Cancelled.")

    def _serve(self, lane: "_Queue") -> None:
        # What waits for others is seldom asked for: its worker is not started before.
        worker = self._start_worker() if lane is self._waiting else None
        while not self._stopping.is_set():
            task = lane.get()
            if task is None:
                break
            job_id, kind, payload = task
            if job_id in self._cancelled:
                self._cancelled.discard(job_id)
                continue
            if worker is None or not worker.alive:
                worker = self._start_worker()
            if not self._run(worker, job_id, kind, payload):
                worker.end()
                worker = None
                if lane is self._waiting and not self._stopping.is_set():
                    worker = self._start_worker()
        if worker is not None:
            worker.end()

    def _run(self, worker: "_Worker", job_id: str, kind: str, payload: dict[str, Any]) -> bool:
        """Whether the worker can go on with another job afterwards."""
        self._note(job_id, "running", stage="Starting", fraction=0.0)
        try:
            worker.connection.send((kind, payload))
            while True:
                if job_id in self._cancelled:
                    self._cancelled.discard(job_id)
                    return False
                if self._stopping.is_set():
                    return False
                if not worker.connection.poll(POLL_SECONDS):
                    if not worker.alive and not worker.connection.poll(0):
                        raise EOFError
                    continue
                message = worker.connection.recv()
                if message[0] == "progress":
                    self._note(job_id, "running", stage=message[1], fraction=float(message[2]))
                elif message[0] == "done":
                    self._note(job_id, "done", stage="Done", fraction=1.0, result=message[1])
                    return True
                elif message[0] == "broken":
                    self._log(logging.ERROR, job_id, f"A worker made a mistake\n{message[1]}")
                    self._note(job_id, "failed", message=MISTAKE)
                    return True
                else:
                    self._note(job_id, "failed", message=message[1])
                    return True
        except (EOFError, OSError):
            obituary = worker.obituary()
            self._log(logging.ERROR, job_id, obituary)
            self._note(job_id, "failed", message=obituary)
            return False

    def _log(self, level: int, job_id: str, message: str) -> None:
        LOG.log(level, message, extra={"job": job_id, "piece": self._workshop.jobs.get(job_id).piece_id})

    def _note(self, job_id: str, state: Any, **changes: Any) -> JobRecord:
        record = self._workshop.jobs.update(job_id, state, **changes)
        self._listener(record)
        return record

    def _start_worker(self) -> "_Worker":
        ours, theirs = self._context.Pipe()
        process = self._context.Process(
            target=worker_main, args=(theirs, self._workshop.settings), daemon=True, name="nebrel-worker"
        )
        process.start()
        theirs.close()
        return _Worker(process, ours)


def _context() -> ForkServerContext | SpawnContext:
    """How workers start: where the system can, from a process that has loaded everything, so one is there at once."""
    if "forkserver" not in multiprocessing.get_all_start_methods():
        return multiprocessing.get_context("spawn")
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(PRELOADED)
    return context


class _Worker:
    """A process and our end of its pipe."""

    def __init__(self, process: BaseProcess, connection: Connection) -> None:
        self.process = process
        self.connection = connection

    @property
    def alive(self) -> bool:
        return self.process.is_alive()

    def end(self) -> None:
        self.connection.close()
        self.process.terminate()
        self.process.join(LEAVE_SECONDS)
        if self.process.is_alive():
            self.process.kill()
            self.process.join()

    def obituary(self) -> str:
        self.process.join(LEAVE_SECONDS)
        code = self.process.exitcode
        how = f"was killed by signal {-code}" if code is not None and code < 0 else "ended unexpectedly"
        return f"The worker process {how} before the job was done; the piece is unharmed, please build it again."
