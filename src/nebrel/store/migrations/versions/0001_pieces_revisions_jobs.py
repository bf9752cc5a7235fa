"""Pieces, their revisions, and jobs."""

import sqlalchemy as sa
from alembic import op

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None


def upgrade() -> None:
    moment = sa.DateTime(timezone=True)
    op.create_table(
        "pieces",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("head_id", sa.Integer, sa.ForeignKey("revisions.id", name="fk_pieces_head"), nullable=True),
        sa.Column("created", moment, nullable=False),
        sa.Column("changed", moment, nullable=False),
        sa.Column("removed", moment, nullable=True),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("piece_id", sa.String(32), sa.ForeignKey("pieces.id"), nullable=False),
        sa.Column("parent_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=True),
        sa.Column("label", sa.String(200), nullable=False),
        sa.Column("document", sa.JSON, nullable=False),
        sa.Column("created", moment, nullable=False),
    )
    op.create_index("ix_revisions_parent", "revisions", ["parent_id"])
    op.create_index("ix_revisions_piece", "revisions", ["piece_id"])
    op.create_table(
        "jobs",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("kind", sa.String(32), nullable=False),
        sa.Column("piece_id", sa.String(32), sa.ForeignKey("pieces.id"), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("state", sa.String(16), nullable=False),
        sa.Column("stage", sa.String(80), nullable=False),
        sa.Column("fraction", sa.Float, nullable=False),
        sa.Column("message", sa.Text, nullable=False),
        sa.Column("result", sa.JSON, nullable=True),
        sa.Column("created", moment, nullable=False),
        sa.Column("ended", moment, nullable=True),
    )
    op.create_index("ix_jobs_piece", "jobs", ["piece_id"])


def downgrade() -> None:
    op.drop_table("jobs")
    op.drop_table("revisions")
    op.drop_table("pieces")
