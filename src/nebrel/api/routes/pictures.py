"""What the Picture station needs: the kinds of ops, small pictures of their results, and further picture files."""

from typing import Annotated

from fastapi import APIRouter, UploadFile
from fastapi.params import File
from starlette.responses import Response

from nebrel.api.context import InContext
from nebrel.api.messages import ContentBox, Draft, PictureFile
from nebrel.api.routes.previews import FRAME, drafted
from nebrel.api.uploads import received
from nebrel.api.views import strip_frame
from nebrel.core.picture import read_picture
from nebrel.core.picture.ops.frame import content_box
from nebrel.piece.ops.catalogue import OpKind, catalogue

router = APIRouter(tags=["pictures"])


@router.get("/ops")
def list_ops() -> list[OpKind]:
    """The kinds of picture ops, with their parameters."""
    return catalogue()


@router.post("/pieces/{piece_id}/strip", response_class=Response, responses={200: {"content": FRAME}})
def draw_strip(context: InContext, piece_id: str, draft: Draft) -> Response:
    """A small picture of the source and of every op's result, as a frame of arrays."""
    document = drafted(context, piece_id, draft)
    return Response(strip_frame(context.workshop.evaluator, document), media_type="application/octet-stream")


@router.post("/pieces/{piece_id}/content-box")
def find_content(context: InContext, piece_id: str, draft: Draft) -> ContentBox:
    """The box around what the picture shows, where the ops up to `upto` leave it."""
    document = drafted(context, piece_id, draft)
    found = content_box(context.workshop.evaluator.view(document, draft.longest_px, draft.upto).picture)
    return ContentBox(left=found.left, bottom=found.bottom, right=found.right, top=found.top)


@router.post("/pictures", status_code=201)
def add_picture(context: InContext, picture: Annotated[UploadFile, File()]) -> PictureFile:
    """Keep a further picture, to be laid over another or to serve as a mask."""
    name, data = received(picture, context.workshop.settings)
    read_picture(data, name, context.workshop.settings.read_limits)
    return PictureFile(blob=context.workshop.blobs.add(data), name=name)
