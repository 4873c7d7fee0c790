"""Importing folders: each file is looked at, added or refused with a reason, and left as it is."""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from vinyl.jobs.events import Broadcaster
from vinyl.library import analyses, imports
from vinyl.library.database import Database
from vinyl.library.imports import ImportRun, Outcome
from vinyl.library.tracks import NewTrack, add_track
from vinyl.media.errors import BrokenAudioError, NotAudioError
from vinyl.media.files import AllowedRoots, FolderError, walk_files
from vinyl.media.probe import AUDIO_SUFFIXES, FileFacts, probe
from vinyl.media.tags import Tags, read_tags

READERS = 3
BATCH_FILES = 20
BATCH_S = 0.4
RETRY_S = 5.0

log = logging.getLogger("vinyl.importing")


@dataclass(frozen=True, slots=True)
class Examined:
    """What was found out about a file: either facts and tags, or an outcome with its reason."""

    path: str
    size_bytes: int = 0
    modified_ns: int = 0
    facts: FileFacts | None = None
    tags: Tags | None = None
    refused: tuple[Outcome, str] | None = None


class Importer:
    """Runs imports one after another in a thread, and takes up those that a killed server left."""

    def __init__(
        self, database: Database, roots: AllowedRoots, events: Broadcaster, on_added: threading.Event
    ) -> None:
        self._database = database
        self._roots = roots
        self._events = events
        self._on_added = on_added
        self._cancelled: set[int] = set()
        self._wake = threading.Event()
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._loop, name="importer", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def stop(self) -> None:
        self._stop.set()
        self._wake.set()
        self._thread.join(timeout=10)

    def add(self, folder: Path) -> int:
        """Begin importing a folder (checked by the caller); returns the run's id."""
        with self._database.write() as connection:
            run_id = imports.begin(connection, str(folder))
        self._wake.set()
        self._publish(run_id)
        return run_id

    def cancel(self, run_id: int) -> None:
        """Stop a run; what it added stays."""
        self._cancelled.add(run_id)
        with self._database.write() as connection:
            imports.finish(connection, run_id, "cancelled")
        self._publish(run_id)

    def _loop(self) -> None:
        imports.mark_away(self._database)
        while not self._stop.is_set():
            run = imports.next_running(self._database.read())
            if run is None:
                self._wake.wait()
                self._wake.clear()
                continue
            try:
                self._run(run)
            except sqlite3.OperationalError as error:
                log.error("importing waits: the library cannot be written (%s)", error)
                self._stop.wait(RETRY_S)

    def _run(self, run: ImportRun) -> None:
        try:
            if not Path(run.folder).is_dir():
                raise FileNotFoundError(f"{run.folder} is not there (any more)")
            files = [str(path) for path in walk_files(Path(run.folder))]
            with self._database.write() as connection:
                imports.set_total(connection, run.id, len(files))
            known = imports.known_files(self._database.read(), run.id)
            done = imports.done_paths(self._database.read(), run.id)
            for batch in _batches(self._examine((f for f in files if f not in done), known)):
                if self._stop.is_set():
                    return
                if run.id in self._cancelled:
                    return
                self._store(run.id, batch)
            state, error = "done", None
        except (OSError, sqlite3.OperationalError) as problem:
            state, error = (
                "failed",
                f"The import stopped: {problem}. What was added stays; import the folder again to go on.",
            )
        with self._database.write() as connection:
            imports.finish(connection, run.id, state, error)
        self._publish(run.id)

    def _examine(self, files: Iterable[str], known: dict[str, tuple[int, int]]) -> Iterator[Examined]:
        """Look at files with a few readers ahead, in order."""
        with ThreadPoolExecutor(READERS) as pool:
            ahead: deque[Future[Examined]] = deque()
            for path in files:
                ahead.append(pool.submit(examine, path, known.get(path), self._roots))
                if len(ahead) > 2 * READERS:
                    yield ahead.popleft().result()
            while ahead:
                yield ahead.popleft().result()

    def _store(self, run_id: int, batch: list[Examined]) -> None:
        with self._database.write() as connection:
            for file in batch:
                outcome, reason, track_id = _settle(connection, file)
                imports.note_file(connection, run_id, file.path, outcome, reason, track_id)
        self._on_added.set()
        self._publish(run_id)

    def _publish(self, run_id: int) -> None:
        self._events.publish({"type": "import", "run_id": run_id})


