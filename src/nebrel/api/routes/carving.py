"""Carving: jobs of it, and what a page shows of them."""

from pathlib import Path

from starlette.concurrency import run_in_threadpool
from starlette.responses import FileResponse, Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.carving import (
    CarvedSection,
    CarvingResult,
    CarvingShown,
    CarvingView,
    ReachFixView,
    ReachView,
)
from nebrel.api.messages.jobs import JobView
from nebrel.api.messages.previews import Draft, MapHead, SectionLine
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.carving import (
    CLEARED,
    carved_section,
    carving_view,
    reach_fix_views,
    reach_view,
    ready_to_carve,
    stock_frame,
)
from nebrel.api.views.pieces import job_of
from nebrel.core.errors import ConflictError, NotFoundError

router = group("carving")


@router.post("/pieces/{piece_id}/carve", status_code=202)
async def carve_piece(asking: InAsking, piece_id: str) -> JobView:
    """Plan the carving of the present revision, prove it on the simulated router, and write its programs."""
    revision, document = await asking.decided(ready_to_carve, piece_id, piece_id)
    job = await run_in_threadpool(asking.context.jobs.submit, "carving", piece_id, revision, {"document": document})
    return job_of(job)


@router.post("/pieces/{piece_id}/reach")
async def reach_piece(asking: InAsking, piece_id: str, draft: Draft) -> ReachView:
    """What the bits of a piece cannot reach, on its preview."""
    return await asking.view(reach_view, piece_id, draft)


@router.post("/pieces/{piece_id}/reach/fixes")
async def fix_reach(asking: InAsking, piece_id: str, draft: Draft) -> list[ReachFixView]:
    """What would let the bits of a piece reach more, each tried on its preview."""
    return await asking.view(reach_fix_views, piece_id, draft)


@router.get("/jobs/{job_id}/carving")
async def show_carving(asking: InAsking, job_id: str) -> CarvingView:
    """The stock, the zero point and the ways of a carving job, and the minutes of its steps."""
    revision, key = await run_in_threadpool(_carved, asking.context, job_id)
    return await asking.view_back(carving_view, revision, key)


@router.get("/jobs/{job_id}/carving/stock", response_class=Response, responses=frame_headed(MapHead))
async def show_stock(asking: InAsking, job_id: str, step: int = 10_000, shown: CarvingShown = "stock") -> Response:
    """The simulated stock at a step, as a frame of arrays."""
    _, key = await run_in_threadpool(_carved, asking.context, job_id)
    return FrameResponse(await asking.shown(stock_frame, job_id, key, step, shown))


@router.post("/jobs/{job_id}/carving/section")
async def cut_stock(asking: InAsking, job_id: str, line: SectionLine, step: int = 10_000) -> CarvedSection:
    """The simulated stock and the finest bit's offset surface along a line, beside what was asked."""
    revision, key = await run_in_threadpool(_carved, asking.context, job_id)
    return await asking.view_back(carved_section, revision, key, line, step)


@router.get("/jobs/{job_id}/programs/{number}", response_class=FileResponse)
def download_program(context: InContext, job_id: str, number: int) -> FileResponse:
    """One program of a carving job; none is offered before it has passed the simulated router."""
    name, path = program_of(context, job_id, number)
    return FileResponse(path, media_type="text/plain; charset=utf-8", filename=name)


@router.get("/jobs/{job_id}/set-up.pdf", response_class=FileResponse)
def download_sheet(context: InContext, job_id: str) -> FileResponse:
    """The set-up sheet of a carving job."""
    result = result_of(context, job_id)
    path = context.workshop.kept.path(result.sheet_key)
    if path is None or not result.programs:
        raise NotFoundError(CLEARED)
    name = result.file_name.replace("-carving.zip", "-set-up.pdf")
    return FileResponse(path, media_type="application/pdf", filename=name)


def program_of(context: Context, job_id: str, number: int) -> tuple[str, Path]:
    """What a program of a carving job is called, and its file.

    Raises:
        NotFoundError: there is none, or it was cleared away.
    """
    programs = result_of(context, job_id).programs
    if not 0 <= number < len(programs):
        raise NotFoundError("There is no such program with this job.")
    path = context.workshop.kept.path(programs[number].key)
    if path is None:
        raise NotFoundError(CLEARED)
    return programs[number].name, path


def result_of(context: Context, job_id: str) -> CarvingResult:
    """What a carving job left behind.

    Raises:
        ConflictError: it is none that has finished.
    """
    job = job_of(context.jobs.get(job_id))
    if job.carving is None:
        raise ConflictError("This is no carving job that has finished.")
    return job.carving


def _carved(context: Context, job_id: str) -> tuple[int, str]:
    """The revision that was carved, and the key of what is shown of it."""
    return context.jobs.get(job_id).revision, result_of(context, job_id).view_key
