"""``./vinyl import``: bringing files in from the command line, by the server that runs or without one."""

from __future__ import annotations

import sys
import time
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from vinyl.api.convert import import_out
from vinyl.api.models.arrivals import ImportedFileOut, ImportOut
from vinyl.commands.client import ENDED, LOOK_S, Way, way_to
from vinyl.library import imports
from vinyl.operations import arrivals
from vinyl.operations.services import Services

MOST_SAID = 1000


def bring_in(home: Path, paths: Sequence[Path]) -> int:
    """Import files and folders and say what became of them; the exit code is 1 if anything went wrong.

    A server goes on when this command is interrupted; without one, analysis waits for the next start.
    """
    allowed = [path if path.is_dir() else path.parent for path in paths if path.exists()]
    with way_to(home, allowed) as way:
        body = {"paths": [str(path) for path in paths]}
        made = way.ask("/api/imports", lambda use: _begun(use, paths), body)
        state = _ended(way, made["id"])
        listed = f"/api/imports/{made['id']}/files?outcome=broken&limit={MOST_SAID}"
        broken = way.ask(listed, lambda use: _broken(use, made["id"]))
    return _say(state, [(file["path"], file["reason"]) for file in broken])


def _begun(use: Services, paths: Sequence[Path]) -> ImportOut:
    return _out(use, arrivals.begin_import(use, paths).id)


def _out(use: Services, job_id: int) -> ImportOut:
    return import_out(use.runner.get(job_id), imports.outcomes_of(use.database.read(), job_id))


def _broken(use: Services, job_id: int) -> list[ImportedFileOut]:
    files = imports.list_files(use.database.read(), job_id, "broken", 0, MOST_SAID)
    return [ImportedFileOut.model_validate(file) for file in files]


def _ended(way: Way, job_id: int) -> dict[str, Any]:
    """The state of an import once it has ended; how far it is is told on a terminal."""
    while True:
        runs = way.ask("/api/imports", lambda use: [_out(use, job_id)])
        state: dict[str, Any] = next(run for run in runs if run["id"] == job_id)
        if state["state"] in ENDED:
            return state
        if sys.stderr.isatty():
            print(f"\r{state['done']} of {state['total'] or '…'}", end="", file=sys.stderr, flush=True)
        time.sleep(LOOK_S)


def _say(state: dict[str, Any], broken: Sequence[tuple[str, str]]) -> int:
    for path, reason in broken:
        print(f"broken: {path}: {reason}")
    counts = (f"{count} {name.replace('_', ' ')}" for name, count in state["outcomes"].items() if count)
    print(", ".join(counts) or "There was nothing to import.")
    if state["error"]:
        print(state["error"], file=sys.stderr)
    return 1 if broken or state["state"] != "done" else 0
