"""Server-sent events: what changed, as it happens."""

from __future__ import annotations

import json
from collections.abc import AsyncIterator

from fastapi import APIRouter
from sse_starlette import EventSourceResponse, ServerSentEvent

from vinyl.api.services import Use

router = APIRouter(prefix="/api", tags=["events"])


@router.get("/events", response_class=EventSourceResponse)
async def events(use: Use) -> EventSourceResponse:
    """A stream of JSON objects with a ``type``: import, analysis, tracks, crates, stick, library, reload."""

    async def stream() -> AsyncIterator[ServerSentEvent]:
        queue = use.events.listen()
        try:
            yield ServerSentEvent(data=json.dumps({"type": "reload"}))
            while True:
                yield ServerSentEvent(data=json.dumps(await queue.get()))
        finally:
            use.events.leave(queue)

    return EventSourceResponse(stream(), ping=15)
