"""Looking for twins of tracks that were analysed and not looked at yet: in a worker, a few hundred pairs at a
time.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from vinyl.core.twins.groups import Pair
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library import twin_pairs, twins
from vinyl.library.database import Database
from vinyl.library.twins import Candidate
from vinyl.library.waveforms import WaveformStore

KIND, SUBJECT = "twins", "Twins"
# Pairs that are compared at once, and what the index and a part may take at 100,000 tracks and more.
PART = 200
INDEX_LIMIT_S, PART_LIMIT_S = 1800.0, 300.0


class TwinFinder(Background):
    """The kind of job that finds twins.

    Args:
        waveforms: the folder with the tracks' attacks.
    """

    def __init__(self, database: Database, waveforms: Path, workers: Workers) -> None:
        super().__init__(database)
        self._waveforms, self._workers = waveforms, workers

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "pair", KIND, self._step, more=self._has_more),)

    def begin(self) -> None:
        """See to it that tracks are looked at that were not yet."""
        if self._has_more():
            self._runner.begin(KIND, SUBJECT, {}, unless=lambda there: next(iter(there), None))

    def _has_more(self) -> bool:
        return bool(twin_pairs.unseen(self._database.read()))

    def _step(self, task: Task) -> None:
        seen = twin_pairs.unseen(self._database.read())
        task.progress(0, None, "candidates by sound and by name")
        some = self._workers.run(
            find_candidates, self._database.path, seen, timeout_s=INDEX_LIMIT_S, check=task.check
        )
        pairs: list[Pair] = []
        for start in range(0, len(some), PART):
            task.progress(start, len(some))
            pairs += self._compare(task, some[start : start + PART])
        with self._database.write(background=True) as connection:
            twin_pairs.keep(connection, pairs, seen)
        task.progress(len(some), len(some))

    def _compare(self, task: Task, part: Sequence[Candidate]) -> list[Pair]:
        """Compare a few; a pair that is the end of its worker is left out, and that is said."""
        try:
            return self._workers.run(
                compare_some,
                self._database.path,
                self._waveforms,
                part,
                timeout_s=PART_LIMIT_S,
                check=task.check,
            )
        except WorkerError as error:
            if len(part) == 1:
                (ids, _), *_ = part
                task.fail_item(f"tracks {ids[0]} and {ids[1]}", str(error), ids[0])
                return []
        return [pair for each in part for pair in self._compare(task, [each])]


def find_candidates(library: Path, of: Sequence[int]) -> list[Candidate]:
    """Pairs of some tracks with others that are worth comparing. Called in a worker process."""
    return twins.candidates(Database(library, read_only=True).read(), of)


def compare_some(library: Path, waveforms: Path, some: Sequence[Candidate]) -> list[Pair]:
    """Compare pairs. Called in a worker process."""
    attacks_of = twin_pairs.attacks_from(WaveformStore(waveforms))
    read = Database(library, read_only=True).read()
    there = {row[0] for row in read.execute("SELECT track_id FROM track_likeness")}
    return list(twins.compare_pairs(read, [each for each in some if there.issuperset(each[0])], attacks_of))
