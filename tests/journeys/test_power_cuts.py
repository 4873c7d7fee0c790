"""The server killed in the middle of importing, analysing and packing: nothing lost, nothing twice, files old
or new.
"""

from __future__ import annotations

import hashlib
import json
import shutil
import subprocess
import sys
from pathlib import Path

from tests.patience import wait_for
from tests.running import Server, free_port


def test_killed_while_importing_and_analysing(server: Server, demo: Path, tmp_path: Path) -> None:
    music = tmp_path / "music"
    # The same sounds twice over: more files, so that there is a middle to be killed in.
    for copy in range(2):
        shutil.copytree(demo / "music" / "Downloads", music / f"folder {copy}")
    files = sum(path.is_file() for path in music.rglob("*"))
    server.send("POST", "/api/imports", {"paths": [str(music)]})

    def outcomes() -> dict[str, int]:
        return dict(server.get("/api/imports")[0]["outcomes"])

    wait_for(lambda: sum(outcomes().values()) >= 20, "the first files")
    server.kill()
    server.start()
    run = server.get("/api/imports")[0]
    assert run["state"] in ("waiting", "running") and 20 <= run["done"] < files, (
        "the import was cut off in its middle and goes on"
    )
    wait_for(
        lambda: server.get("/api/imports")[0]["state"] == "done", "the import to be taken up and finished", 90
    )
    found = outcomes()
    assert sum(found.values()) == files, "every file has one outcome"
    ids = server.ids_of_all()
    assert len(ids) == found["added"], "no track came twice"

    def analysed() -> int:
        return sum(row["analysis_state"] == "done" for row in server.tracks())

    done = wait_for(lambda: (n := analysed()) >= 2 and n, "the first results")
    assert done < len(ids)
    server.kill()
    server.start()
    assert analysed() >= done, "no result was lost"
    wait_for(lambda: analysed() == len(ids), "the queue to be taken up and finished", 180)
    assert all(row["bpm"] for row in server.tracks())


def test_a_home_or_a_port_in_use_is_said(server: Server) -> None:
    command = [sys.executable, "-m", "vinyl", "start", "--no-open", "--home"]
    same_home = subprocess.run(
        [*command, str(server.home), "--port", str(free_port())], capture_output=True, text=True, timeout=60
    )
    assert same_home.returncode == 1 and "already running on" in same_home.stderr
    same_port = subprocess.run(
        [*command, str(server.home.parent / "other"), "--port", str(server.port)],
        capture_output=True,
        text=True,
        timeout=60,
    )
    assert same_port.returncode == 1 and "start with --port" in same_port.stderr
    assert "Traceback" not in same_home.stderr + same_port.stderr


def test_killed_while_packing(server: Server, demo: Path) -> None:
    music = server.home.parent / "music"
    shutil.copytree(demo / "music" / "Downloads", music)
    server.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: server.get("/api/imports")[0]["state"] == "done", "the import")
    server.pause_analysis()
    crate = server.send("POST", "/api/crates", {"name": "All"})["id"]
    ids = server.ids_of_all()
    server.send("POST", f"/api/crates/{crate}/tracks", {"ids": ids})
    stick = server.send("POST", "/api/sticks", {"name": "Gig", "capacity_mb": 4000})
    folder = Path(stick["folder"])
    path = f"/api/sticks/{stick['id']}"
    server.send("PUT", f"{path}/crates", {"crate_ids": [crate]})

    def audio() -> list[Path]:
        return [p for p in folder.glob("Music/**/*") if p.is_file() and not p.name.endswith(".part")]

    server.send("POST", f"{path}/pack")
    wait_for(lambda: len(audio()) >= 3, "the first files on the stick")
    server.kill()
    written = {p: hashlib.sha256(p.read_bytes()).hexdigest() for p in audio()}
    assert len(written) < len(ids)
    times = {p: p.stat().st_mtime_ns for p in written}
    server.start()
    wait_for(
        lambda: (server.get("/api/sticks")[0]["last_run"] or {}).get("state") == "done",
        "packing to go on by itself",
        120,
    )

    index = json.loads((folder / "vinyl-stick.json").read_text())
    assert len(index["files"]) == len(ids) == len(audio())
    for entry in index["files"]:
        assert hashlib.sha256((folder / entry["file"]).read_bytes()).hexdigest() == entry["sha256"]
    by_file = {folder / entry["file"]: entry["sha256"] for entry in index["files"]}
    assert all(by_file[p] == digest for p, digest in written.items()), (
        "what stood on the stick after the kill was whole"
    )
    unchanged = [p for p, time in times.items() if p.stat().st_mtime_ns == time]
    assert len(unchanged) >= len(written) - 1, "finished files were not written again"
    assert not list(folder.rglob("*.part"))
