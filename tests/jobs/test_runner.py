"""The runner of jobs: nothing that comes while one ends is missed, none begins twice, and disks may fail."""

from __future__ import annotations

import errno
import os
import threading
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest

from tests.jobs.test_background import House
from tests.patience import wait_for
from vinyl.jobs import importing, putting_aside, runner
from vinyl.jobs.background import Background
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.runner import Kind, Runner, Task
from vinyl.library import jobs, off_shelf
from vinyl.library.database import Database
from vinyl.library.jobs import Job


class Letters(Background):
    """A kind of job that takes letters from a pile."""

    def __init__(self, database: Database, step: Callable[[Task], None]) -> None:
        super().__init__(database)
        self.pile: list[str] = []
        self.step = step
        self.run = Runner(database, Broadcaster())
        self.register(self.run)

    def kinds(self) -> Sequence[Kind]:
        return (
            Kind("letters", "letter", "letters", lambda task: self.step(task), more=lambda: bool(self.pile)),
        )

    def begin(self) -> Job:
        return self.run.begin("letters", "Letters", {}, unless=lambda there: next(iter(there), None))


@pytest.fixture
def letters(tmp_path: Path) -> Iterator[Letters]:
    made = Letters(Database.prepared(tmp_path / "library.db"), lambda task: None)
    yield made
    made.run.stop()


def ended(letters: Letters, job: Job, state: str = "done") -> Job:
    wait_for(
        lambda: letters.run.get(job.id).state == state, lambda: f"{state}: {letters.run.get(job.id)}", 20
    )
    return letters.run.get(job.id)


def test_what_comes_while_a_job_ends_is_done_by_it(letters: Letters) -> None:
    """The pile was empty when it was looked at last, and the job was still there when one more was begun."""
    done: list[str] = []

    def step(task: Task) -> None:
        done.extend(letters.pile)
        letters.pile.clear()
        if len(done) == 1:
            letters.pile.append("late")
            assert letters.begin().id == task.job.id

    letters.step = step
    letters.pile.append("early")
    job = letters.begin()
    letters.run.start()
    ended(letters, job)
    assert done == ["early", "late"]


def test_many_begin_the_same_at_once_and_one_job_is_there(letters: Letters) -> None:
    with ThreadPoolExecutor(8) as pool:
        begun = {job.id for job in pool.map(lambda _: letters.begin(), range(40))}
    assert len(begun) == 1
    assert len(jobs.open_jobs(letters.run.database.read(), "letters")) == 1


def test_an_error_of_the_disk_is_met_a_few_times_and_then_the_item_has_failed(
    letters: Letters, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(runner, "BETWEEN_TRIES_S", 0.0)
    tries: dict[str, int] = {}

    def read(letter: str, good_after: int) -> None:
        tries[letter] = tries.get(letter, 0) + 1
        if tries[letter] <= good_after:
            raise OSError(errno.EIO, os.strerror(errno.EIO))

    def step(task: Task) -> None:
        for letter, good_after in (("a", 99), ("b", 1), ("c", 0)):
            task.try_item(letter, lambda letter=letter, good_after=good_after: read(letter, good_after))  # type: ignore[misc]

    letters.step = step
    job = letters.begin()
    letters.run.start()
    assert ended(letters, job).failures == 1
    (failure,) = jobs.list_failures(letters.run.database.read(), job.id, 0, 10)
    assert failure.item == "a" and tries == {"a": runner.TRIES, "b": 2, "c": 1}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def test_a_file_that_vanishes_during_an_import_is_said_and_the_others_come(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("One", "Three", "Vanishing"):
        house.song(name)
    found = importing._files_below

    def vanishing(given: list[Path]) -> object:
        files = found(given)
        (house.music / "Vanishing.mp3").unlink()
        return files

    monkeypatch.setattr(importing, "_files_below", vanishing)
    job = house.bring_in()
    assert set(house.rows()) == {"One", "Three"} and job.state == "done"
    outcome, why = house.reasons(job)["Vanishing.mp3"]
    assert outcome == "broken" and "no such file" in why.lower(), why


def test_what_is_put_back_and_wished_aside_again_at_that_moment_lies_aside(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = house.song("Halyard")
    house.bring_in()
    track, moved = house.rows()["Halyard"]["id"], putting_aside.move
    wishes: list[bool] = [True]

    def wish(aside: bool) -> None:
        with house.database.write("Off") as connection:
            off_shelf.bring_back(connection, [track])
            off_shelf.take_off(connection, [track], aside)
        house.services.aside_putter.begin()

    def move(source: Path, target: Path) -> None:
        moved(source, target)
        if target == path and wishes:  # on its way back
            wish(wishes.pop())

    monkeypatch.setattr(putting_aside, "move", move)
    wish(True)
    wait_for(lambda: not path.exists(), "it to be put aside")
    wish(False)
    wait_for(lambda: not wishes and not path.exists(), "it to be put aside again")
    wait_for(lambda: off_shelf.list_off(house.database.read())[0].kept, "it to be known as that")


def test_putting_aside_on_a_dying_disk_holds_up_no_other_job(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    house.song("Halyard")
    house.bring_in()
    track, go_on = house.rows()["Halyard"]["id"], threading.Event()
    monkeypatch.setattr(putting_aside, "move", lambda source, target: go_on.wait(60))
    with house.database.write("Off") as connection:
        off_shelf.take_off(connection, [track], aside=True)
    house.services.aside_putter.begin()
    aside = wait_for(lambda: jobs.open_jobs(house.database.read(), putting_aside.KIND), "putting aside")
    house.song("Second")
    house.bring_in()
    assert "Second" in house.rows()
    assert house.services.runner.get(aside[0].id).state == "running"
    go_on.set()
