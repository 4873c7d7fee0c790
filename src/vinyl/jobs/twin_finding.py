"""Looking for twins of tracks that were analysed and not looked at yet, in a worker, a few hundred pairs at a
time; then those that seem to be one recording are listened to.
"""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from vinyl.core.twins.groups import Pair
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Task
from vinyl.jobs.twin_listening import hear
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library import tracks, twin_pairs, twins
from vinyl.library.database import Database
from vinyl.library.twin_pairs import Unheard
from vinyl.library.twins import Candidate
from vinyl.library.waveforms import WaveformStore

KIND, SUBJECT = "twins", "Twins"
# Pairs that are compared at once, and what the index and a part may take at 100,000 tracks and more.
PART = 200
INDEX_LIMIT_S, PART_LIMIT_S = 1800.0, 300.0
# Pairs whose comparison by ear is kept at once, and what one may take: two sets of a night from a slow disk.
HEARD_PART, HEARD_LIMIT_S = 10, 900.0


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
        read = self._database.read()
        return bool(twin_pairs.unseen(read) or twin_pairs.list_unheard(read, 1))

    def _step(self, task: Task) -> None:
        seen = twin_pairs.unseen(self._database.read())
        if seen:
            self._find(task, seen)
        self._listen(task, twin_pairs.list_unheard(self._database.read()))

    def _find(self, task: Task, seen: Sequence[int]) -> None:
        task.progress(0, None, "candidates by sound and by name")
        seen, some = self._workers.run(
            find_candidates, self._database.path, seen, timeout_s=INDEX_LIMIT_S, check=task.check
        )
        pairs: list[Pair] = []
        for start in range(0, len(some), PART):
            task.progress(start, len(some))
            pairs += self._compare(task, some[start : start + PART])
        with self._database.write(background=True) as connection:
            twin_pairs.keep(connection, pairs, seen)

    def _listen(self, task: Task, pairs: Sequence[Unheard]) -> None:
        """Listen to pairs; what goes wrong with one is kept with it and said."""
        for start in range(0, len(pairs), HEARD_PART):
            heard: list[tuple[Unheard, float | str]] = []
            for place, pair in enumerate(pairs[start : start + HEARD_PART], start):
                task.progress(place, len(pairs), "comparing by ear")
                heard.append((pair, self._hear(task, pair)))
            with self._database.write(background=True) as connection:
                for pair, found in heard:
                    twin_pairs.keep_heard(connection, pair.first, pair.second, found)
        task.progress(len(pairs), len(pairs), "")

    def _hear(self, task: Task, pair: Unheard) -> float | str:
        try:
            found = self._workers.run(hear, pair, timeout_s=HEARD_LIMIT_S, check=task.check)
        except WorkerError as error:
            found = str(error)
        if isinstance(found, str):
            task.fail_item(f"{pair.first_path.name} beside {pair.second_path.name}", found, pair.first)
        return found

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


def find_candidates(library: Path, of: Sequence[int]) -> tuple[list[int], list[Candidate]]:
    """Those of some tracks that are on the Shelf, and pairs of them with others that are worth comparing.
    Called in a worker process.
    """
    read = Database(library, read_only=True).read()
    # One state of the library: what leaves the Shelf meanwhile must not count as looked at.
    read.execute("BEGIN")
    return tracks.existing(read, of), twins.candidates(read, of)


def compare_some(library: Path, waveforms: Path, some: Sequence[Candidate]) -> list[Pair]:
    """Compare pairs. Called in a worker process."""
    attacks_of = twin_pairs.attacks_from(WaveformStore(waveforms))
    read = Database(library, read_only=True).read()
    there = {row[0] for row in read.execute("SELECT track_id FROM track_likeness")}
    return list(twins.compare_pairs(read, [each for each in some if there.issuperset(each[0])], attacks_of))
