"""Lithophanes: how they look in light, and variations to choose from."""

from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.lithophanes import LitFacts, VariationsHead
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.lithophanes import lit_facts, variations_frame

router = group("lithophanes")


@router.post("/pieces/{piece_id}/lit")
async def look_at_lit(asking: InAsking, piece_id: str, draft: Draft) -> LitFacts:
    """Measures of a draft in light, through its actual walls, and its print recipe."""
    return await asking.view(lit_facts, piece_id, draft)


@router.post("/pieces/{piece_id}/variations", response_class=Response, responses=frame_headed(VariationsHead))
async def lay_out_variations(asking: InAsking, piece_id: str, draft: Draft) -> Response:
    """Thicknesses of a draft with three ranges by three strengths, as a frame of arrays."""
    return FrameResponse(await asking.view(variations_frame, piece_id, draft))
