"""The server killed at random moments while two hundred groups of twins are settled: each is done wholly or
not at all, every file is in its place or aside, in the end all is done; what cannot be moved says why.
"""

from __future__ import annotations

import os
import random
import sqlite3
import time
from contextlib import closing
from pathlib import Path

from tests.journeys.test_killed_any_time import is_open
from tests.library.making import new_track
from tests.patience import wait_for
from tests.running import Server
from vinyl.core.cues.cue import Cue
from vinyl.core.likeness.compare import Match
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import Pair
from vinyl.library import crates, cues, plays, twin_pairs
from vinyl.library.database import Database

GROUPS, KILLS, LONGEST_S = 200, int(os.environ.get("VINYL_KILLS", "6")), 0.5
OFFSET_S = 0.25
# A group by what each of its two tracks has: cues, plays, places in lists, whether it is on the Shelf.
HELD = """
  SELECT t.id, (SELECT count(*) FROM cue c WHERE c.track_id = t.id),
    (SELECT count(*) FROM play p WHERE p.track_id = t.id),
    (SELECT count(*) FROM crate_place p WHERE p.track_id = t.id), t.id IN (SELECT track_id FROM off_shelf)
  FROM track t ORDER BY t.id
"""
BEFORE = [(0, 0, 0, 0), (2, 1, 1, 0)]
AFTER = [(2, 1, 1, 0), (2, 0, 0, 1)]


def _make(home: Path, music: Path) -> None:
    """Groups of a lossless file without work, and of a copy with cues, a play and a place."""
    home.mkdir()
    database = Database.prepared(home / "library.db")
    with database.write() as connection:
        crate = crates.make_crate(connection, "Quay")
        for number in range(GROUPS):
            ids = [_track(connection, music / f"{number:03} {part}.mp3") for part in ("kept", "copy")]
            connection.execute("UPDATE track SET codec = 'flac' WHERE id = ?", (ids[0],))
            connection.execute("UPDATE shelf SET codec = 'flac' WHERE id = ?", (ids[0],))
            cues.add_cues(connection, ids[1], [Cue(10.0, pad=1), Cue(60.0, label="drop")])
            plays.note(connection, ids[1:], "2026-11-20T22:00:00+00:00")
            crates.add_tracks(connection, crate, ids[1:])
            line = Alignment(1.0, OFFSET_S, 0.0)
            pair = Pair(*ids, frozenset({"sound"}), Match("same", OFFSET_S, 1.0, 0.02), line, 0.1)
            twin_pairs.keep(connection, [pair], ids)


def _track(connection: sqlite3.Connection, path: Path) -> int:
    path.write_bytes(path.name.encode())
    track = new_track(connection, path.stem, title=path.stem[:3])
    found = path.stat()
    connection.execute(
        "UPDATE track SET path = ?, size_bytes = ?, modified_ns = ? WHERE id = ?",
        (str(path), found.st_size, found.st_mtime_ns, track),
    )
    return track


def _groups(home: Path) -> list[list[tuple[int, ...]]]:
    with closing(sqlite3.connect(f"file:{home / 'library.db'}?mode=ro", uri=True)) as connection:
        rows = [tuple(row[1:]) for row in connection.execute(HELD)]
    return [rows[at : at + 2] for at in range(0, len(rows), 2)]


def _files(home: Path, music: Path) -> set[str]:
    """The files by their names, wherever they lie; none twice."""
    found = [path for folder in (music, home / "put aside") for path in folder.rglob("*.mp3")]
    names = [path.name for path in found]
    assert len(names) == len(set(names)) and all(path.read_bytes() == path.name.encode() for path in found)
    return set(names)


def test_twins_are_settled_wholly_or_not_at_all_whenever_the_server_is_killed(tmp_path: Path) -> None:
    home, music = tmp_path / "home", tmp_path / "music"
    music.mkdir()
    _make(home, music)
    names, dice, killed = _files(home, music), random.Random(11), 0
    server = Server(home, "--allow", str(music)).start()
    assert server.get("/api/twins/sure")["groups"] == GROUPS
    server.send("POST", "/api/twins/sure", {})
    for _ in range(KILLS):
        time.sleep(dice.uniform(0.0, LONGEST_S))  # a power cut waits for no condition
        server.kill()
        killed += 1
        assert all(group in (BEFORE, AFTER) for group in _groups(home))
        assert _files(home, music) == names
        server.start()
    wait_for(lambda: not is_open(server), lambda: f"the end of {server.get('/api/jobs')}", 180)
    assert all(group == AFTER for group in _groups(home)) and killed == KILLS
    assert {path.name for path in music.iterdir()} == {f"{number:03} kept.mp3" for number in range(GROUPS)}
    assert len(server.get("/api/off-shelf")) == GROUPS and not server.get("/api/twins")["groups"]
    kept = server.get("/api/tracks/1")["cues"]
    assert [round(cue["position_s"], 3) for cue in kept] == [10.0 - OFFSET_S, 60.0 - OFFSET_S]
    while server.get("/api/undo")["undo"]:
        server.send("POST", "/api/undo")
    wait_for(lambda: not is_open(server), "the files brought back")
    assert all(group == BEFORE for group in _groups(home)) and len(list(music.iterdir())) == 2 * GROUPS
    server.stop()


def test_a_file_that_cannot_be_put_aside_stays_and_says_why_and_the_rest_goes_on(tmp_path: Path) -> None:
    home, music = tmp_path / "home", tmp_path / "music"
    music.mkdir()
    _make(home, music)
    gone, changed = music / "003 copy.mp3", music / "004 copy.mp3"
    server = Server(home, "--allow", str(music)).start()
    gone.unlink()
    changed.write_bytes(b"another sound")
    (music / "005 kept.mp3").unlink()
    job = server.send("POST", "/api/twins/sure", {})
    wait_for(lambda: not is_open(server), lambda: f"the end of {server.get('/api/jobs')}", 180)
    failed = {each["item"]: each["reason"] for each in server.get(f"/api/jobs/{job['id']}/failures")}
    assert set(failed) == {"004", "005"}
    assert "changed since it was analysed" in failed["004"] and "is not there" in failed["005"]
    (moving,) = server.jobs("put aside")[:1]
    (stays,) = server.get(f"/api/jobs/{moving['id']}/failures")
    assert stays["item"] == gone.name
    groups = _groups(home)
    assert [groups[number] == AFTER for number in (2, 3, 4, 5, 6)] == [True, True, False, False, True]
    assert changed.read_bytes() == b"another sound" and (music / "005 copy.mp3").exists()
    server.stop()
