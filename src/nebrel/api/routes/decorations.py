"""Decorations on a model: where one would lie, what it snaps to, what is laid."""

from typing import Annotated, Literal

from fastapi import File, UploadFile
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.models import DecorationFile, PlacementDraft, PlacementHead, SnapDraft, SnapView
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.decorations import art_png, placement_frame, snapped
from nebrel.core.outline_files.read import ENDINGS as DRAWINGS
from nebrel.jobs.beginnings import outline_in, picture_in

router = group("decorations")


@router.post("/pieces/{piece_id}/placement", response_class=Response, responses=frame_headed(PlacementHead))
async def place_decoration(asking: InAsking, piece_id: str, draft: PlacementDraft) -> Response:
    """Where a decoration would lie, as a frame: `corners` (K, 3, 3) mm and `shares` (K, 3, 2) of its box, float32, and
    `stretch` (K,). Quick enough to follow a pointer; all places are the model's own."""
    return FrameResponse(await asking.view(placement_frame, piece_id, None, draft))


@router.post("/pieces/{piece_id}/snap")
async def snap_decoration(asking: InAsking, piece_id: str, draft: SnapDraft) -> SnapView:
    """The place that a decoration snaps to from where it is."""
    return await asking.view(snapped, piece_id, None, draft)


@router.post("/decoration-files", status_code=201)
async def add_decoration_file(asking: InAsking, file: Annotated[UploadFile, File()]) -> DecorationFile:
    """Keep a picture or drawing to be laid on a model; drawings are written anew as plain curves."""
    workshop = asking.context.workshop
    name, data = await run_in_threadpool(received, file, workshop.settings.picture_bytes, "picture")
    is_drawing = name.lower().endswith(DRAWINGS)
    if is_drawing:
        data = await asking.read(outline_in, data, name)
    else:
        await asking.read(picture_in, data, name, workshop.settings.read_limits)
    blob = await run_in_threadpool(workshop.blobs.add, data)
    return DecorationFile(kind="outline" if is_drawing else "picture", blob=blob, name=name)


@router.get("/decoration-art/{kind}/{blob}.png", response_class=Response)
async def show_art(asking: InAsking, kind: Literal["picture", "outline"], blob: str) -> Response:
    """What a decoration lays, white and see-through where nothing stands out."""
    caching = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(await asking.shown(art_png, blob, kind, blob), media_type="image/png", headers=caching)
