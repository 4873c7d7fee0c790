"""Asking the server that has a home open; or doing the same without one, while nobody else has the home."""

from __future__ import annotations

import json
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from pydantic import BaseModel

from vinyl.api.convert import job_out
from vinyl.core.errors import VinylError
from vinyl.library.database import Database
from vinyl.library.lock import KEY_HEADER, HomeInUseError, Running, lock_home, running_at
from vinyl.operations.services import Services, Settings

LOOK_S = 0.2
ENDED = frozenset({"done", "cancelled", "failed"})

Here = Callable[[Services], BaseModel | Sequence[BaseModel]]


class Way:
    """How what is asked is done: by the server that has the home open, or here."""

    def __init__(self, services: Services | None, server: Running | None = None) -> None:
        self._services, self._server = services, server

    def ask(self, path: str, here: Here, body: object = None) -> Any:
        """The answer of the server under a path of its API, or what is found here in the same form."""
        if self._services is None:
            return ask_server(self._server, path, body)
        found = here(self._services)
        return found.model_dump() if isinstance(found, BaseModel) else [each.model_dump() for each in found]

    def finished(self, job: Mapping[str, Any]) -> dict[str, Any]:
        """A job once it has ended.

        Raises:
            VinylError: if it has not ended well.
        """
        number = job["id"]
        while job["state"] not in ENDED:
            time.sleep(LOOK_S)
            job = self.ask(f"/api/jobs/{number}", lambda use: job_out(use.runner.get(number)))
        if job["state"] != "done":
            raise VinylError(job["error"] or "It was cancelled.")
        return dict(job)


@contextmanager
def way_to(home: Path, allow: Sequence[Path] = ()) -> Iterator[Way]:
    """The way to a library; without a server, its jobs run here for as long.

    Args:
        allow: folders that may be read and written without a server.
    """
    try:
        lock = lock_home(home)
    except HomeInUseError:
        yield Way(None, running_at(home))
        return
    with lock:
        services = Services(Settings(home, Path(), allow=tuple(allow)))
        services.runner.start()
        try:
            yield Way(services)
        finally:
            services.stop()


def open_library(home: Path) -> Database:
    """A library for reading only, also beside the server that has it open.

    Raises:
        LibraryError: if there is none, or it cannot be opened.
    """
    return Database(home / "library.db", read_only=True)


def ask_server(server: Running | None, path: str, body: object = None) -> Any:
    """The answer of a server that runs.

    Raises:
        VinylError: if it refuses, in its words, or does not answer.
    """
    if server is None:
        raise VinylError(
            "The Vinyl that has this home open has not said where it answers. Try again in a moment."
        )
    data = json.dumps(body).encode() if body is not None else None
    headers = {"Content-Type": "application/json", KEY_HEADER: server.key}
    try:
        with urllib.request.urlopen(urllib.request.Request(server.address + path, data, headers)) as answer:
            return json.load(answer)
    except urllib.error.HTTPError as error:
        raise VinylError(_refusal(error)) from error
    except OSError as error:
        raise VinylError(f"The running Vinyl at {server.address} does not answer ({error}).") from error


def _refusal(error: urllib.error.HTTPError) -> str:
    try:
        said = json.load(error).get("detail")
    except (ValueError, AttributeError):
        said = None
    return said if isinstance(said, str) else f"The server refused this ({error.code})."
