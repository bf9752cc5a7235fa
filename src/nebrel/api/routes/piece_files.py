"""Pieces as open files: saved whole, put on a shelf again."""

from typing import Annotated

from fastapi import File, UploadFile
from starlette.concurrency import run_in_threadpool
from starlette.responses import FileResponse

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.pieces import PieceView
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.jobs import edits
from nebrel.jobs.piece_file import put_piece, read_piece_file, saved_piece, take_sources

router = group("piece-files")


@router.get("/pieces/{piece_id}/file", response_class=FileResponse)
def save_piece(context: InContext, piece_id: str) -> FileResponse:
    """The piece with its versions and its sources, as one open file."""
    name, path = saved_piece(context.workshop, context.workshop.pieces.get(piece_id))
    return FileResponse(path, media_type="application/zip", filename=name)


@router.post("/piece-files", status_code=201)
async def open_piece_file(asking: InAsking, file: Annotated[UploadFile, File()]) -> PieceView:
    """Put a piece from such a file on the shelf; nothing is put there when it is refused."""
    workshop = asking.context.workshop
    limit = workshop.settings.piece_bytes
    name, data = await run_in_threadpool(received, file, limit, "piece")
    packed = await asking.read(read_piece_file, data, name, workshop.settings.read_limits, limit)
    await run_in_threadpool(take_sources, workshop, packed)
    await asking.decided(edits.fit, name, packed.document)
    return await asking.kept(lambda: put_piece(workshop, packed))
