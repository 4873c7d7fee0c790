"""Sticks as a DJ uses them: two at once, one too small, a list rehearsed and brought home, an old player."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.support.ui import Select

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server

TITLES = ("Copper Tide", "Paraffin", "Foghorn Romance", "Glasswort", "Rigging")


@pytest.fixture(scope="module")
def server(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """The demo's music, not analysed, with a grid and cues on one track, and a list."""
    home = tmp_path_factory.mktemp("sticks") / "home"
    shutil.copytree(demo, home / "demo", copy_function=os.link)
    running = Server(home, "--bare", "--workers", "1", command="demo").start()
    running.send("POST", "/api/imports", {"paths": [running.get("/api/offered")[0]["path"]]})
    wait_for(lambda: running.has_ended("import"), "the import", 120)
    running.pause_analysis()
    ids = {track["title"]: track["id"] for track in running.tracks()}
    for at, label in enumerate(("in", "main", "break", "drop", "out", "extra")):
        cue = {"position_s": 8.0 * at, "length_s": None, "label": label, "colour": "blue", "pad": None,
               "role": label if label in ("in", "main", "out") else None, "engages": False}  # fmt: skip
        running.send("POST", f"/api/tracks/{ids['Copper Tide']}/cues", cue)
    crate = running.send("POST", "/api/crates", {"name": "Main hours"})["id"]
    running.send("POST", f"/api/crates/{crate}/tracks", {"ids": [ids[title] for title in TITLES]})
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def _make(you: Hands, name: str, what: str, player: str) -> None:
    you.press_button("A stick…")
    you.write_in("[role=dialog] input", name)
    Select(you.see("[role=dialog] select")).select_by_visible_text(what)
    wait_for(lambda: player in you.texts("[role=dialog] option"), f"the player {player}")
    Select(you.all("[role=dialog] select")[1]).select_by_visible_text(player)
    you.press_button("Make")
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog to close")
    you.see_text(name)


def _stick(server: Server, name: str) -> dict[str, Any]:
    return next(each for each in server.get("/api/sticks") if each["name"] == name)


def _index(server: Server, name: str) -> dict[str, Any]:
    folder = Path(_stick(server, name)["folder"])
    index = json.loads((folder / "vinyl-stick.json").read_text())
    for entry in index["files"]:
        assert hashlib.sha256((folder / entry["file"]).read_bytes()).hexdigest() == entry["sha256"]
    return dict(index)


def test_two_sticks_at_once_one_torn_out_and_finished_later(you: Hands, server: Server) -> None:
    you.go("/sticks")
    _make(you, "TIDE-1", "A stand-in of 1 GB", "Fairlead")
    you.press_button("Main hours")
    you.see_text("5 new")
    _make(you, "TIDE-2", "A stand-in of 1 GB", "the same as “TIDE-1”, as its spare")
    you.see_text("5 new")
    Select(you.see("select[aria-label='What the stand-in does']")).select_by_visible_text(
        "is torn out in the middle"
    )
    wait_for(lambda: _stick(server, "TIDE-2")["fault"] == "torn out", "the fault")
    you.press_button("Pack the stick")
    you.press_button("TIDE-1")
    you.press_until("Pack the stick", "Packed and verified: 5 tracks on the stick, 5 written.")
    you.press_button("TIDE-2")
    you.see_text("The stick “TIDE-2” is not in the computer")
    you.press_button("Put it into the computer")
    you.press_until("Pack the stick", "Packed and verified: 5 tracks on the stick")
    sums = [[file["sha256"] for file in _index(server, name)["files"]] for name in ("TIDE-1", "TIDE-2")]
    assert sums[0] == sums[1] and len(sums[0]) == 5
    you.press_button("Check")
    you.see_text("files, all whole, bit for bit.")
    assert not you.faults()


