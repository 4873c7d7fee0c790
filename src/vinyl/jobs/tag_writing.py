"""Writing what the library knows into files: shown for some, done for many, and taken back as a whole."""

from __future__ import annotations

import logging
import shutil
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from vinyl.core.tag_form import TAG_FIELDS, WriteForm, as_parts
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.settling import said_by
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library import cues, given_names, imports, jobs, tracks, values
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.jobs import Job
from vinyl.library.storage import storage_words
from vinyl.media.files import AllowedRoots
from vinyl.media.tag_plans import (
    SUFFIX,
    TagPlan,
    ToWrite,
    WrittenFile,
    plan_all,
    put_one_back,
    write_one,
)
from vinyl.media.tags import Chapter

log = logging.getLogger("vinyl.tags")

KIND, BACK = "write", "put back"
# Carrying to a library that lives in tags keeps the old ones as writing does (vinyl.jobs.carrying).
CHANGE_FILES = frozenset({KIND, "carry"})
LIMIT_S = 300.0
# Originals of so many writings are kept.
KEPT_WRITINGS = 20


class TagWriter(Background):
    """The kinds of job that write tags into files, and that put the old ones back."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers, kept: Path) -> None:
        super().__init__(database)
        self._roots, self._workers, self._kept = roots, workers, kept

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(KIND, "file", "files", self._write, can_pause=True),
            Kind(BACK, "file", "files", self._put_back, can_pause=True),
        )

    def plan(self, track_ids: Sequence[int], form: WriteForm, pattern: str) -> list[TagPlan]:
        """What would change in the files of tracks."""
        files = list(self._to_write(track_ids))
        return self._workers.run(plan_all, files, form, pattern, self._roots, timeout_s=LIMIT_S)

    def add(self, track_ids: Sequence[int], form: WriteForm, pattern: str) -> Job:
        """Begin to write."""
        many = "a file" if len(track_ids) == 1 else f"{len(track_ids)} files"
        payload = {"track_ids": list(track_ids), "form": form_json(form), "pattern": pattern}
        return self._runner.begin(KIND, many, payload)

    def add_putting_back(self, job: Job) -> Job:
        """Begin to give the files of an earlier writing back what they had.

        Raises:
            LibraryError: if it was no writing, or its originals are not kept any more.
        """
        if job.kind not in CHANGE_FILES or job.state in jobs.OPEN:
            raise LibraryError(
                "Only a writing of tags that has ended can be taken back: wait for that, or cancel it."
            )
        if not self._folder(job.id).is_dir():
            raise LibraryError(
                "The tags that these files had before are not kept any more. The files stay as they are."
            )
        return self._runner.begin(BACK, job.subject, {"job_id": job.id})

    def can_put_back(self, job: Job) -> bool:
        """Whether a job has written tags whose originals are kept."""
        return job.kind in CHANGE_FILES and job.state not in jobs.OPEN and self._folder(job.id).is_dir()

    def _write(self, task: Task) -> None:
        payload = task.job.payload
        form, pattern, folder = form_of(payload["form"]), payload["pattern"], self._folder(task.job.id)
        ids: list[int] = payload["track_ids"]

        def write(file: ToWrite) -> WrittenFile | None:
            kept = folder / f"{file.track_id}{SUFFIX}"
            return self._workers.run(write_one, file, form, pattern, kept, self._roots, timeout_s=LIMIT_S)

        self._go_through(task, len(ids), self._to_write(ids), write)
        self._forget_old()

    def _put_back(self, task: Task) -> None:
        folder = self._folder(task.job.payload["job_id"])
        ids = sorted({int(kept.stem) for kept in folder.glob("*")})

        def put_back(file: ToWrite) -> WrittenFile:
            kept = folder / f"{file.track_id}{SUFFIX}"
            return self._workers.run(
                put_one_back, file.track_id, file.path, kept, self._roots, timeout_s=LIMIT_S
            )

        self._go_through(task, len(ids), self._to_write(ids), put_back)
        if not task.job.failures:
            shutil.rmtree(folder, ignore_errors=True)
            self._note_put_back(task.job.payload["job_id"])

    def _note_put_back(self, job_id: int) -> None:
        """Note with a writing that it was taken back, so that nobody is offered to do it again."""
        with self._database.write(background=True) as connection:
            result = jobs.get_job(connection, job_id).result or {}
            jobs.set_result(connection, job_id, {**result, "put_back": True})

    def _go_through(
        self,
        task: Task,
        total: int,
        files: Iterable[ToWrite],
        act: Callable[[ToWrite], WrittenFile | None],
    ) -> None:
        """Do something with each file in turn. What goes wrong with one stays its own; the file in hand is
        finished when the job is stopped; what was written is told however it ends.
        """
        written, unchanged = int((task.job.result or {}).get("written", 0)), 0
        try:
            for number, file in enumerate(files):
                task.check()
                task.progress(number, total, Path(file.path).name)
                done = _tried(act, file)
                if done is None:
                    unchanged += 1
                elif done.refused:
                    task.fail_item(Path(file.path).name, done.refused, file.track_id)
                else:
                    written += 1
                    self._take_in(done)
            task.progress(total, total)
        finally:
            task.keep_result({"written": written, "unchanged": unchanged})

    def _take_in(self, done: WrittenFile) -> None:
        """Note what a file is now, so that it is not taken for changed by somebody else."""
        if done.written is None or done.tags is None:
            raise ValueError("a file that was written has a size and tags")
        size, modified = done.written.size_bytes, done.written.modified_ns
        with self._database.write(background=True) as connection:
            before = tracks.get_file(connection, done.track_id)["path"]
            if done.path != before:
                given_names.note_renamed(connection, done.track_id, before, done.path)
            imports.note_place(connection, done.track_id, done.path, size, modified)
            tracks.keep_said(connection, done.track_id, said_by(done.path, replace(done.tags, picture=None)))

    def _to_write(self, track_ids: Iterable[int]) -> Iterator[ToWrite]:
        """Tracks with what is known of them; those that are not in the library any more are left out."""
        read = self._database.read()
        for track_id in track_ids:
            try:
                file = tracks.get_file(read, track_id)
            except NotFoundError:
                continue
            yield ToWrite(
                track_id,
                file["path"],
                file["size_bytes"],
                file["modified_ns"],
                values.winning_texts(read, track_id, TAG_FIELDS),
                tuple(
                    Chapter(
                        cue.position_s,
                        cue.position_s + cue.length_s if cue.length_s else None,
                        cue.label or cue.role or "cue",
                    )
                    for cue in cues.list_cues(read, track_id)
                ),
            )

    def _folder(self, job_id: int) -> Path:
        return self._kept / str(job_id)

    def _forget_old(self) -> None:
        """Originals are kept of the newest writings."""
        folders = sorted((f for f in self._kept.glob("*") if f.name.isdecimal()), key=lambda f: int(f.name))
        for folder in folders[:-KEPT_WRITINGS]:
            shutil.rmtree(folder, ignore_errors=True)


def _tried(act: Callable[[ToWrite], WrittenFile | None], file: ToWrite) -> WrittenFile | None:
    """What came of one file; an error is its own."""
    try:
        return act(file)
    except (WorkerError, OSError) as error:
        return WrittenFile(file.track_id, refused=storage_words(error) or str(error))
    except Exception as error:  # tags hold anything, and a writer of damaged ones may raise anything
        log.exception("writing %s", file.path)
        return WrittenFile(file.track_id, refused=f"It cannot be written ({type(error).__name__}).")


def form_json(form: WriteForm) -> dict[str, Any]:
    """A form as a job keeps it."""
    return {
        "fields": sorted(form.fields),
        "notation": form.notation,
        "tempo_digits": form.tempo_digits,
        "results": list(form.results),
        "results_place": form.results_place,
        "energy_word": form.energy_word,
        "cues": form.cues,
    }


def form_of(kept: Mapping[str, Any]) -> WriteForm:
    """A form from how a job keeps it."""
    return WriteForm(**{**kept, "fields": frozenset(kept["fields"]), "results": as_parts(kept["results"])})
