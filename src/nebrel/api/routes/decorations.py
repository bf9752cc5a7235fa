"""Decorations on a model: where one would lie, what it snaps to, what is laid."""

import io
import math
from typing import Annotated, Literal

import numpy as np
from fastapi import File, UploadFile
from PIL import Image
from starlette.responses import Response

from nebrel.api.messages.models import DecorationFile, PlacementDraft, PlacementHead, SnapDraft, SnapView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed, pack_frame
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.core.outline_files.read import ENDINGS as DRAWINGS
from nebrel.core.outline_files.read import read_drawing
from nebrel.core.outline_files.svg.write import svg_bytes
from nebrel.core.picture import read_picture, shrink_to
from nebrel.jobs.library import painted
from nebrel.piece.evaluation.abilities import HasSkin

MASK_PX = 512
router = group("decorations")


@router.post("/pieces/{piece_id}/placement", response_class=Response, responses=frame_headed(PlacementHead))
def place_decoration(context: InContext, piece_id: str, draft: PlacementDraft) -> Response:
    """Where a decoration would lie, as a frame: `corners` (K, 3, 3) mm and `shares` (K, 3, 2) of its box, float32, and
    `stretch` (K,). Quick enough to follow a pointer; all places are the model's own."""
    skin = context.workshop.piece(piece_id).having(HasSkin)
    found = skin.placement(draft.decoration, draft.most_copies, draft.quick)
    first = found.copies[0]
    stretch = np.minimum(np.nan_to_num(found.stretch, posinf=9.0), 9.0)
    head = PlacementHead(
        at=_three(first.place.point),
        out=_three(first.tangents.out),
        up=_three(first.tangents.up),
        right=_three(first.tangents.right),
        size_mm=skin.art_size(draft.decoration),
        handles=found.handles,
        copies=len(found.copies),
        description=found.description,
        most_stretch=found.most_stretch,
    )
    arrays: dict[str, np.ndarray] = {
        "corners": found.corners.astype(np.float32),
        "shares": found.shares.astype(np.float32),
        "stretch": stretch.astype(np.float32),
    }
    return FrameResponse(pack_frame(head, arrays))


@router.post("/pieces/{piece_id}/snap")
def snap_decoration(context: InContext, piece_id: str, draft: SnapDraft) -> SnapView:
    """The place that a decoration snaps to from where it is."""
    found = context.workshop.piece(piece_id).having(HasSkin).snapped(draft.at, draft.up, draft.to)
    return SnapView(at=_three(found.point))


@router.post("/decoration-files", status_code=201)
def add_decoration_file(context: InContext, file: Annotated[UploadFile, File()]) -> DecorationFile:
    """Keep a picture or drawing to be laid on a model; drawings are written anew as plain curves."""
    workshop = context.workshop
    name, data = received(file, workshop.settings.picture_bytes, "picture")
    if name.lower().endswith(DRAWINGS):
        drawing = context.reading.drawing(data, name, "mm")
        blob = workshop.blobs.add(svg_bytes(drawing.figure))
        return DecorationFile(kind="outline", blob=blob, name=name)
    context.reading.picture(data, name, workshop.settings.read_limits)
    return DecorationFile(kind="picture", blob=workshop.blobs.add(data), name=name)


@router.get("/decoration-art/{kind}/{blob}.png", response_class=Response)
def show_art(context: InContext, kind: Literal["picture", "outline"], blob: str) -> Response:
    """What a decoration lays, white and see-through where nothing stands out."""
    data = context.workshop.blobs.read(blob)
    if kind == "outline":
        picture, _ = painted(read_drawing(data, "motif.svg").figure)
        alpha = shrink_to(picture, MASK_PX).coverage
    else:
        picture = shrink_to(read_picture(data, "picture", context.workshop.settings.read_limits), MASK_PX)
        alpha = picture.coverage * picture.tones
    samples = np.full((*alpha.shape, 4), 255, np.uint8)
    samples[..., 3] = np.round(alpha.clip(0, 1) * 255)
    held = io.BytesIO()
    Image.fromarray(samples, "RGBA").save(held, "PNG")
    caching = {"Cache-Control": "private, max-age=31536000, immutable"}
    return Response(held.getvalue(), media_type="image/png", headers=caching)


def _three(values: np.ndarray) -> tuple[float, float, float]:
    x, y, z = (float(value) for value in values)
    return (x, y, z) if all(map(math.isfinite, (x, y, z))) else (0.0, 0.0, 0.0)
