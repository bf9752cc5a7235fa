"""Targets of lightness: how light a mesh should be for some next program."""

from dataclasses import dataclass

from sqlalchemy import select

from nebrel.core.errors import NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import LightTargetRow


@dataclass(frozen=True)
class LightTarget:
    """`amount` is triangles, mm of deviation or megabytes, as `by` says."""

    id: int
    name: str
    by: str
    amount: float


class LightTargets:
    """The targets that a person can choose from, and edit."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[LightTarget]:
        """All of them, in the order they were made."""
        with self._database.reading() as session:
            return [_target(row) for row in session.scalars(select(LightTargetRow).order_by(LightTargetRow.id))]

    def add(self, name: str, by: str, amount: float) -> LightTarget:
        """A further target."""
        with self._database.writing() as session:
            row = LightTargetRow(name=name, by=by, amount=amount)
            session.add(row)
            session.flush()
            return _target(row)

    def change(self, target_id: int, name: str, by: str, amount: float) -> LightTarget:
        """The target with other values.

        Raises:
            NotFoundError: it is gone.
        """
        with self._database.writing() as session:
            row = _found(session.get(LightTargetRow, target_id))
            row.name, row.by, row.amount = name, by, amount
            return _target(row)

    def drop(self, target_id: int) -> None:
        """Remove a target; pieces that were made with it stay as they are.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.writing() as session:
            session.delete(_found(session.get(LightTargetRow, target_id)))


def _found(row: LightTargetRow | None) -> LightTargetRow:
    if row is None:
        raise NotFoundError("There is no such target any more.")
    return row


def _target(row: LightTargetRow) -> LightTarget:
    return LightTarget(row.id, row.name, row.by, row.amount)
