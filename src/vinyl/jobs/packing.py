"""Packing sticks in the background; a run that a killed server left goes on at the next start."""

from __future__ import annotations

from pathlib import Path

from vinyl.jobs.runner import Kind, Runner, Stopped, Task
from vinyl.jobs.workers import Workers
from vinyl.library.database import Database
from vinyl.library.jobs import Job
from vinyl.media.encode import convert
from vinyl.media.pictures import small_jpeg
from vinyl.media.tags import read_tags
from vinyl.sticks import store
from vinyl.sticks.errors import PackCancelledError, StickError
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import make_plan
from vinyl.sticks.writing import PackProgress, Tools, pack

KIND = "pack"
CONVERT_LIMIT_S = 3600.0
PICTURE_LIMIT_S = 30.0
PICTURE_PIXELS = 400


def sleeve_of(path: str, pixels: int) -> bytes | None:
    """A file's sleeve as a small JPEG, in a worker; None where it has none.

    Raises:
        PictureError: if it cannot be used.
    """
    picture = read_tags(Path(path)).picture
    return small_jpeg(picture, pixels) if picture else None


class Packer:
    """The kind of job that packs a stick."""

    def __init__(self, database: Database, workers: Workers) -> None:
        self._database = database
        self._workers = workers
        self._runner: Runner | None = None

    def register(self, runner: Runner) -> None:
        self._runner = runner
        runner.register(Kind(KIND, "byte", KIND, self._step))

    def add(self, stick_id: int) -> Job:
        """Begin to pack a stick with its chosen crates.

        Raises:
            StickError: if it is being packed already, or is not in the computer.
        """
        assert self._runner is not None, "the packer is registered before it is used"
        stick = store.get_stick(self._database.read(), stick_id)
        stick.medium.check_in()
        if self.running(stick_id):
            raise StickError("This stick is being packed already.")
        return self._runner.add(KIND, stick.name, {"stick_id": stick_id})

    def running(self, stick_id: int) -> Job | None:
        """The job that packs a stick now."""
        assert self._runner is not None, "the packer is registered before it is used"
        return next(
            (job for job in self._runner.open_jobs(KIND) if job.payload["stick_id"] == stick_id), None
        )

    def _step(self, task: Task) -> None:
        connection = self._database.read()
        stick = store.get_stick(connection, task.job.payload["stick_id"])
        plan, own = make_plan(connection, stick), OwnFiles(self._database, stick.id)

        def report(progress: PackProgress) -> None:
            task.progress(progress.done_bytes, progress.total_bytes, progress.current)

        tools = Tools(
            convert=lambda source, target: self._workers.run(
                convert, source, target, "flac", timeout_s=CONVERT_LIMIT_S, check=task.check
            ),
            sleeve=lambda source: self._workers.run(
                sleeve_of, str(source), PICTURE_PIXELS, timeout_s=PICTURE_LIMIT_S, check=task.check
            ),
            failed=task.fail_item,
        )
        try:
            packed = pack(stick, own, plan, tools, report, lambda: _is_stopped(task))
        except PackCancelledError as error:
            raise Stopped from error
        finally:
            self._workers.rest()
            task.changed("sticks")
        task.keep_result(
            {
                "tracks": len(packed.index.tracks),
                "crates": len(packed.index.crates),
                "written": packed.written,
                "removed": len(plan.removed),
            }
        )
        task.changed("sticks")


def _is_stopped(task: Task) -> bool:
    try:
        task.check()
    except Stopped:
        return True
    return False
