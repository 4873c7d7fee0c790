"""Reading the tags of tracks again: what is different is shown for some, and taken in for any number."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.settling import said_by
from vinyl.jobs.workers import Workers
from vinyl.library import tracks, undo
from vinyl.library.database import Database
from vinyl.library.errors import NotFoundError
from vinyl.library.jobs import Job
from vinyl.library.tracks import Difference, Said
from vinyl.media.files import AllowedRoots, FolderError
from vinyl.media.tags import read_tags

KIND = "tags"
# Files of one errand of a worker, and tracks of a transaction.
BATCH = 50
LIMIT_S = 120.0
GONE = "Its file is not there: plug in its drive, then read it again."


def read_all(paths: Sequence[str], roots: AllowedRoots) -> list[Said | str]:
    """What each file says, or why it cannot be read; in a worker."""
    return [_read(path, roots) for path in paths]


def _read(path: str, roots: AllowedRoots) -> Said | str:
    file = Path(path)
    try:
        roots.check(file)
    except FolderError as error:
        return str(error)
    if not file.is_file():
        return GONE
    tags = read_tags(file)
    return tags.problem or said_by(path, tags)


class Rereader(Background):
    """The kind of job that reads tags again."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers) -> None:
        super().__init__(database)
        self._roots, self._workers = roots, workers

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "track", "by hand", self._step),)

    def add(self, track_ids: Sequence[int]) -> Job:
        """Begin to take in what files say now."""
        many = "a track" if len(track_ids) == 1 else f"{len(track_ids)} tracks"
        return self._runner.begin(KIND, many, {"track_ids": list(track_ids)})

    def differences(self, track_ids: Sequence[int]) -> list[Difference]:
        """What the files of tracks say that is not what the library has of them."""
        read = self._database.read()
        return [
            difference
            for track_id, said in self._said(track_ids)
            if isinstance(said, Said)
            for difference in tracks.differences(read, track_id, said)
        ]

    def _said(self, track_ids: Sequence[int]) -> list[tuple[int, Said | str]]:
        """What the files of tracks say; those that are not in the library any more are left out."""
        read, there = self._database.read(), []
        for track_id in track_ids:
            try:
                there.append((track_id, str(tracks.get_file(read, track_id)["path"])))
            except NotFoundError:
                continue
        paths = [path for _, path in there]
        said = self._workers.run(read_all, paths, self._roots, timeout_s=LIMIT_S)
        return [(track_id, each) for (track_id, _), each in zip(there, said, strict=True)]

    def _step(self, task: Task) -> None:
        ids: list[int] = task.job.payload["track_ids"]
        changed, step = 0, None
        for start in range(0, len(ids), BATCH):
            task.check()
            task.progress(start, len(ids))
            said = self._said(ids[start : start + BATCH])
            with self._database.write(f"Take in the tags of {task.job.subject}", onto=step) as connection:
                kept = [
                    tracks.keep_said(connection, track_id, each)
                    for track_id, each in said
                    if isinstance(each, Said)
                ]
                step = undo.recorded_step(connection)
            changed += sum(bool(fields) for fields in kept)
            for track_id, each in said:
                if isinstance(each, str):
                    title = tracks.get_track(self._database.read(), track_id)["title"]
                    task.fail_item(title, each, track_id)
        task.progress(len(ids), len(ids))
        task.keep_result({"tracks": changed})
