"""What players wrote on sticks, read in a worker when it has changed, and kept until it changes again."""

from __future__ import annotations

import threading
from pathlib import Path

from vinyl.jobs.workers import WorkerError, Workers
from vinyl.sticks.changes import CHANGES_FILE
from vinyl.sticks.index import INDEX_FILE
from vinyl.sticks.papers import Papers, has_papers, read_papers
from vinyl.sticks.plays import PLAYS_FILE
from vinyl.sticks.store import Stick

LIMIT_S = 60.0
MADE_OF = (CHANGES_FILE, PLAYS_FILE, INDEX_FILE)

State = tuple[tuple[int, int] | None, ...]


class PaperReader:
    """Reads the papers of sticks, each as often as it has changed."""

    def __init__(self, workers: Workers) -> None:
        self._workers = workers
        self._lock = threading.Lock()
        self._kept: dict[int, tuple[State, Papers]] = {}

    def of(self, stick: Stick) -> Papers:
        """What players wrote on a stick; nothing while it is not in the computer."""
        folder = stick.medium.folder
        if not stick.medium.is_in or not has_papers(folder):
            return Papers()
        with self._lock:
            state = tuple(_state(folder / name) for name in MADE_OF)
            kept = self._kept.get(stick.id)
            if kept is None or kept[0] != state:
                kept = self._kept[stick.id] = (state, self._read(folder))
            return kept[1]

    def _read(self, folder: Path) -> Papers:
        try:
            return self._workers.run(read_papers, folder, timeout_s=LIMIT_S)
        except WorkerError as error:
            return Papers(left_out=(f"What players wrote on this stick cannot be read. {error}",))


def _state(path: Path) -> tuple[int, int] | None:
    try:
        stat = path.stat()
    except OSError:
        return None
    return stat.st_size, stat.st_mtime_ns
