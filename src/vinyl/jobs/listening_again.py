"""Jobs that hear a track anew: a rescan of its beat, what a route leaves of it, and a route as a new file."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vinyl.core.analysis import analyse_blocks
from vinyl.core.cues.routes import Stretch, route_blocks, stretches
from vinyl.core.rhythm.rescan import rescan, rescan_stretch
from vinyl.core.rhythm.tempo_map import Kind as TempoKind
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.workers import Workers
from vinyl.library import grids, routes, tracks
from vinyl.library.database import Database
from vinyl.library.errors import NotFoundError
from vinyl.library.jobs import Job
from vinyl.media.decode import ANALYSIS_RATE_HZ, decode_blocks
from vinyl.media.encode import ENCODINGS, encode_blocks
from vinyl.media.files import AllowedRoots, make_private, replacing

LANE = "by hand"
KEPT_EXPORTS = 12
RESCAN, ROUTE, EXPORT = "rescan", "route", "route export"
LIMIT_S = 3600.0
RATE_HZ = ANALYSIS_RATE_HZ
FRAME_BYTES = 8

Samples = NDArray[np.float32]


class Listener(Background):
    """The kinds of jobs that a person asks for on the Workbench and waits for."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers, scratch: Path) -> None:
        super().__init__(database)
        self._roots = roots
        self._workers = workers
        self._scratch = scratch
        make_private(scratch)
        for old in scratch.glob("*.pcm"):
            old.unlink(missing_ok=True)

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(RESCAN, "second", LANE, self._rescan),
            Kind(ROUTE, "second", LANE, self._hear),
            Kind(EXPORT, "second", LANE, self._export),
        )

    def add(self, kind: str, track_id: int, payload: dict[str, Any]) -> Job:
        """Begin a job about a track, or find the one that does the same."""
        full = {"track_id": track_id, **payload}
        title = tracks.get_track(self._database.read(), track_id)["title"]
        return self._runner.begin(
            kind, title, full, unless=lambda there: next((job for job in there if job.payload == full), None)
        )

    def file_of(self, job: Job) -> Path:
        """The file that an export has written.

        Raises:
            NotFoundError: if it has not, or the file was cleared away.
        """
        if job.kind == EXPORT and job.state == "done":
            path = self._exports() / f"{job.id}{ENCODINGS[job.payload['form']].suffix}"
            if path.is_file():
                return path
        raise NotFoundError("This file is not there (any more): write the route anew.")

    def _rescan(self, task: Task) -> None:
        payload, track_id = task.job.payload, task.job.payload["track_id"]
        row = tracks.get_file(self._database.read(), track_id)
        grid = grids.get_grid(self._database.read(), track_id)
        span_s = None
        if payload["start_s"] is not None and payload["end_s"] is not None and grid is not None:
            span_s = tuple(sorted((max(payload["start_s"], 0.0), min(payload["end_s"], row["duration_s"]))))
        heard = self._run(task, row, hear_rhythm, payload["kind"], grid and grid.tempo_map, span_s)
        with self._database.write(f"Rescan as {payload['kind']}: {task.job.subject}") as connection:
            grids.set_grid(connection, track_id, heard)

    def _hear(self, task: Task) -> None:
        row, played = self._route(task)
        task.keep_result(self._run(task, row, hear_route, played))

    def _export(self, task: Task) -> None:
        row, played = self._route(task)
        form = task.job.payload["form"]
        target = self._exports() / f"{task.job.id}{ENCODINGS[form].suffix}"
        self._run(task, row, write_route, played, str(target), form)
        self._clear_away()
        task.keep_result({"bytes": target.stat().st_size})

    def _clear_away(self) -> None:
        """Keep the newest exports; they are taken from here when they are made."""
        found = [each for each in self._exports().iterdir() if each.stem.isdecimal()]
        for old in sorted(found, key=lambda each: int(each.stem))[:-KEPT_EXPORTS]:
            old.unlink(missing_ok=True)

    def _exports(self) -> Path:
        return make_private(self._scratch / "exports")

    def _route(self, task: Task) -> tuple[Any, list[Stretch]]:
        connection = self._database.read()
        row = tracks.get_file(connection, task.job.payload["track_id"])
        route = routes.get_route(connection, row["id"], task.job.payload["route_id"])
        return row, stretches(route.jumps, row["duration_s"])

    def _run(self, task: Task, row: Any, function: Callable[..., Any], *arguments: Any) -> Any:
        """Call a function on a track's file in a worker, with progress by the seconds it has decoded."""
        source = self._roots.check(Path(row["path"]))
        told = self._scratch / f"{task.job.id}.progress"
        total = round(row["duration_s"])

        def check() -> None:
            task.check()
            task.progress(min(_seconds_in(told), total), total, task.job.subject)

        try:
            return self._workers.run(
                function,
                str(source),
                str(told),
                str(self._scratch),
                *arguments,
                timeout_s=LIMIT_S,
                check=check,
            )
        finally:
            told.unlink(missing_ok=True)


