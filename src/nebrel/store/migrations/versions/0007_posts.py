"""How machines want their programs, and a drill for the rack."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

PLAIN = {
    "line_end": "lf",
    "bit_change": "file",
    "decimals_mm": 4,
    "decimals_in": 6,
    "numbered": False,
    "remarks": True,
    "arcs": "centre",
}
READY: tuple[tuple[str, dict[str, object]], ...] = (
    ("plain", {}),
    ("tool-changer", {"bit_change": "m6"}),
    ("pause", {"bit_change": "pause"}),
    ("crlf", {"line_end": "crlf", "numbered": True}),
    ("straight", {"arcs": "none"}),
)
DRILL = {
    "role": "rough",
    "kind": "drill",
    "diameter_mm": 3,
    "angle_deg": 118,
    "flute_mm": 30,
    "shank_mm": 3,
    "step_down_mm": 3,
    "feed_mm_min": 300,
    "plunge_mm_min": 300,
    "spindle_rpm": 6000,
}


def upgrade() -> None:
    posts = op.create_table(
        "posts",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
        sa.Column("facts", sa.JSON, nullable=False),
    )
    op.bulk_insert(posts, [{"name": name, "facts": {**PLAIN, **facts}} for name, facts in READY])
    bits = sa.table("bits", sa.column("name", sa.String), sa.column("facts", sa.JSON))
    taken = op.get_bind().execute(sa.select(bits.c.name)).scalars().all()
    if "3 mm drill" not in taken:
        op.bulk_insert(bits, [{"name": "3 mm drill", "facts": DRILL}])


def downgrade() -> None:
    op.drop_table("posts")