def examine(path: str, known: tuple[int, int] | None, roots: AllowedRoots) -> Examined:
    """Look at one file. ``known`` is size and time of change of a file that is in the library under this path."""
    file = Path(path)
    try:
        stat = file.stat()
        if known == (stat.st_size, stat.st_mtime_ns):
            return Examined(path, refused=("already here", "It was imported before and has not changed."))
        if file.suffix.lower() not in AUDIO_SUFFIXES:
            return Examined(
                path, refused=("not audio", f"Vinyl reads no files that end in “{file.suffix or file.name}”.")
            )
        roots.check(file)
        return Examined(path, stat.st_size, stat.st_mtime_ns, probe(file), read_tags(file))
    except NotAudioError as error:
        return Examined(path, refused=("not audio", str(error)))
    except (BrokenAudioError, FolderError) as error:
        return Examined(path, refused=("broken", str(error)))
    except OSError as error:
        return Examined(path, refused=("broken", f"The file could not be read: {error.strerror}."))


def _settle(connection: sqlite3.Connection, file: Examined) -> tuple[Outcome, str, int | None]:
    """Decide what becomes of a file, and add it if it is new."""
    if file.refused:
        return *file.refused, None
    if file.facts is None or file.tags is None:
        raise ValueError("an examined file has facts or a refusal")
    same_path = connection.execute("SELECT id FROM track WHERE path = ?", (file.path,)).fetchone()
    if same_path:
        imports.refresh(connection, same_path["id"], file.path, file.size_bytes, file.modified_ns)
        return "already here", "It was imported before.", same_path["id"]
    twin = connection.execute(
        "SELECT id, path FROM track WHERE audio_hash = ? ORDER BY id", (file.facts.audio_hash,)
    ).fetchone()
    if twin is None:
        track_id = add_track(connection, _new_track(file, file.facts, file.tags))
        analyses.enqueue(connection, track_id)
        return "added", "", track_id
    if not Path(twin["path"]).exists():
        imports.refresh(connection, twin["id"], file.path, file.size_bytes, file.modified_ns)
        return (
            "already here",
            f"It was moved here from {twin['path']}; cues and crates came along.",
            twin["id"],
        )
    imports.note_copy(connection, twin["id"], file.path, file.size_bytes, file.modified_ns)
    return (
        "already here",
        f"It holds the very same sound as {Path(twin['path']).name}; noted as a copy of it.",
        twin["id"],
    )


def _new_track(file: Examined, facts: FileFacts, tags: Tags) -> NewTrack:
    artist, title = tags.artist, tags.title
    if not title:
        artist, title = _from_name(Path(file.path).stem, artist)
    return NewTrack(
        path=file.path,
        size_bytes=file.size_bytes,
        modified_ns=file.modified_ns,
        audio_hash=facts.audio_hash,
        codec=facts.codec,
        rate_hz=facts.rate_hz,
        channels=facts.channels,
        bit_rate=facts.bit_rate,
        trimmed_samples=facts.trimmed_samples,
        duration_s=facts.duration_s,
        title=title,
        artist=artist,
        album=tags.album,
        genre=tags.genre,
        label=tags.label,
        comment=tags.comment,
        year=tags.year,
        file_key=tags.key,
        file_bpm=tags.bpm,
        file_rating=tags.rating,
        has_picture=tags.picture is not None,
    )


def _from_name(stem: str, artist: str) -> tuple[str, str]:
    """Artist and title from a file name like "Artist - Title"."""
    before, dash, after = stem.partition(" - ")
    return (artist or before.strip(), after.strip()) if dash and after.strip() else (artist, stem)


def _batches(files: Iterator[Examined]) -> Iterator[list[Examined]]:
    """Lists of files, so that writing is seldom and progress still smooth."""
    batch: list[Examined] = []
    since = time.monotonic()
    for file in files:
        batch.append(file)
        if len(batch) >= BATCH_FILES or time.monotonic() - since > BATCH_S:
            yield batch
            batch, since = [], time.monotonic()
    if batch:
        yield batch
