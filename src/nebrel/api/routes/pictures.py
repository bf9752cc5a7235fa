"""What the Picture station needs: the kinds of ops, small pictures of their results, and further picture files."""

from typing import Annotated

from fastapi import Body, UploadFile
from fastapi.params import File
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.pictures import ContentBox, PictureFile, StripHead, ToneCount
from nebrel.api.messages.previews import Draft, ThinMapHead
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.pictures import content_of, source_png, strip_frame, thin_map_frame, tones_into
from nebrel.core.picture.ops.tone import along_curve
from nebrel.jobs.beginnings import picture_in
from nebrel.piece.ops.catalogue import OpKind, catalogue

CURVE_SAMPLES = 101
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
async def find_tones(asking: InAsking, piece_id: str, op_id: str, asked: ToneCount) -> list[float]:
    """The tones that a reduction to a few finds in what comes into the op `op_id`."""
    return await asking.view(tones_into, piece_id, None, op_id, asked)


@router.get("/pieces/{piece_id}/source.png", response_class=Response)
async def show_source(asking: InAsking, piece_id: str) -> Response:
    """The source picture in colour, small, to take colours from."""
    return Response(
        await asking.view(source_png, piece_id),
        media_type="image/png",
        headers={"Cache-Control": "private, max-age=31536000, immutable"},
    )


@router.post("/pieces/{piece_id}/strip", response_class=Response, responses=frame_headed(StripHead))
async def draw_strip(asking: InAsking, piece_id: str, draft: Draft) -> Response:
    """A small picture of the source and of every op's result, as a frame of arrays."""
    return FrameResponse(await asking.view(strip_frame, piece_id, draft))


@router.post("/pieces/{piece_id}/thin-map", response_class=Response, responses=frame_headed(ThinMapHead))
async def draw_thin_map(asking: InAsking, piece_id: str, draft: Draft) -> Response:
    """Where strokes and gaps are thinner than the maker's line, as a frame of two arrays."""
    return FrameResponse(await asking.view(thin_map_frame, piece_id, draft))


@router.post("/pieces/{piece_id}/content-box")
async def find_content(asking: InAsking, piece_id: str, draft: Draft) -> ContentBox:
    """The box around what the picture shows, where the ops up to `upto` leave it."""
    return await asking.view(content_of, piece_id, draft)


@router.post("/pictures", status_code=201)
async def add_picture(asking: InAsking, picture: Annotated[UploadFile, File()]) -> PictureFile:
    """Keep a further picture, to be laid over another or to serve as a mask."""
    workshop = asking.context.workshop
    name, data = await run_in_threadpool(received, picture, workshop.settings.picture_bytes, "picture")
    await asking.read(picture_in, data, name, workshop.settings.read_limits)
    return PictureFile(blob=await run_in_threadpool(workshop.blobs.add, data), name=name)
