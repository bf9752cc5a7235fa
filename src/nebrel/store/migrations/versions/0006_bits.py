"""Bits of routers that lie in the rack."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

RUN = {"flute_mm": 22, "shank_mm": 6, "feed_mm_min": 1500, "plunge_mm_min": 500, "spindle_rpm": 16_000}
READY = (
    ("6 mm flat", {"role": "rough", "kind": "flat", "diameter_mm": 6, "step_down_mm": 3}),
    ("3 mm flat", {"role": "rough", "kind": "flat", "diameter_mm": 3, "step_down_mm": 1.5}),
    ("6 mm ball", {"role": "finish", "kind": "ball", "diameter_mm": 6, "step_down_mm": 3}),
    ("3 mm ball", {"role": "finish", "kind": "ball", "diameter_mm": 3, "step_down_mm": 1.5}),
    (
        "Tapered ball R0.5",
        {
            "role": "finish",
            "kind": "taper",
            "diameter_mm": 4.4,
            "tip_radius_mm": 0.5,
            "angle_deg": 5,
            "step_down_mm": 1,
        },
    ),
    ("60° V", {"role": "finish", "kind": "v", "diameter_mm": 6, "angle_deg": 60, "step_down_mm": 2}),
)


def upgrade() -> None:
    bits = op.create_table(
        "bits",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("facts", sa.JSON, nullable=False),
    )
    op.bulk_insert(bits, [{"name": name, "facts": {**RUN, **facts}} for name, facts in READY])


def downgrade() -> None:
    op.drop_table("bits")
