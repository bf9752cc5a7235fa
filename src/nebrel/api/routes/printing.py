"""Layers of a piece, ways to lay it, colours by layers, its card."""

from typing import Literal

from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.jobs import JobView
from nebrel.api.messages.previews import Draft
from nebrel.api.messages.printing import (
    BandsDraft,
    BandsView,
    LayerDraft,
    LayerFixView,
    LayerHead,
    LayersDraft,
    LayersView,
    PlateOrder,
    TurnsDraft,
    WayView,
)
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.pieces import job_of
from nebrel.api.views.printing import (
    bands_view,
    card_view,
    layer_fix_views,
    layer_frame,
    layers_view,
    turned_png,
    way_views,
)
from nebrel.core.errors import BadValueError

router = group("printing")
CARD_TYPES = {"pdf": "application/pdf", "txt": "text/plain; charset=utf-8"}


@router.post("/pieces/{piece_id}/layers")
async def look_at_layers(asking: InAsking, piece_id: str, draft: LayersDraft) -> LayersView:
    """Lines in walls, what hangs, time and weight of a piece in layers, as it is to be printed."""
    return await asking.view(layers_view, piece_id, draft, draft.finished)


@router.post("/pieces/{piece_id}/layer", response_class=Response, responses=frame_headed(LayerHead))
async def look_at_layer(asking: InAsking, piece_id: str, draft: LayerDraft) -> Response:
    """One layer from above, as a frame of arrays."""
    return FrameResponse(await asking.view(layer_frame, piece_id, draft, draft.layer, draft.finished))


@router.post("/pieces/{piece_id}/layers/fixes")
async def fix_layers(asking: InAsking, piece_id: str, draft: LayersDraft) -> list[LayerFixView]:
    """What would help a piece to print, each tried and measured."""
    return await asking.view(layer_fix_views, piece_id, draft, draft.finished)


@router.post("/pieces/{piece_id}/turns")
async def compare_turns(asking: InAsking, piece_id: str, draft: TurnsDraft) -> list[WayView]:
    """Ways to lay a piece on the plate: as it is taken and made, lying, standing, and the best by some weights."""
    return await asking.view(way_views, piece_id, draft, draft.weights, draft.finished)


@router.get("/pieces/{piece_id}/turned.png", response_class=Response)
async def show_turned(
    asking: InAsking, piece_id: str, x: float, y: float, z: float, revision: int | None = None
) -> Response:
    """A small picture of a piece with a side below; `revision` only makes the address change with the piece."""
    size = (x * x + y * y + z * z) ** 0.5
    if not 1e-6 < size < 1e6:
        raise BadValueError("The side below has no direction; three numbers that are not all 0 are needed.")
    caching = "no-cache" if revision is None else "private, max-age=31536000, immutable"
    picture = await asking.view(turned_png, piece_id, None, (x / size, y / size, z / size))
    return Response(picture, media_type="image/png", headers={"Cache-Control": caching})


@router.post("/plates", status_code=202)
def lay_plate(context: InContext, order: PlateOrder) -> JobView:
    """Build pieces of the shelf and lay them on one bed, written as one 3MF; it is listed with the first of them."""
    states = [context.workshop.pieces.get(item.piece_id) for item in order.items]
    items = [
        {"document": state.document, "copies": item.copies} for state, item in zip(states, order.items, strict=True)
    ]
    payload = {"items": items, "bed_mm": list(order.bed_mm), "gap_mm": order.gap_mm}
    return job_of(context.jobs.submit("plate", states[0].id, states[0].revision, payload))


@router.post("/pieces/{piece_id}/bands/suggested")
async def suggest_bands(asking: InAsking, piece_id: str, draft: BandsDraft) -> BandsView:
    """Colours by layers that the heights of a piece suggest."""
    return await asking.view(bands_view, piece_id, draft, draft.colours)


@router.get("/pieces/{piece_id}/print-card.{form}", response_class=Response)
async def write_card(asking: InAsking, piece_id: str, form: Literal["pdf", "txt"], finished: bool = False) -> Response:
    """The recipe card of a piece: how it is printed, what that takes, and what to look after."""
    data = await asking.view(card_view, piece_id, Draft(), form, finished)
    return Response(
        data,
        media_type=CARD_TYPES[form],
        headers={"Content-Disposition": f'attachment; filename="print-card.{form}"', "Cache-Control": "no-cache"},
    )
