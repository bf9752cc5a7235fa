"""What the Picture station needs: the kinds of ops, small pictures of their results, and further picture files."""

from typing import Annotated

from fastapi import Body, UploadFile
from fastapi.params import File
from starlette.responses import Response

from nebrel.api.messages.pictures import ContentBox, PictureFile, StripHead, ToneCount
from nebrel.api.messages.previews import Draft, ThinMapHead
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pictures import strip_frame, thin_map_frame
from nebrel.core.errors import NotFoundError
from nebrel.core.picture import shrink_to
from nebrel.core.picture.ops.purify import found_tones
from nebrel.core.picture.ops.reframe import content_box
from nebrel.core.picture.ops.tone import along_curve
from nebrel.core.picture.write import colour_png
from nebrel.piece.evaluation.abilities import HasPicture
from nebrel.piece.evaluation.evaluator import PREVIEW_PX
from nebrel.piece.ops.catalogue import OpKind, catalogue

CURVE_SAMPLES = 101
SOURCE_PX = 512
router = group("pictures")


@router.get("/ops")
def list_ops() -> list[OpKind]:
    """The kinds of picture ops, with their parameters."""
    return catalogue()


@router.post("/ops/curve")
def follow_curve(points: Annotated[list[tuple[float, float]], Body(min_length=2, max_length=64)]) -> list[float]:
    """Tones along a curve at `CURVE_SAMPLES` even steps from black to white."""
    return [float(tone) for tone in along_curve(points, CURVE_SAMPLES)]


@router.post("/pieces/{piece_id}/tones/{op_id}")
def find_tones(context: InContext, piece_id: str, op_id: str, asked: ToneCount) -> list[float]:
    """The tones that a reduction to a few finds in what comes into the op `op_id`."""
    pictured = context.workshop.piece(piece_id).having(HasPicture)
    ids = ["", *(op.id for op in pictured.picture_ops)]
    if op_id not in ids:
        raise NotFoundError("The piece has no such picture op any more.")
    before = pictured.view(PREVIEW_PX, ids[ids.index(op_id) - 1])
    return [float(tone) for tone in found_tones(before.picture, asked.count, asked.spread == "even")]


@router.get("/pieces/{piece_id}/source.png", response_class=Response)
def show_source(context: InContext, piece_id: str) -> Response:
    """The source picture in colour, `SOURCE_PX` on its longer side, to take colours from."""
    picture = context.workshop.piece(piece_id).having(HasPicture).source_picture()
    return Response(
        colour_png(shrink_to(picture, SOURCE_PX)),
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=31536000, immutable"},
    )


@router.post("/pieces/{piece_id}/strip", response_class=Response, responses=frame_headed(StripHead))
def draw_strip(context: InContext, piece_id: str, draft: Draft) -> Response:
    """A small picture of the source and of every op's result, as a frame of arrays."""
    frame = strip_frame(context.drafted(piece_id, draft).having(HasPicture))
    return FrameResponse(frame)


@router.post("/pieces/{piece_id}/thin-map", response_class=Response, responses=frame_headed(ThinMapHead))
def draw_thin_map(context: InContext, piece_id: str, draft: Draft) -> Response:
    """Where strokes and gaps are thinner than the maker's line, as a frame of two arrays."""
    frame = thin_map_frame(context.drafted(piece_id, draft).having(HasPicture), draft.longest_px)
    return FrameResponse(frame)


@router.post("/pieces/{piece_id}/content-box")
def find_content(context: InContext, piece_id: str, draft: Draft) -> ContentBox:
    """The box around what the picture shows, where the ops up to `upto` leave it."""
    pictured = context.drafted(piece_id, draft).having(HasPicture)
    found = content_box(pictured.view(draft.longest_px, draft.upto).picture)
    return ContentBox(left=found.left, bottom=found.bottom, right=found.right, top=found.top)


@router.post("/pictures", status_code=201)
def add_picture(context: InContext, picture: Annotated[UploadFile, File()]) -> PictureFile:
    """Keep a further picture, to be laid over another or to serve as a mask."""
    name, data = received(picture, context.workshop.settings.picture_bytes, "picture")
    context.reading.picture(data, name, context.workshop.settings.read_limits)
    return PictureFile(blob=context.workshop.blobs.add(data), name=name)
