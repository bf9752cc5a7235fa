"""Named versions of pieces."""

from starlette.responses import Response

from nebrel.api.messages.pieces import PieceView, VersionName, VersionView
from nebrel.api.messages.previews import SolidHead
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.frames import solid_frame
from nebrel.api.views.pieces import piece_of
from nebrel.core.errors import NotFoundError
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.registry import parse_document
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
def show_version(context: InContext, version_id: int) -> Response:
    """The solid of a version, prepared for looking at, as a frame of arrays."""
    version = context.workshop.versions.get(version_id)
    document = parse_document(context.workshop.pieces.document_of(version.revision))
    frame = solid_frame(context.workshop.opened(document).evaluator.shown(PREVIEW_PX))
    return FrameResponse(frame)


@router.get("/pieces/{piece_id}/original/model", response_class=Response, responses=frame_headed(SolidHead))
def show_original(context: InContext, piece_id: str) -> Response:
    """The solid before it is made light, prepared for looking at, as a frame of arrays."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    if not document.light.on:
        raise NotFoundError("The piece is delivered as it is, so there is nothing before it.")
    frame = solid_frame(context.workshop.opened(document).evaluator.shown(PREVIEW_PX))
    return FrameResponse(frame)


def _view(version: Version) -> VersionView:
    return VersionView(id=version.id, revision=version.revision, name=version.name, created=version.created)
