"""What is known about long work, also after a restart."""

import uuid
from collections.abc import Collection
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Literal

from sqlalchemy import func, select, update

from nebrel.core.errors import NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import JobRow, now

JobState = Literal["waiting", "running", "done", "failed", "cancelled", "interrupted"]
OPEN: tuple[JobState, ...] = ("waiting", "running")
ENDED: tuple[JobState, ...] = ("done", "failed", "cancelled", "interrupted")


@dataclass(frozen=True)
class JobRecord:
    """One job. `asked`: its order besides the document; `message`: why it failed; `result`: what it returned."""

    id: str
    kind: str
    piece_id: str
    revision: int
    state: JobState
    stage: str
    fraction: float
    message: str
    asked: dict[str, object]
    result: dict[str, object] | None
    created: datetime
    ended: datetime | None


class JobRecords:
    """The jobs table."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def create(self, kind: str, piece_id: str, revision: int, asked: dict[str, object] | None = None) -> JobRecord:
        """A new job, waiting."""
        with self._database.writing() as session:
            own = {"id": uuid.uuid4().hex, "state": "waiting", "asked": asked or {}}
            row = JobRow(kind=kind, piece_id=piece_id, revision_id=revision, **own)
            session.add(row)
            session.flush()
            return _record(row)

    def get(self, job_id: str) -> JobRecord:
        """The job.

        Raises:
            NotFoundError: there is none of this name.
        """
        with self._database.reading() as session:
            return _record(_row(session.get(JobRow, job_id)))

    def recent(self, limit: int = 50, piece_id: str | None = None) -> list[JobRecord]:
        """The newest jobs first, of one piece or of all."""
        with self._database.reading() as session:
            query = select(JobRow).order_by(JobRow.created.desc()).limit(limit)
            if piece_id is not None:
                query = query.where(JobRow.piece_id == piece_id)
            return [_record(row) for row in session.scalars(query)]

    def count(self, state: JobState) -> int:
        """How many jobs are in a state, as far as that is written down."""
        with self._database.reading() as session:
            query = select(func.count()).select_from(JobRow).where(JobRow.state == state)
            return session.scalar(query) or 0

    def update(
        self,
        job_id: str,
        state: JobState,
        stage: str | None = None,
        fraction: float | None = None,
        message: str | None = None,
        result: dict[str, object] | None = None,
    ) -> JobRecord:
        """Write what changed; an ended job stays as it ended."""
        with self._database.writing() as session:
            row = _row(session.get(JobRow, job_id))
            if row.state in ENDED:
                return _record(row)
            row.state = state
            row.stage = row.stage if stage is None else stage
            row.fraction = row.fraction if fraction is None else fraction
            row.message = row.message if message is None else message
            row.result = row.result if result is None else result
            if state in ENDED:
                row.ended = now()
            session.flush()
            return _record(row)

    def unfinished(self) -> list[JobRecord]:
        """Jobs that wait or run, as far as that is written down."""
        with self._database.reading() as session:
            return [_record(row) for row in session.scalars(select(JobRow).where(JobRow.state.in_(OPEN)))]

    def mark_interrupted(self, but: Collection[str] = ()) -> int:
        """Jobs that a crash or restart left unfinished become `interrupted`; returns how many.

        `but` those of these names, which go on without a server.
        """
        with self._database.writing() as session:
            changed = session.execute(
                update(JobRow)
                .where(JobRow.state.in_(OPEN), JobRow.id.not_in(but))
                .values(
                    state="interrupted",
                    ended=now(),
                    message="Nebrel was stopped while this was at work; start it again.",
                )
                .returning(JobRow.id)
            )
            return len(changed.all())


def _row(row: JobRow | None) -> JobRow:
    if row is None:
        raise NotFoundError("There is no such job.")
    return row


def _record(row: JobRow) -> JobRecord:
    return JobRecord(
        id=row.id,
        kind=row.kind,
        piece_id=row.piece_id,
        revision=row.revision_id,
        state=row.state,  # type: ignore[arg-type]
        stage=row.stage,
        fraction=row.fraction,
        message=row.message,
        asked=row.asked,
        result=row.result,
        created=row.created.replace(tzinfo=UTC),
        ended=row.ended.replace(tzinfo=UTC) if row.ended else None,
    )
