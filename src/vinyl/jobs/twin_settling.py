"""Settling twins: what is known of copies is carried over to the file that is kept, a group at a time, wholly
or not at all.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path

from vinyl.core.errors import VinylError
from vinyl.jobs.background import Background
from vinyl.jobs.runner import Kind, Stopped, Task
from vinyl.library import jobs, off_shelf, tracks, twin_carrying, undo
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.library.storage import is_passing, storage_words
from vinyl.library.twin_carrying import Plan
from vinyl.library.twin_pairs import is_said_none, pair_of
from vinyl.library.twins import AttacksOf

KIND = "settle twins"


@dataclass(frozen=True, slots=True)
class Settlement:
    """What becomes of a group: the track that is kept, the tracks that give way to it, in order, and other
    files with their very sound.
    """

    kept_id: int
    copy_ids: tuple[int, ...]
    copies: tuple[str, ...] = ()
    choices: Mapping[str, int] = field(default_factory=dict)


class Settler(Background):
    """The kind of job that settles many groups, and what settles one.

    Args:
        attacks_of: gives the attacks of a track.
        then: is called when files are to be put aside.
    """

    def __init__(self, database: Database, attacks_of: AttacksOf, then: Callable[[], None]) -> None:
        super().__init__(database)
        self._attacks_of, self._then = attacks_of, then

    def kinds(self) -> Sequence[Kind]:
        return (Kind(KIND, "group", "by hand", self._step),)

    def plan(self, wanted: Settlement) -> Plan:
        """What would be carried over; nothing is changed."""
        return twin_carrying.plan_carrying(
            self._database.read(), self._attacks_of, wanted.kept_id, wanted.copy_ids, wanted.choices
        )

    def settle(
        self,
        connection: sqlite3.Connection,
        wanted: Settlement,
        aside: bool,
        check: Callable[[Plan], None],
    ) -> None:
        """Settle a group within a transaction.

        Args:
            aside: whether the files of copies are to be put aside.
            check: is shown what would be carried over, and may refuse it by an error.

        Raises:
            LibraryError: with the reason, if it cannot be; nothing is changed then.
        """
        track_ids = (wanted.kept_id, *wanted.copy_ids)
        if len(tracks.existing(connection, track_ids)) < len(track_ids):
            raise LibraryError("A file of this group is not on the Shelf any more; nothing was changed.")
        check_files(connection, track_ids)
        plan = twin_carrying.plan_carrying(
            connection, self._attacks_of, wanted.kept_id, wanted.copy_ids, wanted.choices
        )
        check(plan)
        twin_carrying.carry_over(connection, plan, aside)
        if aside and wanted.copies:
            why = f"the very sound of {Path(tracks.get_file(connection, wanted.kept_id)['path']).name}"
            off_shelf.take_copies_off(connection, wanted.copies, why)

    def add(self, wanted: Sequence[Settlement], aside: bool) -> Job:
        """Begin to settle many groups, as one step."""
        name = f"Settle {len(wanted):,} groups of twins" if len(wanted) != 1 else "Settle a group of twins"
        payload = {"groups": [asdict(each) for each in wanted], "aside": aside, "name": name}
        return self._runner.begin(KIND, name, payload)

    def _step(self, task: Task) -> None:
        payload, groups = task.job.payload, task.job.payload["groups"]
        result = dict(task.job.result or {"step": None, "settled": 0})
        for place in range(task.job.done, len(groups)):
            task.check()
            wanted = Settlement(**groups[place])
            task.progress(place, len(groups), "")
            step = self._try(task, wanted, payload, result["step"])
            if step is not None:
                result = {"step": step, "settled": result["settled"] + 1}
                task.keep_result(result)
        task.progress(len(groups), len(groups))
        with self._database.write() as connection:
            jobs.forget_items(connection, task.job.id, "groups")
        self._then()

    def _try(
        self, task: Task, wanted: Settlement, payload: Mapping[str, object], step: int | None
    ) -> int | None:
        """Settle one group of many; what goes wrong with it is its own. Returns the step it was done in."""
        read = self._database.read()
        here = tracks.existing(read, [wanted.kept_id, *wanted.copy_ids])
        if wanted.kept_id not in here or (wanted.copy_ids and len(here) < 2):
            return None  # it was settled before a break, or by somebody else
        left = Settlement(
            wanted.kept_id, tuple(each for each in wanted.copy_ids if each in here), tuple(wanted.copies)
        )
        try:
            with self._database.write(str(payload["name"]), onto=step) as connection:
                if step is not None and not undo.is_there(connection, step):
                    self._runner.cancel(task.job.id)
                    raise Stopped
                self._check_sure(connection, left)
                self.settle(connection, left, bool(payload["aside"]), _check_clean)
                return undo.kept_step(connection)
        except (VinylError, OSError, sqlite3.Error) as error:
            if not isinstance(error, VinylError) and is_passing(error):
                raise
            title = tracks.get_track(read, wanted.kept_id)["title"]
            task.fail_item(title, storage_words(error) or str(error), wanted.kept_id)
            return None

    def _check_sure(self, connection: sqlite3.Connection, wanted: Settlement) -> None:
        """Leave what only hangs together by others: each copy must surely be the kept file's twin itself.

        Raises:
            LibraryError: if one is not.
        """
        for copy_id in wanted.copy_ids:
            pair = pair_of(connection, self._attacks_of, wanted.kept_id, copy_id)
            if pair is None or not pair.is_sure or is_said_none(connection, pair):
                raise LibraryError(
                    "It is left for you: not all of these were found to be twins of each other."
                )


def _check_clean(plan: Plan) -> None:
    """Leave what somebody has to look at.

    Raises:
        LibraryError: with what that is.
    """
    if plan.is_clean:
        return
    by_hand = [each.field for each in plan.differs if each.by_hand and not each.carried]
    why = [*plan.lost, *(f"{name} was set by hand in both" for name in dict.fromkeys(by_hand))]
    raise LibraryError(f"It is left for you: {'; '.join(why)}.")


def check_files(connection: sqlite3.Connection, track_ids: Sequence[int]) -> None:
    """See to it that the file that is kept, the first, is there, and that no file has changed since it was
    read.

    Raises:
        LibraryError: if not.
    """
    for place, track_id in enumerate(track_ids):
        file = tracks.get_file(connection, track_id)
        path = Path(file["path"])
        try:
            found = path.stat()
        except OSError as error:
            if place == 0:
                raise LibraryError(
                    f"{path.name} would be kept, and is not there ({error.strerror})."
                ) from error
            continue
        if found.st_size != file["size_bytes"] or found.st_mtime_ns != file["modified_ns"]:
            raise LibraryError(
                f"{path.name} was changed since it was analysed. Import it again first; nothing was changed."
            )
