"""Long work: start, watch, cancel, collect."""

from fastapi import APIRouter
from starlette.responses import FileResponse, Response

from nebrel.api.messages import BuildResult, JobView, PictureOrder, SectionLine, SectionView
from nebrel.api.serving.context import Context, InContext
from nebrel.api.views.lithophanes import lit_model_frame
from nebrel.api.views.pieces import job_of, map_frame, model_frame, section_of
from nebrel.core.errors import ConflictError, NotFoundError, TooLargeError
from nebrel.core.heightfield.slab import Slab
from nebrel.core.mesh.place import at_origin
from nebrel.core.mesh.shading import shade
from nebrel.core.proof.maps import MapKind
from nebrel.piece.document import AnyDocument, panel_of, parse_document
from nebrel.piece.evaluation.codec import decode_slab
from nebrel.piece.evaluation.prepare import FULL
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.model.document import ModelDocument

MOST_SHOWN_TRIANGLES = 1_500_000
MEDIA = {
    "stl": "model/stl", "obj": "model/obj", "ply": "application/octet-stream", "off": "application/octet-stream",
    "3mf": "model/3mf", "glb": "model/gltf-binary", "png": "image/png", "zip": "application/zip", "tiff": "image/tiff",
}  # fmt: skip
CLEARED = "The solid was cleared away to make room; build the piece again."
NOWHERE: tuple[float, ...] = (0.0, 0.0, 0.0)
router = APIRouter(tags=["jobs"])


@router.get("/jobs")
def list_jobs(context: InContext, piece_id: str | None = None) -> list[JobView]:
    """The newest jobs first, of one piece or of all."""
    return [job_of(record) for record in context.workshop.jobs.recent(piece_id=piece_id)]


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
    panel_of(context.workshop.document(state))
    payload = {"document": state.document, "format": order.format}
    return job_of(context.jobs.submit("heights", piece_id, state.revision, payload))


@router.post("/jobs/{job_id}/cancel")
def cancel_job(context: InContext, job_id: str) -> JobView:
    """End a job."""
    return job_of(context.jobs.cancel(job_id))


@router.get("/jobs/{job_id}/file", response_class=FileResponse)
def download_file(context: InContext, job_id: str) -> FileResponse:
    """The file that a build or an export wrote."""
    job = job_of(context.workshop.jobs.get(job_id))
    result = job.result or job.picture
    if result is None:
        raise ConflictError("This job has not finished, so it has no file.")
    path = context.workshop.kept.path(result.file_key)
    if path is None:
        raise NotFoundError("The file was cleared away to make room; ask for it again.")
    media = MEDIA[result.file_name.rpartition(".")[2]]
    return FileResponse(path, media_type=media, filename=result.file_name)


@router.get("/jobs/{job_id}/recipe.txt", response_class=FileResponse)
def download_recipe(context: InContext, job_id: str) -> FileResponse:
    """How to print a built lithophane."""
    result = _result(context, job_id)
    path = None if result.recipe_key is None else context.workshop.kept.path(result.recipe_key)
    if path is None:
        raise NotFoundError("There is no print recipe with this build; build the piece again.")
    name = result.file_name.rpartition(".")[0] + "-recipe.txt"
    return FileResponse(path, media_type="text/plain; charset=utf-8", filename=name)


@router.get("/jobs/{job_id}/model", response_class=Response)
def show_model(context: InContext, job_id: str) -> Response:
    """The built solid, prepared for looking at, as a frame of arrays."""
    result = _result(context, job_id)
    _refuse_heavy(result)
    document = _document(context, job_id)
    if isinstance(document, LithophaneDocument):
        frame = lit_model_frame(context.workshop.evaluator.lithophanes, document, FULL)
    else:
        mesh = _slab(context, result).mesh
        looking = context.workshop.looking_at(document)
        low = (
            tuple(float(side) for side in mesh.vertices.min(axis=0)) if isinstance(document, ModelDocument) else NOWHERE
        )
        frame = model_frame(shade(at_origin(mesh)), looking.standing, low)
    return Response(frame, media_type="application/octet-stream")


@router.get("/jobs/{job_id}/map", response_class=Response)
def measure_built(context: InContext, job_id: str, kind: MapKind) -> Response:
    """The built solid with a measure for every vertex, as a frame of arrays."""
    result = _result(context, job_id)
    _refuse_heavy(result)
    document = _document(context, job_id)
    if context.workshop.kept.path(result.solid_key) is None:
        raise NotFoundError(CLEARED)
    return Response(map_frame(context.workshop.looking_at(document), kind, FULL), media_type="application/octet-stream")


@router.post("/jobs/{job_id}/section")
def cut_model(context: InContext, job_id: str, line: SectionLine) -> SectionView:
    """The built solid along a line, beside what was asked of it at full resolution."""
    result = _result(context, job_id)
    if context.workshop.kept.path(result.solid_key) is None:
        raise NotFoundError(CLEARED)
    document = _document(context, job_id)
    return section_of(context.workshop.looking_at(document), line, FULL)


def _document(context: Context, job_id: str) -> AnyDocument:
    """The document that a job worked on."""
    return parse_document(context.workshop.pieces.document_of(context.workshop.jobs.get(job_id).revision))


def _refuse_heavy(result: BuildResult) -> None:
    if result.report.triangles > MOST_SHOWN_TRIANGLES:
        raise TooLargeError(
            f"The solid has {result.report.triangles:,} triangles; up to {MOST_SHOWN_TRIANGLES:,} are shown, so the "
            "preview stays in view."
        )


def _slab(context: Context, result: BuildResult) -> Slab:
    data = context.workshop.kept.get(result.solid_key)
    if data is None:
        raise NotFoundError(CLEARED)
    return decode_slab(data)


def _result(context: Context, job_id: str) -> BuildResult:
    job = job_of(context.workshop.jobs.get(job_id))
    if job.result is None:
        raise ConflictError("This build has not finished, so it has no file.")
    return job.result
