"""Recipes, what was made of pictures of a sort, and tags of pieces."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "recipes",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("facts", sa.JSON, nullable=False),
    )
    op.create_table(
        "last_choices",
        sa.Column("character", sa.String(20), primary_key=True),
        sa.Column("choice", sa.String(40), nullable=False),
    )
    op.add_column("pieces", sa.Column("tags", sa.JSON, nullable=False, server_default="[]"))


def downgrade() -> None:
    op.drop_column("pieces", "tags")
    op.drop_table("last_choices")
    op.drop_table("recipes")
