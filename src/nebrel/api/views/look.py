"""How a piece is looked at: every view is worked out in one of the processes for that, from a `Look`."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Concatenate, ParamSpec, TypeVar

from nebrel.api.messages.previews import Draft
from nebrel.jobs.lookers import Room
from nebrel.jobs.workshop import Workshop
from nebrel.piece.documents.document import Document
from nebrel.piece.registry import Piece, merge, parse_document

Given = ParamSpec("Given")
Made = TypeVar("Made")


@dataclass(frozen=True)
class Look:
    """A piece that is looked at.

    Attributes:
        piece: as the draft would make it.
        draft: how large, and up to where.
        workshop: the data folder, for what else is kept there.
        progress: hears how far it is.
    """

    piece: Piece
    draft: Draft
    workshop: Workshop
    progress: Callable[[str, float], None]


def look_at_piece(
    room: Room,
    view: Callable[Concatenate[Look, Given], Made],
    piece_id: str,
    draft: Draft,
    /,
    *given: Given.args,
    **named: Given.kwargs,
) -> Made:
    """A view of a piece of the shelf with a draft on top."""
    document = room.workshop.document(room.workshop.pieces.get(piece_id))
    return view(_look(room, merge(document, draft.change) if draft.change else document, draft), *given, **named)


def look_at_revision(
    room: Room,
    view: Callable[Concatenate[Look, Given], Made],
    revision: int,
    /,
    *given: Given.args,
    **named: Given.kwargs,
) -> Made:
    """A view of a piece as it was at a revision."""
    return view(_look(room, parse_document(room.workshop.pieces.document_of(revision)), Draft()), *given, **named)


def _look(room: Room, document: Document, draft: Draft) -> Look:
    return Look(room.workshop.opened(document), draft, room.workshop, room.progress)
