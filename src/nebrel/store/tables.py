"""The tables."""

from datetime import UTC, datetime

from sqlalchemy import JSON, Boolean, DateTime, Float, ForeignKey, Index, Integer, String, Text
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    """The present moment, UTC."""
    return datetime.now(UTC)


class Table(DeclarativeBase):
    """Base of all tables."""


class PieceRow(Table):
    """A piece: which of its revisions is today's."""

    __tablename__ = "pieces"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    head_id: Mapped[int | None] = mapped_column(
        ForeignKey("revisions.id", use_alter=True, name="fk_pieces_head"), nullable=True
    )
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    changed: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    removed: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), nullable=True)
    tags: Mapped[list[str]] = mapped_column(JSON, default=list)


class RevisionRow(Table):
    """One immutable state of a piece's document."""

    __tablename__ = "revisions"
    __table_args__ = (Index("ix_revisions_parent", "parent_id"), Index("ix_revisions_piece", "piece_id"))

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("pieces.id"))
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revisions.id"), nullable=True)
    label: Mapped[str] = mapped_column(String(200))
    document: Mapped[dict[str, object]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class DetailRow(Table):
    """A part of documents that many revisions share; see `details.py`."""

    __tablename__ = "details"
    __table_args__ = ({"sqlite_autoincrement": True},)

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    body: Mapped[str] = mapped_column(Text)


class JobRow(Table):
    """One piece of long work."""

    __tablename__ = "jobs"
    __table_args__ = (Index("ix_jobs_piece", "piece_id"),)

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    kind: Mapped[str] = mapped_column(String(32))
    piece_id: Mapped[str] = mapped_column(ForeignKey("pieces.id"))
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    state: Mapped[str] = mapped_column(String(16))
    stage: Mapped[str] = mapped_column(String(80), default="")
    fraction: Mapped[float] = mapped_column(Float, default=0.0)
    message: Mapped[str] = mapped_column(Text, default="")
    asked: Mapped[dict[str, object]] = mapped_column(JSON, default=dict)
    result: Mapped[dict[str, object] | None] = mapped_column(JSON, nullable=True)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
    ended: Mapped[datetime | None] = mapped_column(DateTime(timezone=True), nullable=True)


class VersionRow(Table):
    """A named state of a piece."""

    __tablename__ = "versions"
    __table_args__ = (Index("ix_versions_piece", "piece_id"),)

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    piece_id: Mapped[str] = mapped_column(ForeignKey("pieces.id"))
    revision_id: Mapped[int] = mapped_column(ForeignKey("revisions.id"))
    name: Mapped[str] = mapped_column(String(120))
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class LightTargetRow(Table):
    """How light a mesh should be for some next program."""

    __tablename__ = "light_targets"

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    name: Mapped[str] = mapped_column(String(120))
    by: Mapped[str] = mapped_column(String(16))
    amount: Mapped[float] = mapped_column(Float)


class MotifRow(Table):
    """A picture or region kept for reuse: outlines and a picture of the same thing."""

    __tablename__ = "motifs"

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    tags: Mapped[list[str]] = mapped_column(JSON)
    picture_blob: Mapped[str] = mapped_column(String(64))
    drawing_blob: Mapped[str | None] = mapped_column(String(64), nullable=True)
    width_mm: Mapped[float] = mapped_column(Float)
    height_mm: Mapped[float] = mapped_column(Float)
    changed: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)


class MaterialRow(Table):
    """What lithophanes are made of: how it lets light through."""

    __tablename__ = "materials"

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    attenuation_per_mm: Mapped[float] = mapped_column(Float)
    surface_loss: Mapped[float] = mapped_column(Float)
    cast: Mapped[str] = mapped_column(String(7))
    measured: Mapped[bool] = mapped_column(Boolean, default=False)
    spread_mm: Mapped[float] = mapped_column(Float, default=0.0)


class FilamentRow(Table):
    """What figures in few colours are printed in."""

    __tablename__ = "filaments"

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    colour: Mapped[str] = mapped_column(String(7))


class KeptPartRow(Table):
    """A part that a person keeps beside pieces, by the names that documents have."""

    __abstract__ = True

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    facts: Mapped[dict[str, object]] = mapped_column(JSON)


class PostRow(KeptPartRow):
    """A way in which a machine wants its programs."""

    __tablename__ = "posts"


class BitRow(KeptPartRow):
    """A bit of a router."""

    __tablename__ = "bits"


class RecipeRow(KeptPartRow):
    """The settings of a piece without its picture."""

    __tablename__ = "recipes"


class LastChoiceRow(Table):
    """What was last made of pictures of a character."""

    __tablename__ = "last_choices"

    character: Mapped[str] = mapped_column(String(20), primary_key=True)
    choice: Mapped[str] = mapped_column(String(40))


class TokenRow(Table):
    """An access token that was given out, by its digest."""

    __tablename__ = "tokens"

    id: Mapped[int] = mapped_column(Integer, primary_key=True, autoincrement=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    digest: Mapped[str] = mapped_column(String(64), unique=True)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), default=now)
