"""The library of motifs."""

import uuid
from dataclasses import dataclass
from datetime import UTC, datetime

from sqlalchemy import select

from nebrel.core.errors import NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import MotifRow, now


@dataclass(frozen=True)
class MotifContent:
    """What a motif shows, as blobs: a picture, its outlines where it has some, and its size in mm."""

    picture_blob: str
    drawing_blob: str | None
    width_mm: float
    height_mm: float


@dataclass(frozen=True)
class Motif:
    """A picture or region kept for reuse."""

    id: str
    name: str
    tags: tuple[str, ...]
    content: MotifContent
    changed: datetime


class Motifs:
    """Motifs by name and tags."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def found(self, words: str = "") -> list[Motif]:
        """Those whose name or tags hold every word, the last changed first."""
        wanted = words.lower().split()
        with self._database.reading() as session:
            rows = session.scalars(select(MotifRow).order_by(MotifRow.changed.desc(), MotifRow.id))
            motifs = [_motif(row) for row in rows]
        texts = (" ".join((motif.name, *motif.tags)).lower() for motif in motifs)
        return [motif for motif, text in zip(motifs, texts, strict=True) if all(word in text for word in wanted)]

    def get(self, motif_id: str) -> Motif:
        """One motif.

        Raises:
            NotFoundError: it is gone.
        """
        with self._database.reading() as session:
            return _motif(_found(session.get(MotifRow, motif_id)))

    def add(self, name: str, tags: tuple[str, ...], content: MotifContent) -> Motif:
        """A further motif."""
        with self._database.writing() as session:
            row = MotifRow(id=uuid.uuid4().hex, name=name, tags=list(tags), **_columns(content))
            session.add(row)
            session.flush()
            return _motif(row)

    def rename(self, motif_id: str, name: str, tags: tuple[str, ...]) -> Motif:
        """The motif with another name and other tags.

        Raises:
            NotFoundError: it is gone.
        """
        with self._database.writing() as session:
            row = _found(session.get(MotifRow, motif_id))
            row.name, row.tags = name, list(tags)
            return _motif(row)

    def change(self, motif_id: str, content: MotifContent) -> Motif:
        """The motif showing something else.

        Raises:
            NotFoundError: it is gone.
        """
        with self._database.writing() as session:
            row = _found(session.get(MotifRow, motif_id))
            for name, value in _columns(content).items():
                setattr(row, name, value)
            row.changed = now()
            return _motif(row)

    def drop(self, motif_id: str) -> None:
        """Remove a motif; pieces that used it keep what they have.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.writing() as session:
            session.delete(_found(session.get(MotifRow, motif_id)))


def followed(document: object, motif_id: str, content: MotifContent) -> tuple[object, bool]:
    """Plain data of a document with every file that follows a motif showing what it shows now; whether any changed.

    Picture ops take the motif's picture, steps and decorations of outlines its drawing.
    """
    return _follow(document, motif_id, content, content.picture_blob)


def _follow(part: object, motif_id: str, content: MotifContent, blob: str | None) -> tuple[object, bool]:
    if isinstance(part, list):
        pairs = [_follow(each, motif_id, content, blob) for each in part]
        return [each for each, _ in pairs], any(changed for _, changed in pairs)
    if not isinstance(part, dict):
        return part, False
    if part.get("motif") == motif_id and "blob" in part:
        blob = content.drawing_blob if part.get("kind") == "outline" else blob
        return ({**part, "blob": blob}, True) if blob and part["blob"] != blob else (part, False)
    result, any_changed = {}, False
    for key, value in part.items():
        own = content.drawing_blob if key == "mend" else blob
        result[key], changed = _follow(value, motif_id, content, own)
        any_changed = any_changed or changed
    return result, any_changed


def _columns(content: MotifContent) -> dict[str, object]:
    return {
        "picture_blob": content.picture_blob,
        "drawing_blob": content.drawing_blob,
        "width_mm": content.width_mm,
        "height_mm": content.height_mm,
    }


def _found(row: MotifRow | None) -> MotifRow:
    if row is None:
        raise NotFoundError("There is no such motif any more.")
    return row


def _motif(row: MotifRow) -> Motif:
    content = MotifContent(row.picture_blob, row.drawing_blob, row.width_mm, row.height_mm)
    changed = row.changed if row.changed.tzinfo else row.changed.replace(tzinfo=UTC)
    return Motif(row.id, row.name, tuple(row.tags), content, changed)
