"""Lithophanes: how they look in light, and variations to choose from."""

from fastapi import APIRouter
from starlette.responses import Response

from nebrel.api.messages import Draft, LitFacts
from nebrel.api.routes.previews import FRAME, drafted
from nebrel.api.serving.context import InContext
from nebrel.api.views.lithophanes import lit_facts, variations_frame
from nebrel.piece.document import lithophane_of

router = APIRouter(tags=["lithophanes"])


@router.post("/pieces/{piece_id}/lit")
def look_at_lit(context: InContext, piece_id: str, draft: Draft) -> LitFacts:
    """Measures of a draft in light, through its actual walls, and its print recipe."""
    document = lithophane_of(drafted(context, piece_id, draft))
    return lit_facts(context.workshop.evaluator.lithophanes, document, draft.longest_px)


@router.post("/pieces/{piece_id}/variations", response_class=Response, responses={200: {"content": FRAME}})
def lay_out_variations(context: InContext, piece_id: str, draft: Draft) -> Response:
    """Thicknesses of a draft with three ranges by three strengths, as a frame of arrays."""
    document = lithophane_of(drafted(context, piece_id, draft))
    frame = variations_frame(context.workshop.evaluator.lithophanes, document)
    return Response(frame, media_type="application/octet-stream")
