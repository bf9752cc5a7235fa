"""Pieces made of outlines: starting from a drawing, looking at the curves, handing them on."""

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import File, Form, UploadFile
from starlette.concurrency import run_in_threadpool
from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.outlines import OutlinesView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.outlines import outlines_file, outlines_of
from nebrel.jobs import edits
from nebrel.jobs.beginnings import document_on, drawing_in

router = group("outlines")
KINDS = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf"}


@router.post("/drawings", status_code=201)
async def start_drawing(
    asking: InAsking,
    drawing: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from an SVG or DXF file. When its unit must be told, the refusal holds the size each would give."""
    limit = asking.context.workshop.settings.drawing_bytes
    name, data = await run_in_threadpool(received, drawing, limit, "drawing")
    source = await asking.read(drawing_in, data, name, unit)
    return await asking.begun(edits.begin, document_on(source, title), source, data)


@router.post("/pieces/{piece_id}/outlines")
async def show_outlines(asking: InAsking, piece_id: str, draft: Draft) -> OutlinesView:
    """The outlines of a draft after mending, with what is wrong with them."""
    return await asking.view(outlines_of, piece_id, draft)


@router.get("/pieces/{piece_id}/outlines.{form}", response_class=Response)
async def save_outlines(
    asking: InAsking, piece_id: str, form: Literal["svg", "dxf"], splines: bool = False
) -> Response:
    """The mended outlines as a file, in mm at true size."""
    name, data = await asking.view(outlines_file, piece_id, None, form, splines)
    return Response(
        data, media_type=KINDS[form], headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
