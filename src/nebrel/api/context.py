"""What the routes work with."""

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from nebrel.api.events import News, Newsroom
from nebrel.jobs.manager import JobManager
from nebrel.jobs.workshop import Workshop


@dataclass(frozen=True)
class Context:
    """The opened data folder, its workers, and the pages that listen."""

    workshop: Workshop
    jobs: JobManager
    newsroom: Newsroom

    def tell_changed(self, piece_id: str, revision: int) -> None:
        """Let every page know that a piece has a new state."""
        self.newsroom.tell(News("piece", {"id": piece_id, "revision": revision}))


def _context(request: Request) -> Context:
    context: Context = request.app.state.context
    return context


InContext = Annotated[Context, Depends(_context)]
