"""Choices as messages: which there are for a piece, and how each comes out."""

import base64

from nebrel.api.messages.choices import ChoiceView, TileView
from nebrel.api.views.look import Look
from nebrel.piece.choices.choice import choice_named, choice_of, choices_for
from nebrel.piece.choices.tile import character_in, tile_of


def choices_of(look: Look) -> list[ChoiceView]:
    """What a piece could be."""
    document = look.piece.document
    character = character_in(document, look.workshop.sources)
    last = look.workshop.last_choices.of(character) if character else None
    now = choice_of(document)
    return [
        ChoiceView(name=each.name, title=each.title, now=each.name == now, remembered=each.name == last)
        for each in choices_for(document)
    ]


def tile_view(look: Look, name: str) -> TileView:
    """How a choice comes out."""
    document = look.piece.document
    tile = tile_of(document, choice_named(document, name), look.workshop.sources)
    picture = f"data:image/png;base64,{base64.b64encode(tile.picture).decode()}" if tile.picture else ""
    return TileView(size_mm=tile.size, picture=picture, word=tile.word, advice=tile.advice)
