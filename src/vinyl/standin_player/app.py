"""The player's own small server: which sticks are in the player, their index, and their files."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from starlette.applications import Starlette
from starlette.background import BackgroundTask
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import FileResponse, JSONResponse, Response
from starlette.routing import Route

from vinyl.standin_player.decoding import decoded

INDEX_FILE = "vinyl-stick.json"
MEDIUM_FILE = ".stand-in-medium.json"
PLAYS_FILE = "plays.jsonl"
CHANGES_FILE = "changes.jsonl"
SUPPORTED = ("vinyl-stick", 2)
PLAY = ("play", "track", "began_at", "heard_s")
CHANGE = ("change", "at", "on", "player", "what", "track", "list", "cues", "before", "anchors",
          "beats_per_bar", "stars", "tracks")  # fmt: skip


NO_FILE = JSONResponse({"detail": "This file is not on the stick."}, status_code=404)
NO_STICK = JSONResponse({"detail": "There is no such stick in the player."}, status_code=409)


def player_app(slots: Path, web: Path) -> Starlette:
    """An application that reads the stick folders in ``slots`` and serves the player's page from ``web``."""

    def page(request: Request) -> Response:
        return FileResponse(web / "player.html", headers={"Cache-Control": "no-cache"})

    def sticks(request: Request) -> Response:
        return JSONResponse(
            [stick_state(folder) for folder in sorted(slots.glob("*/")) if (folder / MEDIUM_FILE).exists()]
        )

    def index(request: Request) -> Response:
        folder = slots / request.path_params["stick"]
        problem = stick_state(folder)["problem"]
        return (
            JSONResponse({"detail": problem}, status_code=409)
            if problem
            else FileResponse(folder / INDEX_FILE)
        )

    def found(request: Request) -> Path | None:
        folder = (slots / request.path_params["stick"]).resolve()
        path = (folder / request.path_params["path"]).resolve()
        inside = folder.parent == slots.resolve() and path.is_relative_to(folder)
        return path if inside and path.is_file() and not stick_state(folder)["problem"] else None

    def file(request: Request) -> Response:
        path = found(request)
        return FileResponse(path) if path else NO_FILE

    def sound(request: Request) -> Response:
        path = found(request)
        wav = decoded(path) if path else None
        if wav is None:
            return NO_FILE
        return FileResponse(wav, background=BackgroundTask(wav.unlink, missing_ok=True))

    async def played(request: Request) -> Response:
        return await _noted(slots, request, PLAYS_FILE, PLAY)

    async def changed(request: Request) -> Response:
        return await _noted(slots, request, CHANGES_FILE, CHANGE)

    def changes(request: Request) -> Response:
        folder = slots / request.path_params["stick"]
        if folder.parent != slots or stick_state(folder)["problem"]:
            return NO_STICK
        return JSONResponse(list(_lines(folder / CHANGES_FILE)))

    return Starlette(
        routes=[
            Route("/", page),
            Route("/sticks", sticks),
            Route("/sticks/{stick}/index", index),
            Route("/sticks/{stick}/plays", played, methods=["POST"]),
            Route("/sticks/{stick}/changes", changes),
            Route("/sticks/{stick}/changes", changed, methods=["POST"]),
            Route("/sticks/{stick}/files/{path:path}", file),
            Route("/sticks/{stick}/sound/{path:path}", sound),
        ]
    )


def stick_state(folder: Path) -> dict[str, Any]:
    """Name of a stick and why the player cannot read it, or None."""
    return {"name": folder.name, "problem": _problem(folder)}


def _problem(folder: Path) -> str | None:
    medium = _read_json(folder / MEDIUM_FILE)
    if not isinstance(medium, dict):
        return "There is no such stick."
    if medium.get("plugged_in"):
        return "It is still in the computer: eject it in Vinyl first."
    index = _read_json(folder / INDEX_FILE)
    if not isinstance(index, dict):
        return "There is nothing on it that this player can read."
    if (index.get("format"), index.get("version")) != SUPPORTED:
        return "It was written in a format that this player does not know."
    return None


async def _noted(slots: Path, request: Request, paper: str, names: tuple[str, ...]) -> Response:
    """A line more in one of the stick's papers."""
    folder = slots / request.path_params["stick"]
    if folder.parent != slots or stick_state(folder)["problem"]:
        return NO_STICK
    try:
        said = await request.json()
    except (ValueError, RecursionError):
        said = None
    if not isinstance(said, dict):
        return JSONResponse({"detail": "This is nothing that a player writes down."}, status_code=422)
    line = {name: said[name] for name in names if name in said}
    try:
        await run_in_threadpool(_append, folder / paper, json.dumps(line))
    except OSError as error:
        return JSONResponse({"detail": f"The stick does not take it: {error.strerror}."}, status_code=507)
    return Response(status_code=204)


def _lines(path: Path) -> Iterator[Any]:
    """The lines that can be read."""
    try:
        lines = path.read_text(encoding="utf-8").split("\n")
    except (OSError, UnicodeDecodeError):
        return
    for line in lines:
        try:
            yield json.loads(line)
        except (ValueError, RecursionError):
            continue


def _append(path: Path, line: str) -> None:
    """A line more, on the medium before anything else is said; never through a link."""
    handle = os.open(path, os.O_WRONLY | os.O_APPEND | os.O_CREAT | os.O_NOFOLLOW, 0o644)
    with os.fdopen(handle, "a", encoding="utf-8") as file:
        file.write(f"{line}\n")
        file.flush()
        os.fsync(file.fileno())


def _read_json(path: Path) -> Any:
    try:
        return json.loads(path.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return None
