"""Long work: start, watch, cancel, collect."""

from pathlib import Path

from starlette.concurrency import run_in_threadpool
from starlette.responses import FileResponse, Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.jobs import BuildResult, FilmOrder, JobView, ParcelOrder, PictureOrder
from nebrel.api.messages.previews import MapHead, SectionLine, SectionView, SolidHead
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.frames import map_frame, section_of, solid_frame
from nebrel.api.views.pieces import job_of
from nebrel.core.errors import ConflictError, NotFoundError, TooLargeError
from nebrel.core.proof.maps import MapKind
from nebrel.piece.evaluation.abilities import HasHeights
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.printing.maps import LayerMapKind

MOST_SHOWN_TRIANGLES = 1_500_000
MEDIA = {
    "stl": "model/stl", "obj": "model/obj", "ply": "application/octet-stream", "off": "application/octet-stream",
    "3mf": "model/3mf", "glb": "model/gltf-binary", "png": "image/png", "zip": "application/zip", "tiff": "image/tiff",
    "mp4": "video/mp4", "webp": "image/webp", "gif": "image/gif",
}  # fmt: skip
CLEARED = "The solid was cleared away to make room; build the piece again."
router = group("jobs")


@router.get("/jobs")
def list_jobs(context: InContext, piece_id: str | None = None) -> list[JobView]:
    """The newest jobs first, of one piece or of all."""
    return [job_of(record) for record in context.jobs.recent(piece_id=piece_id)]


@router.post("/pieces/{piece_id}/build", status_code=202)
def build_piece(context: InContext, piece_id: str) -> JobView:
    """Build the present revision at full resolution and write its file."""
    state = context.workshop.pieces.get(piece_id)
    return job_of(context.jobs.submit("build", piece_id, state.revision, {"document": state.document}))


@router.post("/pieces/{piece_id}/export-picture", status_code=202)
def export_picture(context: InContext, piece_id: str, order: PictureOrder) -> JobView:
    """Write the present revision's prepared picture at full resolution."""
    state = context.workshop.pieces.get(piece_id)
    payload = {"document": state.document, "format": order.format}
    return job_of(context.jobs.submit("picture", piece_id, state.revision, payload))


@router.post("/pieces/{piece_id}/export-heights", status_code=202)
def export_heights(context: InContext, piece_id: str, order: PictureOrder) -> JobView:
    """Write the present revision's heights as a picture with its facts in mm, in a ZIP."""
    state = context.workshop.pieces.get(piece_id)
    context.workshop.opened(context.workshop.document(state)).having(HasHeights)
    payload = {"document": state.document, "format": order.format}
    return job_of(context.jobs.submit("heights", piece_id, state.revision, payload))


@router.post("/pieces/{piece_id}/turntable", status_code=202)
def film_turntable(context: InContext, piece_id: str, order: FilmOrder) -> JobView:
    """Film the present revision's finished solid while it turns once round."""
    state = context.workshop.pieces.get(piece_id)
    payload = {"document": state.document, "format": order.format, "seconds": order.seconds}
    return job_of(context.jobs.submit("turntable", piece_id, state.revision, payload))


@router.post("/parcels", status_code=202)
def pack_parcel(context: InContext, order: ParcelOrder) -> JobView:
    """Build pieces of the shelf and pack their files into one ZIP; it is listed with the first of them."""
    states = [context.workshop.pieces.get(piece_id) for piece_id in dict.fromkeys(order.piece_ids)]
    payload = {"documents": [state.document for state in states]}
    return job_of(context.jobs.submit("parcel", states[0].id, states[0].revision, payload))


@router.post("/jobs/{job_id}/cancel")
def cancel_job(context: InContext, job_id: str) -> JobView:
    """End a job."""
    return job_of(context.jobs.cancel(job_id))


