"""The router: a program sent to it line by line, and where it stands. A simulated one stands in."""

from nebrel.api.messages.carving import RouterOrder, RouterStatus
from nebrel.api.routes.carving import program_of
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.core.proof.carving import drive_of
from nebrel.jobs.router_link import RouterStanding, Word
from nebrel.piece.registry import parse_document
from nebrel.simulated.router_controller import RouterController, SimulatedPort

router = group("carving")


@router.get("/router")
def show_router(context: InContext) -> RouterStatus:
    """Where the router stands."""
    return _status(context.router.standing)


@router.post("/jobs/{job_id}/programs/{number}/send", status_code=202)
def send_program(context: InContext, job_id: str, number: int, order: RouterOrder) -> RouterStatus:
    """Send one program of a carving job to the simulated router."""
    name, path = program_of(context, job_id, number)
    revision = context.jobs.get(job_id).revision
    document = parse_document(context.workshop.pieces.document_of(revision))
    controller = RouterController(drive_of(document.carving.router.to_core()))
    port = SimulatedPort(controller, order.speed)
    return _status(context.router.send(name, path.read_text("utf-8"), (job_id, number), port))


@router.post("/router/{word}")
def tell_router(context: InContext, word: Word) -> RouterStatus:
    """Hold, go on, or stop."""
    return _status(context.router.say(word))


def _status(standing: RouterStanding) -> RouterStatus:
    job_id, number = standing.of
    return RouterStatus(
        state=standing.state,
        program=standing.name,
        job_id=job_id,
        number=number,
        line=standing.line,
        lines=standing.lines,
        place_mm=standing.place,
        seconds=standing.seconds,
        why=standing.why,
    )