def hear_rhythm(
    path: str,
    told: str,
    scratch: str,
    kind: TempoKind,
    tempo_map: TempoMap | None,
    span_s: tuple[float, float] | None,
) -> TempoMap:
    """The beat of a file or of a stretch of it, heard anew, in a worker."""
    blocks = _telling(path, told)
    if span_s is None or tempo_map is None:
        return rescan(blocks, RATE_HZ, kind)
    return rescan_stretch(blocks, RATE_HZ, tempo_map, kind, span_s)


def hear_route(path: str, told: str, scratch: str, played: list[Stretch]) -> dict[str, Any]:
    """Key, energy and loudness of what a route leaves of its track, in a worker."""
    with _seekable(path, told, scratch) as sound:
        heard = analyse_blocks(route_blocks(sound.read, RATE_HZ, sound.within(played)))
    return {
        "key": str(heard.key.key) if heard.key.key else None,
        "key_confidence": heard.key.confidence,
        "energy": heard.energy.value,
        "lufs": heard.loudness.integrated_lufs,
    }


def write_route(
    path: str, told: str, scratch: str, played: list[Stretch], target: str, form: str, gain_db: float = 0.0
) -> None:
    """A route as a new audio file, in a worker, louder or softer if wished."""
    gain = np.float32(10.0 ** (gain_db / 20.0))
    with _seekable(path, told, scratch) as sound, replacing(Path(target)) as part:
        blocks = route_blocks(sound.read, RATE_HZ, sound.within(played))
        encode_blocks((block * gain for block in blocks), RATE_HZ, part, form)


class _seekable:  # noqa: N801
    """A file's sound on disk, so that any part of it can be read without holding it in memory."""

    def __init__(self, path: str, told: str, scratch: str) -> None:
        self._blocks = _telling(path, told)
        self._scratch = scratch

    def __enter__(self) -> _seekable:
        self._file = tempfile.NamedTemporaryFile(dir=self._scratch, suffix=".pcm")
        for block in self._blocks:
            self._file.write(np.ascontiguousarray(block.T).tobytes())
        self._file.flush()
        self._frames = self._file.tell() // FRAME_BYTES
        return self

    def __exit__(self, *error: object) -> None:
        self._file.close()

    def read(self, first: int, last: int) -> Samples:
        """Samples (2, n) between two frames."""
        self._file.seek(first * FRAME_BYTES)
        found = np.frombuffer(self._file.read((last - first) * FRAME_BYTES), np.float32)
        part: Samples = np.ascontiguousarray(found.reshape(-1, 2).T)
        return part

    def within(self, played: list[Stretch]) -> list[Stretch]:
        """The stretches, none of them beyond the last sample."""
        end_s = self._frames / RATE_HZ
        return [Stretch(s.start_s, min(s.end_s, end_s)) for s in played if s.start_s < end_s]


def _telling(path: str, told: str) -> Iterator[Samples]:
    """A file's blocks; how many seconds have come stands in a small file that the server reads."""
    seen = 0
    for block in decode_blocks(Path(path), RATE_HZ):
        seen += block.shape[1]
        Path(told).write_text(str(seen // RATE_HZ))
        yield np.nan_to_num(block, copy=False, posinf=0.0, neginf=0.0)


def _seconds_in(told: Path) -> int:
    try:
        return int(told.read_text() or 0)
    except (OSError, ValueError):
        return 0
