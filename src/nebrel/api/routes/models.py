"""Pieces that start from a mesh: opening one, and what its steps changed."""

from typing import Annotated

from fastapi import BackgroundTasks, File, Form, UploadFile

from nebrel.api.messages.models import PartView, StepOutcome
from nebrel.api.messages.pieces import PieceView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pieces import piece_of
from nebrel.core.errors import NotFoundError
from nebrel.core.mesh.shells import shells_of
from nebrel.piece.evaluation.abilities import HasSkin
from nebrel.piece.evaluation.evaluator import PREVIEW_PX

MOST_PARTS = 50
router = group("models")


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
    state = context.workshop.start_model(data, name, unit, title, context.reading.mesh)
    context.tell_changed(state.id, state.revision)
    # The page asks for this next; it is begun while the answer is on its way.
    afterwards.add_task(context.workshop.piece(state.id).evaluator.shaded, PREVIEW_PX)
    return piece_of(context.workshop, state)


@router.post("/pieces/{piece_id}/outcomes")
def tell_outcomes(context: InContext, piece_id: str, draft: Draft) -> list[StepOutcome]:
    """What every step of a model changed, the reading first."""
    results = context.drafted(piece_id, draft).having(HasSkin).step_results(context.following(piece_id))
    return [
        StepOutcome(id=each.step_id, description=each.worked.description, triangles=len(each.worked.mesh.faces))
        for each in results
    ]


@router.get("/pieces/{piece_id}/parts/{step_id}")
def list_parts(context: InContext, piece_id: str, step_id: str) -> list[PartView]:
    """The largest parts of a model as they come into one of its steps, at most 50."""
    piece = context.workshop.piece(piece_id)
    mesh = piece.having(HasSkin).before_step(step_id, context.following(piece_id)) if piece.can(HasSkin) else None
    if mesh is None:
        raise NotFoundError("The piece has no such step any more.")
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
