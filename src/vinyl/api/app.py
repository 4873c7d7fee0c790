"""The web application: routers, errors in words, and the interface's files."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import AsyncIterator, Callable, Sequence
from contextlib import asynccontextmanager
from functools import partial
from pathlib import Path
from typing import Any

from anyio.to_thread import current_default_thread_limiter
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import FileResponse, JSONResponse, Response
from fastapi.staticfiles import StaticFiles
from starlette.types import ASGIApp

from vinyl import __version__
from vinyl.api import (
    analysis,
    arrivals,
    away,
    coming,
    crates,
    cues,
    describing,
    events,
    exchange,
    finding,
    folders,
    history,
    jobs,
    lists,
    logbook,
    mixes,
    nights,
    off_shelf,
    playlists,
    preparing,
    routes,
    rules,
    sets,
    sticks,
    tag_writing,
    tags,
    tracks,
    twins,
    values,
    workbench,
)
from vinyl.api.guard import LimitBodies, LocalOnly
from vinyl.api.models.shared import Problem
from vinyl.api.telling import TellChanges
from vinyl.core.errors import VinylError
from vinyl.core.foreign_paths import PathMapping, map_path, parse_path
from vinyl.jobs.workers import WorkerError
from vinyl.library import destinations
from vinyl.library.database import MOST_WAITING
from vinyl.library.errors import LibraryBusyError, NotFoundError
from vinyl.library.storage import storage_words
from vinyl.media.files import FolderError
from vinyl.media.listening import NotReadyError
from vinyl.operations.services import Services, Settings
from vinyl.standin_libraries.app import reader_app
from vinyl.standin_player.app import player_app
from vinyl.sticks.errors import StickError

ROUTERS = (
    rules,
    lists,
    analysis,
    arrivals,
    folders,
    away,
    off_shelf,
    jobs,
    tracks,
    twins,
    tags,
    describing,
    finding,
    values,
    workbench,
    cues,
    routes,
    preparing,
    crates,
    logbook,
    nights,
    playlists,
    tag_writing,
    history,
    sets,
    mixes,
    sticks,
    exchange,
    coming,
    events,
)
STATUS = (
    (NotReadyError, 503),
    (NotFoundError, 404),
    (LibraryBusyError, 503),
    (FolderError, 403),
    (StickError, 409),
    (VinylError, 422),
)
OTHER_SIDE_S = 60.0
REFUSALS: dict[int | str, dict[str, Any]] = {code: {"model": Problem} for code in (403, 404, 409, 422)}

log = logging.getLogger("vinyl")


def create_app(settings: Settings) -> FastAPI:
    """The application over a library; background work begins when it starts."""
    services = Services(settings)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        # More than may wait for their turn to write: whoever reads finds a thread that is free.
        current_default_thread_limiter().total_tokens = 2 * MOST_WAITING
        services.start()
        yield
        services.stop()

    app = FastAPI(
        title="Vinyl",
        version=__version__,
        lifespan=lifespan,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        separate_input_output_schemas=False,
    )
    app.state.services = services
    app.add_middleware(TellChanges)
    app.add_middleware(LimitBodies)
    app.add_middleware(LocalOnly, key=services.key)
    for module in ROUTERS:
        app.include_router(module.router, responses=REFUSALS)
    app.add_exception_handler(VinylError, _known)
    app.add_exception_handler(RequestValidationError, _invalid)
    app.add_exception_handler(OverflowError, _too_large)
    app.add_exception_handler(UnicodeEncodeError, _no_text)
    app.add_exception_handler(RecursionError, _too_deep)
    app.add_exception_handler(sqlite3.DatabaseError, _storage)
    app.add_exception_handler(OSError, _storage)
    app.add_exception_handler(Exception, _unexpected)
    app.mount("/other-side", _other_side(services))
    app.mount("/player", player_app(settings.sticks, settings.web))
    _serve_interface(app, settings.web)
    return app


def _other_side(services: Services) -> ASGIApp:
    """What the other programs would show, each time in a process of its own."""

    def here() -> Callable[[str], str]:
        kept = destinations.list_destinations(services.database.read())
        pairs = [pair for each in kept for pair in each.told.get("mappings", ())]
        return partial(
            _path_here, [PathMapping(pair["there"], pair["here"]) for pair in pairs if pair["there"]]
        )

    def run(function: Callable[..., tuple[str, int]], *given: Any) -> tuple[str, int]:
        try:
            return services.quick.run(function, *given, timeout_s=OTHER_SIDE_S)
        except WorkerError as error:
            return f"<p>This library cannot be shown. {error}</p>", 422

    return reader_app(services.roots.is_allowed, here, run)


def _path_here(mappings: Sequence[PathMapping], path: str) -> str:
    """Where a path lies here that was put for others."""
    parsed = parse_path(path)
    return next(iter(map_path(parsed, mappings) if parsed else ()), path)


async def _known(request: Request, error: Exception) -> JSONResponse:
    status = next(code for kind, code in STATUS if isinstance(error, kind))
    return JSONResponse({"detail": str(error)}, status_code=status)


async def _invalid(request: Request, error: Exception) -> JSONResponse:
    if not isinstance(error, RequestValidationError):
        raise error
    parts = [f"{'.'.join(str(p) for p in e['loc'][1:]) or 'the request'}: {e['msg']}" for e in error.errors()]
    told = "This was not understood. " + "; ".join(parts)
    return JSONResponse({"detail": told.encode("utf-8", "replace").decode()}, status_code=422)


async def _too_large(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse({"detail": "There is nothing with so large a number."}, status_code=422)


async def _no_text(request: Request, error: Exception) -> JSONResponse:
    words = "This holds half of a character, which cannot be kept: type it anew. Nothing was changed."
    return JSONResponse({"detail": words}, status_code=422)


async def _too_deep(request: Request, error: Exception) -> JSONResponse:
    return JSONResponse({"detail": "This is nested too deep. Nothing was changed."}, status_code=422)


async def _storage(request: Request, error: Exception) -> JSONResponse:
    """A disk that is full, a library that another program holds: said as what it is. All else is a fault of
    ours.
    """
    words = storage_words(error)
    if words is None:
        log.error("unexpected", exc_info=error)
        return await _unexpected(request, error)
    log.error("storage: %s", error)
    return JSONResponse({"detail": words}, status_code=507)


async def _unexpected(request: Request, error: Exception) -> JSONResponse:
    message = (
        f"Vinyl made an error of its own ({type(error).__name__}); "
        "it is noted in the log. Nothing was changed."
    )
    return JSONResponse({"detail": message}, status_code=500)


def _serve_interface(app: FastAPI, web: Path) -> None:
    """The built interface; every path of its own leads to its one page."""
    if (web / "assets").is_dir():
        app.mount("/assets", StaticFiles(directory=web / "assets"))

    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> Response:
        if path.startswith("api/"):
            return JSONResponse({"detail": f"There is nothing under /{path}."}, status_code=404)
        if not (web / "index.html").is_file():
            return JSONResponse(
                {"detail": "The interface is not built. Start Vinyl with ./vinyl start."}, status_code=503
            )
        return FileResponse(web / "index.html", headers={"Cache-Control": "no-cache"})
