"""Server-sent events: `job` when a job moves, `piece` when a piece changes, `preview` while a slow one is made."""

from collections.abc import AsyncIterator

from fastapi.sse import EventSourceResponse, ServerSentEvent

from nebrel.api.serving.context import InContext
from nebrel.api.serving.routes import group

router = group("news")


@router.get("/events", response_class=EventSourceResponse)
async def listen(context: InContext) -> AsyncIterator[ServerSentEvent]:
    """Everything that happens from now on."""
    yield ServerSentEvent(event="hello", data={})
    async for news in context.newsroom.listen():
        yield ServerSentEvent(event=news.event, data=news.data)
