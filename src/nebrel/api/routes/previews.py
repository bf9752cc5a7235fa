"""Looking at a piece: previews of drafts, sections, thumbnails."""

from starlette.responses import Response

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
from nebrel.api.serving.context import InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.frames import map_frame, plan_frame, section_of, solid_frame
from nebrel.api.views.pictures import step_tables
from nebrel.piece.evaluation.abilities import HasHeights
from nebrel.piece.report import FindingReport

router = group("previews")


@router.post("/pieces/{piece_id}/plan", response_class=Response, responses=frame_headed(PlanHead))
def draw_plan(context: InContext, piece_id: str, draft: Draft) -> Response:
    """Tones and heights of a draft, as a frame of arrays (`api/serving/frames.py`): quick enough to follow a slider."""
    evaluator = context.drafted(piece_id, draft).evaluator
    plan = evaluator.plan(draft.longest_px, draft.upto, context.following(piece_id))
    return FrameResponse(plan_frame(plan))


@router.post("/pieces/{piece_id}/model", response_class=Response, responses=frame_headed(SolidHead))
def raise_model(context: InContext, piece_id: str, draft: Draft) -> Response:
    """The solid of a draft, prepared for looking at, as a frame of arrays."""
    frame = solid_frame(context.drafted(piece_id, draft).evaluator.shown(draft.longest_px))
    return FrameResponse(frame)


@router.post("/pieces/{piece_id}/map", response_class=Response, responses=frame_headed(MapHead))
def measure_surface(context: InContext, piece_id: str, draft: MapDraft) -> Response:
    """The solid of a draft with a measure for every vertex, as a frame of arrays."""
    frame = map_frame(context.drafted(piece_id, draft), draft.kind, draft.longest_px)
    return FrameResponse(frame)


@router.post("/pieces/{piece_id}/steps")
def weigh_steps(context: InContext, piece_id: str, draft: Draft) -> StepTables:
    """How much of a draft's picture falls on every step, and the steps that its tones suggest."""
    return step_tables(context.drafted(piece_id, draft).having(HasHeights).step_table())


@router.post("/pieces/{piece_id}/findings")
def look_over(context: InContext, piece_id: str, draft: Draft) -> list[FindingReport]:
    """What to know about a draft before it is built."""
    evaluator = context.drafted(piece_id, draft).evaluator
    findings = evaluator.findings(draft.longest_px, context.following(piece_id))
    return [FindingReport.of(finding) for finding in findings]


@router.post("/pieces/{piece_id}/section")
def cut_piece(context: InContext, piece_id: str, draft: SectionDraft) -> SectionView:
    """A draft along a line."""
    return section_of(context.drafted(piece_id, draft), draft, draft.longest_px)


@router.get("/pieces/{piece_id}/thumbnail.png", response_class=Response)
def show_thumbnail(context: InContext, piece_id: str, revision: int | None = None) -> Response:
    """A rendered picture of the piece; `revision` only makes the address change with the piece."""
    caching = "no-cache" if revision is None else "private, max-age=31536000, immutable"
    return Response(
        context.workshop.piece(piece_id).evaluator.thumbnail(),
        media_type="image/png",
        headers={"Cache-Control": caching},
    )
