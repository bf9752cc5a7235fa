"""Looking at a piece: previews of drafts, sections, thumbnails."""

from fastapi import APIRouter
from starlette.responses import Response

from nebrel.api.messages import Draft, MapDraft, SectionDraft, SectionView, StepTables
from nebrel.api.serving.context import Context, InContext
from nebrel.api.views.lithophanes import lit_plan_frame, solid_frame
from nebrel.api.views.outlines import sheet_plan_frame, solid_plan_frame
from nebrel.api.views.pieces import map_frame, model_plan_frame, plan_frame, section_of, step_tables
from nebrel.piece.document import (
    AnyDocument,
    PicturedDocument,
    PieceDocument,
    TracedDocument,
    merged,
    panel_of,
    pictured_of,
)
from nebrel.piece.kinds.lithophane.document import LithophaneDocument
from nebrel.piece.kinds.model.document import ModelDocument
from nebrel.piece.kinds.outline.document import DrawnDocument
from nebrel.piece.report import FindingReport

FRAME = {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}}
router = APIRouter(tags=["previews"])


@router.post("/pieces/{piece_id}/plan", response_class=Response, responses={200: {"content": FRAME}})
def draw_plan(context: InContext, piece_id: str, draft: Draft) -> Response:
    """Tones and heights of a draft, as a frame of arrays (see `api/frame.py`): quick enough to follow a slider."""
    document, evaluator = drafted(context, piece_id, draft), context.workshop.evaluator
    if isinstance(document, LithophaneDocument) and draft.upto is None:
        frame = lit_plan_frame(evaluator.lithophanes, document, draft.longest_px)
    elif isinstance(document, ModelDocument):
        frame = model_plan_frame(evaluator.models, document, draft.longest_px)
    elif isinstance(document, DrawnDocument | TracedDocument) and draft.upto is None:
        frame = solid_plan_frame(evaluator.outlines, document, draft.longest_px)
    elif isinstance(document, DrawnDocument):
        frame = sheet_plan_frame(evaluator.outlines, document)
    else:
        frame = plan_frame(evaluator, document, draft.longest_px, draft.upto, context.following(piece_id))
    return Response(frame, media_type="application/octet-stream")


@router.post("/pieces/{piece_id}/model", response_class=Response, responses={200: {"content": FRAME}})
def raise_model(context: InContext, piece_id: str, draft: Draft) -> Response:
    """The solid of a draft, prepared for looking at, as a frame of arrays."""
    document = drafted(context, piece_id, draft)
    frame = solid_frame(context.workshop.looking_at(document), draft.longest_px)
    return Response(frame, media_type="application/octet-stream")


@router.post("/pieces/{piece_id}/map", response_class=Response, responses={200: {"content": FRAME}})
def measure_surface(context: InContext, piece_id: str, draft: MapDraft) -> Response:
    """The solid of a draft with a measure for every vertex, as a frame of arrays."""
    document = drafted(context, piece_id, draft)
    return Response(
        map_frame(context.workshop.looking_at(document), draft.kind, draft.longest_px),
        media_type="application/octet-stream",
    )


@router.post("/pieces/{piece_id}/steps")
def weigh_steps(context: InContext, piece_id: str, draft: Draft) -> StepTables:
    """How much of a draft's picture falls on every step, and the steps that its tones suggest."""
    return step_tables(context.workshop.evaluator, drafted_panel(context, piece_id, draft))


@router.post("/pieces/{piece_id}/findings")
def look_over(context: InContext, piece_id: str, draft: Draft) -> list[FindingReport]:
    """What to know about a draft before it is built."""
    document = drafted(context, piece_id, draft)
    findings = context.workshop.looking_at(document).findings(draft.longest_px, context.following(piece_id))
    return [FindingReport.of(finding) for finding in findings]


@router.post("/pieces/{piece_id}/section")
def cut_piece(context: InContext, piece_id: str, draft: SectionDraft) -> SectionView:
    """A draft along a line."""
    document = drafted(context, piece_id, draft)
    return section_of(context.workshop.looking_at(document), draft, draft.longest_px)


@router.get("/pieces/{piece_id}/thumbnail.png", response_class=Response)
def show_thumbnail(context: InContext, piece_id: str, revision: int | None = None) -> Response:
    """A rendered picture of the piece; `revision` only makes the address change with the piece."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    caching = "no-cache" if revision is None else "private, max-age=31536000, immutable"
    return Response(
        context.workshop.looking_at(document).thumbnail(),
        media_type="image/png",
        headers={"Cache-Control": caching},
    )


def drafted_picture(context: Context, piece_id: str, draft: Draft) -> PicturedDocument:
    """The piece as a draft would make it, where it has a picture."""
    return pictured_of(drafted(context, piece_id, draft))


def drafted_panel(context: Context, piece_id: str, draft: Draft) -> PieceDocument:
    """The document of a piece that starts from a picture, with the draft's change."""
    return panel_of(drafted(context, piece_id, draft))


def drafted(context: Context, piece_id: str, draft: Draft) -> AnyDocument:
    """The piece's document with the draft's change."""
    document = context.workshop.document(context.workshop.pieces.get(piece_id))
    return merged(document, draft.change) if draft.change else document
