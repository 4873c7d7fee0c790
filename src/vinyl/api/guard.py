"""Only this machine's own pages may talk to the server."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Receive, Scope, Send

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")


class LocalOnly:
    """Refuses requests under another host name (rebinding) and from pages of another origin."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] in ("http", "websocket"):
            headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
            problem = refusal(headers.get("host", ""), headers.get("origin"))
            if problem:
                await JSONResponse({"detail": problem}, status_code=403)(scope, receive, send)
                return
        await self.app(scope, receive, send)


def refusal(host: str, origin: str | None) -> str | None:
    """Why a request with these headers is refused, or None."""
    if host.rpartition(":")[0] not in LOCAL_NAMES and host not in LOCAL_NAMES:
        return "Vinyl answers only under 127.0.0.1 or localhost."
    if origin is not None and urlsplit(origin).netloc != host:
        return "Vinyl answers only its own pages."
    return None
