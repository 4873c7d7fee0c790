"""Importing folders: each file is looked at in a worker, added or refused with a reason,
and left as it is."""

from __future__ import annotations

import logging
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, replace
from itertools import islice
from pathlib import Path
from stat import S_ISREG
from typing import TypeVar

from vinyl.core.errors import VinylError
from vinyl.core.rhythm.windows import Window
from vinyl.exchange.lists import LIST_SUFFIXES
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.settling import note, settle_file, settle_new
from vinyl.jobs.workers import WorkerDiedError, WorkerError, Workers, result_of, wait_for_a_while
from vinyl.library import imports
from vinyl.library.database import Database
from vinyl.library.imports import ImportedFile, KnownFile, Outcome
from vinyl.library.jobs import Job
from vinyl.library.storage import is_passing, storage_words
from vinyl.library.values import Value, put
from vinyl.media.errors import BrokenAudioError, MediaError, NotAudioError
from vinyl.media.files import AllowedRoots, FolderError, walk_files
from vinyl.media.glance import glance, with_parsed
from vinyl.media.probe import AUDIO_SUFFIXES, SoundFacts, probe
from vinyl.media.tags import Tags, parse, read_tags

KIND = "import"
# Files that are kept together, and those that a worker looks at in one go.
BATCH_FILES = 100
CHUNK_FILES = 8
BATCH_S = 0.4
LIMIT_S = 300.0
# Known files are looked at so often; where that takes long, as on a slow drive, seldom enough not to matter.
LOOK_AGAIN_S, LOOK_SHARE = 120.0, 20.0
# So many files are looked at at a stretch; then others have so many times as long.
LOOK_BATCH, LOOK_REST = 100, 2.0
AWAY_BATCH = 500
# A file that was not written to for so long is taken for whole.
WRITTEN_S = 10.0
CHANGED_SUBJECT = "Files that were changed since they were imported"
NOT_READ = "Vinyl may not read this folder: check its permissions, then import it again."
NOT_THERE = "It is not there (any more). What else was found is here; import it again once it is back."
# So often is a file looked at whose worker is ended from outside, before anything is said of it.
TRIES = 3

Chunk = list[tuple[str, tuple[int, int] | None]]
T = TypeVar("T")

log = logging.getLogger("vinyl.importing")


@dataclass(frozen=True, slots=True)
class Examined:
    """What was found out about a file: either facts and tags, or an outcome with its reason."""

    path: str
    size_bytes: int = 0
    modified_ns: int = 0
    facts: SoundFacts | None = None
    tags: Tags | None = None
    has_picture: bool = False
    refused: tuple[Outcome, str] | None = None


def examine(path: str, known: tuple[int, int] | None, roots: AllowedRoots) -> Examined:
    """Look at one file. ``known`` is size and time of change of a file that is in the library under this
    path.
    """
    file = Path(path)
    try:
        stat = file.stat()
        if not S_ISREG(stat.st_mode):
            return Examined(path, refused=("not audio", "This is no file but a pipe, a device or the like."))
        if known == (stat.st_size, stat.st_mtime_ns):
            return Examined(path, refused=("already here", "It was imported before and has not changed."))
        if file.suffix.lower() not in AUDIO_SUFFIXES:
            return Examined(path, refused=("not audio", _no_audio_words(file)))
        roots.check(file)
        parsed = parse(file)
        facts = with_parsed(glance(file, parsed) or probe(file), parsed)
        tags = read_tags(file, parsed)
        bare = replace(tags, picture=None)  # pictures are large, and are read again where they are shown
        return Examined(path, stat.st_size, stat.st_mtime_ns, facts, bare, tags.picture is not None)
    except NotAudioError as error:
        return Examined(path, refused=("not audio", str(error)))
    except (BrokenAudioError, FolderError) as error:
        return Examined(path, refused=("broken", str(error)))
    except OSError as error:
        return Examined(path, refused=("broken", f"The file could not be read: {error.strerror}."))


