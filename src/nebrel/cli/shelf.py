"""Pieces of the shelf, by what a person calls them."""

from nebrel.core.errors import BadValueError
from nebrel.store.pieces import PieceState


def piece_named(pieces: list[PieceState], what: str) -> PieceState:
    """The piece of that id, or of that title, whatever the case of its letters.

    Raises:
        BadValueError: there is none.
    """
    for piece in pieces:
        if what.casefold() in (piece.id, str(piece.document.get("title", "")).casefold()):
            return piece
    raise BadValueError(f"There is no file and no piece on the shelf called {what}; please check the name.")
