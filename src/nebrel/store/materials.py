"""Materials: how what lithophanes are made of lets light through."""

from dataclasses import asdict, dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from nebrel.core.errors import BadValueError, ConflictError, NotFoundError
from nebrel.store.database import Database
from nebrel.store.names import is_taken
from nebrel.store.tables import MaterialRow


@dataclass(frozen=True)
class MaterialFacts:
    """Attenuation per mm, share of light lost at the surfaces, colour `#rrggbb`, whether a person measured them, and by
    how many mm light spreads."""

    name: str
    attenuation_per_mm: float
    surface_loss: float
    cast: str
    measured: bool = False
    spread_mm: float = 0.0


@dataclass(frozen=True)
class KeptMaterial:
    """A row of the table."""

    id: int
    facts: MaterialFacts


class Materials:
    """The materials that a person can choose from, and edit."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[KeptMaterial]:
        """All of them, in the order they were made."""
        with self._database.reading() as session:
            return [_material(row) for row in session.scalars(select(MaterialRow).order_by(MaterialRow.id))]

    def named(self, name: str) -> MaterialFacts:
        """The material of that name, whatever the case of its letters.

        Raises:
            BadValueError: there is none; the sentence names those that there are.
        """
        known = self.all()
        for material in known:
            if material.facts.name.casefold() == name.strip().casefold():
                return material.facts
        told = ", ".join(material.facts.name for material in known)
        raise BadValueError(f"There is no material named {name}; known are {told}.")

    def add(self, facts: MaterialFacts) -> KeptMaterial:
        """A further material.

        Raises:
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            _refuse_taken(session, facts.name, None)
            row = MaterialRow(**asdict(facts))
            session.add(row)
            session.flush()
            return _material(row)

    def change(self, material_id: int, facts: MaterialFacts) -> KeptMaterial:
        """The material with other values; pieces keep the values that they were made with.

        Raises:
            NotFoundError: it is gone.
            ConflictError: its name is taken.
        """
        with self._database.writing() as session:
            row = _found(session.get(MaterialRow, material_id))
            _refuse_taken(session, facts.name, material_id)
            for key, value in asdict(facts).items():
                setattr(row, key, value)
            return _material(row)

    def drop(self, material_id: int) -> None:
        """Remove a material; pieces keep the values that they were made with.

        Raises:
            NotFoundError: it is gone already.
        """
        with self._database.writing() as session:
            session.delete(_found(session.get(MaterialRow, material_id)))


def _refuse_taken(session: Session, name: str, own_id: int | None) -> None:
    if is_taken(session, MaterialRow, name, own_id):
        raise ConflictError(f"There is a material named {name} already; another name is needed.")


def _found(row: MaterialRow | None) -> MaterialRow:
    if row is None:
        raise NotFoundError("There is no such material any more.")
    return row


def _material(row: MaterialRow) -> KeptMaterial:
    facts = MaterialFacts(row.name, row.attenuation_per_mm, row.surface_loss, row.cast, row.measured, row.spread_mm)
    return KeptMaterial(row.id, facts)
