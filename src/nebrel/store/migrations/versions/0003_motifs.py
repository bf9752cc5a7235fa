"""Motifs: pictures and regions kept for reuse."""

import sqlalchemy as sa
from alembic import op

revision = "0003"
down_revision = "0002"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "motifs",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("tags", sa.JSON, nullable=False),
        sa.Column("picture_blob", sa.String(64), nullable=False),
        sa.Column("drawing_blob", sa.String(64), nullable=True),
        sa.Column("width_mm", sa.Float, nullable=False),
        sa.Column("height_mm", sa.Float, nullable=False),
        sa.Column("changed", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("motifs")
