"""Pieces that start from a mesh: opening one, and what its steps changed."""

from typing import Annotated

from fastapi import File, Form, UploadFile
from starlette.concurrency import run_in_threadpool

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.models import PartView, StepOutcome
from nebrel.api.messages.pieces import PieceView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.models import outcomes_of, parts_of
from nebrel.jobs.beginnings import document_on, model_in

router = group("models")


@router.post("/models", status_code=201)
async def start_model(
    asking: InAsking,
    model: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from a mesh. When its unit must be told, the refusal holds the size that each would give."""
    limit = asking.context.workshop.settings.mesh_bytes
    name, data = await run_in_threadpool(received, model, limit, "model")
    source = await asking.read(model_in, data, name, unit)
    workshop, document = asking.context.workshop, document_on(source, title)
    return await asking.kept(lambda: workshop.pieces.create(*workshop.begun(document, source, data)))


@router.post("/pieces/{piece_id}/outcomes")
async def tell_outcomes(asking: InAsking, piece_id: str, draft: Draft) -> list[StepOutcome]:
    """What every step of a model changed, the reading first."""
    return await asking.view(outcomes_of, piece_id, draft)


@router.get("/pieces/{piece_id}/parts/{step_id}")
async def list_parts(asking: InAsking, piece_id: str, step_id: str) -> list[PartView]:
    """The largest parts of a model as they come into one of its steps, at most 50."""
    return await asking.view(parts_of, piece_id, None, step_id)
