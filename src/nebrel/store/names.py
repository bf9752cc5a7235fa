"""Names that only one of a kind may have."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from nebrel.store.tables import FilamentRow, KeptPartRow, MaterialRow


def is_taken(
    session: Session, rows: type[FilamentRow] | type[MaterialRow] | type[KeptPartRow], name: str, own_id: int | None
) -> bool:
    """Whether another row than one's own has a name, in small letters or capitals of any script."""
    others = session.execute(select(rows.id, rows.name)).all()
    return any(other.id != own_id and other.name.casefold() == name.casefold() for other in others)
