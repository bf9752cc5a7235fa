"""Pieces: the shelf, edits, undo and redo."""

from typing import Annotated

from fastapi import File, Form, UploadFile
from starlette.concurrency import run_in_threadpool

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.pieces import Change, NewSheet, PieceCard, PieceView, ShapeOrder, Tags
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pieces import UNKNOWN_SIZE, cards_of, piece_of, sizes_of
from nebrel.jobs import edits
from nebrel.jobs.beginnings import document_on, picture_in
from nebrel.jobs.sheets import LineOfText
from nebrel.store.pieces import PieceState

# What is asked about all pieces.
SHELF = "shelf"
router = group("pieces")


@router.get("/pieces")
async def list_pieces(asking: InAsking) -> list[PieceCard]:
    """All pieces on the shelf, the last changed first."""
    cards = await run_in_threadpool(cards_of, asking.context.workshop)
    unknown = [card.id for card in cards if card.size_mm == UNKNOWN_SIZE]
    sizes = await asking.shown(sizes_of, SHELF, unknown) if unknown else {}
    return [card.model_copy(update={"size_mm": sizes[card.id]}) if card.id in sizes else card for card in cards]


@router.post("/pieces", status_code=201)
async def start_piece(
    asking: InAsking, picture: Annotated[UploadFile, File()], title: Annotated[str | None, Form()] = None
) -> PieceView:
    """Start a piece from a picture; nothing is kept when the picture is refused."""
    settings = asking.context.workshop.settings
    name, data = await run_in_threadpool(received, picture, settings.picture_bytes, "picture")
    source = await asking.read(picture_in, data, name, settings.read_limits)
    return await asking.begun(edits.begin, document_on(source, title), source, data)


@router.post("/sheets", status_code=201)
async def start_sheet(asking: InAsking, sheet: NewSheet) -> PieceView:
    """Start a piece from a new sheet; nothing is kept when it would be too large, or has nothing on it."""
    size = (sheet.width_mm, sheet.height_mm)
    return await asking.begun(edits.begin_sheet, size, sheet.ground, sheet.title, _lines(sheet))


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
async def revise_piece(asking: InAsking, piece_id: str, edit: Change) -> PieceView:
    """Keep an edit as a new revision; refused when the piece changed since revision `base`."""
    document = await asking.decided(edits.edit, piece_id, piece_id, edit.base, edit.change)
    return await asking.revised(piece_id, edit.base, document, edit.label)


@router.post("/pieces/{piece_id}/shape", status_code=201)
async def reshape_piece(asking: InAsking, piece_id: str, order: ShapeOrder) -> PieceView:
    """Make the piece another thing, as a new revision: what it starts from stays, and undo brings the rest back."""
    document = await asking.decided(edits.reshape, piece_id, piece_id, order.base, order.shape)
    return await asking.revised(piece_id, order.base, document, order.label)


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
