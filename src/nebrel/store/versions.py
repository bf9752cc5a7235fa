"""Named states of pieces."""

from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select

from nebrel.core.errors import NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import PieceRow, VersionRow


@dataclass(frozen=True)
class Version:
    """A state of a piece that was given a name."""

    id: int
    piece_id: str
    revision: int
    name: str
    created: datetime


class Versions:
    """The versions of pieces."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def name(self, piece_id: str, name: str) -> Version:
        """Name today's state of a piece.

        Raises:
            NotFoundError: there is no such piece.
        """
        with self._database.writing() as session:
            piece = session.get(PieceRow, piece_id)
            if piece is None or piece.head_id is None:
                raise NotFoundError("There is no such piece on the shelf.")
            row = VersionRow(piece_id=piece_id, revision_id=piece.head_id, name=name)
            session.add(row)
            session.flush()
            return _version(row)

    def of(self, piece_id: str) -> list[Version]:
        """The versions of a piece, the newest first."""
        with self._database.reading() as session:
            rows = session.scalars(
                select(VersionRow).where(VersionRow.piece_id == piece_id).order_by(VersionRow.id.desc())
            )
            return [_version(row) for row in rows]

    def get(self, version_id: int) -> Version:
        """One version.

        Raises:
            NotFoundError: there is none of this number.
        """
        with self._database.reading() as session:
            return _version(_found(session.get(VersionRow, version_id)))

    def forget(self, version_id: int) -> None:
        """Drop the name; the state itself stays among the piece's revisions."""
        with self._database.writing() as session:
            session.delete(_found(session.get(VersionRow, version_id)))


def _found(row: VersionRow | None) -> VersionRow:
    if row is None:
        raise NotFoundError("There is no such version any more.")
    return row


def _version(row: VersionRow) -> Version:
    created = row.created if row.created.tzinfo else row.created.replace(tzinfo=UTC)
    return Version(row.id, row.piece_id, row.revision_id, row.name, created)
