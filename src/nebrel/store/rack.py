"""The rack: bits of routers that a person owns."""

from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.tables import BitRow


@dataclass(frozen=True)
class RackBit:
    """A bit of the rack; `facts` are its shape and how it is run, by the names that documents have."""

    id: int
    name: str
    facts: dict[str, object]


class Rack:
    """The bits that a person can choose from, and edit; pieces keep copies."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[RackBit]:
        """All of them, in the order they were put in."""
        with self._database.session() as session:
            return [_bit(row) for row in session.scalars(select(BitRow).order_by(BitRow.id))]

    def add(self, name: str, facts: dict[str, object]) -> RackBit:
        """A further bit.

        Raises:
            ConflictError: its name is taken.
        """
        with self._database.session() as session:
            _refuse_taken(session, name, None)
            row = BitRow(name=name, facts=facts)
            session.add(row)
            session.flush()
            return _bit(row)

    def change(self, bit_id: int, name: str, facts: dict[str, object]) -> RackBit:
        """The bit with another name or other facts.

        Raises:
            NotFoundError: it is gone.
            ConflictError: its name is taken.
        """
        with self._database.session() as session:
            row = _found(session.get(BitRow, bit_id))
            _refuse_taken(session, name, bit_id)
            row.name, row.facts = name, facts
            return _bit(row)

    def drop(self, bit_id: int) -> None:
        """Take a bit out of the rack.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.session() as session:
            session.delete(_found(session.get(BitRow, bit_id)))


def _refuse_taken(session: Session, name: str, own_id: int | None) -> None:
    query = select(BitRow.id).where(func.lower(BitRow.name) == name.lower())
    if any(other != own_id for other in session.scalars(query)):
        raise ConflictError(f"There is a bit named {name} in the rack already; another name is needed.")


def _found(row: BitRow | None) -> BitRow:
    if row is None:
        raise NotFoundError("There is no such bit in the rack any more.")
    return row


def _bit(row: BitRow) -> RackBit:
    return RackBit(row.id, row.name, row.facts)
