"""Pieces: the shelf, edits, undo and redo."""

from typing import Annotated

from fastapi import File, Form, UploadFile

from nebrel.api.messages.pieces import Change, NewSheet, PieceCard, PieceView, ShapeOrder, Tags
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pieces import card_of, piece_of
from nebrel.jobs.sheets import LineOfText, start_on_sheet
from nebrel.piece.evaluation.abilities import HasSkin
from nebrel.piece.registry import become, merge
from nebrel.store.pieces import PieceState

router = group("pieces")


@router.get("/pieces")
def list_pieces(context: InContext) -> list[PieceCard]:
    """All pieces on the shelf, the last changed first."""
    return [card_of(context.workshop, state) for state in context.workshop.pieces.all()]


@router.post("/pieces", status_code=201)
def start_piece(
    context: InContext, picture: Annotated[UploadFile, File()], title: Annotated[str | None, Form()] = None
) -> PieceView:
    """Start a piece from a picture; nothing is kept when the picture is refused."""
    name, data = received(picture, context.workshop.settings.picture_bytes, "picture")
    context.reading.picture(data, name, context.workshop.settings.read_limits)
    return _told(context, context.workshop.start_piece(data, name, title))


@router.post("/sheets", status_code=201)
def start_sheet(context: InContext, sheet: NewSheet) -> PieceView:
    """Start a piece from a new sheet; nothing is kept when it would be too large, or has nothing on it."""
    begun = start_on_sheet(
        context.workshop, (sheet.width_mm, sheet.height_mm), sheet.ground, sheet.title, _lines(sheet)
    )
    return _told(context, begun)


@router.put("/pieces/{piece_id}/tags")
def tag_piece(context: InContext, piece_id: str, order: Tags) -> PieceView:
    """Tag a piece of the shelf."""
    tags = list(dict.fromkeys(tag.strip() for tag in order.tags if tag.strip()))
    return _told(context, context.workshop.pieces.set_tags(piece_id, tags))


@router.get("/pieces/{piece_id}")
def get_piece(context: InContext, piece_id: str) -> PieceView:
    """A piece as it is today."""
    return piece_of(context.workshop, context.workshop.pieces.get(piece_id))


@router.post("/pieces/{piece_id}/revisions", status_code=201)
def revise_piece(context: InContext, piece_id: str, edit: Change) -> PieceView:
    """Keep an edit as a new revision; refused when the piece changed since revision `base`."""
    piece = context.workshop.opened(context.workshop.document(context.workshop.pieces.get(piece_id, edit.base)))
    document = merge(piece.document, edit.change)
    if piece.can(HasSkin) and type(document) is type(piece.document):
        document = piece.having(HasSkin).carried(document)
    context.workshop.opened(document).evaluator.check(context.following(piece_id))
    state = context.workshop.pieces.revise(piece_id, edit.base, document.model_dump(mode="json"), edit.label)
    return _told(context, state)


@router.post("/pieces/{piece_id}/shape", status_code=201)
def reshape_piece(context: InContext, piece_id: str, order: ShapeOrder) -> PieceView:
    """Make the piece another thing, as a new revision: what it starts from stays, and undo brings the rest back."""
    document = become(context.workshop.document(context.workshop.pieces.get(piece_id, order.base)), order.shape)
    context.workshop.opened(document).evaluator.check(context.following(piece_id))
    state = context.workshop.pieces.revise(piece_id, order.base, document.model_dump(mode="json"), order.label)
    return _told(context, state)


@router.post("/pieces/{piece_id}/undo")
def undo_piece(context: InContext, piece_id: str, base: int) -> PieceView:
    """Take the last edit back where the piece is at revision `base` still, so that one press counts once."""
    return _told(context, context.workshop.pieces.undo(piece_id, base))


@router.post("/pieces/{piece_id}/redo")
def redo_piece(context: InContext, piece_id: str, base: int) -> PieceView:
    """Bring the next edit back where the piece is at revision `base` still, so that one press counts once."""
    return _told(context, context.workshop.pieces.redo(piece_id, base))


@router.post("/pieces/{piece_id}/copy", status_code=201)
def copy_piece(context: InContext, piece_id: str) -> PieceView:
    """A second piece with the same document."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    title = f"{document.title[:110]} (copy)"
    copied = document.model_copy(update={"title": title})
    state = context.workshop.pieces.create(copied.model_dump(mode="json"), f"Copied from {document.title}")
    return _told(context, state)


@router.delete("/pieces/{piece_id}")
def remove_piece(context: InContext, piece_id: str) -> PieceView:
    """Take a piece off the shelf; `restore_piece` puts it back."""
    return _told(context, context.workshop.pieces.set_removed(piece_id, True))


@router.post("/pieces/{piece_id}/restore")
def restore_piece(context: InContext, piece_id: str) -> PieceView:
    """Put a removed piece back on the shelf."""
    return _told(context, context.workshop.pieces.set_removed(piece_id, False))


def _lines(sheet: NewSheet) -> LineOfText | None:
    if not sheet.text.strip():
        return None
    return LineOfText(sheet.text, sheet.font, sheet.text_tone, sheet.text_height_mm)


def _told(context: Context, state: PieceState) -> PieceView:
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)
