"""``./vinyl import``: bringing files in from the command line, by the server that runs or without one."""

from __future__ import annotations

import json
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import Any

from vinyl.api.convert import import_out
from vinyl.api.services import Services, Settings
from vinyl.core.errors import VinylError
from vinyl.library import imports
from vinyl.library.lock import HomeInUseError, address_of, lock_home

LOOK_S = 0.2
ENDED = frozenset({"done", "cancelled", "failed"})

Ask = Callable[[], dict[str, Any]]


def bring_in(home: Path, paths: Sequence[Path]) -> int:
    """Import files and folders and say what became of them; the exit code is 1 if anything went wrong."""
    try:
        lock = lock_home(home)
    except HomeInUseError:
        return _by_server(address_of(home), paths)
    with lock:
        return _alone(home, paths)


def _alone(home: Path, paths: Sequence[Path]) -> int:
    """Without a server: what is named may be read. Analysis waits for the next start."""
    allowed = tuple(path if path.is_dir() else path.parent for path in paths if path.exists())
    services = Services(Settings(home, Path(), allow=allowed))
    checked = [services.roots.check_file_or_folder(path) for path in paths]
    services.runner.start()
    try:
        job = services.importer.add(checked)
        read = services.database.read()
        state = _wait(
            lambda: import_out(services.runner.get(job.id), imports.outcomes_of(read, job.id)).model_dump()
        )
        broken = imports.list_files(read, job.id, "broken", 0, -1)
        return _say(state, [(file.path, file.reason) for file in broken])
    finally:
        services.stop()


def _by_server(address: str, paths: Sequence[Path]) -> int:
    """By the server that has the home open: it goes on when this command is interrupted."""
    made = ask_server(address, "/api/imports", {"paths": [str(path) for path in paths]})
    listed = f"/api/imports/{made['id']}"
    state = _wait(lambda: next(run for run in ask_server(address, "/api/imports") if run["id"] == made["id"]))
    broken = ask_server(address, f"{listed}/files?outcome=broken&limit=1000")
    return _say(state, [(file["path"], file["reason"]) for file in broken])


def ask_server(address: str, path: str, body: object = None) -> Any:
    """The answer of a server that runs.

    Raises:
        VinylError: if it refuses, in its words, or does not answer.
    """
    data = json.dumps(body).encode() if body is not None else None
    request = urllib.request.Request(address + path, data, {"Content-Type": "application/json"})
    try:
        with urllib.request.urlopen(request) as answer:
            return json.load(answer)
    except urllib.error.HTTPError as error:
        raise VinylError(
            json.load(error).get("detail", f"The server refused this ({error.code}).")
        ) from error
    except OSError as error:
        raise VinylError(
            f"The running Vinyl at {address or 'this home'} does not answer ({error})."
        ) from error


def _wait(ask: Ask) -> dict[str, Any]:
    """The state of an import once it has ended; how far it is is told on a terminal."""
    while (state := ask())["state"] not in ENDED:
        if sys.stderr.isatty():
            print(f"\r{state['done']} of {state['total'] or '…'}", end="", file=sys.stderr, flush=True)
        time.sleep(LOOK_S)
    return state


def _say(state: dict[str, Any], broken: Sequence[tuple[str, str]]) -> int:
    for path, reason in broken:
        print(f"broken: {path}: {reason}")
    counts = (f"{count} {name.replace('_', ' ')}" for name, count in state["outcomes"].items() if count)
    print(", ".join(counts) or "There was nothing to import.")
    if state["error"]:
        print(state["error"], file=sys.stderr)
    return 1 if broken or state["state"] != "done" else 0
