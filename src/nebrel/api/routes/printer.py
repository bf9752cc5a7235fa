"""A printer on the network: built files sent to it, its queue, and words to it. A simulated one stands in."""

from nebrel.api.routes.jobs import delivered_file
from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group
from nebrel.jobs.printer_link import Printer, PrinterStanding, PrintStanding, PrintWord

router = group("printing")


@router.get("/printer")
def show_printer(context: InContext) -> PrinterStanding:
    """What the printer is, and what it does."""
    with Printer(context.printer_url) as printer:
        return printer.standing()


@router.post("/jobs/{job_id}/print", status_code=202)
def print_file(context: InContext, job_id: str) -> PrintStanding:
    """Send the file that a job wrote to the printer."""
    path, name = delivered_file(context, job_id)
    with Printer(context.printer_url) as printer:
        return printer.send(name, path.read_bytes())


@router.post("/printer/prints/{print_id}/{word}")
def tell_printer(context: InContext, print_id: str, word: PrintWord) -> PrintStanding:
    """Pause, resume, retry after a jam, or cancel."""
    with Printer(context.printer_url) as printer:
        return printer.say(print_id, word)
