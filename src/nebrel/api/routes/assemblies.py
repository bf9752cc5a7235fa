"""Pieces put together of pieces, laid on pieces, and moulds of pieces."""

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.pieces import LaidOrder, MouldOrder, PartOrder, PieceView, TogetherOrder
from nebrel.api.serving.routes import group
from nebrel.jobs import edits

router = group("assemblies")


@router.post("/assemblies", status_code=201)
async def start_together(asking: InAsking, order: TogetherOrder) -> PieceView:
    """Start a piece of others; several lie side by side as on a plate."""
    return await asking.begun(edits.begin_together, order.pieces, order.title)


@router.post("/moulds", status_code=201)
async def start_mould(asking: InAsking, order: MouldOrder) -> PieceView:
    """Start a mould of a piece, which it follows."""
    return await asking.begun(edits.begin_mould, order.piece_id, order.title)


@router.post("/pieces/{piece_id}/parts", status_code=201)
async def add_part(asking: InAsking, piece_id: str, order: PartOrder) -> PieceView:
    """Add a piece of the shelf: to a whole as a further part, on top of what is there; to a panel as a relief."""
    document, label = await asking.decided(edits.add_part, piece_id, piece_id, order.base, order.piece_id)
    return await asking.revised(piece_id, order.base, document, label)


@router.post("/pieces/{piece_id}/reliefs", status_code=201)
async def lay_relief(asking: InAsking, piece_id: str, order: LaidOrder) -> PieceView:
    """Lay a picture that is kept here on the heights of a piece, as a relief of its own."""
    source = order.model_dump(include={"blob", "name", "motif"})
    document = await asking.decided(edits.lay_relief, piece_id, piece_id, order.base, source)
    return await asking.revised(piece_id, order.base, document, f"Lay {order.name}"[:200])
