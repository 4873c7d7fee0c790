"""Background work without HTTP: importing, analysing, the runner, and what happens when things break."""

from __future__ import annotations

import asyncio
import os
import sqlite3
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tests.faults import break_file, die_once, full_disk
from tests.patience import wait_for
from tests.signals import RATE_HZ, drum_loop
from vinyl.core.analysis import Analysis, analyse
from vinyl.core.cues.cue import Cue
from vinyl.core.cues.templates import TemplateCue
from vinyl.core.rules.conditions import AllOf, Between, KeyIs
from vinyl.demo.seed import seed_library
from vinyl.jobs import editing, importing, watching
from vinyl.jobs.analysing import analyse_file
from vinyl.jobs.events import LONGEST_QUEUE, Broadcaster, Reload
from vinyl.jobs.importing import examine_some
from vinyl.jobs.runner import Stopped, Task
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library import (
    analyses,
    cues,
    find,
    imports,
    jobs,
    locks,
    templates,
    tracks,
    undo,
    values,
    watched,
)
from vinyl.library.changes import Change
from vinyl.library.database import Database
from vinyl.library.find import Order, find_ids
from vinyl.library.jobs import Job
from vinyl.library.pictures import count_pictures
from vinyl.library.values import Value
from vinyl.media.encode import ENCODINGS, encode
from vinyl.media.glance import glance
from vinyl.media.probe import probe
from vinyl.media.tags import Tags, parse, write_tags
from vinyl.operations import history
from vinyl.operations import tracks as operations
from vinyl.operations.services import Services, Settings

# More than the rows of a page of a database, and than what is done while the user waits.
MANY = 5200


class House:
    """A server's parts without the server, over a folder of music."""

    def __init__(self, folder: Path) -> None:
        self.music = folder / "music"
        self.music.mkdir(exist_ok=True)
        self.services = Services(
            Settings(folder / "home", folder / "web", allow=(folder,), workers=1, nice=0)
        )
        self.database = self.services.database

    def song(self, name: str, form: str = "mp3", bpm: float = 120.0) -> Path:
        path = self.music / f"{name}{ENCODINGS[form].suffix}"
        path.parent.mkdir(exist_ok=True, parents=True)
        encode(drum_loop(bpm, 0.3, 12.0, seed=len(name)), RATE_HZ, path, form)
        return path

    def wait(self, job: Job, state: str = "done", seconds: float = 60) -> Job:
        get = lambda: self.services.runner.get(job.id)  # noqa: E731
        wait_for(lambda: get().state == state, lambda: f"{job.kind} {state}: {get()}", seconds)
        return get()

    def bring_in(self, folder: Path | None = None) -> Job:
        return self.wait(self.services.importer.add([folder or self.music]))

    def analysed(self) -> Job:
        """The analysis job, once nothing waits."""
        listed = lambda: jobs.list_jobs(self.database.read(), limit=20)  # noqa: E731
        of_analysis = lambda: [job for job in listed() if job.kind == "analysis"]  # noqa: E731
        is_done = lambda: all(job.state not in jobs.OPEN for job in of_analysis())  # noqa: E731
        wait_for(lambda: of_analysis() and is_done(), lambda: f"the analysis: {of_analysis()}")
        return max(of_analysis(), key=lambda job: job.id)

    def reasons(self, job: Job) -> dict[str, tuple[str, str]]:
        files = imports.list_files(self.database.read(), job.id, None, 0, 100)
        return {Path(file.path).name: (file.outcome, file.reason) for file in files}

    def rows(self) -> dict[str, Any]:
        read = self.database.read()
        ids = find_ids(read, AllOf(), Order("title"))
        return {row["title"]: row for row in find.get_rows(read, ids)}


@pytest.fixture
def house(tmp_path: Path) -> Iterator[House]:
    made = House(tmp_path)
    made.services.start()
    yield made
    made.services.stop()


