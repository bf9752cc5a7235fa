"""Carving: jobs of it, and what a page shows of them."""

from pathlib import Path

from starlette.responses import FileResponse, Response

from nebrel.api.messages.carving import (
    BitReach,
    CarvedSection,
    CarvingResult,
    CarvingShown,
    CarvingView,
    ReachFixView,
    ReachView,
)
from nebrel.api.messages.jobs import JobView
from nebrel.api.messages.previews import Draft, MapHead, SectionLine
from nebrel.api.routes.rack import bit_in
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.serving.routes import group
from nebrel.api.views.carving import carved_section, opened_carving, stock_frame
from nebrel.api.views.pieces import job_of
from nebrel.core.carve.reach import reach_of
from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.piece.carving.fixes import reach_fixes
from nebrel.piece.carving.work import finest_bit, is_sunk, refuse_unready, seen_by_bits
from nebrel.piece.registry import Piece, parse_document

CLEARED = "What the carving left was cleared away to make room; plan it again."
router = group("carving")


@router.post("/pieces/{piece_id}/carve", status_code=202)
def carve_piece(context: InContext, piece_id: str) -> JobView:
    """Plan the carving of the present revision, prove it on the simulated router, and write its programs."""
    state = context.workshop.pieces.get(piece_id)
    carving = context.workshop.document(state).carving
    if not carving.on:
        raise ConflictError("This piece is not for a router; choose that at Deliver first.")
    opened = context.workshop.opened(parse_document(state.document))
    refuse_unready(opened.evaluator)
    return job_of(context.jobs.submit("carving", piece_id, state.revision, {"document": state.document}))


@router.post("/pieces/{piece_id}/reach")
def reach_piece(context: InContext, piece_id: str, draft: Draft) -> ReachView:
    """What the bits of a piece cannot reach, on its preview."""
    piece = context.drafted(piece_id, draft)
    carving = piece.document.carving
    asked, bits, names = seen_by_bits(piece.evaluator, draft.longest_px)
    found = reach_of(asked, bits, carving.passes.rest_mm)
    return ReachView(
        over_mm=carving.passes.rest_mm,
        bits=[
            BitReach(name=name, most_mm=round(most, 4), share=round(share, 5))
            for name, most, share in zip(names, found.each_most, found.each_share, strict=True)
        ],
        together=BitReach(name="all", most_mm=round(found.most, 4), share=round(found.share, 5)),
    )


@router.post("/pieces/{piece_id}/reach/fixes")
def fix_reach(context: InContext, piece_id: str, draft: Draft) -> list[ReachFixView]:
    """What would let the bits of a piece reach more, each tried on its preview."""
    piece = context.drafted(piece_id, draft)
    rack = [bit_in(kept) for kept in context.workshop.rack.all()]
    fixes = reach_fixes(
        piece.document, rack, lambda document: context.workshop.opened(document).evaluator, draft.longest_px
    )
    return [
        ReachFixView(
            words=fix.words,
            change=fix.change,
            most_mm=round(fix.most, 4),
            share=round(fix.share, 5),
            moved_rms_mm=round(fix.moved, 4),
        )
        for fix in fixes
    ]


@router.get("/jobs/{job_id}/carving")
def show_carving(context: InContext, job_id: str) -> CarvingView:
    """The stock, the zero point and the ways of a carving job, and the minutes of its steps."""
    piece = _carved_piece(context, job_id)
    kept = opened_carving(_kept(context, result_of(context, job_id).view_key))
    board, size = piece.document.carving.stock.to_core(), piece.evaluator.size_mm
    left, low = board.corner(size[:2])
    zero = board.zero_point(size[:2])
    return CarvingView(
        minutes=kept.facts["minutes"],
        stock=(left, low, board.size[0], board.size[1]),
        zero=zero,
        ways=kept.facts["ways"],
    )


@router.get("/jobs/{job_id}/carving/stock", response_class=Response, responses=frame_headed(MapHead))
def show_stock(context: InContext, job_id: str, step: int = 10_000, shown: CarvingShown = "stock") -> Response:
    """The simulated stock at a step, as a frame of arrays."""
    kept = opened_carving(_kept(context, result_of(context, job_id).view_key))
    return FrameResponse(stock_frame(kept, step, shown, kept.facts["thickness"]))


@router.post("/jobs/{job_id}/carving/section")
def cut_stock(context: InContext, job_id: str, line: SectionLine, step: int = 10_000) -> CarvedSection:
    """The simulated stock and the finest bit's offset surface along a line, beside what was asked."""
    piece = _carved_piece(context, job_id)
    kept = opened_carving(_kept(context, result_of(context, job_id).view_key))
    width, depth, _ = piece.evaluator.size_mm
    start, end = ((x * width, y * depth) for x, y in (line.start, line.end))
    bit, sunk = finest_bit(piece.evaluator), is_sunk(piece.evaluator)
    return carved_section(kept, step, bit, kept.facts["thickness"], (start, end), sunk)


@router.get("/jobs/{job_id}/programs/{number}", response_class=FileResponse)
def download_program(context: InContext, job_id: str, number: int) -> FileResponse:
    """One program of a carving job; none is offered before it has passed the simulated router."""
    name, path = program_of(context, job_id, number)
    return FileResponse(path, media_type="text/plain; charset=utf-8", filename=name)


@router.get("/jobs/{job_id}/set-up.pdf", response_class=FileResponse)
def download_sheet(context: InContext, job_id: str) -> FileResponse:
    """The set-up sheet of a carving job."""
    result = result_of(context, job_id)
    path = context.workshop.kept.path(result.sheet_key)
    if path is None or not result.programs:
        raise NotFoundError(CLEARED)
    name = result.file_name.replace("-carving.zip", "-set-up.pdf")
    return FileResponse(path, media_type="application/pdf", filename=name)


def program_of(context: Context, job_id: str, number: int) -> tuple[str, Path]:
    """What a program of a carving job is called, and its file.

    Raises:
        NotFoundError: there is none, or it was cleared away.
    """
    programs = result_of(context, job_id).programs
    if not 0 <= number < len(programs):
        raise NotFoundError("There is no such program with this job.")
    path = context.workshop.kept.path(programs[number].key)
    if path is None:
        raise NotFoundError(CLEARED)
    return programs[number].name, path


def result_of(context: Context, job_id: str) -> CarvingResult:
    """What a carving job left behind.

    Raises:
        ConflictError: it is none that has finished.
    """
    job = job_of(context.jobs.get(job_id))
    if job.carving is None:
        raise ConflictError("This is no carving job that has finished.")
    return job.carving


def _carved_piece(context: Context, job_id: str) -> Piece:
    revision = context.jobs.get(job_id).revision
    return context.workshop.opened(parse_document(context.workshop.pieces.document_of(revision)))


def _kept(context: Context, key: str) -> bytes:
    path = context.workshop.kept.path(key)
    if path is None:
        raise NotFoundError(CLEARED)
    return path.read_bytes()
