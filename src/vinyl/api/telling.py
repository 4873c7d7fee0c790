"""What a request has changed, told in its own answer: its window need not wait for the event."""

from __future__ import annotations

import json
from dataclasses import replace

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from vinyl.api.convert import event_out
from vinyl.library.changes import Change
from vinyl.operations.services import changes_of_request

HEADER = "X-Vinyl-Changed"
# Long lists of tracks are not repeated in a header: any track may be different then.
MOST_IDS = 200


class TellChanges:
    """Adds the changes of a request to its answer, as a JSON array of events."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        changes: list[Change] = []
        token = changes_of_request.set(changes)

        async def send_telling(message: Message) -> None:
            if message["type"] == "http.response.start" and changes:
                told = [event_out(_short(change)).model_dump() for change in changes]
                MutableHeaders(scope=message)[HEADER] = json.dumps(told)
            await send(message)

        try:
            await self.app(scope, receive, send_telling)
        finally:
            changes_of_request.reset(token)


def _short(change: Change) -> Change:
    if change.track_ids is not None and len(change.track_ids) > MOST_IDS:
        return replace(change, track_ids=None)
    return change