def test_a_stick_too_small_is_solved_by_a_proposal(you: Hands, server: Server) -> None:
    small = server.send("POST", "/api/sticks", {"name": "Pocket", "capacity_mb": 15, "spare_of":
                                                _stick(server, "TIDE-1")["id"]})  # fmt: skip
    you.go("/sticks")
    you.press_button("Pocket")
    you.see_text("It does not fit:")
    without = next(button.text for button in you.all("button") if button.text.startswith("Go without"))
    you.press_button(without)
    you.see_text("of its lists.")
    wait_for(lambda: not you.all("[role=alert]") or "It does not fit" not in you.text(), "it to fit")
    you.press_until("Pack the stick", "Packed and verified:")
    left_out = set(_stick(server, "Pocket")["left_out"])
    assert left_out and len(_index(server, "Pocket")["files"]) == 5 - len(left_out)
    server.send("POST", f"/api/sticks/{small['id']}/pull")


def test_a_list_is_rehearsed_changed_and_brought_home_with_a_conflict(you: Hands, server: Server) -> None:
    track = next(each["id"] for each in server.tracks() if each["title"] == "Copper Tide")
    for name in ("TIDE-1", "TIDE-2"):
        server.send("POST", f"/api/sticks/{_stick(server, name)['id']}/eject")
    you.go("/player/?as=Fairlead")
    you.click("[data-stick='TIDE-1']")
    you.click("[data-track='Copper Tide']")
    wait_for(lambda: len(you.all(".cue")) == 6, "six cues on the player")
    you.click("[data-drop='extra']")
    wait_for(lambda: len(you.all(".cue")) == 5, "five cues on the player")
    you.click("[data-move='main']")
    you.click("[data-move='drop']")
    you.click("[title='3 stars']")
    you.click("[data-raise='Paraffin']")
    wait_for(
        lambda: (Path(_stick(server, "TIDE-1")["folder"]) / "changes.jsonl").read_text().count("\n") == 5,
        "five changes on the stick",
    )
    mine = next(cue for cue in server.get(f"/api/tracks/{track}")["cues"] if cue["label"] == "main")
    server.send("PATCH", f"/api/tracks/{track}/cues/{mine['id']}", {"position_s": 9.0})
    _play_for_a_while(you, server)

    you.go("/sticks")
    you.press_button("TIDE-1")
    you.press_button("Put it into the computer")
    you.see_text("1 play taken in from “TIDE-1” into the Logbook.")
    you.see_text("Came home with 5 changes")
    you.see_text("both changed, main point")
    assert not you.faults()
    you.press_button("Take 4, keep 0, 1 to choose")
    wait_for(lambda: _labels(server, track) == {"in", "main", "break", "drop", "out"}, "what was taken")
    you.see_text("Came home with 1 change")
    you.click("[title^='As it is here']")
    you.press_button("Take 0, keep 1")
    wait_for(lambda: "Came home" not in you.text(), "all to be answered")
    cues = {cue["label"]: cue["position_s"] for cue in server.get(f"/api/tracks/{track}")["cues"]}
    assert (cues["main"], cues["drop"]) == (9.0, 0.0)
    crate = next(each["id"] for each in server.get("/api/crates") if each["name"] == "Main hours")
    assert [row["title"] for row in _rows_of(server, crate)][:2] == ["Paraffin", "Copper Tide"]
    you.press_until("Pack the stick", "Packed and verified: 5 tracks on the stick, 0 written.")
    told = next(
        each for each in _index(server, "TIDE-1")["players"][0]["tracks"] if each["title"] == "Copper Tide"
    )
    assert {cue["label"]: cue["position_s"] for cue in told["cues"]} == cues and told["stars"] == 3


def _play_for_a_while(you: Hands, server: Server) -> None:
    """Ten seconds and more make a play, which is written on the stick."""
    you.press_button("Play")
    plays = Path(_stick(server, "TIDE-1")["folder"]) / "plays.jsonl"
    wait_for(plays.exists, "the play on the stick", 30)
    you.press_button("Stop")


def _labels(server: Server, track: int) -> set[str]:
    return {cue["label"] for cue in server.get(f"/api/tracks/{track}")["cues"]}