def test_every_file_gets_its_outcome_and_none_is_changed(house: House) -> None:
    song = house.song("Foghorn")
    write_tags(song, Tags("Foghorn Romance", "Ilva Dune", rating=4))
    house.song("Kelp Union - Halyard", "wav", 126)
    (house.music / "Foghorn 1.mp3").write_bytes(song.read_bytes())
    (house.music / "cut.mp3").write_bytes(song.read_bytes()[: song.stat().st_size // 2])
    (house.music / "cover.jpg").write_bytes(b"\xff\xd8")
    (house.music / "words.mp3").write_text("23:00 Foghorn\n" * 50)
    before = {path: (path.stat().st_mtime_ns, path.stat().st_size) for path in house.music.iterdir()}
    job = house.bring_in()
    found = house.reasons(job)
    assert (job.done, job.total) == (6, 6)
    assert found["Foghorn.mp3"][0] == found["Kelp Union - Halyard.wav"][0] == "added"
    assert found["Foghorn 1.mp3"] == (
        "already here",
        "It holds the very same sound as Foghorn.mp3; noted as a copy of it.",
    )
    assert found["cut.mp3"][0] == "broken" and "cut off" in found["cut.mp3"][1]
    assert found["cover.jpg"][0] == found["words.mp3"][0] == "not audio"
    assert {path: (path.stat().st_mtime_ns, path.stat().st_size) for path in before} == before
    rows = house.rows()
    assert rows["Foghorn Romance"]["rating"] == 4
    assert rows["Halyard"]["artist"] == "Kelp Union", "named after its file"


def test_two_sounds_that_are_alike_in_their_pieces_are_two_tracks(house: House) -> None:
    """As a clean and an explicit edit are: the same length, the same bytes but for a word in the middle."""
    song = house.song("Clean", "flac")
    write_tags(song, Tags("Clean", "Ilva Dune"))
    edit, data = house.music / "Explicit.flac", bytearray(song.read_bytes())
    at = len(data) // 2 + 20_000  # between two of the pieces that a quick look takes
    data[at : at + 400] = bytes(400)
    edit.write_bytes(data)
    assert glance(edit, parse(edit)).sampled_hash == glance(song, parse(song)).sampled_hash  # type: ignore[union-attr]
    (house.music / "Copy.flac").write_bytes(song.read_bytes())
    found = house.reasons(house.bring_in())
    assert [found[name][0] for name in ("Clean.flac", "Copy.flac", "Explicit.flac")] == [
        "added",
        "already here",
        "added",
    ]


def test_a_file_moved_before_it_had_a_quick_name_is_found_by_all_its_packets(house: House) -> None:
    song = house.song("Old")
    house.bring_in()
    with house.database.write() as connection:
        connection.execute(
            "UPDATE track SET sampled_hash = NULL, packet_hash = ?", (probe(song).packet_hash,)
        )
    song.rename(house.music / "New.mp3")
    assert house.reasons(house.bring_in())["New.mp3"][0] == "moved"


def test_importing_again_finds_what_is_new_moved_retagged_and_the_same(house: House) -> None:
    first, second = house.song("One"), house.song("Two", bpm=126)
    house.bring_in()
    track = house.rows()["Two"]["id"]
    with house.database.write() as connection:
        cues.add_cue(connection, track, Cue(2.0, label="kept"))
    (house.music / "sorted").mkdir()
    second.rename(house.music / "sorted" / "Two, renamed.mp3")
    house.song("Three", bpm=90)
    found = house.reasons(house.bring_in())
    assert found["One.mp3"] == ("already here", "It was imported before and has not changed.")
    assert found["Three.mp3"][0] == "added"
    outcome, reason = found["Two, renamed.mp3"]
    assert outcome == "moved" and "moved here from" in reason
    assert list(house.rows()) == ["One", "Three", "Two"]
    assert [cue.label for cue in cues.list_cues(house.database.read(), track)] == ["kept"]
    write_tags(first, Tags("One, with other tags"))
    assert house.reasons(house.bring_in())["One.mp3"][0] == "changed"
    assert list(house.rows()) == ["One, with other tags", "Three", "Two"]


def test_a_file_replaced_by_another_sound_is_analysed_anew_and_put_in_doubt(house: House) -> None:
    song = house.song("One")
    house.bring_in()
    house.analysed()
    track = house.rows()["One"]["id"]
    with house.database.write() as connection:
        cues.add_cue(connection, track, Cue(2.0, label="mine"))
    song.unlink()
    house.song("One", bpm=133)
    assert house.reasons(house.bring_in())["One.mp3"][0] == "changed"
    house.analysed()
    row = tracks.get_track(house.database.read(), track)
    assert row["replaced"] and row["doubt"] >= 0.6 and "replaced" in row["doubt_reasons"]
    assert row["bpm"] == pytest.approx(133, abs=0.1)
    assert [cue.label for cue in cues.list_cues(house.database.read(), track)] == ["mine"]
    with house.database.write() as connection:
        assert undo.step_back(connection, "undo").name == "Take in the new file of “One”"
    before = tracks.get_track(house.database.read(), track)
    assert before["bpm"] == pytest.approx(120, abs=0.1) and not before["replaced"], "the old values are back"


def test_a_template_on_thousands_of_tracks_is_a_job_that_one_step_takes_back(house: House) -> None:
    seed_library(house.database, MANY)
    with house.database.write() as connection:
        structure = Value('{"cues": [{"time": 60.0, "role": "main", "label": "main"}]}')
        values.put(connection, range(1, MANY + 1), "analysis", {"structure": structure})
        locks.set_lock(connection, [7], "cues", True)
        saved = templates.save_template(connection, "Ready", [TemplateCue("main", -8.0, label="ready")])
        template = templates.get_template(connection, saved)
    job = house.wait(house.services.templater.add(template, range(1, MANY + 1)))
    read = house.database.read()
    assert (job.done, job.total, job.result) == (MANY, MANY, {"cues": MANY - 1, "tracks": MANY - 1})
    assert [failure.track_id for failure in jobs.list_failures(read, job.id)] == [7]
    set_by_it = "SELECT count(DISTINCT track_id) FROM cue WHERE label = 'ready'"
    assert read.execute(set_by_it).fetchone()[0] == MANY - 1
    with house.database.write() as connection:
        assert undo.step_back(connection, "undo").name == f"Template “Ready” on {MANY} tracks"
    assert read.execute(set_by_it).fetchone()[0] == 0


def test_an_edit_of_thousands_goes_on_over_locks_and_other_hands_and_ends_when_it_is_undone(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(editing, "BATCH", 1000)
    database, read = house.database, house.database.read()
    seed_library(database, MANY)
    with database.write() as connection:
        locks.set_lock(connection, range(1, 1501), "tags", True)
    four = "SELECT count(*) FROM shelf WHERE rating = 4 AND id > 1500"
    progress, between = Task.progress, list[Callable[[], object]]()

    def and_another(task: Task, done: int, *told: Any) -> None:
        progress(task, done, *told)
        if task.job.kind == editing.KIND and done == 3000:
            between.pop()()

    monkeypatch.setattr(Task, "progress", and_another)
    rate = lambda stars: operations.begin_rating(house.services.editor, range(1, MANY + 1), stars)  # noqa: E731
    between.append(lambda: operations.edit_values(database, [2000], {"comment": "by another hand"}))
    job = house.wait(rate(4))
    assert (job.done, job.result) == (MANY, {"locked": 1500})
    assert read.execute(four).fetchone()[0] == MANY - 1500
    assert "track_ids" not in job.payload, "a list that has been gone through is not kept"
    names = [history.step_back(house.services, "undo").name for _ in range(3)]
    assert names == [job.subject, "Edit comment of a track", job.subject]
    before = read.execute(four).fetchone()[0]
    between.append(lambda: history.step_back(house.services, "undo"))
    job = house.wait(rate(4), "cancelled")
    wait_for(lambda: house.services.runner.get(job.id).result == {"undone": True}, "the end of the job")
    assert read.execute(four).fetchone()[0] == before, "nothing of it came after it was undone"


def test_where_a_part_of_an_edit_is_locked_nothing_of_it_is_half_done(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(editing, "BATCH", 2000)
    seed_library(house.database, MANY)
    with house.database.write() as connection:
        locks.set_lock(connection, range(1, 1001), "tags", True)
    before = house.database.read().execute("SELECT * FROM shelf WHERE id <= 1000 ORDER BY id").fetchall()
    both = {"key": "A minor", "comment": "late"}
    job = house.wait(operations.begin_editing(house.services.editor, range(1, MANY + 1), both))
    assert job.result == {"locked": 1000}
    read = house.database.read()
    assert read.execute("SELECT * FROM shelf WHERE id <= 1000 ORDER BY id").fetchall() == before
    by_hand = (
        "SELECT count(*) FROM track_value WHERE field = 'key' AND source = 'by hand' AND track_id <= 1000"
    )
    assert read.execute(by_hand).fetchone()[0] == 0
    rest = "SELECT count(*) FROM shelf WHERE id > 1000 AND key = 'A minor' AND comment = 'late'"
    assert read.execute(rest).fetchone()[0] == MANY - 1000


def test_an_edit_that_was_broken_off_goes_on_where_it_was_at_the_next_start(
    house: House, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr(editing, "BATCH", 1000)
    seed_library(house.database, MANY)
    edited, edit = list[int](), editing.EDITS["values"]

    def and_note(connection: sqlite3.Connection, ids: Sequence[int], how: Mapping[str, Any]) -> int:
        edited.append(ids[0])
        return edit(connection, ids, how)

    monkeypatch.setitem(editing.EDITS, "values", and_note)
    progress = Task.progress

    runner = house.services.runner

    def and_end(task: Task, done: int, *told: Any) -> None:
        progress(task, done, *told)
        if task.job.kind == editing.KIND and done == 2000:
            task.keep()
            wait_for(lambda: runner.must_stop(task.job.id), "the end of the server")
            raise Stopped

    monkeypatch.setattr(Task, "progress", and_end)
    late = {"comment": "late"}
    job = operations.begin_editing(house.services.editor, range(1, MANY + 1), late)
    wait_for(lambda: runner.get(job.id).done == 2000, "two parts done")
    house.services.stop()
    assert edited == [1, 1001]
    monkeypatch.setattr(Task, "progress", progress)
    again = House(tmp_path)
    again.services.start()
    try:
        assert again.wait(job).result == {"locked": 0}
        assert edited[2:] == [2001, 3001, 4001, 5001], "what was done is not done again"
        late_ones = "SELECT count(*) FROM shelf WHERE comment = 'late'"
        assert again.database.read().execute(late_ones).fetchone()[0] == MANY
    finally:
        again.services.stop()


def test_tags_are_read_again_after_showing_what_is_different_and_taken_back_in_one_step(house: House) -> None:
    songs = {
        name: house.song(name, bpm=120.0 + number) for number, name in enumerate(("One", "Two", "Three"))
    }
    house.bring_in()
    ids = {name: row["id"] for name, row in house.rows().items()}
    stats = {name: song.stat() for name, song in songs.items()}
    write_tags(songs["One"], Tags("One", "Kelp Union", comment="Energy 8"))
    with house.database.write() as connection:
        values.put(connection, [ids["One"]], "by hand", {"comment": Value("mine")})
    songs["Three"].unlink()
    read, rereader = house.database.read(), house.services.rereader
    wanted = [*ids.values(), 4711]
    different = {(each.field, each.before, each.after) for each in rereader.differences(wanted)}
    assert different >= {
        ("artist", None, "Kelp Union"),
        ("energy", None, "80"),
        ("comment", None, "Energy 8"),
    }
    assert songs["Two"].stat() == stats["Two"], "nothing was written"
    job = house.wait(rereader.add(wanted))
    assert job.result == {"tracks": 1}
    assert [(each.track_id, "not there" in each.reason) for each in jobs.list_failures(read, job.id)] == [
        (ids["Three"], True)
    ]
    row = tracks.get_track(read, ids["One"])
    assert (row["artist"], row["comment"]) == ("Kelp Union", "mine"), "what was done by hand goes on to win"
    assert not rereader.differences([ids["One"]])
    with house.database.write() as connection:
        assert undo.step_back(connection, "undo").name == "Take in the tags of 4 tracks"
    assert tracks.get_track(read, ids["One"])["artist"] == ""


def test_a_folder_that_is_gone_fails_in_words(house: House) -> None:
    job = house.services.importer.add([house.music / "nowhere"])
    assert "is not there" in (house.wait(job, "failed").error or "")


def test_single_files_pipes_and_folders_that_may_not_be_read_each_get_their_outcome(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    song, other = house.song("Alone"), house.song("sub/Other")
    os.mkfifo(house.music / "pipe.mp3")
    (house.music / "round.mp3").symlink_to(house.music / "round.mp3")
    scan = os.scandir

    def guarded(path: Any) -> Any:
        if str(path).endswith("sub"):
            raise PermissionError(13, "Permission denied", str(path))
        return scan(path)

    job = house.wait(house.services.importer.add([song, other]))
    assert {name: each[0] for name, each in house.reasons(job).items()} == {
        "Alone.mp3": "added",
        "Other.mp3": "added",
    }
    with monkeypatch.context() as patched:
        patched.setattr(os, "scandir", guarded)
        found = house.reasons(house.bring_in())
    assert (found["sub"][0], "may not read" in found["sub"][1]) == ("broken", True)
    assert (found["pipe.mp3"][0], found["round.mp3"][0]) == ("not audio", "broken")
    assert found["Alone.mp3"] == ("already here", "It was imported before and has not changed.")


def test_what_comes_into_a_watched_folder_is_imported_once_it_is_whole(house: House) -> None:
    before = house.song("Before")
    whole = house.song("Elsewhere").read_bytes()
    (house.music / "Elsewhere.mp3").unlink()
    with house.database.write() as connection:
        watched.set_folders(connection, [str(house.music), str(house.music / "away")])
    house.services.watcher.look_again()
    wait_for(lambda: "Before" in house.rows(), "what was there before")
    slowly = house.music / "slowly.mp3"
    with slowly.open("wb") as file:
        file.write(whole[:50_000])
        file.flush()
        wait_for(lambda: slowly.stat().st_size == 50_000, "the first half")
        file.write(whole[50_000:])
    wait_for(lambda: "slowly" in house.rows(), "the new file")
    files = [
        file for job in jobs.list_jobs(house.database.read(), ("import",)) for file in house.reasons(job)
    ]
    assert sorted(files) == ["Before.mp3", "slowly.mp3"], "each was imported once, and whole"
    break_file(before)
    os.utime(before, (before.stat().st_mtime - 3600,) * 2)
    house.wait(house.services.importer.add([before]))
    known = imports.known_at(house.database.read(), [str(house.music)])
    refused = imports.refused_at(house.database.read())
    assert not watching.is_new(before, known, refused), "what was refused as it is is not tried for ever"
    os.utime(before, (before.stat().st_mtime + 7200,) * 2)
    assert watching.is_new(before, known, refused)


def test_a_link_to_outside_is_not_followed(house: House, tmp_path_factory: pytest.TempPathFactory) -> None:
    song = house.song("Inside")
    outside = tmp_path_factory.mktemp("outside") / "secret.mp3"
    song.rename(outside)
    song.symlink_to(outside)
    outcome, reason = house.reasons(house.bring_in())["Inside.mp3"]
    assert outcome == "broken" and "outside the folders" in reason


def test_one_file_that_breaks_the_reader_does_not_end_the_import(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    house.song("Good")
    house.song("Poison", bpm=126)
    monkeypatch.setattr(importing, "examine_some", _examine_but_poison)
    found = house.reasons(house.bring_in())
    assert found["Good.mp3"][0] == "added"
    assert found["Poison.mp3"][0] == "broken" and found["Poison.mp3"][1]


def _examine_but_poison(files: list[Any], *given: Any) -> Any:
    if any("Poison" in path for path, _ in files):
        raise RecursionError("a tag within a tag within a tag")
    return examine_some(files, *given)


def test_a_reader_that_the_system_kills_makes_no_good_file_broken(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Eight of twelve were once called broken; they are looked at again, each alone."""
    monkeypatch.setattr(importing, "examine_some", _examine_and_die_once)
    monkeypatch.setenv("VINYL_TEST_MARK", str(house.music.parent / "died"))
    names = [f"Good {'x' * number}" for number in range(6)]
    for name in names:
        house.song(name)
    found = house.reasons(house.bring_in())
    assert (house.music.parent / "died").exists()
    assert {outcome for outcome, _ in found.values()} == {"added"} and len(found) == len(names)


def _examine_and_die_once(files: list[Any], *given: Any) -> Any:
    die_once(Path(os.environ["VINYL_TEST_MARK"]))
    return examine_some(files, *given)


def test_a_watched_folder_is_looked_at_again_after_an_import_of_it_that_failed(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    with monkeypatch.context() as patched:
        patched.setattr(importing, "_files_below", lambda paths: 1 / 0)
        house.wait(house.services.importer.add([house.music]), "failed")
    house.song("Later")
    house.bring_in()
    assert "Later" in house.rows()


def test_a_full_disk_is_said_and_the_import_goes_on_by_itself(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vinyl.jobs.runner.RETRY_S", 0.2)
    house.song("One")
    told: list[str] = []
    monkeypatch.setattr(house.services.events, "publish", lambda event: told.append(str(event)))
    job = house.services.importer.add([house.music])
    with full_disk(house.database):
        wait_for(lambda: any("disk is full" in event for event in told), "the words")
    assert house.wait(job).error is None
    assert house.reasons(job)["One.mp3"][0] == "added"


def test_a_drive_that_is_away_is_noticed_and_comes_back(house: House) -> None:
    song = house.song("One")
    house.bring_in()
    song.rename(song.with_suffix(".away"))
    importing.find_changes(house.database)
    assert house.rows()["One"]["away"]
    song.with_suffix(".away").rename(song)
    importing.find_changes(house.database)
    assert not house.rows()["One"]["away"]


def test_looking_after_files_lets_others_work_now_and_then(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(importing, "LOOK_BATCH", 2)
    for place, name in enumerate(("One", "Two", "Three", "Four", "Five")):
        house.song(name, bpm=100.0 + place)
    house.bring_in()
    rests: list[float] = []
    (house.music / "Five.mp3").unlink()
    assert importing.find_changes(house.database, rests.append) == []
    assert len(rests) == 2 and all(worked_s >= 0 for worked_s in rests)
    assert [title for title, row in house.rows().items() if row["away"]] == ["Five"], "all were looked at"


def test_a_changed_file_is_taken_in_once_it_is_whole_and_not_again_and_again(house: House) -> None:
    song = house.song("One")
    house.bring_in()
    break_file(song)
    changed = importing.find_changes(house.database)
    assert changed == [str(song)] and importing.to_import(house.database, changed) == [], (
        "still being written"
    )
    os.utime(song, (song.stat().st_mtime - 60,) * 2)
    changed = importing.find_changes(house.database)
    assert importing.to_import(house.database, changed) == [song]
    house.wait(house.services.importer.add([song]))
    assert importing.to_import(house.database, changed) == [], "refused as it is"


def test_what_cannot_be_analysed_is_told_and_the_rest_goes_on(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vinyl.jobs.analysing.analyse_file", _break_two)
    house.song("One")
    house.song("Two", "flac", 126)
    house.bring_in()
    job = house.analysed()
    rows = house.rows()
    assert job.state == "done" and rows["One"]["bpm"] == pytest.approx(120, abs=0.05)
    assert house.services.waveforms.read(rows["One"]["id"])[:2] == b"\x1f\x8b"
    assert rows["Two"]["analysis_state"] == "failed" and rows["Two"]["analysis_error"]
    failure = jobs.list_failures(house.database.read(), job.id, 0, 10)[0]
    assert (failure.item, failure.track_id) == ("Two.flac", rows["Two"]["id"])


def _break_two(path: str, *given: Any) -> Analysis:
    if "Two" in path:
        break_file(Path(path), 0.01)
    return analyse_file(path, *given)


def test_a_worker_that_dies_is_replaced_and_its_track_tried_again(
    house: House, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("vinyl.jobs.analysing.analyse_file", _die_once)
    monkeypatch.setenv("VINYL_TEST_MARK", str(house.music / "died"))
    house.song("One")
    house.bring_in()
    house.analysed()
    assert (house.music / "died").exists()
    assert house.rows()["One"]["bpm"] == pytest.approx(120, abs=0.05)


def _die_once(path: str, *given: Any) -> Analysis:
    die_once(Path(os.environ["VINYL_TEST_MARK"]))
    return analyse_file(path, *given)


def test_a_worker_that_takes_all_memory_or_for_ever_is_ended() -> None:
    workers = Workers(1, memory_bytes=600 << 20)
    try:
        with pytest.raises(WorkerError, match="memory"):
            workers.run(_take_memory, 4 << 30, timeout_s=30)
        with pytest.raises(WorkerError, match="too long"):
            workers.run(_never_end, timeout_s=0.5)
        assert workers.run(len, "abc", timeout_s=10) == 3
    finally:
        workers.stop()


def _take_memory(size: int) -> int:
    return len(bytearray(size))


def _never_end() -> None:
    threading.Event().wait()


def test_a_job_that_was_running_goes_on_at_the_next_start(tmp_path: Path) -> None:
    first = House(tmp_path)
    first.song("One")
    job = first.services.importer.add([first.music])
    with first.database.write() as connection:
        jobs.set_state(connection, job.id, "running")
    again = House(tmp_path)
    again.services.start()
    try:
        again.wait(job)
        assert list(again.rows()) == ["One"]
        assert again.analysed().state == "done"
    finally:
        again.services.stop()
        first.services.stop()


def test_a_job_that_cannot_go_on_fails_alone(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    house.song("One")
    with monkeypatch.context() as patched:
        patched.setattr(importing, "_files_below", lambda paths: 1 / 0)
        failed = house.wait(house.services.importer.add([house.music]), "failed")
    assert "an error of its own (ZeroDivisionError)" in (failed.error or "")
    house.bring_in()
    assert list(house.rows()) == ["One"]


def test_a_result_that_arrives_after_its_track_is_dropped_quietly(house: House) -> None:
    result = analyse(drum_loop(120, 0, 6.0))
    with house.database.write() as connection:
        analyses.store(connection, 99, result)
        assert connection.execute("SELECT count(*) FROM track_analysis").fetchone()[0] == 0


def test_events_reach_every_listener_and_a_slow_one_is_told_to_reload() -> None:
    async def listen() -> tuple[int, object]:
        events = Broadcaster()
        fast, slow = events.listen(), events.listen()
        for number in range(LONGEST_QUEUE + 50):
            events.publish(Change(number, ("tracks",)))
        got = [await asyncio.wait_for(fast.get(), 5) for _ in range(1)]
        events.leave(fast)
        return len(got), await asyncio.wait_for(slow.get(), 5)

    got, told = asyncio.run(listen())
    assert got == 1 and isinstance(told, Reload)


def test_a_seeded_library_is_large_and_the_same_each_time(tmp_path: Path) -> None:
    made = [Database.prepared(tmp_path / name) for name in ("1.db", "2.db")]
    for database in made:
        seed_library(database, 3000)
    query = "SELECT title, bpm, key, added_at FROM shelf ORDER BY id"
    rows = [[tuple(row) for row in database.read().execute(query)] for database in made]
    assert rows[0] == rows[1] and len(rows[0]) == 3000
    read = made[0].read()
    counts = count_pictures(read, AllOf((Between("bpm", 120, 130),)))
    assert sum(counts["bpm"].values()) == 3000 > sum(counts["key"].values())
    fitting = find.get_rows(read, find_ids(read, KeyIs("A minor"), Order("key")))
    assert {row["key"] for row in fitting} == {"A minor", "E minor", "D minor", "C major"}
    fastest = find.find_window(read, AllOf(), Order("bpm", descending=True), 0, 50).rows
    assert np.all(np.diff([row["bpm"] for row in fastest]) <= 0)
