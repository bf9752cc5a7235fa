"""Parts that a person keeps beside pieces: bits of the rack, how machines want their programs, recipes."""

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.names import is_taken
from nebrel.store.tables import BitRow, KeptPartRow, PostRow, RecipeRow


@dataclass(frozen=True)
class KeptPart:
    """A kept part; `facts` by the names that documents have."""

    id: int
    name: str
    facts: dict[str, object]


class KeptParts:
    """Parts of one kind that a person can choose from, and edit; pieces keep copies."""

    def __init__(self, database: Database, rows: type[KeptPartRow], what: str, where: str) -> None:
        self._database, self._rows, self._what, self._where = database, rows, what, where

    def all(self) -> list[KeptPart]:
        """All of them, in the order they were put in."""
        with self._database.reading() as session:
            return [_part(row) for row in session.scalars(select(self._rows).order_by(self._rows.id))]

    def add(self, name: str, facts: dict[str, object]) -> KeptPart:
        """A further one.

        Raises:
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            self._refuse_taken(session, name, None)
            row = self._rows(name=name, facts=facts)
            session.add(row)
            session.flush()
            return _part(row)

    def change(self, part_id: int, name: str, facts: dict[str, object]) -> KeptPart:
        """The one of that id with another name or other facts.

        Raises:
            NotFoundError: it is gone.
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            row = self._found(session, part_id)
            self._refuse_taken(session, name, part_id)
            row.name, row.facts = name, facts
            return _part(row)

    def get(self, part_id: int) -> KeptPart:
        """The one of that id.

        Raises:
            NotFoundError: it is gone.
        """
        with self._database.reading() as session:
            return _part(self._found(session, part_id))

    def drop(self, part_id: int) -> None:
        """Take it out.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.writing() as session:
            session.delete(self._found(session, part_id))

    def _refuse_taken(self, session: Session, name: str, own_id: int | None) -> None:
        if is_taken(session, self._rows, name, own_id):
            raise ConflictError(f"There is a {self._what} named {name} {self._where} already; another name is needed.")

    def _found(self, session: Session, part_id: int) -> KeptPartRow:
        row = session.get(self._rows, part_id)
        if row is None:
            raise NotFoundError(f"There is no such {self._what} {self._where} any more.")
        return row


def bits_in(database: Database) -> KeptParts:
    """The rack: bits of routers that a person owns."""
    return KeptParts(database, BitRow, "bit", "in the rack")


def posts_in(database: Database) -> KeptParts:
    """The table of how machines want their programs."""
    return KeptParts(database, PostRow, "way of writing programs", "in the table")


def recipes_in(database: Database) -> KeptParts:
    """Recipes that a person keeps."""
    return KeptParts(database, RecipeRow, "recipe", "in the book")


def _part(row: KeptPartRow) -> KeptPart:
    return KeptPart(row.id, row.name, row.facts)
