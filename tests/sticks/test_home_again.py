"""What is changed on a player comes home: shown, chosen, taken, and the same on both sides after packing."""

from __future__ import annotations

import json
import random
import uuid
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.sticks.test_packing import Desk
from vinyl.core.cues.cue import Cue
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import crates, cues, grids, locks, off_shelf, tracks, undo
from vinyl.sticks import store
from vinyl.sticks.changes import CHANGES_FILE
from vinyl.sticks.home_again import CameHome, Choice, came_home, take_home
from vinyl.sticks.index import StickIndex, read_index
from vinyl.sticks.papers import read_papers

PLAYER = "Fairlead"


class Booth:
    """A player in a booth: it reads the index, changes things, and writes each change down."""

    def __init__(self, folder: Path) -> None:
        index, _ = read_index(folder)
        assert index is not None
        self._folder, self._on = folder, index.written_at
        player = next(each for each in index.players if each.profile == PLAYER)
        self.cues = {each.id: [cue.model_dump() for cue in each.cues] for each in player.tracks}
        self.stars = {each.id: each.stars for each in player.tracks}
        self.lists = {each.id: list(each.tracks) for each in player.lists}

    def set_cues(self, track: str, after: list[dict[str, Any]]) -> None:
        self._write("cues", track=track, cues=after, before=self.cues[track])
        self.cues[track] = after

    def rate(self, track: str, stars: int) -> None:
        self._write("stars", track=track, stars=stars)
        self.stars[track] = stars

    def order(self, name: str, order: list[str]) -> None:
        self._write("list", list=name, tracks=order)
        self.lists[name] = order

    def shift_grid(self, track: str, first_s: float) -> None:
        anchors = [{"time": first_s, "beat": 0.0, "bpm": 120.0}]
        self._write("grid", track=track, anchors=anchors, beats_per_bar=4)

    def _write(self, what: str, **told: Any) -> None:
        line = {"change": uuid.uuid4().hex, "at": datetime.now(UTC).isoformat(), "on": self._on,
                "player": PLAYER, "what": what, **told}  # fmt: skip
        with (self._folder / CHANGES_FILE).open("a") as paper:
            paper.write(json.dumps(line) + "\n")


def _new_cue(position_s: float) -> dict[str, Any]:
    return {"position_s": position_s, "length_s": None, "label": "", "role": None, "colour": "ink",
            "pad": None, "engages": False, "id": ""}  # fmt: skip


@pytest.fixture
def desk(tmp_path: Path) -> Desk:
    made = Desk(tmp_path)
    with made.database.write() as connection:
        store.choose_players(connection, made.id, {PLAYER: ("", None)})
        for number, track_id in enumerate(made.tracks):
            for at in range(3):
                cues.add_cue(connection, track_id, Cue(1.0 + 2 * at + number / 10, label=f"{number}{at}"))
    made.pack()
    return made


def _came(desk: Desk) -> list[CameHome]:
    read = desk.database.read()
    return came_home(read, store.get_stick(read, desk.id), read_papers(desk.medium.folder))


def _take(desk: Desk, choices: dict[str, Choice]) -> tuple[int, list[tuple[str, str]]]:
    with desk.database.write("home") as connection:
        stick, papers = store.get_stick(connection, desk.id), read_papers(desk.medium.folder)
        return take_home(connection, stick, papers, choices)


def _hash(desk: Desk, track_id: int) -> str:
    row = desk.database.read().execute("SELECT audio_hash FROM track WHERE id = ?", (track_id,)).fetchone()
    return str(row[0])


def _here(desk: Desk, track_id: int) -> dict[str, tuple[float, str]]:
    rows = desk.database.read().execute("SELECT * FROM cue WHERE track_id = ?", (track_id,))
    return {row["gid"]: (row["position_s"], row["label"]) for row in rows}


def _index(desk: Desk) -> StickIndex:
    index, _ = read_index(desk.medium.folder)
    assert index is not None
    return index


