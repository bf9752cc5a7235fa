"""Carving: the rack, jobs of it, and what a page shows of them."""

from fastapi import APIRouter
from starlette.responses import FileResponse, Response

from nebrel.api.messages.carving import (
    BitReach,
    CarvedSection,
    CarvingResult,
    CarvingShown,
    CarvingView,
    RackBitView,
    ReachView,
)
from nebrel.api.messages.jobs import JobView
from nebrel.api.messages.previews import Draft, MapHead, SectionLine
from nebrel.api.serving.context import Context, InContext
from nebrel.api.serving.frames import FrameResponse, frame_headed
from nebrel.api.views.carving import carved_section, opened_carving, stock_frame
from nebrel.api.views.pieces import job_of
from nebrel.core.carve.asked import asked_of
from nebrel.core.carve.reach import reach_of
from nebrel.core.errors import ConflictError, NotFoundError
from nebrel.piece.parts.carving import BitPart
from nebrel.piece.registry import Piece, parse_document
from nebrel.store.rack import RackBit

CLEARED = "What the carving left was cleared away to make room; plan it again."
router = APIRouter(tags=["carving"])


@router.get("/bits")
def list_bits(context: InContext) -> list[RackBitView]:
    """The bits of the rack."""
    return [_bit(bit) for bit in context.workshop.rack.all()]


@router.post("/bits", status_code=201)
def add_bit(context: InContext, bit: BitPart) -> RackBitView:
    """Put a further bit into the rack."""
    bit.to_core()
    return _bit(context.workshop.rack.add(bit.name, _facts(bit)))


@router.put("/bits/{bit_id}")
def change_bit(context: InContext, bit_id: int, bit: BitPart) -> RackBitView:
    """Change a bit of the rack; pieces keep the bit that they were planned with."""
    bit.to_core()
    return _bit(context.workshop.rack.change(bit_id, bit.name, _facts(bit)))


@router.delete("/bits/{bit_id}", status_code=204)
def drop_bit(context: InContext, bit_id: int) -> None:
    """Take a bit out of the rack."""
    context.workshop.rack.drop(bit_id)


@router.post("/pieces/{piece_id}/carve", status_code=202)
def carve_piece(context: InContext, piece_id: str) -> JobView:
    """Plan the carving of the present revision, prove it on the simulated router, and write its programs."""
    state = context.workshop.pieces.get(piece_id)
    carving = context.workshop.document(state).carving
    if not carving.on:
        raise ConflictError("This piece is not for a router; choose that at Deliver first.")
    carving.to_core()
    return job_of(context.jobs.submit("carving", piece_id, state.revision, {"document": state.document}))


@router.post("/pieces/{piece_id}/reach")
def reach_piece(context: InContext, piece_id: str, draft: Draft) -> ReachView:
    """What the bits of a piece cannot reach, on its preview."""
    piece = context.drafted(piece_id, draft)
    carving = piece.document.carving
    bits = carving.to_core().bits
    field = piece.evaluator.heights_seen(draft.longest_px)
    found = reach_of(asked_of(field, 1.5 * max(bit.radius for bit in bits)), bits, carving.passes.rest_mm)
    names = [bit.name for bit in carving.bits if bit.role == "finish"]
    return ReachView(
        over_mm=carving.passes.rest_mm,
        bits=[
            BitReach(name=name, most_mm=round(most, 4), share=round(share, 5))
            for name, most, share in zip(names, found.each_most, found.each_share, strict=True)
        ],
        together=BitReach(name="all", most_mm=round(found.most, 4), share=round(found.share, 5)),
    )


@router.get("/jobs/{job_id}/carving")
def show_carving(context: InContext, job_id: str) -> CarvingView:
    """The stock, the zero point and the ways of a carving job, and the minutes of its steps."""
    piece = _carved_piece(context, job_id)
    kept = opened_carving(_kept(context, _result(context, job_id).view_key))
    board, size = piece.document.carving.stock.to_core(), piece.evaluator.size_mm
    left, low = board.corner(size[:2])
    zero = board.zero_point(size[:2])
    return CarvingView(
        minutes=kept.facts["minutes"],
        stock=(left, low, board.size[0], board.size[1]),
        zero=(zero[0], zero[1]),
        ways=kept.facts["ways"],
    )


@router.get("/jobs/{job_id}/carving/stock", response_class=Response, responses=frame_headed(MapHead))
def show_stock(context: InContext, job_id: str, step: int = 10_000, shown: CarvingShown = "stock") -> Response:
    """The simulated stock at a step, as a frame of arrays."""
    kept = opened_carving(_kept(context, _result(context, job_id).view_key))
    return FrameResponse(stock_frame(kept, step, shown, kept.facts["thickness"]))


@router.post("/jobs/{job_id}/carving/section")
def cut_stock(context: InContext, job_id: str, line: SectionLine, step: int = 10_000) -> CarvedSection:
    """The simulated stock and the finest bit's offset surface along a line, beside what was asked."""
    piece = _carved_piece(context, job_id)
    kept = opened_carving(_kept(context, _result(context, job_id).view_key))
    width, depth, _ = piece.evaluator.size_mm
    start, end = ((x * width, y * depth) for x, y in (line.start, line.end))
    return carved_section(kept, step, piece.document.carving.to_core().bits[-1], kept.facts["thickness"], (start, end))


@router.get("/jobs/{job_id}/programs/{number}", response_class=FileResponse)
def download_program(context: InContext, job_id: str, number: int) -> FileResponse:
    """One program of a carving job; none is offered before it has passed the simulated router."""
    programs = _result(context, job_id).programs
    if not 0 <= number < len(programs):
        raise NotFoundError("There is no such program with this job.")
    path = context.workshop.kept.path(programs[number].key)
    if path is None:
        raise NotFoundError(CLEARED)
    return FileResponse(path, media_type="text/plain; charset=utf-8", filename=programs[number].name)


@router.get("/jobs/{job_id}/set-up.pdf", response_class=FileResponse)
def download_sheet(context: InContext, job_id: str) -> FileResponse:
    """The set-up sheet of a carving job."""
    result = _result(context, job_id)
    path = context.workshop.kept.path(result.sheet_key)
    if path is None or not result.programs:
        raise NotFoundError(CLEARED)
    name = result.file_name.replace("-carving.zip", "-set-up.pdf")
    return FileResponse(path, media_type="application/pdf", filename=name)


def _result(context: Context, job_id: str) -> CarvingResult:
    job = job_of(context.workshop.jobs.get(job_id))
    if job.carving is None:
        raise ConflictError("This is no carving job that has finished.")
    return job.carving


def _carved_piece(context: Context, job_id: str) -> Piece:
    revision = context.workshop.jobs.get(job_id).revision
    return context.workshop.opened(parse_document(context.workshop.pieces.document_of(revision)))


def _kept(context: Context, key: str) -> bytes:
    path = context.workshop.kept.path(key)
    if path is None:
        raise NotFoundError(CLEARED)
    return path.read_bytes()


def _facts(bit: BitPart) -> dict[str, object]:
    return bit.model_dump(mode="json", exclude={"name"})


def _bit(bit: RackBit) -> RackBitView:
    return RackBitView(id=bit.id, bit=BitPart.model_validate({"name": bit.name, **bit.facts}))
