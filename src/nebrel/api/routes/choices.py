"""What a piece could be: choices by sight."""

from starlette.concurrency import run_in_threadpool

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.choices import ChoiceOrder, ChoiceView, TileView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.routes import group
from nebrel.api.views.choices import choices_of, tile_view
from nebrel.jobs import edits

router = group("choices")


@router.get("/pieces/{piece_id}/choices")
async def list_choices(asking: InAsking, piece_id: str) -> list[ChoiceView]:
    """What a piece could be."""
    return await asking.view(choices_of, piece_id)


@router.get("/pieces/{piece_id}/choices/{name}")
async def look_at_choice(asking: InAsking, piece_id: str, name: str) -> TileView:
    """How a choice comes out."""
    return await asking.view(tile_view, piece_id, None, name)


@router.post("/pieces/{piece_id}/choice", status_code=201)
async def choose(asking: InAsking, piece_id: str, order: ChoiceOrder) -> PieceView:
    """Make the piece one of its choices, and remember that for pictures of its character."""
    made, title, character = await asking.decided(edits.make_choice, piece_id, piece_id, order.base, order.name)
    view = await asking.revised(piece_id, order.base, made, f"Made a {title.lower()}")
    if character:
        await run_in_threadpool(asking.context.workshop.last_choices.remember, character, order.name)
    return view
