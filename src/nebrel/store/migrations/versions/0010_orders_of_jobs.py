"""What a job was asked for besides its piece, so that it can be asked for again."""

import sqlalchemy as sa
from alembic import op

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("jobs", sa.Column("asked", sa.JSON, nullable=False, server_default="{}"))


def downgrade() -> None:
    op.drop_column("jobs", "asked")