def test_changes_are_told_by_value_and_both_changed_waits_for_a_choice(desk: Desk) -> None:
    booth, (one, two, three, _) = Booth(desk.medium.folder), desk.tracks
    first = booth.cues[_hash(desk, one)]
    booth.set_cues(_hash(desk, one), [{**first[0], "position_s": 1.5}, *first[1:]])
    booth.set_cues(_hash(desk, one), [*booth.cues[_hash(desk, one)][:-1], _new_cue(7.0)])
    booth.rate(_hash(desk, two), 4)
    booth.shift_grid(_hash(desk, three), 0.5)
    with desk.database.write() as connection:
        mine = cues.list_cues(connection, one)
        cues.change_cue(connection, one, Cue(1.25, label="mine", id=mine[0].id))
        grids.set_grid(connection, three, TempoMap.steady(120.0, 0.25))
        locks.set_lock(connection, [three], "grid", True)
    rows = {row.what: row for row in _came(desk)}
    assert set(rows) == {"00", "02", "new cue", "stars", "grid"}
    assert (rows["00"].both, rows["00"].choice) == (True, None), "changed here too: it has to be chosen"
    assert (rows["grid"].hold, rows["grid"].choice) == ("locked: stays", "ours")
    assert rows["stars"].choice == "theirs"
    taken, failed = _take(desk, {row.key: row.choice for row in rows.values() if row.choice})
    assert (taken, failed) == (3, [])
    assert [row.what for row in _came(desk)] == ["00"], "what is not chosen stays open, and is shown again"
    _take(desk, {rows["00"].key: "ours"})
    assert not _came(desk)
    with desk.database.write() as connection:
        undo.step_back(connection, "undo")
    assert [row.what for row in _came(desk)] == ["00"], "undo brings the question back"
    _take(desk, {rows["00"].key: "ours"})
    assert sorted(_here(desk, one).values()) == [(1.25, "mine"), (2.25, "Loop"), (3.0, "01"), (7.0, "")]


def test_stars_of_a_file_that_gave_way_are_its_twins_and_its_cues_say_where_they_are(desk: Desk) -> None:
    booth, (gone, kept, *_) = Booth(desk.medium.folder), desk.tracks
    booth.rate(_hash(desk, gone), 4)
    booth.shift_grid(_hash(desk, gone), 0.5)
    with desk.database.write() as connection:
        off_shelf.take_off(connection, [gone], False, twin_of=kept)
    rows = {row.what: row for row in _came(desk)}
    assert (rows["stars"].track_id, rows["stars"].hold) == (kept, "")
    assert rows["grid"].track_id is None and "gave way to" in rows["grid"].hold
    _take(desk, {row.key: "theirs" for row in rows.values()})
    assert tracks.get_track(desk.database.read(), kept)["rating"] == 4


def test_a_list_changed_on_both_sides_keeps_what_was_not_on_the_stick(desk: Desk) -> None:
    booth = Booth(desk.medium.folder)
    (name,) = booth.lists
    with desk.database.write() as connection:
        other = crates.make_crate(connection, "Other")
        crates.add_tracks(connection, other, desk.tracks[:1])
    booth.order(name, [booth.lists[name][i] for i in (2, 0, 3)])
    (row,) = _came(desk)
    assert (row.subject, row.there, row.choice) == (
        "All: of/them?",
        "3 tracks, 1 less, 2 changed places",
        "theirs",
    )
    with desk.database.write() as connection:
        crates.remove_tracks(connection, desk.all, [desk.tracks[3]])
    (row,) = _came(desk)
    assert row.both and row.choice is None
    _take(desk, {row.key: "theirs"})
    wanted = [desk.tracks[i] for i in (2, 0, 3)]
    assert crates.crate_tracks(desk.database.read(), desk.all) == wanted
    assert crates.crate_tracks(desk.database.read(), other) == desk.tracks[:1]


