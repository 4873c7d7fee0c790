"""Twins in a library: by sound, by name and by copies that were noted, from made-up fingerprints."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.library.making import new_track
from vinyl.commands.twins import print_twins
from vinyl.core.likeness.descriptor import SIZE
from vinyl.library import off_shelf
from vinyl.library.database import Database
from vinyl.library.twins import Twins, find_twins

FRAMES = 1500
Words = NDArray[np.uint32]


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database.prepared(tmp_path / "library.db")


class Studio:
    """Makes recordings: each a row of random words, and a descriptor of its own."""

    def __init__(self, connection: sqlite3.Connection) -> None:
        self.connection, self.random = connection, np.random.default_rng(3)

    def recording(self) -> tuple[Words, NDArray[np.float32]]:
        words = self.random.integers(1, 2**32, FRAMES, dtype=np.uint32)
        return words, self.random.standard_normal(SIZE).astype(np.float32)

    def copy(self, words: Words, wrong: float = 0.06) -> Words:
        """The same with some bits turned over, as by an encoder."""
        flips = (self.random.random((len(words), 32)) < wrong).astype(np.uint32)
        return words ^ (flips << np.arange(32, dtype=np.uint32)).sum(axis=1, dtype=np.uint32)

    def track(self, name: str, words: Words, descriptor: NDArray[np.float32], **more: str) -> int:
        track_id = new_track(self.connection, name, **more)
        blurred = descriptor + 0.05 * self.random.standard_normal(SIZE)
        self.connection.execute(
            "INSERT INTO track_likeness (track_id, descriptor, fingerprint) VALUES (?, ?, ?)",
            (track_id, blurred.astype("<f4").tobytes(), words.astype("<u4").tobytes()),
        )
        return track_id


def found_in(database: Database) -> Twins:
    return find_twins(database.read())


def members(twins: Twins) -> list[tuple[int, ...]]:
    return [group.track_ids for group in twins.groups]


def test_one_recording_in_other_files_is_a_group_and_edits_stand_beside_it(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        tide = studio.track("Tide", words, sound)
        later = np.concatenate([np.zeros(11, np.uint32), studio.copy(words)])
        silent = studio.track("Pier", later, sound, artist="Unknown")
        cut = np.concatenate([words[:600], words[900:]])
        edit = studio.track("Tide (radio)", studio.copy(cut), sound)
        others = [studio.track(f"Other {place}", *studio.recording()) for place in range(30)]
    twins = found_in(database)
    assert members(twins) == [(tide, silent), (edit,)]
    group, beside = twins.groups
    (pair,) = group.pairs
    assert (pair.relation, pair.evidence) == ("same", {"sound"}) and pair.likeness > 0.8
    assert pair.match.offset_s == pytest.approx(11 / 10.77, abs=0.01)
    assert dict(group.versions) == {edit: "edit"} and tide in beside.versions | {tide: "edit"}
    assert not set(others) & {track_id for each in members(twins) for track_id in each}
    assert twins.by_name == () and twins.copies == {}, "numbers are no copies where there are many"


def test_names_lead_to_pairs_that_no_sound_would_and_say_where_it_is_another(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        one = studio.track("Halyard", words, sound)
        # A descriptor that is nothing like it, as after a filter: only the name leads there.
        copy = studio.track("Halyard 2", studio.copy(words), -sound, title="Halyard")
        live = studio.track("Halyard live", *studio.recording(), title="Halyard")
        stranger = studio.track("Halyard 3", *studio.recording(), artist="Brine Social", title="Rigging")
    twins = found_in(database)
    assert members(twins) == [(one, copy)]
    assert twins.groups[0].pairs[0].evidence == {"file name", "artist and title"}
    alike = {(pair.first, pair.second): pair.evidence for pair in twins.by_name}
    assert alike == {
        (one, live): {"artist and title"},
        (copy, live): {"artist and title"},
        (one, stranger): {"file name"},
        (copy, stranger): {"file name"},
    }


def test_what_is_off_the_shelf_or_was_not_analysed_has_no_twins(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        here = studio.track("Tide", words, sound)
        gone = studio.track("Tide 1", studio.copy(words), sound)
        unheard = new_track(connection, "Tide 2", title="Tide")
        connection.execute(
            "INSERT INTO track_copy VALUES ('/music/Tide copy.mp3', ?, 1, 1, '2026-01-01')", (here,)
        )
    assert members(found_in(database)) == [(here, gone)]
    with database.write() as connection:
        off_shelf.take_off(connection, [gone], aside=False)
    twins = found_in(database)
    assert twins.groups == () and unheard not in twins.copies
    assert twins.copies == {here: ("/music/Tide copy.mp3",)}


def test_counting_can_be_followed_and_ended(database: Database) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        for place in range(4):
            studio.track(f"Tide {place}", studio.copy(words), sound)
    told: list[tuple[int, int]] = []
    find_twins(database.read(), lambda done, total: told.append((done, total)))
    assert told == [(0, 6)]

    def end(done: int, total: int) -> None:
        raise KeyboardInterrupt

    with pytest.raises(KeyboardInterrupt):
        find_twins(database.read(), end)


def test_the_command_prints_groups_and_the_same_as_json(
    database: Database, capsys: pytest.CaptureFixture[str]
) -> None:
    with database.write() as connection:
        studio = Studio(connection)
        words, sound = studio.recording()
        one = studio.track("Tide", words, sound)
        studio.track("Tide 1", studio.copy(words), sound, title="Tide")
        studio.track("Tide other", *studio.recording(), title="Tide")
        connection.execute(
            "INSERT INTO track_copy VALUES ('/music/Tide copy.mp3', ?, 1, 1, '2026-01-01')", (one,)
        )
    home = database.path.parent
    assert print_twins(home, as_json=False) == 0
    lines = capsys.readouterr().out.splitlines()
    assert lines[0] == "1 recordings that are there more than once, 2 pairs only called alike"
    assert lines[1:5] == ["Tide – Kelp Union", *(f"    /music/Tide{end}.mp3" for end in ("", " copy", " 1"))]
    assert "found by artist and title, file name, sound" in lines[5]
    assert lines[6].startswith("Called alike, but another sound: /music/Tide")
    assert print_twins(home, as_json=True) == 0
    told = json.loads(capsys.readouterr().out)
    (group,) = told["groups"]
    assert group["files"] == ["/music/Tide.mp3", "/music/Tide copy.mp3", "/music/Tide 1.mp3"]
    assert group["pairs"][0]["relation"] == "same" and len(told["called alike"]) == 2
