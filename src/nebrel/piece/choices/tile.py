"""How a choice comes out, looked at on a small copy of the piece's own picture."""

from dataclasses import dataclass, replace
from typing import Literal

from nebrel.core.errors import NebrelError
from nebrel.core.picture import Picture, shrink_to
from nebrel.core.picture.audit import two_toned
from nebrel.core.picture.light_and_paint import dark_inside_bright
from nebrel.core.proof.audit import brightness
from nebrel.core.proof.render import render
from nebrel.piece.choices.choice import BY_DEPTH, HELD_BACK, Choice, choice_of, chosen
from nebrel.piece.documents.document import Document, PicturedDocument
from nebrel.piece.evaluation.abilities import HasPicture
from nebrel.piece.evaluation.cache import step_key
from nebrel.piece.evaluation.shown import Size, png_of
from nebrel.piece.evaluation.sources import Sources
from nebrel.piece.parts.pictured import picture_source
from nebrel.piece.registry import Piece, kind_of, merge, open_piece, shape_of

SKETCH_PX = 200
# As much of a picture as is looked at to tell paint from form.
JUDGED_PX = 6000
TILE_PX = (360, 270)
RANK = {"fault": 0, "caution": 1, "note": 2}
# What a small copy of a picture says nothing true about.
OF_PIXELS = ("noise", "jpeg-blocks", "low-resolution", "oversampled", "few-levels", "terraces", "specks")
# Parts that no sketch needs finer. Outlines smaller than this share of the picture are left out of it.
SMALLEST_OUTLINE = 1 / 150
SKETCH_CELLS = 72
BRIGHTNESS = "brightness-not-height"
NOTHING_FOUND = {
    "lithophane": "Tones become light: the picture shows when a lamp stands behind it.",
    HELD_BACK: "Large differences are held back, fine detail stays.",
    BY_DEPTH: "What is nearer stands taller, however bright it is; fine detail follows tones.",
}
Character = Literal["photograph", "drawing", "cut-out", "heights"]
_VERSION = 1


@dataclass(frozen=True)
class Tile:
    """How a choice comes out.

    Attributes:
        size: about, mm.
        picture: PNG of `TILE_PX`; empty where it cannot be made.
        word: what matters most about it.
        advice: what to do about that.
    """

    size: Size
    picture: bytes
    word: str
    advice: str


def character_of(picture: Picture) -> Character:
    """What sort of picture it is, for remembering what was made of such ones."""
    if (picture.coverage < 0.5).mean() > 0.02:
        return "cut-out"
    if two_toned(shrink_to(picture, SKETCH_PX)) > 0:
        return "drawing"
    return "photograph" if dark_inside_bright(picture) else "heights"


def tile_of(document: Document, choice: Choice, sources: Sources) -> Tile:
    """How a choice of a piece comes out, from a small copy of its picture."""
    small, from_small = _sketched(document, sources)
    key = step_key("tile", _VERSION, [choice.name, small.model_dump(mode="json")])

    def draw() -> Tile:
        try:
            made = chosen(small, choice)
            piece = open_piece(merge(made, _coarse(made)), from_small)
            picture = png_of(render(piece.evaluator.shaded(SKETCH_PX), *TILE_PX, piece.evaluator.shelf_view()))
        except NebrelError as refusal:
            return Tile((0.0, 0.0, 0.0), b"", str(refusal), "")
        return Tile(piece.evaluator.size_mm, picture, *_what_matters(piece, from_small))

    return sources.cache.get(key, draw)


def character_in(document: Document, sources: Sources) -> Character | None:
    """The character of what a piece starts from; None where that is no picture."""
    if not isinstance(document, PicturedDocument):
        return None
    small, from_small = _sketched(document, sources)
    assert isinstance(small, PicturedDocument)
    return character_of(from_small.picture(small.picture.blob, small.picture.name))


def _sketched(document: Document, sources: Sources) -> tuple[Document, Sources]:
    """The same piece of a small copy of its picture, with the sources that hold it."""
    if not isinstance(document, PicturedDocument):
        return document, sources
    source = document.picture
    blob = step_key("small copy", _VERSION, [source.blob, SKETCH_PX])

    def shrink() -> Picture:
        small = sources.picture(source.blob, source.name, longest_px=SKETCH_PX)
        rows, columns = small.shape
        return replace(small, facts=replace(small.facts, width_px=columns, height_px=rows))

    small = sources.cache.get(blob, shrink)
    part = picture_source(blob, source.name, small.facts)
    return document.model_copy(update={"picture": part}), sources.with_pictures({blob: small})


def _coarse(document: Document) -> dict[str, object]:
    """What makes a sketch of a kind quick: fewer cells, none of the smallest outlines, walls that stand upright."""
    kind = kind_of(document).name
    if kind == "figure":
        return {"figure": {"cells": SKETCH_CELLS}}
    if kind == "traced" and isinstance(document, PicturedDocument):
        width = document.picture_width_mm
        area = SMALLEST_OUTLINE * width * width * document.picture.height_px / document.picture.width_px
        upright: dict[str, object] = {"solid": {"draft_deg": 0}} if shape_of(document) == "stamp" else {}
        return {"trace": {"smallest_part_mm2": area, "smallest_hole_mm2": area}, **upright}
    return {}


def _what_matters(piece: Piece, sources: Sources) -> tuple[str, str]:
    """The finding that matters most, and what to do about it."""
    document, evaluator = piece.document, piece.evaluator
    found = [each for each in evaluator.findings(SKETCH_PX) if each.measure not in OF_PIXELS]
    form_counts = choice_of(document) in (HELD_BACK, BY_DEPTH)
    if isinstance(document, PicturedDocument) and shape_of(document) == "panel":
        # In the prepared picture colours are gone; they tell paint from form.
        found = [each for each in found if each.measure != BRIGHTNESS]
        if not form_counts:
            whole = sources.picture(document.picture.blob, document.picture.name, longest_px=JUDGED_PX)
            found = [*brightness(whole, piece.having(HasPicture).ground), *found]
    found.sort(key=lambda each: (each.measure != BRIGHTNESS, RANK[each.severity]))
    if found:
        return found[0].what, found[0].why
    return NOTHING_FOUND.get(choice_of(document), "Nothing stands out."), ""
