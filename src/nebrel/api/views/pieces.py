"""Records and results as messages."""

from nebrel.api.messages.carving import CarvingResult
from nebrel.api.messages.jobs import BuildResult, FilmResult, JobView, PictureResult, ServiceResult
from nebrel.api.messages.pieces import PieceCard, PieceView, ShapeView, StationView
from nebrel.jobs.workshop import Workshop
from nebrel.piece.registry import shape_of, shapes_for
from nebrel.store.jobs import JobRecord
from nebrel.store.pieces import PieceState


def card_of(workshop: Workshop, state: PieceState) -> PieceCard:
    """A piece for the shelf."""
    piece = workshop.opened(workshop.document(state))
    return PieceCard(
        id=state.id,
        revision=state.revision,
        title=piece.document.title,
        body=piece.words,
        maker=piece.document.machine_name,
        size_mm=piece.evaluator.size_mm,
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
    """A job."""
    return JobView(
        id=record.id,
        kind=record.kind,
        piece_id=record.piece_id,
        revision=record.revision,
        state=record.state,
        stage=record.stage,
        fraction=record.fraction,
        message=record.message,
        created=record.created,
        result=BuildResult.model_validate(record.result) if record.result and record.kind == "build" else None,
        picture=PictureResult.model_validate(record.result)
        if record.result and record.kind in ("picture", "heights")
        else None,
        film=FilmResult.model_validate(record.result) if record.result and record.kind == "turntable" else None,
        carving=CarvingResult.model_validate(record.result) if record.result and record.kind == "carving" else None,
        depths=ServiceResult.model_validate(record.result) if record.result and record.kind == "service" else None,
    )
