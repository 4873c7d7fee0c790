"""The demo music as a job: each song is made in a worker and comes onto the Shelf as soon as it is there."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from concurrent.futures import Future
from pathlib import Path

from vinyl.core.errors import VinylError
from vinyl.demo.collection import finish, made_of, make_song, odd_files
from vinyl.demo.friend import make_friends_library
from vinyl.demo.rooms import describe_track, in_order
from vinyl.demo.scenario import Song
from vinyl.jobs.background import Background
from vinyl.jobs.importing import Importer
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.workers import Workers, result_of, wait_for_a_while
from vinyl.library import imports, jobs
from vinyl.library.database import Database
from vinyl.library.jobs import Job

KIND = "demo"
LIMIT_S = 300.0


class DemoMaker(Background):
    """The kind of job that makes the demo music, brings it in, and gives it what its DJ has made of it."""

    def __init__(self, database: Database, folder: Path, workers: Workers, importer: Importer) -> None:
        super().__init__(database)
        self._folder = folder
        self._workers = workers
        self._importer = importer

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "track", KIND, self._step),)

    def begin(self) -> Job:
        """Begin to make the music."""
        return self._runner.begin(
            KIND, "Demo music", {"folder": str(self._folder)}, unless=lambda there: next(iter(there), None)
        )

    def begin_once(self) -> None:
        """Begin, unless that was ever done, or there is music already."""
        read = self._database.read()
        is_used = read.execute("SELECT 1 FROM track LIMIT 1").fetchone() is not None
        if not is_used and not jobs.list_jobs(read, (KIND,), 1):
            self.begin()

    def _step(self, task: Task) -> None:
        songs = in_order()
        making = [self._workers.submit(make_song, each, self._folder, timeout_s=LIMIT_S) for each in songs]
        try:
            for done, (song, made) in enumerate(zip(songs, making, strict=True)):
                task.progress(done, len(songs), song.title)
                self._try(task, song, made)
        finally:
            for made in making:
                made.cancel()
        task.progress(len(songs), len(songs))
        if not task.job.failures:
            self._importer.take(task, odd_files(self._folder))
            finish(self._folder)
            make_friends_library(self._folder)

    def _try(self, task: Task, song: Song, made: Future[None]) -> None:
        try:
            self._take_in(task, song, made)
        except VinylError as error:
            task.fail_item(song.title, str(error))

    def _take_in(self, task: Task, song: Song, made: Future[None]) -> None:
        """Wait for a song, and put it onto the Shelf and to where it belongs."""
        while not made.done():
            task.check()
            wait_for_a_while(made)
        result_of(made)
        truths = made_of(self._folder, song)
        paths = [self._folder / "music" / truth["path"] for truth in truths]
        self._importer.take(task, paths)
        with self._database.write(background=True) as connection:
            track_id = _track_at(connection, paths[0])
            if track_id is not None:
                describe_track(connection, song, track_id, truths[0])


def _track_at(connection: sqlite3.Connection, path: Path) -> int | None:
    return imports.at_paths(connection, [str(path)]).get(str(path))
