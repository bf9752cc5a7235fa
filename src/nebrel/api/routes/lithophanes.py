"""Lithophanes: how they look in light, and variations to choose from."""

from starlette.responses import Response

from nebrel.api.messages.lithophanes import LitFacts, VariationsHead
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.lithophanes import lit_facts, variations_frame
from nebrel.piece.evaluation.abilities import HasSheet

router = group("lithophanes")


@router.post("/pieces/{piece_id}/lit")
def look_at_lit(context: InContext, piece_id: str, draft: Draft) -> LitFacts:
    """Measures of a draft in light, through its actual walls, and its print recipe."""
    return lit_facts(context.drafted(piece_id, draft).having(HasSheet), draft.longest_px)


@router.post("/pieces/{piece_id}/variations", response_class=Response, responses=frame_headed(VariationsHead))
def lay_out_variations(context: InContext, piece_id: str, draft: Draft) -> Response:
    """Thicknesses of a draft with three ranges by three strengths, as a frame of arrays."""
    frame = variations_frame(context.drafted(piece_id, draft).having(HasSheet))
    return FrameResponse(frame)