def _rows_of(server: Server, crate: int) -> list[dict[str, Any]]:
    where = {"kind": "list", "list_id": crate}
    found = server.send("POST", "/api/tracks/find", {"where": where, "sort": "crate", "crate_id": crate})
    return list(found["rows"])


def test_the_old_players_stick_has_what_it_can_hold(you: Hands, server: Server) -> None:
    for name in ("TIDE-1",):
        server.send("POST", f"/api/sticks/{_stick(server, name)['id']}/pull")
    you.go("/sticks")
    _make(you, "Old grey one", "A stand-in of 1 GB", "Windlass")
    you.press_button("Main hours")
    you.see_text("1 of 5 cues stay here: it has 4 places")
    you.press_until("Pack the stick", "Packed and verified: 5 tracks on the stick")
    files = [file["file"] for file in _index(server, "Old grey one")["files"]]
    assert {file.rpartition(".")[2] for file in files} <= {"mp3", "wav"}
    assert all(len(file.rpartition("/")[2]) <= 28 and file.isascii() for file in files)
    you.press_button("Eject")
    you.see_text("it can be taken out now")
    you.go("/player/?as=Windlass")
    you.click("[data-stick='Old grey one']")
    you.click("[data-track='Copper Tide']")
    wait_for(lambda: len(you.all(".cue")) == 4, "four cues on the old player")
    assert not you.all("[data-drop]"), "it writes nothing back"
    you.click("[data-stick='TIDE-1']")
    you.see_text("This stick was packed for Fairlead, not for Windlass.")


def _path(server: Server, title: str) -> Path:
    return Path(next(track["path"] for track in server.tracks() if track["title"] == title))


def _take_off_the_shelf(you: Hands, server: Server, title: str) -> None:
    """Off the sticks and the Shelf, its file put aside."""
    path = _path(server, title)
    you.click(f"[title^='Take {title} off']")
    you.press_button("off the sticks and the Shelf")
    you.see_text("Out of 1 list: “Main hours” (1).")
    you.see_text("will not be touched")
    you.press_button("Put the file aside too")
    you.see_text("will be moved to a folder of Vinyl’s own")
    assert not you.faults()
    you.press_button("Take it off, put it aside")
    wait_for(lambda: not path.exists() and title not in server.ids(), "the file to be put aside")
    (kept,) = (each["kept"] for each in server.get("/api/off-shelf"))
    assert Path(kept).is_file()


def test_a_list_and_a_track_are_taken_off_a_stick(you: Hands, server: Server) -> None:
    grey = _stick(server, "Old grey one")
    folder = Path(grey["folder"])
    server.send("POST", f"/api/sticks/{grey['id']}/insert")
    you.go("/sticks")
    you.press_button("Old grey one")
    you.click("[title^='Take Rigging off']")
    you.see_text("stays in your lists and on the Shelf")
    you.press_button("Take it off")
    you.see_text("1 go, in no list any more")
    you.press_until("Pack the stick", "Packed and verified: 4 tracks on the stick")
    assert not list(folder.rglob("Rigging*")) and any(t["title"] == "Rigging" for t in server.tracks())
    you.click("[title^='Take Glasswort off']")
    you.press_button("off all 4 sticks")
    you.press_button("Take it off")
    wait_for(lambda: all(stick["left_out"] for stick in server.get("/api/sticks")), "all to go without")
    _take_off_the_shelf(you, server, "Foghorn Romance")
    you.press_until("Pack the stick", "Packed and verified: 2 tracks on the stick")
    assert not list(folder.rglob("Foghorn*")) and not list(folder.rglob("Glasswort*"))
    you.press_button("Undo")
    wait_for(lambda: "Foghorn Romance" in server.ids(), "the track on the Shelf again")
    wait_for(_path(server, "Foghorn Romance").exists, "its file where it was")
    you.press_button("Main hours")
    you.see_text("go, in no list any more")
    you.press_until("Pack the stick", "Packed and verified: 0 tracks on the stick")
    assert not list(folder.rglob("*.wav")) and not list(folder.rglob("*.mp3"))
