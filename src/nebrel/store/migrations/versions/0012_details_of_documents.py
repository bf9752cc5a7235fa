"""Strokes and decorations kept once, however many states have them."""

import hashlib
import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None

KEPT_ONCE = ("strokes", "decorations")
REVISIONS = sa.table("revisions", sa.column("id", sa.Integer), sa.column("document", sa.JSON))
DETAILS = sa.table("details", sa.column("id", sa.Integer), sa.column("digest", sa.String), sa.column("body", sa.Text))


def upgrade() -> None:
    op.create_table(
        "details",
        sa.Column("id", sa.Integer, primary_key=True, autoincrement=True),
        sa.Column("digest", sa.String(64), nullable=False, unique=True),
        sa.Column("body", sa.Text, nullable=False),
        sqlite_autoincrement=True,
    )
    known: dict[str, int] = {}
    connection = op.get_bind()

    def number(item: dict[str, Any]) -> int:
        text = json.dumps(item, separators=(",", ":"))
        digest = hashlib.sha256(text.encode()).hexdigest()
        if digest not in known:
            known[digest] = len(known) + 1
            connection.execute(DETAILS.insert().values(id=known[digest], digest=digest, body=text))
        return known[digest]

    _rewrite(connection, dict, number)


def downgrade() -> None:
    connection = op.get_bind()
    bodies = {row.id: row.body for row in connection.execute(sa.select(DETAILS))}
    _rewrite(connection, int, lambda item: json.loads(bodies[item]))
    op.drop_table("details")


def _rewrite(connection: Any, kind: type, other: Any) -> None:
    """Put other items in place of those of a kind, in every revision."""

    def rewritten(value: Any, name: str = "") -> Any:
        if isinstance(value, dict):
            return {key: rewritten(each, key) for key, each in value.items()}
        if not isinstance(value, list):
            return value
        if name in KEPT_ONCE:
            return [other(item) if type(item) is kind else item for item in value]
        return [rewritten(each) for each in value]

    for (number,) in connection.execute(sa.select(REVISIONS.c.id)).all():
        document = connection.execute(sa.select(REVISIONS.c.document).where(REVISIONS.c.id == number)).scalar_one()
        found = rewritten(document)
        if found != document:
            connection.execute(REVISIONS.update().where(REVISIONS.c.id == number).values(document=found))
