"""Materials that lithophanes are made of."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None

READY = (
    {"name": "White filament", "attenuation_per_mm": 1.05, "surface_loss": 0.12, "cast": "#fff6e8"},
    {"name": "Natural filament", "attenuation_per_mm": 0.7, "surface_loss": 0.1, "cast": "#fff1d6"},
    {"name": "Bright white filament", "attenuation_per_mm": 1.6, "surface_loss": 0.16, "cast": "#fffdf8"},
    {"name": "Milky resin", "attenuation_per_mm": 0.45, "surface_loss": 0.08, "cast": "#fff3dc"},
    {"name": "White stone, carved", "attenuation_per_mm": 0.3, "surface_loss": 0.2, "cast": "#fff0e0"},
)


def upgrade() -> None:
    materials = op.create_table(
        "materials",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("attenuation_per_mm", sa.Float, nullable=False),
        sa.Column("surface_loss", sa.Float, nullable=False),
        sa.Column("cast", sa.String(7), nullable=False),
        sa.Column("measured", sa.Boolean, nullable=False, server_default=sa.false()),
    )
    op.bulk_insert(materials, [dict(material) for material in READY])


def downgrade() -> None:
    op.drop_table("materials")
