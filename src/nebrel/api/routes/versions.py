"""Named versions of pieces."""

from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.pieces import PieceView, VersionName, VersionView
from nebrel.api.messages.previews import SolidHead
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.frames import original_frame, solid_frame
from nebrel.api.views.pieces import piece_of
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.store.versions import Version

router = group("versions")


@router.get("/pieces/{piece_id}/versions")
def list_versions(context: InContext, piece_id: str) -> list[VersionView]:
    """The named versions of a piece, the newest first."""
    return [_view(version) for version in context.workshop.versions.of(piece_id)]


@router.post("/pieces/{piece_id}/versions", status_code=201)
def name_version(context: InContext, piece_id: str, version: VersionName) -> VersionView:
    """Give today's state of a piece a name."""
    return _view(context.workshop.versions.name(piece_id, version.name.strip() or "Version"))


@router.delete("/versions/{version_id}", status_code=204)
def forget_version(context: InContext, version_id: int) -> None:
    """Forget the name; nothing that was made is lost."""
    context.workshop.versions.forget(version_id)


@router.post("/versions/{version_id}/restore")
def restore_version(context: InContext, version_id: int, base: int) -> PieceView:
    """Bring a version back as a new state of its piece, which can be undone."""
    version = context.workshop.versions.get(version_id)
    document = context.workshop.pieces.document_of(version.revision)
    state = context.workshop.pieces.revise(version.piece_id, base, document, f"Back to {version.name}")
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


@router.get("/versions/{version_id}/model", response_class=Response, responses=frame_headed(SolidHead))
async def show_version(asking: InAsking, version_id: int) -> Response:
    """The solid of a version, prepared for looking at, as a frame of arrays."""
    version = await run_in_threadpool(asking.context.workshop.versions.get, version_id)
    return FrameResponse(await asking.view_back(solid_frame, version.revision, PREVIEW_PX))


@router.get("/pieces/{piece_id}/original/model", response_class=Response, responses=frame_headed(SolidHead))
async def show_original(asking: InAsking, piece_id: str) -> Response:
    """The solid before it is made light, prepared for looking at, as a frame of arrays."""
    return FrameResponse(await asking.view(original_frame, piece_id))


def _view(version: Version) -> VersionView:
    return VersionView(id=version.id, revision=version.revision, name=version.name, created=version.created)
