"""What the routes work with."""

import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import Depends, Request

from nebrel.api.serving.events import News, Newsroom
from nebrel.jobs.assemblies import follow_piece
from nebrel.jobs.looking import Looking
from nebrel.jobs.manager import JobManager
from nebrel.jobs.reading import Reading
from nebrel.jobs.router_link import RouterLink
from nebrel.jobs.workshop import Workshop
from nebrel.logs import RecentLog
from nebrel.simulated.printer_process import PrinterProcess
from nebrel.simulated.stand_in import StandIn

NOTICED_SECONDS = 0.25


@dataclass(frozen=True)
class Context:
    """The opened data folder, its workers, and the pages that listen."""

    workshop: Workshop
    jobs: JobManager
    newsroom: Newsroom
    reading: Reading
    looking: Looking
    stand_in: StandIn = field(default_factory=StandIn)
    router: RouterLink = field(default_factory=RouterLink)
    printer: PrinterProcess = field(default_factory=PrinterProcess)
    recent_log: RecentLog = field(default_factory=RecentLog)

    @property
    def service_url(self) -> str:
        """Where the service that makes depths answers: the one of the settings, or the stand-in."""
        return self.workshop.settings.service_url or self.stand_in.address

    @property
    def printer_url(self) -> str:
        """Where the printer answers: the one of the settings, or the stand-in."""
        return self.workshop.settings.printer_url or self.printer.address

    def tell_changed(self, piece_id: str, revision: int) -> None:
        """Let every page know that a piece has a new state, and what follows it keep in step."""
        self.newsroom.tell(News("piece", {"id": piece_id, "revision": revision}))
        for state in follow_piece(self.workshop, self.workshop.pieces.get(piece_id)):
            self.newsroom.tell(News("piece", {"id": state.id, "revision": state.revision}))

    def following(self, piece_id: str) -> Callable[[str, float], None]:
        """Tells every page how far a preview of a piece is, once it takes long enough to be noticed."""
        told = time.monotonic()

        def tell(stage: str, fraction: float) -> None:
            nonlocal told
            now = time.monotonic()
            if now - told >= NOTICED_SECONDS:
                told = now
                self.newsroom.tell(News("preview", {"piece_id": piece_id, "stage": stage, "fraction": fraction}))

        return tell


async def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


InContext = Annotated[Context, Depends(_context)]
