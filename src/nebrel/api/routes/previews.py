"""Looking at a piece: previews of drafts, sections, thumbnails."""

from starlette.responses import Response

from nebrel.api.asking.asking import InAsking
from nebrel.api.messages.previews import (
    Draft,
    MapDraft,
    MapHead,
    PlanHead,
    SectionDraft,
    SectionView,
    SolidHead,
    StepTables,
)
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.frames import findings_of, map_frame, plan_frame, section_of, solid_frame, thumbnail_of
from nebrel.api.views.pictures import step_tables
from nebrel.piece.report import FindingReport

router = group("previews")


@router.post("/pieces/{piece_id}/plan", response_class=Response, responses=frame_headed(PlanHead))
async def draw_plan(asking: InAsking, piece_id: str, draft: Draft) -> Response:
    """Tones and heights of a draft, as a frame of arrays (`api/serving/frames.py`): quick enough to follow a slider."""
    return FrameResponse(await asking.view(plan_frame, piece_id, draft))


@router.post("/pieces/{piece_id}/model", response_class=Response, responses=frame_headed(SolidHead))
async def raise_model(asking: InAsking, piece_id: str, draft: Draft) -> Response:
    """The solid of a draft, prepared for looking at, as a frame of arrays."""
    return FrameResponse(await asking.view(solid_frame, piece_id, draft, draft.longest_px))


@router.post("/pieces/{piece_id}/map", response_class=Response, responses=frame_headed(MapHead))
async def measure_surface(asking: InAsking, piece_id: str, draft: MapDraft) -> Response:
    """The solid of a draft with a measure for every vertex, as a frame of arrays."""
    return FrameResponse(await asking.view(map_frame, piece_id, draft, draft.kind, draft.longest_px))


@router.post("/pieces/{piece_id}/steps")
async def weigh_steps(asking: InAsking, piece_id: str, draft: Draft) -> StepTables:
    """How much of a draft's picture falls on every step, and the steps that its tones suggest."""
    return await asking.view(step_tables, piece_id, draft)


@router.post("/pieces/{piece_id}/findings")
async def look_over(asking: InAsking, piece_id: str, draft: Draft) -> list[FindingReport]:
    """What to know about a draft before it is built."""
    return await asking.view(findings_of, piece_id, draft)


@router.post("/pieces/{piece_id}/section")
async def cut_piece(asking: InAsking, piece_id: str, draft: SectionDraft) -> SectionView:
    """A draft along a line."""
    return await asking.view(section_of, piece_id, draft, draft, draft.longest_px)


@router.get("/pieces/{piece_id}/thumbnail.png", response_class=Response)
async def show_thumbnail(asking: InAsking, piece_id: str, revision: int | None = None) -> Response:
    """A rendered picture of the piece; `revision` only makes the address change with the piece."""
    caching = "no-cache" if revision is None else "private, max-age=31536000, immutable"
    return Response(
        await asking.view(thumbnail_of, piece_id),
        media_type="image/png",
        headers={"Cache-Control": caching},
    )
