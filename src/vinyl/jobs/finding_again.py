"""Looking for the files of tracks that are away: in a folder, by what is known of them; the user confirms."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from itertools import islice
from pathlib import Path

from vinyl.core.finding_again import FileTraits, match_all
from vinyl.core.naming import file_key, name_key
from vinyl.jobs.background import Background
from vinyl.jobs.importing import CHUNK_FILES, Examined, Importer, examine_some
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.settling import said_by
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library import imports
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.media.files import AllowedRoots, walk_files
from vinyl.media.probe import AUDIO_SUFFIXES

KIND = "find again"
LIMIT_S = 300.0


@dataclass(frozen=True, slots=True)
class FoundFile:
    """Where a track's file is, most likely, and what speaks for it."""

    track_id: int
    title: str
    before: str
    after: str
    confidence: float
    evidence: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class _Away:
    track_id: int
    title: str
    path: str
    traits: FileTraits


class Finder(Background):
    """The kind of job that looks for files, and what is done once the user has confirmed."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers, importer: Importer) -> None:
        super().__init__(database)
        self._roots, self._workers, self._importer = roots, workers, importer

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "file", "by hand", self._step),)

    def add(self, folder: Path) -> Job:
        """Begin to look in a folder (checked by the caller)."""
        return self._runner.begin(KIND, str(folder), {"folder": str(folder)})

    def take(self, job: Job, track_ids: Sequence[int]) -> int:
        """Give tracks the files that were found for them; returns how many.

        Raises:
            LibraryError: if the job has found nothing.
        """
        if job.kind != KIND:
            raise LibraryError("This work has looked for no files.")
        wanted = set(track_ids)
        chosen = [each for each in (job.result or {}).get("found", []) if each["track_id"] in wanted]
        chosen = [each for each in chosen if Path(each["after"]).is_file()]
        with self._database.write(background=True) as connection:
            for each in chosen:
                # Neither size nor time is kept, so that the import looks whether the sound is the same.
                imports.note_place(connection, each["track_id"], each["after"], 0, 0)
        if chosen:
            self._importer.add([Path(each["after"]) for each in chosen], f"Found again: {len(chosen)} files")
        return len(chosen)

    def _step(self, task: Task) -> None:
        lost = away_tracks(self._database.read())
        folder = Path(task.job.payload["folder"])
        known = imports.known_at(self._database.read(), [str(folder)])
        files = [
            str(file)
            for file in walk_files(folder)
            if file.suffix.lower() in AUDIO_SUFFIXES and str(file) not in known
        ]
        there = list(self._examine(task, files))
        matches = match_all([each.traits for each in lost], [traits for _, traits in there])
        found = [
            FoundFile(
                lost[match.lost].track_id,
                lost[match.lost].title,
                lost[match.lost].path,
                there[match.found][0],
                match.likeness.confidence,
                match.likeness.evidence,
            )
            for match in matches
        ]
        task.keep_result({"found": [asdict(each) for each in found], "lost": len(lost)})

    def _examine(self, task: Task, files: Sequence[str]) -> Iterator[tuple[str, FileTraits]]:
        """What tells the files apart; those that cannot be read are passed over and counted as failures."""
        remaining = iter(files)
        done = 0
        while chunk := list(islice(remaining, CHUNK_FILES)):
            task.check()
            task.progress(done, len(files), Path(chunk[0]).name)
            done += len(chunk)
            for each in self._look_at(task, chunk):
                traits = traits_of(self._database.read(), each)
                if traits is not None:
                    yield each.path, traits
        task.progress(len(files), len(files))

    def _look_at(self, task: Task, paths: Sequence[str]) -> list[Examined]:
        """Look at several files; if one is the end of its worker, at each for itself."""
        asked = [(path, None) for path in paths]
        try:
            return self._workers.run(examine_some, asked, self._roots, timeout_s=LIMIT_S, check=task.check)
        except WorkerError as error:
            if len(paths) == 1:
                task.fail_item(Path(paths[0]).name, str(error))
                return []
        return [each for path in paths for each in self._look_at(task, [path])]


def traits_of(connection: sqlite3.Connection, file: Examined) -> FileTraits | None:
    """What tells a file apart, or None for one that is no whole audio file."""
    if file.facts is None or file.tags is None:
        return None
    said = said_by(file.path, file.tags)
    by_source = said.by_source(connection)
    words = {**by_source["file name"], **by_source["file tag"]}
    return FileTraits(
        file.facts.sampled_hash,
        file.size_bytes,
        file.facts.duration_s,
        file_key(Path(file.path).name),
        name_key(words.get("artist", ""), words.get("title", "")),
    )


def away_tracks(connection: sqlite3.Connection) -> list[_Away]:
    """The tracks whose files are not there, with what is known of them."""
    rows = connection.execute(
        """SELECT t.id, t.path, t.sampled_hash, t.size_bytes, t.duration_s, s.artist, s.title
           FROM track t JOIN shelf s ON s.id = t.id WHERE t.away ORDER BY t.id"""
    )
    return [
        _Away(
            row["id"],
            row["title"],
            row["path"],
            FileTraits(
                row["sampled_hash"],
                row["size_bytes"],
                row["duration_s"],
                file_key(Path(row["path"]).name),
                name_key(row["artist"], row["title"]),
            ),
        )
        for row in rows
    ]


def found_files(job: Job) -> list[FoundFile]:
    """What a job has found, the surest first."""
    found = (job.result or {}).get("found", [])
    return [FoundFile(**{**each, "evidence": tuple(each["evidence"])}) for each in found]
