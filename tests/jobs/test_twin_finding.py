"""Looking for twins in the background: what comes is looked at; a pair that ends its worker is left out."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator, Sequence
from pathlib import Path

import numpy as np
import pytest

from tests.library.making import new_track
from tests.library.test_twins import Studio
from tests.patience import wait_for
from vinyl.core.likeness.compare import Match
from vinyl.core.twins.alignment import SAME_TIMES, Alignment
from vinyl.core.twins.groups import Pair
from vinyl.jobs import twin_finding
from vinyl.jobs import twin_settling as settling
from vinyl.jobs.events import Broadcaster
from vinyl.jobs.runner import Runner
from vinyl.jobs.twin_finding import KIND, TwinFinder
from vinyl.jobs.twin_settling import Settlement, Settler
from vinyl.jobs.workers import Workers
from vinyl.library import imports, jobs, off_shelf, twin_pairs
from vinyl.library.database import Database
from vinyl.library.twins import Candidate
from vinyl.media.encode import encode

FATAL = (1, 3)
SAME = Match("same", 0.0, 1.0, 0.02)
compare_some = twin_finding.compare_some


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database.prepared(tmp_path / "library.db")


@pytest.fixture
def runner(database: Database) -> Iterator[Runner]:
    made = Runner(database, Broadcaster())
    yield made
    made.stop()


@pytest.fixture
def workers() -> Iterator[Workers]:
    made = Workers(1, nice=0)
    yield made
    made.stop()


def _add(database: Database, *names: str) -> list[int]:
    """Copies of one recording, that have their names."""
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        return [studio.track(name, studio.copy(words), sound) for name in names]


def _found(database: Database) -> set[tuple[int, int]]:
    return {(pair.first, pair.second) for pair in twin_pairs.list_pairs(database.read())}


def _ends_its_worker(library: Path, waveforms: Path, some: Sequence[Candidate]) -> list[Pair]:
    if any(ids == FATAL for ids, _ in some):
        os._exit(1)
    return compare_some(library, waveforms, some)


def test_what_comes_is_looked_at_until_nothing_is_left(
    database: Database, runner: Runner, workers: Workers, tmp_path: Path
) -> None:
    finder = TwinFinder(database, tmp_path, workers)
    finder.register(runner)
    runner.start()
    finder.begin()
    assert not jobs.list_jobs(database.read(), (KIND,), 9), "nothing to look at, and no job"
    one, two = _add(database, "Tide", "Pier")
    finder.begin()
    wait_for(lambda: _found(database) == {(one, two)}, lambda: str(_found(database)))
    (three,) = _add(database, "Gull")
    finder.begin()
    wait_for(lambda: not twin_pairs.unseen(database.read()), "the last looked at")
    assert {(one, three), (two, three)} <= _found(database)
    wait_for(lambda: not runner.open_jobs(KIND), "rest")
    assert {job.state for job in jobs.list_jobs(database.read(), (KIND,), 9)} == {"done"}


def test_what_leaves_the_shelf_while_it_is_looked_for_is_looked_at_when_it_is_back(
    database: Database, runner: Runner, workers: Workers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    finder = TwinFinder(database, tmp_path, workers)
    finder.register(runner)
    one, two = _add(database, "Tide", "Pier")

    def left_meanwhile(connection: sqlite3.Connection) -> list[int]:
        monkeypatch.undo()
        found = twin_pairs.unseen(connection)
        with database.write() as writing:
            off_shelf.take_off(writing, [two], False)
        return found

    monkeypatch.setattr(twin_pairs, "unseen", left_meanwhile)
    runner.start()
    runner.begin(KIND, "Twins", {})
    wait_for(lambda: not runner.open_jobs(KIND), "the end of the search")
    assert not _found(database)
    with database.write() as connection:
        off_shelf.bring_back(connection, [two])
    finder.begin()
    wait_for(lambda: _found(database) == {(one, two)}, lambda: str(_found(database)))


def test_a_pair_that_ends_its_worker_is_said_and_the_others_are_compared(
    database: Database, runner: Runner, workers: Workers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(twin_finding, "compare_some", _ends_its_worker)
    finder = TwinFinder(database, tmp_path, workers)
    finder.register(runner)
    runner.start()
    ids = _add(database, "Tide", "Pier", "Gull")
    assert ids == [1, 2, 3]
    finder.begin()
    wait_for(lambda: not runner.open_jobs(KIND) and _found(database), "the end", 120)
    assert _found(database) == {(1, 2), (2, 3)}
    (job,) = jobs.list_jobs(database.read(), (KIND,), 9)
    (failure,) = jobs.list_failures(database.read(), job.id)
    assert failure.item == "tracks 1 and 3" and job.state == "done"


def _file(path: Path, voice_from_s: float | None = None, silence_s: float = 0.0) -> Path:
    """Half a minute of chords over noise, with a quiet voice from somewhere on for four seconds, as FLAC."""
    random, rate_hz = np.random.default_rng(2), 44100
    time_s = np.arange(30 * rate_hz) / rate_hz
    sound = 0.02 * random.standard_normal(len(time_s))
    for hz in (110, 220, 330):
        sound += 0.1 * np.sin(2 * np.pi * hz * time_s) * np.exp(-4 * (time_s % 0.5))
    if voice_from_s is not None:
        sounding = (time_s >= voice_from_s) & (time_s < voice_from_s + 4)
        sound += 0.03 * np.sin(2 * np.pi * 700 * time_s) * sounding
    sound = np.concatenate([np.zeros(round(silence_s * rate_hz)), sound])
    encode(np.stack([sound, sound]).astype(np.float32), rate_hz, path, "flac")
    return path


def test_pairs_are_compared_by_ear_and_what_cannot_be_is_said(
    database: Database, runner: Runner, workers: Workers, tmp_path: Path
) -> None:
    names = {"Tide": {}, "Later": {"silence_s": 0.4}, "Sung": {"voice_from_s": 12.0}}
    files = {name: _file(tmp_path / f"{name}.flac", **more) for name, more in names.items()}
    files["Broken"] = tmp_path / "Broken.flac"
    files["Broken"].write_bytes(b"fLaC" + bytes(200))
    with database.write() as connection:
        ids = {name: new_track(connection, name) for name in (*files, "Gone")}
        for name, path in files.items():
            connection.execute("UPDATE track SET path = ? WHERE id = ?", (str(path), ids[name]))
        imports.mark_away(connection, [ids["Gone"]], True)
        pairs = [
            Pair(
                ids["Tide"],
                ids[other],
                frozenset({"sound"}),
                SAME,
                Alignment(1.0, 0.4 * (other == "Later"), 0.0),
            )
            for other in ("Later", "Sung", "Broken", "Gone")
        ]
        twin_pairs.keep(connection, pairs, list(ids.values()))
    finder = TwinFinder(database, tmp_path, workers)
    finder.register(runner)
    runner.start()
    finder.begin()
    wait_for(
        lambda: not runner.open_jobs(KIND) and not twin_pairs.list_unheard(database.read()), "the end", 120
    )
    told = {pair.second: pair for pair in twin_pairs.list_pairs(database.read())}
    assert told[ids["Later"]].is_sure and (told[ids["Later"]].difference or 9) < 0.1
    assert told[ids["Sung"]].relation == "same backing"
    assert told[ids["Broken"]].unheard and not told[ids["Broken"]].is_sure
    assert told[ids["Gone"]].difference is None and not told[ids["Gone"]].is_sure
    (job,) = jobs.list_jobs(database.read(), (KIND,), 9)
    (failure,) = jobs.list_failures(database.read(), job.id)
    assert (failure.item, job.state) == ("Tide.flac beside Broken.flac", "done")
    with database.write() as connection:
        connection.execute(
            "UPDATE track SET path = ? WHERE id = ?", (str(tmp_path / "Whole.flac"), ids["Broken"])
        )
    assert [each.second for each in twin_pairs.list_unheard(database.read())] == [ids["Broken"]]


def test_what_hangs_together_by_others_only_is_left_to_the_user(
    database: Database, runner: Runner, tmp_path: Path
) -> None:
    with database.write() as connection:
        ids = [
            _with_file(connection, tmp_path / f"{name}.mp3")
            for name in ("Tide", "Pier", "Gull", "Ebb", "Slip")
        ]
        one, two, three, four, five = ids
        sure = [
            Pair(*each, frozenset({"sound"}), SAME, SAME_TIMES, 0.1)
            for each in ((one, two), (two, three), (four, five))
        ]
        twin_pairs.keep(connection, sure, ids)
        twin_pairs.say_no_twins(connection, [four, five])
    settler = Settler(database, lambda track_id: None, lambda: None)
    settler.register(runner)
    runner.start()
    job = settler.add(
        [Settlement(one, (two,)), Settlement(one, (three,)), Settlement(five, (four,))], aside=False
    )
    wait_for(lambda: not runner.open_jobs(settling.KIND), "the end")
    failures = jobs.list_failures(database.read(), job.id)
    assert [each.reason.split(":")[0] for each in failures] == ["It is left for you"] * 2
    off = database.read().execute("SELECT track_id FROM off_shelf").fetchall()
    assert [row[0] for row in off] == [two] and jobs.get_job(database.read(), job.id).result["settled"] == 1


def _with_file(connection: sqlite3.Connection, path: Path) -> int:
    path.write_bytes(b"sound")
    track, found = new_track(connection, path.stem), path.stat()
    connection.execute(
        "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ? WHERE id = ?",
        (str(path), found.st_size, found.st_mtime_ns, track),
    )
    return track
