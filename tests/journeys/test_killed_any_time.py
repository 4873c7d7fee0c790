"""The server killed at random moments of importing, analysing and packing: in the end nothing tells of it."""

from __future__ import annotations

import hashlib
import json
import os
import random
import time
from pathlib import Path
from typing import Any

import pytest

from tests.patience import wait_for
from tests.running import OPEN, Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import ENCODINGS, encode

KILLS = int(os.environ.get("VINYL_KILLS", "6"))
LONGEST_S = 1.5
FORMS = ("mp3", "flac", "opus", "wav")
SONGS = 14


@pytest.fixture
def music(tmp_path: Path) -> Path:
    folder = tmp_path / "music"
    folder.mkdir()
    for number in range(SONGS):
        form = FORMS[number % len(FORMS)]
        samples = drum_loop(100 + 3 * number, 0.4, 40.0, seed=number)
        encode(samples, RATE_HZ, folder / f"Song {number:02}{ENCODINGS[form].suffix}", form)
    (folder / "words.mp3").write_text("no music\n" * 40)
    return folder


def is_open(server: Server) -> bool:
    return any(job["state"] in OPEN for job in server.get("/api/jobs"))


def work(server: Server, music: Path, kills: random.Random | None) -> int:
    """Import, analyse and pack, killed now and then; returns how often."""
    server.send("POST", "/api/imports", {"paths": [str(music)]})
    killed = finish(server, kills, KILLS * 2 // 3)
    crate = server.send("POST", "/api/crates", {"name": "All"})["id"]
    server.send("POST", f"/api/crates/{crate}/tracks", {"ids": sorted(server.ids().values())})
    stick = server.send("POST", "/api/sticks", {"name": "Gig", "capacity_mb": 2000})["id"]
    server.send("PUT", f"/api/sticks/{stick}/crates", {"crate_ids": [crate]})
    server.send("POST", f"/api/sticks/{stick}/pack")
    return killed + finish(server, kills, KILLS - killed)


def finish(server: Server, kills: random.Random | None, most: int) -> int:
    killed = 0
    while kills and killed < most and is_open(server):
        time.sleep(kills.uniform(0.0, LONGEST_S))  # a power cut waits for no condition
        server.kill()
        server.start()
        killed += 1
    wait_for(lambda: not is_open(server), lambda: f"the end of {server.get('/api/jobs')}", 180)
    return killed


def state(server: Server) -> dict[str, Any]:
    """Everything that a user would see, by title and name; without ids and times."""
    kept = ("bpm", "key", "energy", "lufs", "doubt", "analysis_state", "artist", "rating")
    stick = Path(server.get("/api/sticks")[0]["folder"])
    index = json.loads((stick / "vinyl-stick.json").read_text())
    files = [path for path in stick.rglob("*") if path.is_file()]
    return {
        "tracks": {track["title"]: [track[name] for name in kept] for track in server.tracks()},
        "outcomes": server.get("/api/imports")[0]["outcomes"],
        "failures": [server.get(f"/api/jobs/{job['id']}/failures") for job in server.jobs("import")],
        "stick": sorted(path.relative_to(stick).as_posix() for path in files),
        "sums": {
            entry["file"]: hashlib.sha256((stick / entry["file"]).read_bytes()).hexdigest() == entry["sha256"]
            for entry in index["files"]
        },
    }


def test_power_cuts_at_any_time_change_nothing_in_the_end(music: Path, tmp_path: Path) -> None:
    found = []
    for name, kills in (("calm", None), ("killed", random.Random(7))):
        server = Server(tmp_path / name, "--allow", str(tmp_path)).start()
        try:
            killed = work(server, music, kills)
            found.append(state(server))
        finally:
            server.stop()
    calm, after = found
    assert killed >= KILLS // 2, "it was killed while there was work"
    assert all(after["sums"].values()) and len(after["sums"]) == SONGS
    assert after == calm