@pytest.mark.parametrize(
    "line",
    [
        b"\xff\xfe", b"[]", b'{"what": "cues"}', b"{" * 100_000,
        b'{"change":"12345678","at":"2026-11-20T10:00:00Z","on":"2026-11-20T09:00:00Z","player":"x",'
        b'"what":"stars","track":"nobody knows it","stars":3}',
        b'{"change":"12345679","at":"2026-11-20T10:00:00","on":"2026-11-20T09:00:00Z","player":"x",'
        b'"what":"stars","track":"x","stars":99}',
    ],
)  # fmt: skip
def test_a_strangers_paper_changes_nothing(desk: Desk, line: bytes) -> None:
    (desk.medium.folder / CHANGES_FILE).write_bytes(line + b"\n")
    assert not _came(desk)
    left_out = read_papers(desk.medium.folder).left_out
    assert b"nobody knows it" in line or [each.startswith("changes.jsonl, line 1: ") for each in left_out]


BAD_CUES = ({"pad": 12}, {"pad": 0}, {"role": "nowhere"}, {"colour": "mauve"}, {"position_s": -1.0},
            {"position_s": 1e300}, {"length_s": 0.0}, {"label": "x" * 10_000})  # fmt: skip
BAD_GRIDS = ([(0.0, 0.0, -5.0)], [(0.0, 0.0, 400.0)], [(1.0, 0.0, 120.0), (0.5, 4.0, 120.0)],
             [(0.0, 0.0, 120.0), (1.0, 2.0, 120.0), (2.0, 2.0, 120.0)],
             [(0.0, 0.0, 120.0), (0.1, 90.0, 120.0)])  # fmt: skip


def test_a_line_that_cannot_be_is_left_out_by_name_and_the_others_come_home(desk: Desk) -> None:
    booth, (one, two, three, _) = Booth(desk.medium.folder), desk.tracks
    for bad in BAD_CUES:
        booth._write("cues", track=_hash(desk, one), cues=[{**_new_cue(1.0), **bad}], before=[])
    for anchors in BAD_GRIDS:
        told = [dict(zip(("time", "beat", "bpm"), each, strict=True)) for each in anchors]
        booth._write("grid", track=_hash(desk, two), anchors=told, beats_per_bar=4)
    booth._write("grid", track=_hash(desk, two), anchors=told[:1], beats_per_bar=9)
    booth.rate(_hash(desk, three), 5)
    papers = read_papers(desk.medium.folder)
    assert len(papers.left_out) == len(BAD_CUES) + len(BAD_GRIDS) + 1 and len(papers.changes) == 1
    assert "line 1: cues cues 0 pad: Input should be less than or equal to 8" in papers.left_out[0]
    (row,) = _came(desk)
    assert _take(desk, {row.key: "theirs"}) == (1, []) and not _came(desk)
    assert tracks.get_track(desk.database.read(), three)["rating"] == 5


