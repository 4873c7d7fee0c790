"""Packing and checking sticks in the background; a run that a killed server left goes on at the next."""

from __future__ import annotations

import zlib
from collections.abc import Sequence
from pathlib import Path

from vinyl.core.errors import VinylError
from vinyl.jobs.background import Background
from vinyl.jobs.converting import Conversions
from vinyl.jobs.runner import Kind, Stopped, Task
from vinyl.jobs.workers import Workers
from vinyl.library.database import Database
from vinyl.library.jobs import Job
from vinyl.library.waveforms import WaveformStore
from vinyl.media.pictures import small_jpeg
from vinyl.media.tags import read_tags
from vinyl.sticks import store
from vinyl.sticks.checking import check_files
from vinyl.sticks.errors import PackCancelledError, StickError
from vinyl.sticks.making import Making
from vinyl.sticks.medium import check_in
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import make_plan
from vinyl.sticks.store import Stick
from vinyl.sticks.writing import Converted, PackProgress, Report, Tools, pack, packed_rows

PACK, CHECK = "pack", "check"
PICTURE_LIMIT_S = 30.0
# Sticks that are packed at the same time.
ABREAST = 3


def sleeve_of(path: str, pixels: int) -> bytes | None:
    """A file's sleeve as a small JPEG, in a worker; None where it has none.

    Raises:
        PictureError: if it cannot be used.
    """
    picture = read_tags(Path(path)).picture
    return small_jpeg(picture, pixels) if picture else None


class Packer(Background):
    """The kinds of job that pack a stick, and that check it."""

    def __init__(
        self, database: Database, workers: Workers, converted: Path, waveforms: WaveformStore
    ) -> None:
        super().__init__(database)
        self._workers = workers
        self._waveforms = waveforms
        self._conversions = Conversions(converted, workers)

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(PACK, "byte", PACK, self._pack, abreast=ABREAST),
            Kind(CHECK, "byte", CHECK, self._check),
        )

    def add(self, stick_id: int) -> Job:
        """Begin to pack a stick with its chosen crates.

        Raises:
            StickError: if it is busy, or is not in the computer.
        """
        return self._begin(PACK, stick_id, {})

    def check(self, stick_id: int, mend: bool) -> Job:
        """Begin to check a stick; what is damaged is packed anew if it is to be mended.

        Raises:
            StickError: if it is busy, or is not in the computer.
        """
        return self._begin(CHECK, stick_id, {"mend": mend})

    def _begin(self, kind: str, stick_id: int, more: dict[str, bool]) -> Job:
        stick = store.get_stick(self._database.read(), stick_id)
        check_in(stick.medium)

        def refuse(there: Sequence[Job]) -> None:
            if any(job.payload["stick_id"] == stick_id for job in there):
                raise StickError("This stick is being packed or checked already.")

        other = CHECK if kind == PACK else PACK
        return self._runner.begin(
            kind, stick.name, {"stick_id": stick_id, **more}, unless=refuse, also=(other,)
        )

    def running(self, stick_id: int) -> Job | None:
        """The job that packs or checks a stick now."""
        there = [job for kind in (PACK, CHECK) for job in self._runner.open_jobs(kind)]
        return next((job for job in there if job.payload["stick_id"] == stick_id), None)

    def _pack(self, task: Task) -> None:
        stick = store.get_stick(self._database.read(), task.job.payload["stick_id"])
        try:
            result = self._packed(task, stick)
        except PackCancelledError as error:
            raise Stopped from error
        task.keep_result(result)

    def _packed(self, task: Task, stick: Stick) -> dict[str, int]:
        connection = self._database.read()
        plan, own = make_plan(connection, stick, self._waveforms), OwnFiles(self._database, stick.id)
        tracks = len({track.id for player in plan.players for track in player.entry.tracks})
        if plan.is_empty:
            return {"tracks": tracks, "written": 0, "removed": 0, "unchanged": 1}
        library = store.library_gid(connection)
        packed = pack(
            stick, library, own, plan, self._tools(task), self._report(task), lambda: _is_stopped(task)
        )
        with self._database.write(background=True) as writing:
            store.keep_packed(writing, stick.id, packed_rows(packed.index))
            store.note_packed(writing, stick.id, packed.rate)
        return {
            "tracks": len({track.id for player in packed.index.players for track in player.tracks}),
            "written": packed.written,
            "removed": len(plan.removed),
            "unchanged": 0,
        }

    def _tools(self, task: Task) -> Tools:
        def made(source: Path, made_from: str, making: Making) -> Converted:
            return self._conversions.get(source, made_from, making, task.check)

        def sleeve(source: Path, pixels: int) -> bytes | None:
            return self._workers.run(
                sleeve_of, str(source), pixels, timeout_s=PICTURE_LIMIT_S, check=task.check
            )

        return Tools(made, sleeve, self._overview, task.fail_item)

    def _overview(self, track_id: int) -> bytes | None:
        try:
            return self._waveforms.overview(track_id)
        except (VinylError, OSError, EOFError, zlib.error):  # one that is damaged comes with a new analysis
            return None

    def _report(self, task: Task) -> Report:
        def report(progress: PackProgress) -> None:
            task.progress(progress.done_bytes, progress.total_bytes, progress.current)

        return report

    def _check(self, task: Task) -> None:
        stick = store.get_stick(self._database.read(), task.job.payload["stick_id"])
        own = OwnFiles(self._database, stick.id)
        files = [each for each in own.all().values() if each.sha256 is not None]
        total = sum(each.bytes or 0 for each in files)

        def tell(done: int, path: str) -> None:
            task.check()
            task.progress(done, total, path)

        found = dict(check_files(stick.medium, files, tell))
        own.note_damage(found)
        for path, damage in found.items():
            task.fail_item(path, damage)
        with self._database.write(background=True) as connection:
            store.note_checked(connection, stick.id)
        mended = self._packed(task, stick)["written"] if task.job.payload["mend"] and found else 0
        task.keep_result({"files": len(files), "damaged": len(found), "mended": mended})


def _is_stopped(task: Task) -> bool:
    try:
        task.check()
    except Stopped:
        return True
    return False
