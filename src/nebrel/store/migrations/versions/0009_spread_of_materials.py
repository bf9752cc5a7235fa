"""By how much light spreads in a material."""

import sqlalchemy as sa
from alembic import op

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("materials", sa.Column("spread_mm", sa.Float, nullable=False, server_default="0"))


def downgrade() -> None:
    op.drop_column("materials", "spread_mm")
