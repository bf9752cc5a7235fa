"""Records and results as messages."""

from pydantic import BaseModel, ValidationError

from nebrel.api.messages.carving import CarvingResult
from nebrel.api.messages.jobs import (
    BuildResult,
    FilmResult,
    JobView,
    ParcelResult,
    PictureResult,
    PlateResult,
    ServiceResult,
)
from nebrel.api.messages.pieces import PieceCard, PieceView, ShapeView, StationView
from nebrel.core.errors import NebrelError
from nebrel.jobs.lookers import Room
from nebrel.jobs.workshop import Workshop
from nebrel.piece.evaluation.cache import NotKeptError
from nebrel.piece.evaluation.shown import Size
from nebrel.piece.registry import shape_of, shapes_for
from nebrel.store.jobs import JobRecord
from nebrel.store.pieces import PieceState

# What each kind of job leaves behind, and where a message has it.
RESULTS: dict[str, tuple[str, type[BaseModel]]] = {
    "build": ("result", BuildResult),
    "picture": ("picture", PictureResult),
    "heights": ("picture", PictureResult),
    "turntable": ("film", FilmResult),
    "carving": ("carving", CarvingResult),
    "plate": ("plate", PlateResult),
    "parcel": ("parcel", ParcelResult),
    "service": ("depths", ServiceResult),
}
UNKNOWN_SIZE: Size = (0.0, 0.0, 0.0)
UNREAD = "Made by another version of Nebrel"
MADE_BEFORE = "An earlier version of Nebrel made this; do it again to see what came of it."


def cards_of(workshop: Workshop) -> list[PieceCard]:
    """The pieces of the shelf, the last changed first; where a size is not kept, it is `UNKNOWN_SIZE`."""
    return [_card_of(workshop, state) for state in workshop.pieces.all()]


def sizes_of(room: Room, pieces: list[str]) -> dict[str, Size]:
    """Sizes of pieces, which are kept from now on; unknown where one cannot be made any more."""
    sizes = {}
    for piece_id in pieces:
        try:
            sizes[piece_id] = room.workshop.piece(piece_id).evaluator.size_mm
        except NebrelError:
            sizes[piece_id] = UNKNOWN_SIZE
    return sizes


def _card_of(workshop: Workshop, state: PieceState) -> PieceCard:
    try:
        piece = workshop.opened(workshop.document(state))
    except NebrelError:
        return _unread(state)
    try:
        size = piece.evaluator.size_mm
    except NotKeptError:
        size = UNKNOWN_SIZE
    return PieceCard(
        id=state.id,
        revision=state.revision,
        title=piece.document.title,
        body=piece.words,
        maker=piece.document.machine_name,
        size_mm=size,
        created=state.created,
        changed=state.changed,
        tags=state.tags,
    )


def _unread(state: PieceState) -> PieceCard:
    """Of a piece that this version cannot read, such as one of a later version: it stays, and hides no other."""
    return PieceCard(
        id=state.id,
        revision=state.revision,
        title=str(state.document.get("title") or "Untitled"),
        body=UNREAD,
        maker="",
        size_mm=UNKNOWN_SIZE,
        created=state.created,
        changed=state.changed,
        tags=state.tags,
    )


def piece_of(workshop: Workshop, state: PieceState) -> PieceView:
    """A piece for the bench."""
    piece = workshop.opened(workshop.document(state))
    document, kind = piece.document, piece.kind
    return PieceView(
        id=state.id,
        revision=state.revision,
        kind=kind.name,
        abilities=piece.abilities,
        shape=shape_of(document),
        shapes=[ShapeView(name=shape.name, title=shape.title) for shape in shapes_for(document)],
        stations=[
            StationView(name=station.name, title=station.title, begins=station.begins) for station in kind.stations
        ],
        document=document,
        changed=state.changed,
        undoes=state.undoes,
        redoes=state.redoes,
        removed=state.removed,
    )


def job_of(record: JobRecord) -> JobView:
    """A job. What an earlier version of Nebrel made of it in another form counts as cleared away."""
    name, kind = RESULTS.get(record.kind, ("result", BuildResult))
    try:
        made = {name: kind.model_validate(record.result)} if record.result else {}
    except ValidationError:
        made = {}
    return JobView(
        id=record.id,
        kind=record.kind,
        piece_id=record.piece_id,
        revision=record.revision,
        state=record.state,
        stage=record.stage,
        fraction=record.fraction,
        message=MADE_BEFORE if record.result and not made else record.message,
        created=record.created,
        **made,
    )