def _no_audio_words(file: Path) -> str:
    if file.suffix.lower() in LIST_SUFFIXES:
        return "This is a playlist: choose it by itself, and it becomes a crate."
    return f"Vinyl reads no files that end in “{file.suffix or file.name}”."


def examine_some(files: Sequence[tuple[str, tuple[int, int] | None]], roots: AllowedRoots) -> list[Examined]:
    """Look at several files, each for itself."""
    return [examine(path, known, roots) for path, known in files]


def packet_hash_of(path: str) -> str | None:
    """The name of all packets of a file, or None if it cannot be read."""
    try:
        return probe(Path(path)).packet_hash
    except MediaError:
        return None


class Importer(Background):
    """The kind of job that brings folders in, and the look at known files when the server starts."""

    def __init__(
        self, database: Database, roots: AllowedRoots, workers: Workers, on_arrival: Callable[[], None]
    ) -> None:
        super().__init__(database)
        self._roots = roots
        self._workers = workers
        self._on_arrival = on_arrival
        self._stopping = threading.Event()

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "file", KIND, self._step, can_pause=True),)

    def add(self, paths: Sequence[Path], subject: str = "", window_bpm: Window | None = None) -> Job:
        """Begin importing files and folders (checked by the caller), or find the import of just these that is
        going on.

        Args:
            window_bpm: between which tempi the beat of new tracks is counted; else by their styles.
        """
        wanted = [str(path) for path in paths]
        subject = subject or (wanted[0] if len(wanted) == 1 else f"{len(wanted)} files and folders")
        return self._runner.begin(
            KIND, subject, {"paths": wanted, "window_bpm": window_bpm},
            unless=lambda there: next((job for job in there if job.payload.get("paths") == wanted), None),
        )  # fmt: skip

    def add_list(
        self, paths: Sequence[Path], subject: str, noted: Sequence[ImportedFile], sheets: Mapping[str, str]
    ) -> Job:
        """Begin importing the files of a list.

        Args:
            noted: what became of its entries that need no import.
            sheets: by file, marks that are to be offered as cues of its track.
        """

        def note_all(connection: sqlite3.Connection, job_id: int) -> None:
            imports.note_files(connection, job_id, noted)

        payload = {"paths": [str(path) for path in paths], "sheets": dict(sheets)}
        return self._runner.begin(KIND, subject, payload, with_it=note_all)

    def take(self, task: Task, paths: Sequence[Path]) -> None:
        """Look at files and keep what becomes of them, noted with another job whose part this is."""
        for path in paths:
            chunk: Chunk = [(str(path), None)]
            self._store(task, list(self._examined(chunk, self._look_at(chunk), task)))

    def look_after_files(self) -> None:
        """In a thread of its own, look now and then which known files are there and still the same."""
        threading.Thread(target=self._look_now_and_then, name="look after files", daemon=True).start()

    def stop(self) -> None:
        """Look after files no more."""
        self._stopping.set()

    def _look_now_and_then(self) -> None:
        while not self._stopping.is_set():
            began = time.monotonic()
            self._look()
            self._stopping.wait(max(LOOK_AGAIN_S, LOOK_SHARE * (time.monotonic() - began)))

    def _let_others_work(self, worked_s: float) -> None:
        """Rest after a little work, so that who waits for an answer is not held up by it."""
        self._stopping.wait(LOOK_REST * worked_s)

    def _look(self) -> None:
        try:
            changed = to_import(self._database, find_changes(self._database, self._let_others_work))
            # What is back may have been on its turn while it was away.
            self._on_arrival()
            if changed:
                self.add(changed, CHANGED_SUBJECT)
        except Exception:
            log.exception("looking after files")

    def _step(self, task: Task) -> None:
        given = [Path(path) for path in paths_of(task.job)]
        files, refused = _files_below(given)
        for path, reason in refused.items():
            note(self._database, task.job.id, ImportedFile(path, "broken", reason, None))
        done = imports.done_paths(self._database.read(), task.job.id)
        known = imports.known_at(self._database.read(), [str(path) for path in given])
        total = len({*files, *refused, *done})
        task.progress(len(done), total)
        count = len(done)
        try:
            for batch in _batches(self._examine([f for f in files if f not in done], known, task)):
                task.check()
                self._store(task, batch)
                count += len(batch)
                task.progress(count, total, Path(batch[-1].path).name)
        finally:
            self._on_arrival()
        self._keep_sheets(task)
        outcomes = imports.outcomes_of(self._database.read(), task.job.id)
        task.keep_result({name.replace(" ", "_"): number for name, number in outcomes.items()})

    def _examine(
        self, files: Iterable[str], known: dict[str, tuple[int, int]], task: Task
    ) -> Iterator[Examined]:
        """Look at files with a few ahead, in order; what a file does to its worker is its own outcome."""
        ahead: deque[tuple[Chunk, Future[list[Examined]]]] = deque()
        for paths in _chunks(files):
            chunk = [(path, known.get(path)) for path in paths]
            ahead.append((chunk, self._look_at(chunk)))
            if len(ahead) > 2 * self._workers.count:
                yield from self._examined(*ahead.popleft(), task)
        while ahead:
            yield from self._examined(*ahead.popleft(), task)

    def _keep_sheets(self, task: Task) -> None:
        """Offer the marks of cue sheets as cues of the tracks that were made of their files."""
        sheets: dict[str, str] = task.job.payload.get("sheets", {})
        found = imports.at_paths(self._database.read(), list(sheets))
        with self._database.write(background=True) as connection:
            for path, track_id in found.items():
                put(connection, [track_id], "another library", {"chapters": Value(sheets[path])})

    def _look_at(self, chunk: Chunk) -> Future[list[Examined]]:
        return self._workers.submit(examine_some, chunk, self._roots, timeout_s=LIMIT_S)

    def _examined(
        self, chunk: Chunk, future: Future[list[Examined]], task: Task, tries: int = TRIES
    ) -> Iterable[Examined]:
        """What a worker found out of several files; if one was its end, each is looked at for itself, and
        again where the process was ended from outside.
        """
        try:
            return _result(future, task)
        except WorkerDiedError as error:
            if len(chunk) == 1 and tries > 1:
                return self._examined(chunk, self._look_at(chunk), task, tries - 1)
            if len(chunk) == 1:
                return [Examined(chunk[0][0], refused=("broken", str(error)))]
        except WorkerError as error:
            if len(chunk) == 1:
                return [Examined(chunk[0][0], refused=("broken", str(error)))]
        except Exception as error:
            if not future.done():
                raise
            if len(chunk) == 1:
                log.exception("examining %s", chunk[0][0])
                words = f"The file cannot be read ({type(error).__name__})."
                return [Examined(chunk[0][0], refused=("broken", words))]
        return (
            examined for each in chunk for examined in self._examined([each], self._look_at([each]), task)
        )

    def _store(self, task: Task, batch: list[Examined]) -> None:
        """Keep what became of a batch of files: the new ones together, the others each for itself."""
        settled = {file.path for file in self._keep_new(task, batch)}
        for file in batch:
            if file.path not in settled:
                self._keep(task, file)
        self._on_arrival()

    def _keep_new(self, task: Task, batch: list[Examined]) -> list[ImportedFile]:
        """What is new of a batch; none of it if they cannot be kept together, so that each is tried alone."""
        try:
            return settle_new(self._database, task.job.id, batch, window_of(task.job))
        except Exception as error:
            if is_passing(error):
                raise
            log.info("keeping %d files together: %s", len(batch), error)
            return []

    def _digest(self, path: str) -> str | None:
        """The name of all packets of a file, read in a worker; None if that cannot be done."""
        try:
            return self._workers.run(packet_hash_of, path, timeout_s=LIMIT_S)
        except WorkerError as error:
            log.info("reading %s: %s", path, error)
            return None

    def _keep(self, task: Task, file: Examined) -> ImportedFile:
        job_id = task.job.id
        try:
            return settle_file(self._database, job_id, file, self._digest, window_of(task.job))
        except Exception as error:
            if is_passing(error):
                raise
            log.exception("keeping %s", file.path)
            words = str(error) if isinstance(error, VinylError) else storage_words(error)
            reason = words or f"It could not be kept ({type(error).__name__})."
            return note(self._database, job_id, ImportedFile(file.path, "broken", reason, None))


