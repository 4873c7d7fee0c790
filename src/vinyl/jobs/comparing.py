"""Hearing tracks again with other settings, only to see what would be different; nothing is replaced."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import Any

from vinyl.core.analysis import Analysis
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.windows import Window
from vinyl.jobs.analysing import LEAST_LIMIT_S, LIMIT_SHARE, analyse_file
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.workers import Workers
from vinyl.library import queue, tracks, values
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.jobs import Job
from vinyl.library.queue import PARTS, Part
from vinyl.media.files import AllowedRoots

KIND = "compare"
MOST_COMPARED = 1000
# Tempi that differ by less are the same for all that is done with them.
SAME_BPM = 0.005
# So do grids whose doubt differs by less.
SAME_DOUBT = 0.1


@dataclass(frozen=True, slots=True)
class HeardDifference:
    """A value that another analysis would give a track; None where there is none."""

    track_id: int
    title: str
    field: str
    before: str | None
    after: str | None


class Comparer(Background):
    """The kind of job that hears tracks again and keeps what would be different."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers) -> None:
        super().__init__(database)
        self._roots, self._workers = roots, workers

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "track", KIND, self._step),)

    def add(self, track_ids: Sequence[int], window_bpm: Window | None, parts: Sequence[Part]) -> Job:
        """Begin to hear tracks again.

        Raises:
            LibraryError: for more tracks than can be looked at one by one.
        """
        if len(track_ids) > MOST_COMPARED:
            raise LibraryError(f"{MOST_COMPARED} tracks can be compared at once; choose fewer.")
        many = "a track" if len(track_ids) == 1 else f"{len(track_ids)} tracks"
        payload = {"track_ids": list(track_ids), "window_bpm": window_bpm, "parts": list(parts)}
        return self._runner.begin(KIND, many, payload)

    def _step(self, task: Task) -> None:
        ids: list[int] = task.job.payload["track_ids"]
        window, parts = task.job.payload["window_bpm"], task.job.payload["parts"]
        found: list[HeardDifference] = []
        try:
            for number, track_id in enumerate(ids):
                task.check()
                task.progress(number, len(ids))
                found += self._compare(task, track_id, window and (window[0], window[1]), parts)
        finally:
            task.keep_result({"differences": [asdict(each) for each in found]})
        task.progress(len(ids), len(ids))

    def _compare(
        self, task: Task, track_id: int, window_bpm: Window | None, parts: Sequence[Part]
    ) -> list[HeardDifference]:
        read = self._database.read()
        try:
            file, row = tracks.get_file(read, track_id), tracks.get_track(read, track_id)
        except NotFoundError:
            return []
        try:
            result = self._workers.run(
                analyse_file,
                str(self._roots.check(Path(file["path"]))),
                window_bpm or queue.window_of(read, row["genre"]),
                timeout_s=max(LEAST_LIMIT_S, LIMIT_SHARE * file["duration_s"]),
                check=task.check,
            )
        except VinylError as error:
            task.fail_item(row["title"], str(error), track_id)
            return []
        return differences_of(read, row, result, parts)


def differences_of(
    connection: sqlite3.Connection, row: sqlite3.Row, result: Analysis, parts: Sequence[Part] = PARTS
) -> list[HeardDifference]:
    """What an analysis says of a track that is not what analysis said of it before."""
    before: dict[str, Any] = {
        each.field: each.value
        for each in values.sources_of(connection, row["id"], ["tempo", "key", "energy", "grid"])
        if each.origin == "analysis"
    }
    said = {field: value.text for field, value in before.items()}
    bpm = result.grid.tempo_map.bpm if result.grid else None
    old_bpm = float(said["tempo"]) if said.get("tempo") else None
    doubt = result.grid.doubt if result.grid else 1.0
    old_doubt = before["grid"].doubt if "grid" in before else None
    key = str(result.key.key) if result.key.key else None
    energy = str(result.energy.value)
    found = [
        ("grid", "tempo", _bpm(old_bpm), _bpm(bpm), _far(old_bpm, bpm, SAME_BPM)),
        ("grid", "doubt", _share(old_doubt), _share(doubt), _far(old_doubt, doubt, SAME_DOUBT)),
        ("key", "key", said.get("key"), key, said.get("key") != key),
        ("energy", "energy", said.get("energy"), energy, said.get("energy") != energy),
    ]
    return [
        HeardDifference(row["id"], row["title"], field, old, new)
        for part, field, old, new, differs in found
        if part in parts and differs
    ]


def _far(old: float | None, new: float | None, same: float) -> bool:
    return old is not new if old is None or new is None else abs(old - new) > same


def _bpm(bpm: float | None) -> str | None:
    return None if bpm is None else f"{bpm:.2f}"


def _share(doubt: float | None) -> str | None:
    return None if doubt is None else f"{100 * doubt:.0f} %"
