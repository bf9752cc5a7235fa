"""What is known of jobs at this moment: what the database has, and what is newer than that."""

import logging
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from sqlalchemy.exc import SQLAlchemyError

from nebrel.store.jobs import ENDED, JobRecord, JobRecords, JobState
from nebrel.store.means import refusal_for

LOG = logging.getLogger("nebrel.jobs")
# How long is waited before a note that was refused is tried again; after the last, it waits for better times.
PATIENCE_SECONDS = (0.1, 0.5, 2.0)
UNKEPT = "What became of this could not be written down; the piece is unharmed. Start it again."


class Notebook:
    """Notes on jobs. How far a job is stays in memory; where it begins and how it ends is written down.

    What cannot be written down is tried again, then the job has failed, with a sentence that is kept here until it can.
    """

    def __init__(self, records: JobRecords, listener: Callable[[JobRecord], None]) -> None:
        self._records = records
        self._listener = listener
        self._lock = threading.Lock()
        self._newer: dict[str, JobRecord] = {}
        self._unwritten: set[str] = set()

    def create(self, kind: str, piece_id: str, revision: int, asked: dict[str, object]) -> JobRecord:
        """A new job, waiting."""
        record = self._records.create(kind, piece_id, revision, asked)
        with self._lock:
            self._newer[record.id] = record
        self._tell(record)
        return record

    def take_up(self, record: JobRecord) -> None:
        """Follow a job that an earlier server began."""
        with self._lock:
            self._newer[record.id] = record

    def get(self, job_id: str) -> JobRecord:
        """The job as it is now.

        Raises:
            NotFoundError: there is none of this name.
        """
        return self._newest(self._records.get(job_id))

    def recent(self, piece_id: str | None = None) -> list[JobRecord]:
        """The newest jobs first, of one piece or of all, as they are now."""
        return [self._newest(record) for record in self._records.recent(piece_id=piece_id)]

    def progress(self, job_id: str, stage: str, fraction: float) -> None:
        """How far a running job is; one that has ended stays as it ended."""
        with self._lock:
            record = self._newer.get(job_id)
            if record is None or record.state in ENDED:
                return
            record = self._newer[job_id] = replace(record, stage=stage, fraction=fraction)
        self._tell(record)

    def note(self, job_id: str, state: JobState, **changes: Any) -> JobRecord:
        """Write down that a job begins, or how it ended; an ended one stays as it ended."""
        record = self._written(job_id, state, changes)
        with self._lock:
            if record.state in ENDED and job_id not in self._unwritten:
                self._newer.pop(job_id, None)
            else:
                self._newer[job_id] = record
        self._tell(record)
        return record

    def catch_up(self) -> None:
        """Try once more to write down what could not be."""
        for job_id in tuple(self._unwritten):
            record = self._newer.get(job_id)
            if record is None:
                continue
            try:
                self._records.update(job_id, record.state, stage=record.stage, message=record.message)
            except (SQLAlchemyError, OSError):
                return
            with self._lock:
                self._unwritten.discard(job_id)
                self._newer.pop(job_id, None)

    def _written(self, job_id: str, state: JobState, changes: dict[str, Any]) -> JobRecord:
        for wait in (*PATIENCE_SECONDS, None):
            try:
                return self._records.update(job_id, state, **changes)
            except (SQLAlchemyError, OSError) as refused:
                if wait is None:
                    LOG.exception("A note on a job could not be written", extra={"job": job_id})
                    return self._failed(job_id, str(refusal_for(refused) or UNKEPT))
                time.sleep(wait)
        raise AssertionError

    def _failed(self, job_id: str, message: str) -> JobRecord:
        with self._lock:
            known = self._newer[job_id]
            self._unwritten.add(job_id)
        return replace(known, state="failed", stage="", message=message)

    def _newest(self, record: JobRecord) -> JobRecord:
        with self._lock:
            newer = self._newer.get(record.id)
        return record if newer is None or record.state in ENDED else newer

    def _tell(self, record: JobRecord) -> None:
        try:
            self._listener(record)
        except Exception:
            LOG.exception("News of a job could not be told", extra={"job": record.id})