def test_papers_that_are_links_or_without_end_are_not_read(
    desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    Booth(desk.medium.folder).rate(_hash(desk, desk.tracks[0]), 5)
    paper = desk.medium.folder / CHANGES_FILE
    assert len(read_papers(desk.medium.folder).changes) == 1
    monkeypatch.setattr("vinyl.sticks.papers.LARGEST_BYTES", paper.stat().st_size - 1)
    papers = read_papers(desk.medium.folder)
    assert not papers.changes and "changes.jsonl is larger than" in papers.left_out[0]
    monkeypatch.undo()
    paper.rename(tmp_path / "elsewhere.jsonl")
    paper.symlink_to(tmp_path / "elsewhere.jsonl")
    assert read_papers(desk.medium.folder).changes == ()


def test_an_index_keeps_what_can_be(desk: Desk) -> None:
    """One bad cue, track, list or file is left out by name; of a bad grid all."""
    path = desk.medium.folder / "vinyl-stick.json"
    told = json.loads(path.read_text())
    first, second, third, *_ = told["players"][0]["tracks"]
    first["cues"][0]["pad"], second["title"] = 12, None
    third["anchors"] = [{"time": 0.0, "beat": 0.0, "bpm": -5.0}]
    told["players"][0]["lists"][0]["playlist"] = "../outside.m3u8"
    path.write_text(json.dumps(told))
    index, left_out = read_index(desk.medium.folder)
    assert index is not None and len(left_out) == 4, left_out
    tracks_left, lists = index.players[0].tracks, index.players[0].lists
    assert [len(each.cues) for each in tracks_left][:1] == [len(first["cues"]) - 1] and not lists
    assert second["id"] not in {each.id for each in tracks_left}
    assert next(each for each in tracks_left if each.id == third["id"]).anchors == []
    assert any("a cue of “Song? 0”" in each for each in left_out)
    path.write_text(json.dumps({**told, "players": "none"}))
    assert read_index(desk.medium.folder) == (None, [])


def test_a_change_that_cannot_be_is_told_and_the_others_are_taken(desk: Desk) -> None:
    booth, (one, two, *_) = Booth(desk.medium.folder), desk.tracks
    booth.set_cues(_hash(desk, one), [*booth.cues[_hash(desk, one)], _new_cue(5000.0)])
    booth.rate(_hash(desk, two), 5)
    held = next(row for row in _came(desk) if row.hold)
    assert held.subject == "Song? 0" and "within the track" in held.hold and held.choice == "ours"
    assert _take(desk, {row.key: "theirs" for row in _came(desk)}) == (1, []) and not _came(desk)


@settings(deadline=None, max_examples=20, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(0, 10_000))
def test_after_any_edits_on_both_sides_what_was_chosen_stands_on_both(desk: Desk, seed: int) -> None:
    """Taken from the player, all that it touched is as it was there, and all else as it was here."""
    rng = random.Random(seed)
    desk.pack()
    booth = Booth(desk.medium.folder)
    touched: dict[int, set[str]] = {}
    for _ in range(rng.randint(1, 6)):
        track_id = rng.choice(desk.tracks)
        touched.setdefault(track_id, set()).update(_edit(booth, _hash(desk, track_id), rng))
    for _ in range(rng.randint(0, 4)):
        _edit_here(desk, rng)
    here = {track_id: _here(desk, track_id) for track_id in desk.tracks}
    rows = _came(desk)
    for track_id, names in touched.items():
        there = {cue["id"]: (cue["position_s"], cue["label"]) for cue in booth.cues[_hash(desk, track_id)]}
        differing = {name for name in names if there.get(name) != here[track_id].get(name)}
        assert differing <= {row.key.split()[-1] for row in rows}, "nothing differs without being shown"
    _, failed = _take(desk, {row.key: "theirs" for row in rows})
    assert not failed and not _came(desk)
    for track_id in desk.tracks:
        names, now = touched.get(track_id, set()), _here(desk, track_id)
        kept = {name: value for name, value in here[track_id].items() if name not in names}
        assert kept.items() <= now.items()
        assert sorted(value for name, value in now.items() if name not in kept) == sorted(
            (cue["position_s"], cue["label"])
            for cue in booth.cues[_hash(desk, track_id)]
            if cue["id"] in {*names, ""}
        )
    desk.pack()
    on_stick = {
        each.id: {cue.id: (cue.position_s, cue.label) for cue in each.cues}
        for each in _index(desk).players[0].tracks
    }
    assert on_stick == {_hash(desk, track_id): _here(desk, track_id) for track_id in desk.tracks}
    (desk.medium.folder / CHANGES_FILE).unlink(missing_ok=True)


@settings(deadline=None, max_examples=20, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(0, 10_000))
def test_stars_grids_and_lists_are_as_chosen_on_both_sides(desk: Desk, seed: int) -> None:
    """Whatever was changed here and there: each value is what was chosen, all else as it was here."""
    rng = random.Random(seed)
    desk.pack()
    booth, (name,) = Booth(desk.medium.folder), list(Booth(desk.medium.folder).lists)
    there: dict[tuple[str, int | None], Any] = {}
    for _ in range(rng.randint(1, 8)):
        track = rng.choice(desk.tracks)
        what = rng.choice(["stars", "grid", "tracks and their order"])
        if what == "stars":
            there[what, track] = rng.randint(0, 5)
            booth.rate(_hash(desk, track), there[what, track])
        elif what == "grid":
            there[what, track] = round(rng.uniform(0.0, 0.4), 4)
            booth.shift_grid(_hash(desk, track), there[what, track])
        else:
            order = rng.sample(booth.lists[name], rng.randint(1, len(booth.lists[name])))
            booth.order(name, order)
            there[what, None] = [t for each in order for t in desk.tracks if _hash(desk, t) == each]
    for _ in range(rng.randint(0, 4)):
        _rate_or_shift_here(desk, rng)
    here = _values(desk)
    rows = _came(desk)
    differing = {key for key, value in there.items() if here[key] != value}
    assert {(row.what, row.track_id) for row in rows} == differing, "all that differs is shown, and no more"
    choices: dict[str, Choice] = {row.key: rng.choice(["theirs", "ours"]) for row in rows}
    _, failed = _take(desk, choices)
    taken = {(row.what, row.track_id) for row in rows if choices[row.key] == "theirs"}
    wanted = here | {key: there[key] for key in taken}
    assert not failed and not _came(desk) and _values(desk) == wanted
    desk.pack()
    player = _index(desk).players[0]
    for track in desk.tracks:
        entry = next((each for each in player.tracks if each.id == _hash(desk, track)), None)
        if entry is not None:
            assert entry.stars == wanted["stars", track]
            assert (entry.anchors[0].time if entry.anchors else None) == wanted["grid", track]
    listed = [_hash(desk, track) for track in wanted["tracks and their order", None]]
    assert player.lists[0].tracks == listed and {each.id for each in player.tracks} == set(listed)
    (desk.medium.folder / CHANGES_FILE).unlink(missing_ok=True)
    with desk.database.write() as connection:
        crates.remove_tracks(connection, desk.all, desk.tracks)
        crates.add_tracks(connection, desk.all, desk.tracks)


def _values(desk: Desk) -> dict[tuple[str, int | None], Any]:
    """Stars and beginnings of grids of all tracks, and what the list holds."""
    read, found = desk.database.read(), dict[tuple[str, int | None], Any]()
    for track in desk.tracks:
        grid = grids.get_grid(read, track)
        found["stars", track] = tracks.get_track(read, track)["rating"]
        found["grid", track] = grid.tempo_map.anchors[0].time_s if grid else None
    return found | {("tracks and their order", None): crates.crate_tracks(read, desk.all)}


def _rate_or_shift_here(desk: Desk, rng: random.Random) -> None:
    track = rng.choice(desk.tracks)
    with desk.database.write() as connection:
        if rng.random() < 0.5:
            tracks.rate(connection, [track], rng.randint(0, 5))
        else:
            grids.set_grid(connection, track, TempoMap.steady(120.0, round(rng.uniform(0.0, 0.4), 4)))


_had: set[int] = set()


def _time_nobody_has(rng: random.Random) -> float:
    """A time of a cue, further from all others than what counts as the same."""
    while (at_ms := rng.randint(100, 7900)) in _had:
        pass
    _had.add(at_ms)
    return at_ms / 1000


def _edit(booth: Booth, track: str, rng: random.Random) -> set[str]:
    """Move a cue, take one away, or set a new one; returns the ids of those from home that it touched."""
    all_cues, what = booth.cues[track], rng.choice(["move", "drop", "new"])
    at_s = _time_nobody_has(rng)
    if what == "new" or not all_cues:
        booth.set_cues(track, [*all_cues, {**_new_cue(at_s), "label": "new there"}])
        return set()
    chosen = rng.choice(all_cues)
    rest = [cue for cue in all_cues if cue is not chosen]
    at_s = min(at_s, round(7.9 - (chosen["length_s"] or 0.0), 4))  # a loop stays within the track
    booth.set_cues(track, rest if what == "drop" else [*rest, {**chosen, "position_s": at_s}])
    return {chosen["id"]} - {""}


def _edit_here(desk: Desk, rng: random.Random) -> None:
    track_id, at_s = rng.choice(desk.tracks), _time_nobody_has(rng)
    with desk.database.write() as connection:
        mine = cues.list_cues(connection, track_id)
        if mine and rng.random() < 0.4:
            cues.delete_cues(connection, track_id, [rng.choice(mine).id])
        elif mine and rng.random() < 0.6:
            cues.change_cue(connection, track_id, Cue(at_s, label="moved here", id=rng.choice(mine).id))
        elif len(mine) < 8:
            cues.add_cue(connection, track_id, Cue(at_s, label="new here"))
