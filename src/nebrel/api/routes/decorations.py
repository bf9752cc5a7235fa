"""Decorations on a model: where one would lie, what it snaps to, what is laid."""

from typing import Annotated, Literal

from fastapi import File, UploadFile
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.models import DecorationFile, PlacementDraft, PlacementHead, SnapDraft, SnapView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.decorations import art_png, placement_frame, snapped
from nebrel.core.outline_files.read import ENDINGS as DRAWINGS

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
def add_decoration_file(context: InContext, file: Annotated[UploadFile, File()]) -> DecorationFile:
    """Keep a picture or drawing to be laid on a model; drawings are written anew as plain curves."""
    workshop = context.workshop
    name, data = received(file, workshop.settings.picture_bytes, "picture")
    if name.lower().endswith(DRAWINGS):
        blob = workshop.blobs.add(context.reading.outline(data, name))
        return DecorationFile(kind="outline", blob=blob, name=name)
    context.reading.picture(data, name, workshop.settings.read_limits)
    return DecorationFile(kind="picture", blob=workshop.blobs.add(data), name=name)


@router.get("/decoration-art/{kind}/{blob}.png", response_class=Response)
async def show_art(asking: InAsking, kind: Literal["picture", "outline"], blob: str) -> Response:
    """What a decoration lays, white and see-through where nothing stands out."""
    caching = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(await asking.shown(art_png, blob, kind, blob), media_type="image/png", headers=caching)
