"""Named versions of pieces, and targets of lightness."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None

READY = (
    {"name": "For a printing program", "by": "triangles", "amount": 500_000},
    {"name": "For a carving program", "by": "triangles", "amount": 200_000},
    {"name": "For a page on the web", "by": "bytes", "amount": 5},
    {"name": "For a drawing program", "by": "triangles", "amount": 20_000},
    {"name": "As light as unseen", "by": "tolerance", "amount": 0.05},
)


def upgrade() -> None:
    op.create_table(
        "versions",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("piece_id", sa.String(32), sa.ForeignKey("pieces.id"), nullable=False),
        sa.Column("revision_id", sa.Integer, sa.ForeignKey("revisions.id"), nullable=False),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_index("ix_versions_piece", "versions", ["piece_id"])
    targets = op.create_table(
        "light_targets",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("by", sa.String(16), nullable=False),
        sa.Column("amount", sa.Float, nullable=False),
    )
    op.bulk_insert(targets, [dict(target) for target in READY])


def downgrade() -> None:
    op.drop_table("light_targets")
    op.drop_table("versions")
