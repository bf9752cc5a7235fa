"""Filaments that a person owns: names and colours."""

from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.names import is_taken
from nebrel.store.tables import FilamentRow


@dataclass(frozen=True)
class Filament:
    """A row of the table; its colour is `#rrggbb`."""

    id: int
    name: str
    colour: str


class Filaments:
    """The filaments that a person can choose from, and edit."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[Filament]:
        """All of them, in the order they were made."""
        with self._database.reading() as session:
            return [_filament(row) for row in session.scalars(select(FilamentRow).order_by(FilamentRow.id))]

    def add(self, name: str, colour: str) -> Filament:
        """A further filament.

        Raises:
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            _refuse_taken(session, name, None)
            row = FilamentRow(name=name, colour=colour)
            session.add(row)
            session.flush()
            return _filament(row)

    def change(self, filament_id: int, name: str, colour: str) -> Filament:
        """The filament with another name or colour; pieces keep those that they were made with.

        Raises:
            NotFoundError: it is gone.
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            row = _found(session.get(FilamentRow, filament_id))
            _refuse_taken(session, name, filament_id)
            row.name, row.colour = name, colour
            return _filament(row)

    def drop(self, filament_id: int) -> None:
        """Remove a filament; pieces keep those that they were made with.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.writing() as session:
            session.delete(_found(session.get(FilamentRow, filament_id)))


def _refuse_taken(session: Session, name: str, own_id: int | None) -> None:
    if is_taken(session, FilamentRow, name, own_id):
        raise ConflictError(f"There is a filament named {name} already; another name is needed.")


def _found(row: FilamentRow | None) -> FilamentRow:
    if row is None:
        raise NotFoundError("There is no such filament any more.")
    return row


def _filament(row: FilamentRow) -> Filament:
    return Filament(row.id, row.name, row.colour)
