"""What a piece could be: choices by sight."""

import base64

from nebrel.api.messages.choices import ChoiceOrder, ChoiceView, TileView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.pieces import piece_of
from nebrel.piece.choices.choice import choice_named, choice_of, choices_for, chosen
from nebrel.piece.choices.tile import character_in, tile_of

router = group("choices")


@router.get("/pieces/{piece_id}/choices")
def list_choices(context: InContext, piece_id: str) -> list[ChoiceView]:
    """What a piece could be."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    character = character_in(document, context.workshop.sources)
    last = context.workshop.last_choices.of(character) if character else None
    now = choice_of(document)
    return [
        ChoiceView(name=each.name, title=each.title, now=each.name == now, remembered=each.name == last)
        for each in choices_for(document)
    ]


@router.get("/pieces/{piece_id}/choices/{name}")
def look_at_choice(context: InContext, piece_id: str, name: str) -> TileView:
    """How a choice comes out."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    tile = tile_of(document, choice_named(document, name), context.workshop.sources)
    picture = f"data:image/png;base64,{base64.b64encode(tile.picture).decode()}" if tile.picture else ""
    return TileView(size_mm=tile.size, picture=picture, word=tile.word, advice=tile.advice)


@router.post("/pieces/{piece_id}/choice", status_code=201)
def choose(context: InContext, piece_id: str, order: ChoiceOrder) -> PieceView:
    """Make the piece one of its choices, and remember that for pictures of its character."""
    workshop = context.workshop
    document = workshop.document(workshop.pieces.get(piece_id, order.base))
    choice = choice_named(document, order.name)
    made = chosen(document, choice)
    workshop.opened(made).evaluator.check(context.following(piece_id))
    data = made.model_dump(mode="json")
    state = workshop.pieces.revise(piece_id, order.base, data, f"Made a {choice.title.lower()}")
    character = character_in(document, workshop.sources)
    if character:
        workshop.last_choices.remember(character, choice.name)
    context.tell_changed(state.id, state.revision)
    return piece_of(workshop, state)
