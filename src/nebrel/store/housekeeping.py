"""What the data folder holds, and what of it can go."""

import re
import shutil
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from sqlalchemy import Text, cast, delete, select, text, update
from sqlalchemy.orm import Session

from nebrel.store.database import Database
from nebrel.store.details import drop_unshared
from nebrel.store.folder import DATABASE
from nebrel.store.tables import DetailRow, JobRow, MotifRow, PieceRow, RecipeRow, RevisionRow, VersionRow

# What parts of the data folder are called, and where they are.
PARTS = {
    "database": f"{DATABASE}*",
    "sources": "blobs/**/*",
    "results": "kept/**/*",
    "copies": "copies/*",
    "logs": "logs/*",
}
# A source that no state of a piece uses is kept for so long all the same.
UNUSED_KEPT = timedelta(days=30)
# Of a piece's past, so many states stay; of what is older, one an hour.
LAST_STATES = 50
_NAMED = re.compile(r"\b[0-9a-f]{64}\b")


@dataclass(frozen=True)
class PartSize:
    """How much a part of the data folder holds."""

    files: int
    bytes: int


def sizes_in(folder: Path) -> dict[str, PartSize]:
    """What each part of a data folder holds: `database`, `sources`, `results`, `copies`, `logs`."""
    found = {}
    for name, pattern in PARTS.items():
        sizes = [size for size in map(_size, folder.glob(pattern)) if size is not None]
        found[name] = PartSize(len(sizes), sum(sizes))
    return found


def _size(path: Path) -> int | None:
    try:
        return path.stat().st_size if path.is_file() else None
    except FileNotFoundError:
        return None


class Housekeeping:
    """What a person may let go of, and what goes by itself."""

    def __init__(self, database: Database, folder: Path) -> None:
        self._database = database
        self._folder = folder

    def removed(self) -> int:
        """How many pieces are off the shelf and could still be put back."""
        with self._database.reading() as session:
            return len(session.scalars(select(PieceRow.id).where(PieceRow.removed.is_not(None))).all())

    def states(self) -> int:
        """How many states of pieces are kept."""
        with self._database.reading() as session:
            return session.scalar(select(text("count(*)")).select_from(RevisionRow)) or 0

    def empty_removed(self) -> int:
        """Delete the pieces that were taken off the shelf, with all their states; returns how many."""
        with self._database.writing() as session:
            gone = session.scalars(select(PieceRow.id).where(PieceRow.removed.is_not(None))).all()
            if gone:
                session.execute(update(PieceRow).where(PieceRow.id.in_(gone)).values(head_id=None))
                for table in (VersionRow, JobRow, RevisionRow):
                    session.execute(delete(table).where(table.piece_id.in_(gone)))
                session.execute(delete(PieceRow).where(PieceRow.id.in_(gone)))
                drop_unshared(session)
        self._database.shrink()
        return len(gone)

    def thin_history(self) -> int:
        """Let go of states of pieces: the last 50 stay, and those with a name or a result; of older ones one an hour.

        Returns how many went. What undo leads back to is the next older one that stayed.
        """
        with self._database.writing() as session:
            count = sum(_thin(session, piece_id) for piece_id in session.scalars(select(PieceRow.id)).all())
            drop_unshared(session)
        self._database.shrink()
        return count

    def drop_unused(self, now: datetime | None = None) -> int:
        """Delete sources that nothing names any more and that are 30 days old; returns how many."""
        oldest = ((now or datetime.now(UTC)) - UNUSED_KEPT).timestamp()
        old = [path for path in self._sources() if path.stat().st_mtime < oldest]
        if not old:
            return 0
        named = self._named()
        count = 0
        for path in old:
            # One that has been added again meanwhile is young.
            if path.name not in named and path.stat().st_mtime < oldest:
                path.unlink(missing_ok=True)
                count += 1
        return count

    def forget_results(self) -> int:
        """Delete results that can be made again; returns how many bytes they held."""
        held = 0
        for path in (self._folder / "kept").glob("*"):
            held += _size(path) or 0
            path.unlink(missing_ok=True)
        return held

    def _sources(self) -> Iterator[Path]:
        return (path for path in (self._folder / "blobs").glob("??/*") if _NAMED.fullmatch(path.name))

    def _named(self) -> set[str]:
        """Names of sources in all that is kept."""
        found: set[str] = set()
        with self._database.reading() as session:
            # Recipes may hold pictures that are laid over others.
            for column in (RevisionRow.document, DetailRow.body, JobRow.result, JobRow.asked, RecipeRow.facts):
                for told in session.scalars(select(cast(column, Text))).yield_per(50):
                    found.update(_NAMED.findall(told or ""))
            for row in session.scalars(select(MotifRow)):
                found.update(name for name in (row.picture_blob, row.drawing_blob) if name)
        return found


def _thin(session: Session, piece_id: str) -> int:
    """Thin the states of one piece; returns how many went."""
    rows = session.execute(
        select(RevisionRow.id, RevisionRow.parent_id, RevisionRow.created)
        .where(RevisionRow.piece_id == piece_id)
        .order_by(RevisionRow.id)
    ).all()
    stay = {row.id for row in (*rows[:1], *rows[-LAST_STATES:])}
    for table in (VersionRow, JobRow):
        stay |= set(session.scalars(select(table.revision_id).where(table.piece_id == piece_id)))
    stay |= set(session.scalars(select(PieceRow.head_id).where(PieceRow.id == piece_id)))
    hours = {row.created.replace(minute=0, second=0, microsecond=0): row.id for row in rows}
    stay |= set(hours.values())
    parents = {row.id: row.parent_id for row in rows}
    gone = [row.id for row in rows if row.id not in stay]
    if not gone:
        return 0
    for row in rows:
        parent = row.parent_id
        while parent is not None and parent not in stay:
            parent = parents[parent]
        if row.id in stay and parent != row.parent_id:
            session.execute(update(RevisionRow).where(RevisionRow.id == row.id).values(parent_id=parent))
    for begin in range(0, len(gone), 500):
        session.execute(delete(RevisionRow).where(RevisionRow.id.in_(gone[begin : begin + 500])))
    return len(gone)


def free_bytes(folder: Path) -> int:
    """How much room is left on the disk of a folder."""
    return shutil.disk_usage(folder).free
