"""Only this machine's own pages may talk to the server, and its answers say what a browser
may do with them."""

from __future__ import annotations

from collections.abc import Mapping
from secrets import compare_digest
from urllib.parse import urlencode, urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.requests import HTTPConnection
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from vinyl.library.lock import KEY_HEADER

# Paths that give or take something of the library's.
CLOSED = ("/api/", "/player/sticks", "/other-side")
YEAR_S = 365 * 24 * 3600
MOST_BYTES = 16 * 1024**2
NO_KEY = (
    "Vinyl answers only who has its key: open the address that ./vinyl start has printed in the terminal, "
    "key and all. This browser knows it from then on."
)
TOO_LARGE = (
    f"This is larger than anything that Vinyl takes ({MOST_BYTES // 1024**2} MB). Nothing was changed."
)
LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
OWN = ("same-origin", "none")
# Styles are made at run time by the interface's components; scripts never are.
POLICY = "; ".join(
    (
        "default-src 'self'",
        # The time stretcher is WebAssembly.
        "script-src 'self' 'wasm-unsafe-eval'",
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
    """Refuses requests under another host name (rebinding), from pages of another origin or site, and without
    the home's key, which only its owner can read: other users of this machine reach the same address.
    """

    def __init__(self, app: ASGIApp, key: str) -> None:
        self.app = app
        self._key = key

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                MutableHeaders(scope=message).update(HEADERS)
            await send(message)

        await (self._answer(scope) or self.app)(scope, receive, send_guarded)

    def _answer(self, scope: Scope) -> ASGIApp | None:
        """What is answered in place of the application; None for a request that may come in."""
        request = HTTPConnection(scope)
        problem = refusal(request.headers)
        if problem:
            return JSONResponse({"detail": problem}, status_code=403)
        if self._is_key(request.query_params.get("key", "")):
            return self._welcome(request)
        if self._has_key(request) or _is_open(scope["path"]):
            return None
        if scope["path"].startswith(CLOSED):
            return JSONResponse({"detail": NO_KEY}, status_code=401)
        return HTMLResponse(f"<!doctype html><title>Vinyl</title><p>{NO_KEY}</p>", status_code=401)

    def _has_key(self, request: HTTPConnection) -> bool:
        return self._is_key(request.headers.get(KEY_HEADER) or request.cookies.get(_cookie(request), ""))

    def _is_key(self, given: str) -> bool:
        return compare_digest(given.encode("utf-8", "replace"), self._key.encode())

    def _welcome(self, request: HTTPConnection) -> Response:
        """Give a browser that has come by the launcher's address its cookie, and take the key off that."""
        rest = urlencode([pair for pair in request.query_params.multi_items() if pair[0] != "key"])
        answer = RedirectResponse(f"{request.url.path}{f'?{rest}' if rest else ''}", status_code=303)
        answer.set_cookie(_cookie(request), self._key, max_age=YEAR_S, httponly=True, samesite="lax")
        return answer


def _cookie(request: HTTPConnection) -> str:
    """The name of the cookie: servers on several ports share a browser's cookies."""
    return f"vinyl-{request.url.port or 80}"


def _is_open(path: str) -> bool:
    """Whether a path holds nothing of the library's."""
    return path.startswith("/assets/")


class LimitBodies:
    """Refuses bodies that are larger than any that the interface sends, before they are read."""

    def __init__(self, app: ASGIApp, most_bytes: int = MOST_BYTES) -> None:
        self.app = app
        self._most_bytes = most_bytes

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        seen, started = 0, False

        async def receive_counted() -> Message:
            nonlocal seen
            message = await receive()
            seen += len(message.get("body", b""))
            if seen > self._most_bytes:
                raise _TooLargeError
            return message

        async def send_noting(message: Message) -> None:
            nonlocal started
            started = True
            await send(message)

        try:
            if _length(scope) > self._most_bytes:
                raise _TooLargeError
            await self.app(scope, receive_counted, send_noting)
        except _TooLargeError:
            if not started:
                await JSONResponse({"detail": TOO_LARGE}, status_code=413)(scope, receive, send)


class _TooLargeError(HTTPException):
    """A body that goes on beyond what is read; whoever reads it meanwhile lets this kind of error through."""

    def __init__(self) -> None:
        super().__init__(413, TOO_LARGE)


def _length(scope: Scope) -> int:
    said = Headers(scope=scope).get("content-length", "")
    return int(said) if said.isdecimal() else 0


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
