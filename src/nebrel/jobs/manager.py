"""Hands jobs to worker processes, one at a time each, and outlives whatever happens to them."""

import logging
import queue
import threading
from collections.abc import Callable
from typing import Any

from nebrel.core.errors import ConflictError
from nebrel.jobs.notebook import Notebook
from nebrel.jobs.processes import LEAVE_SECONDS, WorkingProcess, starting
from nebrel.jobs.worker import worker_main
from nebrel.jobs.workshop import Workshop
from nebrel.store.blobs import sweep
from nebrel.store.jobs import ENDED, JobRecord
from nebrel.store.means import refusal_for

Listener = Callable[[JobRecord], None]
_Queue = queue.Queue[tuple[str, str, dict[str, Any]] | None]
# Kinds of job that wait for others elsewhere; they hold no worker up that builds.
ABROAD = ("service",)
LOG = logging.getLogger("nebrel.jobs")
MISTAKE = "Nebrel made a mistake here; the piece is unharmed. The log tells what it was."
POLL_SECONDS = 0.05
# How often a lane that has nothing to do tries to write down what could not be.
IDLE_SECONDS = 5.0


class JobManager:
    """Runs jobs in worker processes and tells a listener of every change.

    A cancelled job's worker is ended and replaced, so cancelling takes effect at once whatever the work is. Whatever
    goes wrong with one job, the next is served.
    """

    def __init__(self, workshop: Workshop, listener: Listener = lambda _: None) -> None:
        self._workshop = workshop
        self._notes = Notebook(workshop.jobs, listener)
        self._waiting: _Queue = queue.Queue()
        self._abroad: _Queue = queue.Queue()
        self._cancelled: set[str] = set()
        self._context = starting()
        self._lanes = [self._waiting] * workshop.settings.workers + [self._abroad]
        self._threads = [
            threading.Thread(target=self._serve, args=(lane,), name=f"jobs-{number}", daemon=True)
            for number, lane in enumerate(self._lanes)
        ]
        self._stopping = threading.Event()

    def start(self) -> None:
        """Mark what a crash interrupted, so that it can be asked for again, and start the workers."""
        self._workshop.jobs.mark_interrupted()
        sweep(self._workshop.settings.data_dir)
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

    @property
    def alive(self) -> bool:
        """Whether every lane is served."""
        return all(thread.is_alive() for thread in self._threads)

    def get(self, job_id: str) -> JobRecord:
        """The job as it is now.

        Raises:
            NotFoundError: there is none of this name.
        """
        return self._notes.get(job_id)

    def recent(self, piece_id: str | None = None) -> list[JobRecord]:
        """The newest jobs first, of one piece or of all, as they are now."""
        return self._notes.recent(piece_id)

    def submit(self, kind: str, piece_id: str, revision: int, payload: dict[str, Any]) -> JobRecord:
        """Queue a job; its progress arrives at the listener.

        Args:
            kind: of the work, see `jobs/work.py`.
            piece_id, revision: what it is done on.
            payload: the `document` of that revision, and what is asked for besides.
        """
        asked = {name: value for name, value in payload.items() if name != "document"}
        job = self._notes.create(kind, piece_id, revision, asked)
        (self._abroad if kind in ABROAD else self._waiting).put((job.id, kind, payload))
        return job

    def again(self, job_id: str, **changed: object) -> JobRecord:
        """Queue a job that failed or was interrupted once more, as a new one on the same revision.

        Args:
            job_id: of the one that ended.
            changed: what is asked for in another way now.

        Raises:
            ConflictError: it waits or runs still, or is done.
        """
        job = self.get(job_id)
        if job.state not in ("failed", "cancelled", "interrupted"):
            raise ConflictError("This job has not failed, so there is nothing to start again.")
        document = self._workshop.pieces.document_of(job.revision)
        return self.submit(job.kind, job.piece_id, job.revision, {"document": document, **job.asked, **changed})

    def cancel(self, job_id: str) -> JobRecord:
        """End a waiting or running job; an ended one stays as it is."""
        job = self.get(job_id)
        if job.state in ENDED:
            return job
        self._cancelled.add(job_id)
        return self._notes.note(job_id, "cancelled", message="Cancelled.")

    def _serve(self, lane: "_Queue") -> None:
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

    def _serve_next(self, lane: "_Queue", worker: WorkingProcess | None) -> WorkingProcess | None:
        """Do the next job of a lane, or look after what is left undone; returns the worker if it can go on."""
        try:
            task = lane.get(timeout=IDLE_SECONDS)
        except queue.Empty:
            self._notes.catch_up()
            return worker
        if task is None:
            return worker
        job_id, kind, payload = task
        if job_id in self._cancelled:
            self._cancelled.discard(job_id)
            return worker
        try:
            worker = worker if worker is not None and worker.alive else self._start_worker()
            if self._run(worker, job_id, kind, payload):
                return worker
        except Exception as cause:
            LOG.exception("A job could not be served", extra={"job": job_id})
            self._notes.note(job_id, "failed", message=str(refusal_for(cause) or MISTAKE))
        if worker is not None:
            worker.end()
        return None

    def _run(self, worker: WorkingProcess, job_id: str, kind: str, payload: dict[str, Any]) -> bool:
        """Whether the worker can go on with another job afterwards."""
        if self._notes.note(job_id, "running", stage="Starting", fraction=0.0).state in ENDED:
            return True
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
                    self._notes.progress(job_id, message[1], float(message[2]))
                elif message[0] == "done":
                    self._notes.note(job_id, "done", stage="Done", fraction=1.0, result=message[1])
                    return True
                elif message[0] == "broken":
                    LOG.error("A worker made a mistake\n%s", message[1], extra=self._about(job_id))
                    self._notes.note(job_id, "failed", message=MISTAKE)
                    return True
                else:
                    self._notes.note(job_id, "failed", message=message[1])
                    return True
        except (EOFError, BrokenPipeError, ConnectionResetError):
            obituary = _obituary(worker)
            LOG.error(obituary, extra=self._about(job_id))
            self._notes.note(job_id, "failed", message=obituary)
            return False

    def _about(self, job_id: str) -> dict[str, str]:
        return {"job": job_id, "piece": self.get(job_id).piece_id}

    def _start_worker(self) -> WorkingProcess:
        return WorkingProcess(self._context, worker_main, "nebrel-worker", self._workshop.settings)


def _obituary(worker: WorkingProcess) -> str:
    signal = worker.exit_signal()
    how = "ended unexpectedly" if signal is None else f"was killed by signal {signal}"
    return f"The worker process {how} before the job was done; the piece is unharmed, please build it again."
