"""How routes have something worked out: in a process for that, while the server answers others."""

import asyncio
from collections.abc import Callable
from typing import Annotated, Any, Concatenate, ParamSpec, TypeVar, cast

from fastapi import Depends, Request
from starlette.concurrency import run_in_threadpool

from nebrel.api.messages.pieces import PieceView
from nebrel.api.messages.previews import Draft
from nebrel.api.serving.context import Context, InContext
from nebrel.api.views.look import Look, look_at_piece, look_at_revision
from nebrel.api.views.pieces import piece_of
from nebrel.core.errors import LeftError
from nebrel.jobs.lookers import Room
from nebrel.jobs.turns import Order, Serving
from nebrel.jobs.workshop import Begun
from nebrel.store.pieces import Document, PieceState, new_piece_id

# Pages name themselves, so that none of them has all of the server.
PAGE_HEADER, LONGEST_NAME = "Nebrel-Page", 64
Given = ParamSpec("Given")
Made = TypeVar("Made")


class Asking:
    """What a request has worked out.

    What is shown is left off as soon as its page has gone; what decides over an edit is carried through.
    """

    def __init__(self, context: Context, request: Request) -> None:
        self.context = context
        self._request = request
        client = request.client
        self._page = request.headers.get(PAGE_HEADER, "")[:LONGEST_NAME] or (client.host if client else "")

    async def view(
        self,
        view: Callable[Concatenate[Look, Given], Made],
        piece_id: str,
        draft: Draft | None = None,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Made:
        """A view of a piece, as it is or as a draft would make it."""
        return await self.shown(look_at_piece, piece_id, view, piece_id, draft or Draft(), *given, **named)

    async def view_back(
        self,
        view: Callable[Concatenate[Look, Given], Made],
        revision: int,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Made:
        """A view of a piece as it was at a revision."""
        return await self.shown(look_at_revision, str(revision), view, revision, *given, **named)

    async def shown(
        self,
        work: Callable[Concatenate[Room, Given], Made],
        about: str,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Made:
        """What `work` makes of the data folder for a page that waits for it."""
        return cast(Made, await self._waited(self.context.looking, self._ask(work, about, given, named)))

    async def read(
        self,
        read: Callable[Concatenate[bytes, str, Given], Made],
        data: bytes,
        name: str,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Made:
        """What `read` makes of a file from elsewhere, as long as the page waits for it."""
        reading = self.context.reading
        return cast(Made, await self._waited(reading, reading.ask(self._page, read, data, name, *given, **named)))

    async def _waited(self, serving: Serving, order: Order) -> Any:
        """What comes of an order, which is left off when the page has gone."""
        made: asyncio.Future[Any] = asyncio.wrap_future(order.outcome)
        made.add_done_callback(_heard)
        gone = asyncio.ensure_future(self._gone())
        try:
            await asyncio.wait({made, gone}, return_when=asyncio.FIRST_COMPLETED)
            if not made.done():
                raise LeftError
            return made.result()
        finally:
            gone.cancel()
            if not made.done():
                serving.leave(order)

    async def decided(
        self,
        work: Callable[Concatenate[Room, Given], Made],
        about: str,
        *given: Given.args,
        **named: Given.kwargs,
    ) -> Made:
        """What `work` makes of the data folder, whether or not the page that asked is still there."""
        return cast(Made, await asyncio.wrap_future(self._ask(work, about, given, named).outcome))

    async def revised(self, piece_id: str, base: int, document: Document, label: str) -> PieceView:
        """Keep a document that was decided over as a new revision, and tell everyone."""
        return await self.kept(lambda: self.context.workshop.pieces.revise(piece_id, base, document, label))

    async def begun(
        self, work: Callable[Concatenate[Room, Given], Begun], *given: Given.args, **named: Given.kwargs
    ) -> PieceView:
        """Keep what `work` begins as a new piece, and tell everyone."""
        # Its name is chosen here, so that where it is begun it is looked at afterwards.
        piece_id = new_piece_id()
        document, label = await self.decided(work, piece_id, *given, **named)
        return await self.kept(lambda: self.context.workshop.pieces.create(document, label, piece_id))

    async def kept(self, keep: Callable[[], PieceState]) -> PieceView:
        """Let `keep` write to the shelf, and tell everyone."""

        def told() -> PieceView:
            state = keep()
            self.context.tell_changed(state.id, state.revision)
            return piece_of(self.context.workshop, state)

        return await run_in_threadpool(told)

    def _ask(self, work: Callable[..., Any], about: str, given: tuple[Any, ...], named: dict[str, Any]) -> Order:
        context = self.context
        return context.looking.ask(
            context.workshop.settings, self._page, about, context.following(about), work, *given, **named
        )

    async def _gone(self) -> None:
        """Until the page has gone."""
        while (await self._request.receive())["type"] != "http.disconnect":
            pass


def _heard(made: "asyncio.Future[Any]") -> None:
    """What came of something that nobody waits for is no fault of ours."""
    if not made.cancelled():
        made.exception()


async def _asking(context: InContext, request: Request) -> Asking:
    return Asking(context, request)


InAsking = Annotated[Asking, Depends(_asking)]
