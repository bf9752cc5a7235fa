"""Pieces put together of pieces."""

from nebrel.api.messages.pieces import PartOrder, PieceView, TogetherOrder
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.pieces import piece_of
from nebrel.jobs.assemblies import add_piece, begin_together

router = group("assemblies")


@router.post("/assemblies", status_code=201)
def start_together(context: InContext, order: TogetherOrder) -> PieceView:
    """Start a piece of others; several lie side by side as on a plate."""
    state = begin_together(context.workshop, order.pieces, order.title)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


@router.post("/pieces/{piece_id}/parts", status_code=201)
def add_part(context: InContext, piece_id: str, order: PartOrder) -> PieceView:
    """Add a piece of the shelf as a further part, on top of what is there."""
    state = add_piece(context.workshop, piece_id, order.base, order.piece_id)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)
