"""Pieces that start from a mesh: opening one, and what its steps changed."""

from typing import Annotated

from fastapi import APIRouter, BackgroundTasks, File, Form, UploadFile

from nebrel.api.messages import Draft, PartView, PieceView, StepOutcome
from nebrel.api.routes.previews import drafted
from nebrel.api.serving.context import InContext
from nebrel.api.serving.uploads import received
from nebrel.api.views.pieces import piece_of
from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.core.mesh.shells import shells_of
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.kinds.model.document import ModelDocument

MOST_PARTS = 50
router = APIRouter(tags=["models"])


@router.post("/models", status_code=201)
def start_model(
    context: InContext,
    afterwards: BackgroundTasks,
    model: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from a mesh. When its unit must be told, the refusal holds the size that each would give."""
    name, data = received(model, context.workshop.settings.mesh_bytes, "model")
    state = context.workshop.start_model(data, name, unit, title)
    context.tell_changed(state.id, state.revision)
    document = context.workshop.document(state)
    # The page asks for this next; it is begun while the answer is on its way.
    afterwards.add_task(context.workshop.looking_at(document).shaded, PREVIEW_PX)
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


@router.get("/pieces/{piece_id}/parts/{step_id}")
def list_parts(context: InContext, piece_id: str, step_id: str) -> list[PartView]:
    """The largest parts of a model as they come into one of its steps, at most 50."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    ids = [step.id for step in document.steps] if isinstance(document, ModelDocument) else []
    if not isinstance(document, ModelDocument) or step_id not in ids:
        raise NotFoundError("The piece has no such step any more.")
    at = ids.index(step_id)
    before = document.model_copy(update={"steps": document.steps[:at]})
    mesh = context.workshop.evaluator.models.worked(before, context.following(piece_id))[-1].mesh
    parts = []
    for number, shell in enumerate(shells_of(mesh)[:MOST_PARTS], start=1):
        x, y, z = (shell.high - shell.low).tolist()
        parts.append(
            PartView(
                number=number,
                size_mm=(x, y, z),
                volume_mm3=abs(shell.volume_mm3),
                triangles=len(shell.faces),
                closed=shell.closed,
            )
        )
    return parts
