"""Pieces put together of pieces: begun, added to, and kept in step with what they are made of."""

import json

from nebrel.core.errors import BadValueError, ConflictError
from nebrel.jobs.workshop import Begun, Workshop
from nebrel.piece.evaluation.abilities import TakesPieces
from nebrel.piece.kinds.assembly.document import AssemblyDocument, part_of_piece
from nebrel.piece.parts.piece_of import in_step
from nebrel.piece.registry import merge
from nebrel.store.pieces import PieceState

GAP_MM = 5.0
MOST_PIECES = 60


def begin_together(workshop: Workshop, pieces: list[str], title: str | None = None) -> PieceState:
    """A new piece of others; see `put_together`."""
    return workshop.pieces.create(*put_together(workshop, pieces, title))


def put_together(workshop: Workshop, pieces: list[str], title: str | None = None) -> Begun:
    """The document of others that lie side by side, as on a plate; with one piece, a whole to add parts to.

    Raises:
        BadValueError: there are none, or too many.
        NotFoundError: one is gone.
    """
    if not 1 <= len(pieces) <= MOST_PIECES:
        raise BadValueError(f"{len(pieces)} pieces are chosen; 1 to {MOST_PIECES} would be accepted.")
    states = [workshop.pieces.get(each) for each in pieces]
    opened = [workshop.opened(workshop.document(state)) for state in states]
    sizes = [piece.evaluator.size_mm for piece in opened]
    bed = opened[0].document.maker.bed_mm[0]
    parts = [
        part_of_piece(number, piece.document.title, state.id, state.document, at)
        for number, (piece, state, at) in enumerate(zip(opened, states, _side_by_side(sizes, bed), strict=True), 1)
    ]
    if len(parts) > 1:
        parts = [part.model_copy(update={"how": "apart"}) for part in parts]
    named = title or (f"{opened[0].document.title}, put together" if len(parts) == 1 else f"Plate of {len(parts)}")
    made = AssemblyDocument(title=named[:120], assembly=tuple(parts), maker=opened[0].document.maker)
    workshop.opened(made).evaluator.check()
    return made.model_dump(mode="json"), f"Put together of {len(parts)}"


def with_piece(workshop: Workshop, whole_id: str, base: int, piece_id: str) -> Begun:
    """A piece that takes others, with one more of the shelf.

    Raises:
        ConflictError: it takes none, or the other one holds it.
    """
    state, piece = workshop.pieces.get(whole_id, base), workshop.pieces.get(piece_id)
    whole = workshop.opened(workshop.document(state))
    if piece_id == whole_id or whole_id in json.dumps(piece.document):
        raise ConflictError("A piece cannot be a part of itself; choose another one.")
    change = whole.having(TakesPieces).with_piece(piece_id, piece.document)
    made = merge(whole.document, change)
    workshop.opened(made).evaluator.check()
    return made.model_dump(mode="json"), f"Add {piece.document.get('title', 'a piece')}"[:200]


def follow_piece(workshop: Workshop, changed: PieceState) -> list[PieceState]:
    """A new revision of every piece that follows one that changed, and of those that follow these."""
    found = []
    for state in workshop.pieces.holding(changed.id):
        revised = None if state.id == changed.id else _in_step(workshop, state, changed)
        if revised is not None:
            found += [revised, *follow_piece(workshop, revised)]
    return found


def _in_step(workshop: Workshop, state: PieceState, changed: PieceState) -> PieceState | None:
    """The new revision of a piece; None where it follows nothing that changed."""

    def made(whole: PieceState) -> dict[str, object] | None:
        updated, touched = in_step(whole.document, changed.id, changed.document)
        return updated if touched and isinstance(updated, dict) else None

    return workshop.pieces.follow_up(state, made, f"Followed {changed.document.get('title', 'a piece')}"[:200])


def _side_by_side(sizes: list[tuple[float, float, float]], wide: float) -> list[tuple[float, float]]:
    """Middles of boxes in rows from left to right, a row as wide as the bed at the most."""
    places: list[tuple[float, float]] = []
    x = y = deepest = 0.0
    for width, depth, _ in sizes:
        if x and x + width > wide:
            x, y, deepest = 0.0, y + deepest + GAP_MM, 0.0
        places.append((x + width / 2, y + depth / 2))
        x, deepest = x + width + GAP_MM, max(deepest, depth)
    return places
