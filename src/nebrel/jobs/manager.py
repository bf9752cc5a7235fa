"""Jobs of pieces: what is asked for is handed to an executor, and what becomes of it is written down."""

import logging
import threading
from collections.abc import Callable
from typing import Any

from nebrel.core.errors import ConflictError
from nebrel.jobs.executor import STARTING, Executor, Handle, OnEnd, OnProgress, Outcome
from nebrel.jobs.local_executor import LocalExecutor
from nebrel.jobs.notebook import Notebook
from nebrel.jobs.workshop import Workshop
from nebrel.store.blobs import sweep
from nebrel.store.jobs import ENDED, JobRecord

Listener = Callable[[JobRecord], None]
LOG = logging.getLogger("nebrel.jobs")
MISTAKE = "Nebrel made a mistake here; the piece is unharmed. The log tells what it was."
# How often it is tried to write down what could not be.
IDLE_SECONDS = 5.0


class JobManager:
    """Has jobs done and tells a listener of every change.

    Whatever goes wrong with one job, the next is served.
    """

    def __init__(
        self, workshop: Workshop, listener: Listener = lambda _: None, executor: Executor | None = None
    ) -> None:
        self._workshop = workshop
        self._notes = Notebook(workshop.jobs, listener)
        self._executor = executor or LocalExecutor(workshop.settings)
        self._handles: dict[str, Handle] = {}
        self._lock = threading.RLock()
        self._stopping = threading.Event()
        self._keeper = threading.Thread(target=self._catch_up, name="jobs-notes", daemon=True)

    def start(self) -> None:
        """Start the workers. What an earlier server began goes on where it runs still; else it was interrupted, and
        can be asked for again."""
        sweep(self._workshop.settings.data_dir)
        self._executor.start()
        self._keeper.start()
        self._workshop.jobs.mark_interrupted(self._adopted())

    def stop(self) -> None:
        """End the workers; what they were doing is marked as interrupted, unless it goes on without a server."""
        self._stopping.set()
        self._executor.stop()
        self._keeper.join(timeout=5)
        if not self._executor.outlasts:
            self._workshop.jobs.mark_interrupted()

    def _adopted(self) -> list[str]:
        """The jobs of an earlier server that run still, by name."""
        found = []
        for job in self._workshop.jobs.unfinished() if self._executor.outlasts else ():
            self._notes.take_up(job)
            with self._lock:
                handle = self._executor.adopt(job.id, *self._ears(job.id))
                if handle is not None:
                    self._handles[job.id] = handle
                    found.append(job.id)
        return found

    def _ears(self, job_id: str) -> tuple[OnProgress, OnEnd]:
        return (
            lambda stage, fraction: self._follow(job_id, stage, fraction),
            lambda outcome: self._end(job_id, outcome),
        )

    @property
    def alive(self) -> bool:
        """Whether jobs are done, and written down."""
        return self._executor.alive and self._keeper.is_alive()

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
        with self._lock:
            self._handles[job.id] = self._executor.submit(job.id, kind, payload, *self._ears(job.id))
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
        self._let_go(job_id)
        return self._notes.note(job_id, "cancelled", message="Cancelled.")

    def _follow(self, job_id: str, stage: str, fraction: float) -> None:
        if stage != STARTING:
            self._notes.progress(job_id, stage, fraction)
        # One that was cancelled meanwhile, or whose beginning cannot be written down, is not begun.
        elif self._notes.note(job_id, "running", stage=stage, fraction=fraction).state in ENDED:
            self._let_go(job_id)

    def _let_go(self, job_id: str) -> None:
        with self._lock:
            handle = self._handles.get(job_id)
        if handle is not None:
            self._executor.cancel(handle)

    def _end(self, job_id: str, outcome: Outcome) -> None:
        with self._lock:
            self._handles.pop(job_id, None)
        if outcome.state == "cancelled":
            return
        if outcome.state == "done":
            self._notes.note(job_id, "done", stage="Done", fraction=1.0, result=outcome.result)
            return
        if outcome.state != "failed":
            what = "A worker made a mistake\n" if outcome.state == "broken" else ""
            LOG.error("%s%s", what, outcome.message, extra={"job": job_id, "piece": self.get(job_id).piece_id})
        self._notes.note(job_id, "failed", message=MISTAKE if outcome.state == "broken" else outcome.message)

    def _catch_up(self) -> None:
        while not self._stopping.wait(IDLE_SECONDS):
            try:
                self._notes.catch_up()
            except Exception:
                LOG.exception("Notes on jobs could not be caught up with")
