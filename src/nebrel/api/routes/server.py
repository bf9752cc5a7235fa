"""The server itself: how it is, what it keeps, what went wrong."""

from typing import Literal

from starlette.responses import JSONResponse, Response

from nebrel.api.messages.server import HealthView, ProblemView, StorageView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.views.server import health_of, problems_of, report_of, storage_of
from nebrel.store.housekeeping import Housekeeping

UNWELL = 503
router = group("server")


@router.get("/health", responses={UNWELL: {"model": HealthView}})
def tell_health(context: InContext) -> HealthView:
    """How the server is; 503 when it cannot work."""
    health = health_of(context)
    return health if health.ok else JSONResponse(health.model_dump(), UNWELL)  # type: ignore[return-value]


@router.get("/storage")
def tell_storage(context: InContext) -> StorageView:
    """What the data folder holds."""
    return storage_of(context.workshop)


@router.post("/storage/{what}")
def make_room(context: InContext, what: Literal["removed", "history", "results"]) -> StorageView:
    """Delete removed pieces, let most of the older states go, or delete results that can be made again."""
    keeping = Housekeeping(context.workshop.database, context.workshop.settings.data_dir)
    acts = {"removed": keeping.empty_removed, "history": keeping.thin_history, "results": keeping.forget_results}
    acts[what]()
    return storage_of(context.workshop)


@router.get("/problems")
def list_problems(context: InContext) -> list[ProblemView]:
    """What went wrong of late, the newest first."""
    return problems_of(context)


@router.get("/problem-report.txt", response_class=Response)
def save_report(context: InContext) -> Response:
    """All that helps to find a fault, as text: no picture, no title of a piece, no token is in it."""
    headers = {"Content-Disposition": 'attachment; filename="nebrel-report.txt"'}
    return Response(report_of(context), media_type="text/plain; charset=utf-8", headers=headers)
