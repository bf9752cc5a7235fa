"""What decides over edits and beginnings, in the processes for that: a document comes back only if it can be made."""

from nebrel.jobs.assemblies import put_together, with_piece
from nebrel.jobs.beginnings import Source
from nebrel.jobs.library import Library, MotifPlacement
from nebrel.jobs.lookers import Room
from nebrel.jobs.moulds import mould_of
from nebrel.jobs.sheets import LineOfText, begin_on_sheet
from nebrel.jobs.workshop import Begun
from nebrel.piece.choices.choice import choice_named, chosen
from nebrel.piece.choices.tile import Character, character_in
from nebrel.piece.documents.document import Document
from nebrel.piece.evaluation.abilities import HasSkin, LaysReliefs
from nebrel.piece.recipes.recipe import Recipe, follow
from nebrel.piece.registry import become, merge, parse_document
from nebrel.store.motifs import Motif, MotifContent
from nebrel.store.pieces import Document as Data


def edit(room: Room, piece_id: str, base: int, change: dict[str, object]) -> Data:
    """A piece with a merge patch on its revision `base`.

    Raises:
        ConflictError: its head is no longer `base`; so it is with all that begins on one.
    """
    piece = room.workshop.opened(_document(room, piece_id, base))
    document = merge(piece.document, change)
    if piece.can(HasSkin) and type(document) is type(piece.document):
        document = piece.having(HasSkin).carried(document)
    return _made(room, document)


def reshape(room: Room, piece_id: str, base: int, shape: str) -> Data:
    """A piece made another thing."""
    return _made(room, become(_document(room, piece_id, base), shape))


def make_choice(room: Room, piece_id: str, base: int, name: str) -> tuple[Data, str, Character | None]:
    """A piece made one of its choices, what that is called, and the character of its picture."""
    document = _document(room, piece_id, base)
    choice = choice_named(document, name)
    return _made(room, chosen(document, choice)), choice.title, character_in(document, room.workshop.sources)


def follow_recipe(room: Room, piece_id: str, base: int, recipe: Recipe) -> Data:
    """A piece made by a recipe."""
    return _made(room, follow(_document(room, piece_id, base), recipe))


def lay_motif(room: Room, piece_id: str, base: int, motif: Motif, placed: MotifPlacement) -> Data:
    """A piece with a motif laid on it."""
    document = _document(room, piece_id, base)
    laid = Library(room.workshop).lay(room.workshop.opened(document), motif, placed)
    return _made(room, merge(document, laid))


def lay_relief(room: Room, piece_id: str, base: int, source: dict[str, object]) -> Data:
    """A piece with a picture laid on its heights."""
    piece = room.workshop.opened(_document(room, piece_id, base))
    return _made(room, merge(piece.document, piece.having(LaysReliefs).with_relief(source)))


def take_motif(room: Room, piece_id: str, chosen_curves: tuple[int, ...]) -> MotifContent:
    """What a piece shows, as a motif."""
    return Library(room.workshop).content_of(room.workshop.piece(piece_id), chosen_curves)


def begin(room: Room, document: Document, source: Source, data: bytes) -> Begun:
    """A piece that starts from a file."""
    return room.workshop.begun(document, source, data)


def begin_sheet(
    room: Room, size: tuple[float, float], ground: float | None, title: str, lettering: LineOfText | None
) -> Begun:
    """A piece that starts from a sheet of its own."""
    return begin_on_sheet(room.workshop, size, ground, title, lettering)


def fit(room: Room, data: Data) -> None:
    """Whether a document can be made, which is refused otherwise."""
    _made(room, parse_document(data))


def begin_together(room: Room, pieces: list[str], title: str | None) -> Begun:
    """A piece put together of others."""
    return put_together(room.workshop, pieces, title)


def begin_mould(room: Room, piece_id: str, title: str | None) -> Begun:
    """A mould of a piece."""
    return mould_of(room.workshop, piece_id, title)


def add_part(room: Room, whole_id: str, base: int, piece_id: str) -> Begun:
    """A whole with a further part."""
    return with_piece(room.workshop, whole_id, base, piece_id)


def _document(room: Room, piece_id: str, base: int) -> Document:
    return room.workshop.document(room.workshop.pieces.get(piece_id, base))


def _made(room: Room, document: Document) -> Data:
    evaluator = room.workshop.opened(document).evaluator
    evaluator.check(room.progress)
    # The shelf tells how large it is, from what is kept.
    _ = evaluator.size_mm
    return document.model_dump(mode="json")
