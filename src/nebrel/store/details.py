"""Parts of documents that many revisions share, such as strokes, each kept once.

In the table of revisions a document has the numbers of them in place of the parts themselves. What is in such a part
names neither pieces nor motifs otherwise than within it.
"""

import hashlib
import json
from collections.abc import Callable, Iterable, Iterator
from typing import Any

from sqlalchemy import delete, select
from sqlalchemy.orm import Session

from nebrel.core.errors import NotFoundError
from nebrel.store.tables import DetailRow, RevisionRow

# Lists by these names, wherever they are in a document, have their items kept once.
KEPT_ONCE = frozenset({"strokes", "decorations"})
_AT_ONCE = 500
MISSING = "A part of the piece's record is missing; bring the data folder back from its last copy."


def fold(session: Session, document: dict[str, object]) -> dict[str, object]:
    """The document as its row holds it; parts that are new are added."""
    told: dict[str, str] = {}

    def named(items: list[Any]) -> list[str]:
        texts = [json.dumps(item, separators=(",", ":")) for item in items]
        names = [hashlib.sha256(text.encode()).hexdigest() for text in texts]
        told.update(zip(names, texts, strict=True))
        return names

    by_name = _mapped(document, lambda items: named(items) if _are_parts(items) else items)
    if not told:
        return document
    numbers = _numbers(session, told)
    folded: dict[str, object] = _mapped(
        by_name, lambda items: [numbers[name] for name in items] if _are(str, items) else items
    )
    return folded


def unfold(session: Session, documents: list[dict[str, object]]) -> list[dict[str, object]]:
    """Documents as they are, from what their rows hold.

    Raises:
        NotFoundError: a part is missing.
    """
    wanted = {number for document in documents for number in _numbers_in(document)}
    bodies: dict[int, str] = {}
    for some in _batches(list(wanted)):
        found = session.execute(select(DetailRow.id, DetailRow.body).where(DetailRow.id.in_(some)))
        bodies |= {row.id: row.body for row in found}
    if len(bodies) < len(wanted):
        raise NotFoundError(MISSING)

    def parts(items: list[Any]) -> list[Any]:
        return [json.loads(bodies[number]) for number in items] if _are(int, items) else items

    return [_mapped(document, parts) if bodies else document for document in documents]


def drop_unshared(session: Session) -> None:
    """Delete the parts that no revision has any more."""
    used: set[int] = set()
    for document in session.scalars(select(RevisionRow.document)).yield_per(50):
        used.update(_numbers_in(document))
    gone = [number for number in session.scalars(select(DetailRow.id)) if number not in used]
    for some in _batches(gone):
        session.execute(delete(DetailRow).where(DetailRow.id.in_(some)))


def _numbers(session: Session, told: dict[str, str]) -> dict[str, int]:
    """The number of each part by its digest."""
    numbers: dict[str, int] = {}
    for some in _batches(list(told)):
        found = session.execute(select(DetailRow.digest, DetailRow.id).where(DetailRow.digest.in_(some)))
        numbers |= {row.digest: row.id for row in found}
    new = [DetailRow(digest=name, body=text) for name, text in told.items() if name not in numbers]
    session.add_all(new)
    session.flush()
    return numbers | {row.digest: row.id for row in new}


def _batches(values: list[Any]) -> Iterator[list[Any]]:
    """Values in as many as one statement takes."""
    return (values[at : at + _AT_ONCE] for at in range(0, len(values), _AT_ONCE))


def _numbers_in(value: object) -> Iterator[int]:
    """Numbers of parts that a row's document has."""
    found: list[int] = []

    def noted(items: list[Any]) -> list[Any]:
        if _are(int, items):
            found.extend(items)
        return items

    _mapped(value, noted)
    yield from found


def _mapped(value: Any, change: Callable[[list[Any]], list[Any]], named: str = "") -> Any:
    """The same with other lists in place of those whose items are kept once."""
    if isinstance(value, dict):
        return {name: _mapped(each, change, name) for name, each in value.items()}
    if isinstance(value, list):
        return change(value) if named in KEPT_ONCE else [_mapped(each, change) for each in value]
    return value


def _are_parts(items: list[Any]) -> bool:
    return _are(dict, items)


def _are(kind: type, items: Iterable[Any]) -> bool:
    """Whether there are items, all of a kind."""
    kinds = {type(item) for item in items}
    return kinds == {kind}
