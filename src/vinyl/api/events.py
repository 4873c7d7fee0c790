"""Server-sent events: what changed, as it happens."""

from __future__ import annotations

from collections.abc import AsyncIterator

from fastapi import APIRouter
from sse_starlette import EventSourceResponse, ServerSentEvent
from starlette.concurrency import run_in_threadpool

from vinyl.api.convert import event_out
from vinyl.api.models.events import HelloEvent, ServerEvent
from vinyl.api.services import Use

router = APIRouter(prefix="/api", tags=["events"])

PING_S = 15


@router.get("/events", response_class=EventSourceResponse, responses={200: {"model": ServerEvent}})
async def events(use: Use) -> EventSourceResponse:
    """A stream of typed events, the first of them with the revision of the library."""

    async def stream() -> AsyncIterator[ServerSentEvent]:
        queue = use.events.listen()
        try:
            revision = await run_in_threadpool(use.database.revision)
            yield ServerSentEvent(data=HelloEvent(revision=revision).model_dump_json())
            while True:
                yield ServerSentEvent(data=event_out(await queue.get()).model_dump_json())
        finally:
            use.events.leave(queue)

    return EventSourceResponse(stream(), ping=PING_S)
