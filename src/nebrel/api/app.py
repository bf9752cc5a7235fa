"""The application: routes, refusals, and the built pages."""

import logging
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse
from fastapi.routing import APIRoute
from sqlalchemy.exc import OperationalError
from starlette.exceptions import HTTPException
from starlette.responses import RedirectResponse, Response

from nebrel.api.messages.lithophanes import VariationsHead
from nebrel.api.messages.models import PlacementHead
from nebrel.api.messages.pictures import StripHead
from nebrel.api.messages.pieces import Refusal
from nebrel.api.messages.previews import MapHead, PlanHead, SolidHead, ThinMapHead
from nebrel.api.messages.printing import LayerHead
from nebrel.api.routes import (
    assemblies,
    carving,
    choices,
    decorations,
    figures,
    jobs,
    lithophanes,
    materials,
    models,
    motifs,
    news,
    outlines,
    parts,
    pictures,
    piece_files,
    pieces,
    previews,
    printer,
    printing,
    rack,
    recipes,
    router,
    server,
    shared,
    targets,
    versions,
)  # fmt: skip
from nebrel.api.serving.cluster import ALONE, ClusterAccess
from nebrel.api.serving.context import Context
from nebrel.api.serving.events import News, Newsroom
from nebrel.api.serving.frames import schemas_of_heads
from nebrel.api.serving.guard import Guard
from nebrel.api.serving.routes import MOST_WHOLE, UNREADABLE
from nebrel.api.views.pieces import job_of
from nebrel.core.errors import (
    BusyError,
    ConflictError,
    LeftError,
    NebrelError,
    NoSpaceError,
    NotFoundError,
    TooLargeError,
    UnitNeededError,
)
from nebrel.core.mesh.formats import MM_PER
from nebrel.jobs.housekeeper import Housekeeper
from nebrel.jobs.looking import Looking
from nebrel.jobs.manager import JobManager
from nebrel.jobs.reading import Reading
from nebrel.jobs.workshop import open_workshop
from nebrel.logs import NAME, close_log, open_log
from nebrel.settings import Settings
from nebrel.store.means import refusal_for

LOG = logging.getLogger("nebrel.api")
LONGEST_PATH = 1024
STATIC = Path(__file__).parent / "static"
HANDBOOK = Path(__file__).parent / "help"
STATUS: dict[type[Exception], int] = {
    NotFoundError: 404, ConflictError: 409, TooLargeError: 413, LeftError: 499, BusyError: 503, NoSpaceError: 507,
}  # fmt: skip
FRAME_HEADS = (PlanHead, SolidHead, MapHead, StripHead, ThinMapHead, PlacementHead, VariationsHead, LayerHead)
# Words for what the framework refuses by itself.
WAYS = {
    400: "The request cannot be read; JSON, or a form with a file, is needed as the address asks for.",
    404: "There is nothing at this address.",
    405: "This address cannot be asked in that way.",
}
OWN_FAULT = "Nebrel made a mistake here; your piece is unharmed. The log tells what it was."


class _Api(FastAPI):
    """An application whose description has the heads of frames among its types."""

    def openapi(self) -> dict[str, Any]:
        """The description, worked out once."""
        if self.openapi_schema is None:
            told = super().openapi()
            told["components"]["schemas"] |= schemas_of_heads(FRAME_HEADS)
            _tell_refusals_once(told)
        return super().openapi()


def _tell_refusals_once(told: dict[str, Any]) -> None:
    """What the framework says of refusals by itself goes: all of them have one shape, which is told already."""
    for ways in told["paths"].values():
        for way in ways.values():
            way["responses"].pop(str(UNREADABLE), None)
    for name in ("HTTPValidationError", "ValidationError"):
        told["components"]["schemas"].pop(name, None)