@router.post("/jobs/{job_id}/again", status_code=202)
def start_again(context: InContext, job_id: str) -> JobView:
    """Start a job that failed, was interrupted or cancelled once more, on the same revision."""
    changed = {"url": context.service_url} if context.jobs.get(job_id).kind == "service" else {}
    return job_of(context.jobs.again(job_id, **changed))


@router.get("/jobs/{job_id}/file", response_class=FileResponse)
def download_file(context: InContext, job_id: str) -> FileResponse:
    """The file that a build or an export wrote."""
    path, name = delivered_file(context, job_id)
    return FileResponse(path, media_type=MEDIA[name.rpartition(".")[2]], filename=name)


def delivered_file(context: Context, job_id: str) -> tuple[Path, str]:
    """The file that a job wrote, and what it is called.

    Raises:
        ConflictError: the job has not finished.
        NotFoundError: the file was cleared away.
    """
    job = job_of(context.jobs.get(job_id))
    result = job.result or job.picture or job.film or job.carving or job.plate or job.parcel
    if result is None:
        raise ConflictError("This job has not finished, so it has no file.")
    path = context.workshop.kept.path(result.file_key)
    if path is None:
        raise NotFoundError("The file was cleared away to make room; ask for it again.")
    return path, result.file_name


@router.get("/jobs/{job_id}/recipe.txt", response_class=FileResponse)
def download_recipe(context: InContext, job_id: str) -> FileResponse:
    """How to print a built lithophane."""
    result = _result(context, job_id)
    path = None if result.recipe_key is None else context.workshop.kept.path(result.recipe_key)
    if path is None:
        raise NotFoundError("There is no print recipe with this build; build the piece again.")
    name = result.file_name.rpartition(".")[0] + "-recipe.txt"
    return FileResponse(path, media_type="text/plain; charset=utf-8", filename=name)


@router.get("/jobs/{job_id}/model", response_class=Response, responses=frame_headed(SolidHead))
async def show_model(asking: InAsking, job_id: str) -> Response:
    """The built solid, prepared for looking at, as a frame of arrays."""
    revision = await run_in_threadpool(_built, asking.context, job_id)
    return FrameResponse(await asking.view_back(solid_frame, revision, FULL))


@router.get("/jobs/{job_id}/map", response_class=Response, responses=frame_headed(MapHead))
async def measure_built(asking: InAsking, job_id: str, kind: MapKind | LayerMapKind) -> Response:
    """The built solid with a measure for every vertex, as a frame of arrays."""
    revision = await run_in_threadpool(_built, asking.context, job_id)
    return FrameResponse(await asking.view_back(map_frame, revision, kind, FULL))


@router.post("/jobs/{job_id}/section")
async def cut_model(asking: InAsking, job_id: str, line: SectionLine) -> SectionView:
    """The built solid along a line, beside what was asked of it at full resolution."""
    revision = await run_in_threadpool(_built, asking.context, job_id, shown=False)
    return await asking.view_back(section_of, revision, line, FULL)


def _built(context: Context, job_id: str, shown: bool = True) -> int:
    """The revision that a job built, as long as its solid is kept; one too heavy to be shown is refused.

    Raises:
        ConflictError: the job has not finished.
        NotFoundError: the solid was cleared away.
        TooLargeError: it is to be shown, and has too many triangles.
    """
    result = _result(context, job_id)
    triangles = result.report.triangles
    if shown and triangles > MOST_SHOWN_TRIANGLES:
        raise TooLargeError(
            f"The solid has {triangles:,} triangles; up to {MOST_SHOWN_TRIANGLES:,} are shown, so the preview stays in "
            "view."
        )
    if context.workshop.kept.path(result.solid_key) is None:
        raise NotFoundError(CLEARED)
    return context.jobs.get(job_id).revision


def _result(context: Context, job_id: str) -> BuildResult:
    job = job_of(context.jobs.get(job_id))
    if job.result is None:
        raise ConflictError("This build has not finished, so it has no file.")
    return job.result
