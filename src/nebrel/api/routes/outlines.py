"""Pieces made of outlines: starting from a drawing, looking at the curves, handing them on."""

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, File, Form, UploadFile
from starlette.responses import Response

from nebrel.api.messages import Draft, OutlinesView, PieceView
from nebrel.api.routes.previews import drafted
from nebrel.api.serving.context import InContext
from nebrel.api.serving.uploads import received
from nebrel.api.views.outlines import outlines_of
from nebrel.api.views.pieces import piece_of
from nebrel.core.errors import ConflictError
from nebrel.core.region.write import drawing_bytes
from nebrel.piece.document import AnyDocument, OutlineDocument, TracedDocument
from nebrel.piece.kinds.outline.document import DrawnDocument
from nebrel.piece.parts.naming import file_name

router = APIRouter(tags=["outlines"])
KINDS = {"svg": "image/svg+xml", "dxf": "image/vnd.dxf"}


@router.post("/drawings", status_code=201)
def start_drawing(
    context: InContext,
    drawing: Annotated[UploadFile, File()],
    unit: Annotated[str | None, Form()] = None,
    title: Annotated[str | None, Form()] = None,
) -> PieceView:
    """Start a piece from an SVG or DXF file. When its unit must be told, the refusal holds the size each would give."""
    name, data = received(drawing, context.workshop.settings.mesh_bytes, "drawing")
    state = context.workshop.start_drawing(data, name, unit, title)
    context.tell_changed(state.id, state.revision)
    return piece_of(context.workshop, state)


@router.post("/pieces/{piece_id}/outlines")
def show_outlines(context: InContext, piece_id: str, draft: Draft) -> OutlinesView:
    """The outlines of a draft after mending, with what is wrong with them."""
    document = outlined(drafted(context, piece_id, draft))
    return outlines_of(context.workshop.evaluator.outlines, document, context.following(piece_id))


@router.get("/pieces/{piece_id}/outlines.{form}", response_class=Response)
def save_outlines(context: InContext, piece_id: str, form: Literal["svg", "dxf"], splines: bool = False) -> Response:
    """The mended outlines as a file, in mm at true size."""
    document = outlined(context.workshop.document(context.workshop.pieces.get(piece_id)))
    figure = context.workshop.evaluator.outlines.outlines(document).figure
    data = drawing_bytes(figure, form, splines)
    name = file_name(document.title, context.workshop.evaluator.outlines.size(document)[:2], form)
    return Response(
        data, media_type=KINDS[form], headers={"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    )


def outlined(document: AnyDocument) -> OutlineDocument:
    """The document of a piece that is made of outlines.

    Raises:
        ConflictError: it is not.
    """
    if not isinstance(document, TracedDocument | DrawnDocument):
        raise ConflictError("This piece is not made of outlines.")
    return document
