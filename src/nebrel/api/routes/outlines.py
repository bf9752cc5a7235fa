"""Pieces made of outlines: starting from a drawing, looking at the curves, handing them on."""

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import File, Form, UploadFile
from starlette.responses import Response

from nebrel.api.messages.outlines import OutlinesView
from nebrel.api.messages.pieces import PieceView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.api.serving.uploads import received
from nebrel.api.views.outlines import outlines_of
from nebrel.api.views.pieces import piece_of
from nebrel.core.outline_files.write import drawing_bytes
from nebrel.piece.evaluation.abilities import HasOutlines
from nebrel.piece.parts.naming import file_name

router = group("outlines")
KINDS = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf"}


@router.post("/drawings", status_code=201)
def start_drawing(
    context: InContext,
    drawing: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from an SVG or DXF file. When its unit must be told, the refusal holds the size each would give."""
    name, data = received(drawing, context.workshop.settings.drawing_bytes, "drawing")
    state = context.workshop.start_drawing(data, name, unit, title, context.reading.drawing)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


@router.post("/pieces/{piece_id}/outlines")
def show_outlines(context: InContext, piece_id: str, draft: Draft) -> OutlinesView:
    """The outlines of a draft after mending, with what is wrong with them."""
    return outlines_of(context.drafted(piece_id, draft).having(HasOutlines), context.following(piece_id))


@router.get("/pieces/{piece_id}/outlines.{form}", response_class=Response)
def save_outlines(context: InContext, piece_id: str, form: Literal["svg", "dxf"], splines: bool = False) -> Response:
    """The mended outlines as a file, in mm at true size."""
    piece = context.workshop.piece(piece_id)
    data = drawing_bytes(piece.having(HasOutlines).outlines().figure, form, splines)
    name = file_name(piece.document.title, piece.evaluator.size_mm[:2], form)
    return Response(
        data, media_type=KINDS[form], headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )
