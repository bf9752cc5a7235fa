"""Pieces that start from a mesh: opening one, and what its steps changed."""

from typing import Annotated

from fastapi import APIRouter, File, Form, UploadFile

from nebrel.api.context import InContext
from nebrel.api.messages import Draft, PieceView, StepOutcome
from nebrel.api.routes.previews import drafted
from nebrel.api.uploads import received
from nebrel.api.views import piece_of
from nebrel.core.errors import ConflictError
from nebrel.piece.model import ModelDocument

router = APIRouter(tags=["models"])


@router.post("/models", status_code=201)
def start_model(
    context: InContext,
    model: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from a mesh. When its unit must be told, the refusal holds the size that each would give."""
    name, data = received(model, context.workshop.settings.mesh_bytes, "model")
    state = context.workshop.start_model(data, name, unit, title)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


@router.post("/pieces/{piece_id}/outcomes")
def tell_outcomes(context: InContext, piece_id: str, draft: Draft) -> list[StepOutcome]:
    """What every step of a model changed, the reading first."""
    document = drafted(context, piece_id, draft)
    if not isinstance(document, ModelDocument):
        raise ConflictError("This piece starts from a picture, so it has no steps of a model.")
    worked = context.workshop.evaluator.models.worked(document, context.following(piece_id))
    ids = ["", *(step.id for step in document.steps if step.on)]
    return [
        StepOutcome(id=step_id, told=after.told, triangles=len(after.mesh.faces))
        for step_id, after in zip(ids, worked, strict=True)
    ]
