"""Filaments that figures in few colours are printed in."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None

READY = (
    {"name": "Chalk white", "colour": "#f2efe6"},
    {"name": "Slate black", "colour": "#25282b"},
    {"name": "Bark brown", "colour": "#6b4a2f"},
    {"name": "Straw yellow", "colour": "#d9a441"},
    {"name": "Fern green", "colour": "#4f7a3d"},
    {"name": "Brick red", "colour": "#a8432f"},
)


def upgrade() -> None:
    filaments = op.create_table(
        "filaments",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("colour", sa.String(7), nullable=False),
    )
    op.bulk_insert(filaments, [dict(filament) for filament in READY])


def downgrade() -> None:
    op.drop_table("filaments")