def create_app(
    settings: Settings,
    beside: Callable[[Callable[[str, int], None]], object] = lambda _: None,
    looking: Looking | None = None,
    cluster: ClusterAccess = ALONE,
) -> FastAPI:
    """The application over the data folder in `settings`.

    Args:
        settings: of the installation.
        beside: see `run_server`.
        looking: processes that look at pieces, where they are there already and outlive the application.
        cluster: who does its jobs elsewhere, and what is lent to them.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        workshop = open_workshop(settings, computes=False)
        log = open_log(settings)
        room = Newsroom()
        manager = JobManager(
            workshop, lambda record: room.tell(News("job", job_of(record).model_dump(mode="json"))), cluster.executor
        )
        app.state.lent = cluster.lent
        manager.start()
        lookers = looking or Looking(settings.lookers, settings.memory_cache_bytes)
        app.state.context = context = Context(
            workshop=workshop, jobs=manager, newsroom=room, reading=Reading(settings.readers), looking=lookers
        )
        logging.getLogger(NAME).addHandler(context.recent_log)
        housekeeper = Housekeeper(workshop)
        housekeeper.start()
        beside(context.tell_changed)
        yield
        room.tell(None)
        housekeeper.stop()
        logging.getLogger(NAME).removeHandler(context.recent_log)
        context.router.close()
        context.printer.close()
        context.reading.close()
        if looking is None:
            lookers.close()
        manager.stop()
        workshop.close()
        close_log(log)

    app = _Api(
        title="Nebrel",
        lifespan=lifespan,
        generate_unique_id_function=_operation_name,
        docs_url=None,
        redoc_url=None,
        responses={"4XX": {"model": Refusal}, "5XX": {"model": Refusal}},
    )
    app.add_middleware(Guard, settings=settings)
    app.add_exception_handler(NebrelError, refuse)
    app.add_exception_handler(RequestValidationError, _refuse_request)
    app.add_exception_handler(HTTPException, _refuse_way)
    app.add_exception_handler(OverflowError, _refuse_number)
    app.add_exception_handler(OSError, _refuse_without_means)
    app.add_exception_handler(OperationalError, _refuse_without_means)
    app.add_exception_handler(Exception, _own_fault)
    groups = (
        pieces, piece_files, assemblies, choices, recipes, parts, previews, pictures, models, decorations,
        outlines, lithophanes, figures, carving, printing, printer, rack, router, motifs, materials, versions,
        targets, jobs, news, server, shared,
    )  # fmt: skip
    for routes in groups:
        app.include_router(routes.router, prefix="/api")
    app.add_api_route("/{path:path}", _page, include_in_schema=False, response_class=FileResponse)
    return app


def _operation_name(route: APIRoute) -> str:
    return route.name


async def refuse(_request: Request, error: Exception) -> Response:
    """A refusal in its sentence."""
    answer: dict[str, object] = {"message": str(error)}
    if isinstance(error, UnitNeededError):
        answer["sizes_mm"] = {unit: [side * factor for side in error.size] for unit, factor in MM_PER.items()}
    return JSONResponse(answer, STATUS.get(type(error), UNREADABLE))


async def _refuse_request(_request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    fault = error.errors()[0]
    place = ".".join(str(part) for part in fault["loc"][1:]) or "The request"
    return JSONResponse({"message": f"{place}: {fault['msg']}."}, UNREADABLE)


async def _refuse_way(_request: Request, error: Exception) -> Response:
    """What no route takes in: another address or another way to ask, or a body that is none."""
    assert isinstance(error, HTTPException)
    return JSONResponse({"message": WAYS.get(error.status_code, str(error.detail))}, error.status_code, error.headers)


async def _refuse_number(_request: Request, _error: Exception) -> Response:
    return JSONResponse({"message": f"A number is too large; whole numbers up to {MOST_WHOLE} are kept."}, UNREADABLE)


async def _refuse_without_means(request: Request, error: Exception) -> Response:
    """What the disk or the database refuses is told as that."""
    refusal = refusal_for(error)
    if refusal is None:
        return await _own_fault(request, error)
    LOG.warning("%s", error, extra={"path": request.url.path})
    return await refuse(request, refusal)


async def _own_fault(request: Request, fault: Exception) -> Response:
    """What nobody foresaw: told to the log, and to the page that it is not the person's fault."""
    LOG.error("A request failed", exc_info=fault, extra={"path": request.url.path})
    return JSONResponse({"message": OWN_FAULT}, 500)


async def _page(path: str) -> Response:
    if path.startswith("api/") or "\0" in path or len(path) > LONGEST_PATH:
        raise HTTPException(404)
    if path in ("help", "help/"):
        return RedirectResponse("/help/index.html")
    if path.startswith("help/"):
        return _handbook_page(path.removeprefix("help/"))
    wanted = (STATIC / path).resolve()
    if wanted.is_relative_to(STATIC.resolve()) and wanted.is_file():
        lasting = "assets" in wanted.parts
        caching = "public, max-age=31536000, immutable" if lasting else "no-cache"
        return FileResponse(wanted, headers={"Cache-Control": caching})
    if not (STATIC / "index.html").is_file():
        return JSONResponse({"message": "The pages are not built yet; run `make setup` first."}, 503)
    return FileResponse(STATIC / "index.html", headers={"Cache-Control": "no-cache"})


def _handbook_page(path: str) -> Response:
    wanted = (HANDBOOK / path).resolve()
    if not (HANDBOOK / "index.html").is_file():
        return JSONResponse({"message": "The handbook is not built yet; run `make setup` first."}, 503)
    if not (wanted.is_relative_to(HANDBOOK.resolve()) and wanted.is_file()):
        return FileResponse(HANDBOOK / "404.html", 404)
    return FileResponse(wanted, headers={"Cache-Control": "no-cache"})
