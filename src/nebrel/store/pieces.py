"""Pieces and their immutable revisions."""

import uuid
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import Text, cast, func, select
from sqlalchemy.orm import Session

from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.details import fold, unfold
from nebrel.store.tables import PieceRow, RevisionRow, now

Document = dict[str, object]
MOST_ATTEMPTS = 8
CHANGED_ELSEWHERE = "The piece was changed elsewhere meanwhile; the newest state is shown now."


@dataclass(frozen=True)
class PieceState:
    """A piece as it is today.

    Attributes:
        undoes, redoes: what undo and redo would take back or bring back, None where they can do nothing.
    """

    id: str
    revision: int
    document: Document
    created: datetime
    changed: datetime
    undoes: str | None
    redoes: str | None
    removed: bool
    tags: tuple[str, ...] = ()


def new_piece_id() -> str:
    """A name that no piece has."""
    return uuid.uuid4().hex


class Pieces:
    """The pieces of a shelf. Every edit is a new revision; undo and redo only move the head."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def create(self, document: Document, label: str, piece_id: str | None = None) -> PieceState:
        """A new piece with its first revision; `piece_id` is its name where that was chosen before."""
        with self._database.writing() as session:
            piece = PieceRow(id=piece_id or new_piece_id())
            session.add(piece)
            session.flush()
            first = RevisionRow(piece_id=piece.id, parent_id=None, label=label, document=fold(session, document))
            session.add(first)
            session.flush()
            piece.head_id = first.id
            return _state(session, piece)

    def get(self, piece_id: str, base: int | None = None) -> PieceState:
        """The piece, also when it was removed.

        Args:
            piece_id: of the piece.
            base: the revision that its head must be still, where work begins that is to be kept on top of it.

        Raises:
            NotFoundError: there is none of this name.
            ConflictError: the head is no longer `base`.
        """
        with self._database.reading() as session:
            piece = _piece(session, piece_id, base)
            return _state(session, piece)

    def document_of(self, revision: int) -> Document:
        """The document as it was at a revision.

        Raises:
            NotFoundError: there is no such revision.
        """
        with self._database.reading() as session:
            row = session.get(RevisionRow, revision)
            if row is None:
                raise NotFoundError("There is no such state of a piece.")
            return unfold(session, [row.document])[0]

    def all(self) -> list[PieceState]:
        """All pieces that are not removed, the last changed first."""
        with self._database.reading() as session:
            shown = select(PieceRow, RevisionRow).join(RevisionRow, RevisionRow.id == PieceRow.head_id)
            rows = session.execute(shown.where(PieceRow.removed.is_(None)).order_by(PieceRow.changed.desc())).all()
            heads = select(PieceRow.head_id).where(PieceRow.removed.is_(None))
            after = select(RevisionRow.parent_id, RevisionRow.label).where(RevisionRow.parent_id.in_(heads))
            redoes = {row.parent_id: row.label for row in session.execute(after.order_by(RevisionRow.id))}
            documents = unfold(session, [head.document for _, head in rows])
            return [
                _state_of(piece, head, document, redoes.get(head.id))
                for (piece, head), document in zip(rows, documents, strict=True)
            ]

    def holding(self, name: str) -> list[PieceState]:
        """Pieces on the shelf whose document names something, such as another piece."""
        with self._database.reading() as session:
            shown = select(PieceRow, RevisionRow).join(RevisionRow, RevisionRow.id == PieceRow.head_id)
            held = cast(RevisionRow.document, Text).contains(name, autoescape=True)
            rows = session.execute(shown.where(PieceRow.removed.is_(None), held)).all()
            documents = unfold(session, [head.document for _, head in rows])
            return [
                _state_of(piece, head, document, None) for (piece, head), document in zip(rows, documents, strict=True)
            ]

    def revise(self, piece_id: str, base: int, document: Document, label: str) -> PieceState:
        """A new revision on top of revision `base`.

        Raises:
            ConflictError: the head is no longer `base`.
        """
        with self._database.writing() as session:
            piece = _piece(session, piece_id, base)
            folded = fold(session, document)
            row = RevisionRow(piece_id=piece.id, parent_id=piece.head_id, label=label, document=folded)
            session.add(row)
            session.flush()
            return _move(session, piece, row.id)

    def undo(self, piece_id: str, base: int) -> PieceState:
        """Step back from revision `base` to the one before; does nothing at the first.

        Raises:
            ConflictError: the head is no longer `base`.
        """
        with self._database.writing() as session:
            piece = _piece(session, piece_id, base)
            head = _head(session, piece)
            return _move(session, piece, head.parent_id) if head.parent_id else _state(session, piece)

    def redo(self, piece_id: str, base: int) -> PieceState:
        """Step forward to the newest revision made from revision `base`; does nothing at the last.

        Raises:
            ConflictError: the head is no longer `base`.
        """
        with self._database.writing() as session:
            piece = _piece(session, piece_id, base)
            following = _following(session, _head(session, piece))
            return _move(session, piece, following.id) if following else _state(session, piece)

    def follow_up(
        self, state: PieceState, made: Callable[[PieceState], Document | None], label: str
    ) -> PieceState | None:
        """A new revision made by a rule, on top of whatever the piece is changed to meanwhile.

        Args:
            state: the piece as it was seen.
            made: gives the document that follows from a state; None where nothing does.
            label: of the revision.

        Returns:
            The new state; None where nothing follows, or the piece was changed each time that it was tried.
        """
        for _ in range(MOST_ATTEMPTS):
            document = made(state)
            if document is None:
                return None
            try:
                return self.revise(state.id, state.revision, document, label)
            except ConflictError:
                state = self.get(state.id)
        return None

    def set_removed(self, piece_id: str, removed: bool) -> PieceState:
        """Take a piece off the shelf, or put it back; nothing is deleted."""
        with self._database.writing() as session:
            piece = _piece(session, piece_id)
            piece.removed = now() if removed else None
            return _state(session, piece)

    def set_tags(self, piece_id: str, tags: list[str]) -> PieceState:
        """Tag a piece; tags are of the shelf, and no part of its revisions."""
        with self._database.writing() as session:
            piece = _piece(session, piece_id)
            piece.tags = tags
            return _state(session, piece)

    def count(self) -> int:
        """How many pieces there ever were."""
        with self._database.reading() as session:
            return session.scalar(select(func.count()).select_from(PieceRow)) or 0


def _piece(session: Session, piece_id: str, base: int | None = None) -> PieceRow:
    piece = session.get(PieceRow, piece_id)
    if piece is None:
        raise NotFoundError("There is no such piece on the shelf.")
    if base is not None and piece.head_id != base:
        raise ConflictError(CHANGED_ELSEWHERE)
    return piece


def _head(session: Session, piece: PieceRow) -> RevisionRow:
    head = session.get(RevisionRow, piece.head_id)
    if head is None:
        raise NotFoundError("The piece has no revision; its record is damaged.")
    return head


def _following(session: Session, revision: RevisionRow) -> RevisionRow | None:
    return session.scalars(
        select(RevisionRow).where(RevisionRow.parent_id == revision.id).order_by(RevisionRow.id.desc()).limit(1)
    ).first()


def _move(session: Session, piece: PieceRow, revision_id: int) -> PieceState:
    piece.head_id = revision_id
    piece.changed = now()
    session.flush()
    return _state(session, piece)


def _state(session: Session, piece: PieceRow) -> PieceState:
    head = _head(session, piece)
    following = _following(session, head)
    [document] = unfold(session, [head.document])
    return _state_of(piece, head, document, following.label if following else None)


def _state_of(piece: PieceRow, head: RevisionRow, document: Document, redoes: str | None) -> PieceState:
    return PieceState(
        id=piece.id,
        revision=head.id,
        document=document,
        created=piece.created.replace(tzinfo=UTC),
        changed=piece.changed.replace(tzinfo=UTC),
        undoes=head.label if head.parent_id else None,
        redoes=redoes,
        removed=piece.removed is not None,
        tags=tuple(piece.tags),
    )
