"""Analysis in worker processes, as the queue says (vinyl.library.queue), which outlives the server."""

from __future__ import annotations

import logging
from collections.abc import Callable, Sequence
from concurrent.futures import FIRST_COMPLETED, Future, wait
from contextlib import suppress
from pathlib import Path

from vinyl.core.analysis import RATE_HZ, Analysis, analyse_blocks
from vinyl.core.errors import VinylError
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Stopped, Task
from vinyl.jobs.workers import WorkerDiedError, Workers, result_of
from vinyl.library import analyses, imports, jobs, queue
from vinyl.library.database import Database
from vinyl.library.queue import Waiting
from vinyl.library.waveforms import WaveformStore
from vinyl.media.decode import decode_blocks

KIND = "analysis"
SUBJECT = "Analysis"
POLL_S = 0.3
# An analysis runs a hundred times as fast as the music; what takes longer than this has hung.
# After so many tracks those are told that go on with them.
TOLD_AFTER = 200
LEAST_LIMIT_S = 240.0
LIMIT_SHARE = 0.5

log = logging.getLogger("vinyl.analysis")


def analyse_file(path: str, window_bpm: tuple[float, float] | None = None) -> Analysis:
    """Decode and analyse a file, in a worker.

    Raises:
        MediaError, AnalysisError: with the reason.
    """
    return analyse_blocks(decode_blocks(Path(path), RATE_HZ), window_bpm)


class Analyser(Background):
    """The kind of job that empties the analysis queue."""

    def __init__(self, database: Database, waveforms: WaveformStore, workers: Workers) -> None:
        super().__init__(database)
        self._waveforms = waveforms
        self._workers = workers
        self._after: Callable[[], None] = lambda: None

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind(
                KIND, "track", KIND, self._step, can_pause=True, on_pause=self._pause, on_resume=self._resume,
                more=self._has_waiting,
            ),
        )  # fmt: skip

    def after(self, do: Callable[[], None]) -> None:
        """Have something done whenever nothing waits any more, and now and then before."""
        self._after = do

    def begin(self) -> None:
        """See to it that a job is there for the tracks that wait."""
        if self._has_waiting():
            self._runner.begin(KIND, SUBJECT, {}, unless=lambda there: next(iter(there), None))

    def _has_waiting(self) -> bool:
        return queue.counts(self._database.read()).waiting > 0

    def try_again(self) -> None:
        """Give tracks that failed another try."""
        self._resume()
        self.begin()

    def _pause(self) -> None:
        with self._database.write(background=True) as connection:
            queue.pause_all(connection)

    def _resume(self) -> None:
        with self._database.write(background=True) as connection:
            queue.resume_all(connection)

    def _step(self, task: Task) -> None:
        """Feed the workers until nothing waits. Until a result is kept its track stays in the queue."""
        in_hand: dict[Future[Analysis], Waiting] = {}
        done = task.job.done
        try:
            while True:
                task.check()
                self._fill(in_hand)
                waiting = queue.counts(self._database.read()).waiting
                task.progress(done, done + waiting, _names(in_hand))
                if not in_hand:
                    self._after()
                    return
                before = done
                finished, _ = wait(in_hand, timeout=POLL_S, return_when=FIRST_COMPLETED)
                for future in finished:
                    done += self._settle(task, in_hand[future], future)
                    del in_hand[future]
                if done // TOLD_AFTER > before // TOLD_AFTER:
                    self._after()
        except Stopped:
            if jobs.get_job(self._database.read(), task.job.id).state == "paused":
                self._finish(task, in_hand)
            raise
        finally:
            for future in in_hand:
                future.cancel()

    def _finish(self, task: Task, in_hand: dict[Future[Analysis], Waiting]) -> None:
        """What is in hand when a pause begins is finished first."""
        for future in list(in_hand):
            with suppress(Exception):
                future.exception()
            self._settle(task, in_hand.pop(future), future)

    def _fill(self, in_hand: dict[Future[Analysis], Waiting]) -> None:
        while len(in_hand) < self._workers.count:
            taken = {waiting.track_id for waiting in in_hand.values()}
            # One process is kept for those of which no harm is known.
            most = max(1, self._workers.count - 1)
            suspects = sum(waiting.is_suspect for waiting in in_hand.values()) < most
            waiting = queue.next_waiting(self._database.read(), taken, suspects)
            if waiting is None:
                return
            limit_s = _limit_s(waiting)
            in_hand[
                self._workers.submit(analyse_file, waiting.path, waiting.window_bpm, timeout_s=limit_s)
            ] = waiting

    def _settle(self, task: Task, track: Waiting, future: Future[Analysis]) -> int:
        """Keep a result or a failure; returns whether the track is out of the queue."""
        try:
            result = result_of(future)
        except WorkerDiedError as error:
            gone = self._fail(task, track, str(error), final=False)
        except VinylError as error:
            gone = self._is_away(track) or self._fail(task, track, str(error), final=True)
        except Exception as error:
            log.exception("analysis of %s", track.path)
            gone = self._fail(
                task,
                track,
                f"The analysis stopped with an error of its own ({type(error).__name__}).",
                final=True,
            )
        else:
            self._keep(track, result)
            gone = True
        return int(gone)

    def _keep(self, track: Waiting, result: Analysis) -> None:
        with self._database.write(background=True) as connection:
            self._waveforms.store(track.track_id, result.waveform)
            analyses.store(connection, track.track_id, result, track.parts)

    def _is_away(self, track: Waiting) -> bool:
        """Whether a track's file went away while it was analysed: it waits until it is back."""
        if Path(track.path).exists():
            return False
        with self._database.write(background=True) as connection:
            imports.mark_away(connection, [track.track_id], True)
        return True

    def _fail(self, task: Task, track: Waiting, message: str, final: bool) -> bool:
        with self._database.write(background=True) as connection:
            gone = queue.fail(connection, track.track_id, message, final)
        if gone:
            task.fail_item(Path(track.path).name, message, track.track_id)
        return gone


def _limit_s(track: Waiting) -> float:
    """How long an analysis may take, by the length that the file says and that its bytes can have."""
    longest_s = min(track.duration_s, track.size_bytes / queue.LEAST_BYTES_PER_S)
    return max(LEAST_LIMIT_S, LIMIT_SHARE * longest_s)


def _names(in_hand: dict[Future[Analysis], Waiting]) -> str:
    return ", ".join(Path(waiting.path).name for waiting in in_hand.values())
