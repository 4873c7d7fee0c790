"""Only this machine's own pages may talk to the server, and its answers say what a browser
may do with them."""

from __future__ import annotations

from collections.abc import Mapping
from urllib.parse import urlsplit

from starlette.datastructures import MutableHeaders
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
OWN = ("same-origin", "none")
# Styles are made at run time by the interface's components; scripts never are.
POLICY = "; ".join(
    (
        "default-src 'self'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self' data:",
        "connect-src 'self'",
        "media-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class LocalOnly:
    """Refuses requests under another host name (rebinding) and from pages of another origin or site."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        problem = refusal(headers)

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        if problem:
            await JSONResponse({"detail": problem}, status_code=403)(scope, receive, send_guarded)
        else:
            await self.app(scope, receive, send_guarded)


def refusal(headers: Mapping[str, str]) -> str | None:
    """Why a request with these headers is refused, or None."""
    host, origin = headers.get("host", ""), headers.get("origin")
    if host.rpartition(":")[0] not in LOCAL_NAMES and host not in LOCAL_NAMES:
        return "Vinyl answers only under 127.0.0.1 or localhost."
    if origin is not None and urlsplit(origin).netloc != host:
        return "Vinyl answers only its own pages."
    if headers.get("sec-fetch-site", "none") not in OWN:
        return "Vinyl answers only its own pages."
    return None