def window_of(job: Job) -> Window | None:
    """The tempo window that an import was given."""
    window = job.payload.get("window_bpm")
    return (window[0], window[1]) if window else None


def paths_of(job: Job) -> list[str]:
    """What a job imports; a single folder was written otherwise once."""
    return list(job.payload["paths"] if "paths" in job.payload else [job.payload["folder"]])


def _files_below(paths: Sequence[Path]) -> tuple[list[str], dict[str, str]]:
    """All files that are meant, each once, and what cannot be read or is not there any more, with why.

    Raises:
        FolderError: if nothing of it is there.
    """
    files: dict[str, None] = {}
    refused: dict[str, str] = {}
    if paths and not any(path.exists() for path in paths):
        what = str(paths[0]) if len(paths) == 1 else f"None of {len(paths)} files and folders"
        raise FolderError(f"{what} is not there (any more). What was added stays; import it again to go on.")

    def not_read(error: OSError) -> None:
        refused[str(error.filename)] = NOT_READ

    for path in paths:
        if not path.exists():
            refused[str(path)] = NOT_THERE
            continue
        found = walk_files(path, not_read) if path.is_dir() else [path]
        files.update(dict.fromkeys(str(file) for file in found))
    return list(files), refused


def to_import(database: Database, changed: Sequence[str]) -> list[Path]:
    """Of files that were changed, those that are whole by now and were not refused as they are."""
    if not changed:
        return []
    refused = imports.refused_at(database.read())
    found = []
    for path in changed:
        try:
            modified = Path(path).stat().st_mtime
        except OSError:
            continue
        if time.time() - modified > WRITTEN_S and modified >= refused.get(path, 0.0):
            found.append(Path(path))
    return found


def find_changes(database: Database, rest: Callable[[float], object] = lambda worked_s: None) -> list[str]:
    """Note which tracks' files are away or back, a few at a time; returns the paths of those that are not
    what they were.

    Args:
        rest: is called now and then, with the seconds that were worked since.
    """
    gone: list[int] = []
    back: list[int] = []
    changed: list[str] = []
    began = time.monotonic()
    for count, known in enumerate(imports.known_tracks(database.read()), 1):
        if count % LOOK_BATCH == 0:
            rest(time.monotonic() - began)
            began = time.monotonic()
        state = _state_of(known)
        if (state == "away") != known.away:
            (gone if state == "away" else back).append(known.track_id)
        if state == "changed":
            changed.append(known.path)
    for ids, away in ((gone, True), (back, False)):
        for start in range(0, len(ids), AWAY_BATCH):
            with database.write(background=True) as connection:
                imports.mark_away(connection, ids[start : start + AWAY_BATCH], away)
    return changed


def _state_of(known: KnownFile) -> str:
    try:
        stat = Path(known.path).stat()
    except OSError:
        return "away"
    return "same" if (stat.st_size, stat.st_mtime_ns) == (known.size_bytes, known.modified_ns) else "changed"


def _result(future: Future[T], task: Task) -> T:
    """What a worker found out; the job may be stopped meanwhile."""
    while not future.done():
        task.check()
        wait_for_a_while(future, BATCH_S)
    return result_of(future)


def _chunks(files: Iterable[str]) -> Iterator[list[str]]:
    files = iter(files)
    while chunk := list(islice(files, CHUNK_FILES)):
        yield chunk


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
