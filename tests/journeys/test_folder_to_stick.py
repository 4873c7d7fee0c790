"""The whole way: a folder of audio, its analysis, grid and cues, a crate, a stick, and the
player at the gig."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server

TITLE = "Foghorn Romance"


@pytest.fixture
def hands(browser: webdriver.Chrome, demo_home: Path) -> Iterator[tuple[Hands, Server]]:
    server = Server(demo_home, "--bare", command="demo").start()
    yield Hands(browser, server), server
    server.stop()


def test_from_folder_to_gig(hands: tuple[Hands, Server], demo: Path) -> None:
    you, server = hands
    truth = {t["path"]: t for t in json.loads((demo / "truth.json").read_text())}
    before = {
        path: (path.stat().st_size, path.stat().st_mtime_ns)
        for path in (server.home / "demo" / "music").rglob("*.*")
    }

    _bring_in(you)
    _find_and_sort(you)
    track_id = _prepare(you, server, next(t for path, t in truth.items() if TITLE in path))
    _fill_crate(you)
    _restart_and_undo(you, server)
    stick = _pack(you, server)
    _check_files(stick, server, track_id)
    _play_at_the_gig(you, stick)

    assert you.complaints() == []
    assert before == {path: (path.stat().st_size, path.stat().st_mtime_ns) for path in before}, (
        "no file at home was touched"
    )


def _bring_in(you: Hands) -> None:
    you.go("/arrivals")
    you.press_button("Add this folder")
    you.see_text("35 added, 1 already here, 2 not audio, 1 broken")
    you.see_text("The file ends after 1:06 of 2:48")
    you.see_text("The file is empty (0 bytes).")
    you.press_button("Shelf")
    wait_for(lambda: len(you.titles()) > 10, "rows on the Shelf")
    wait_for(lambda: "waiting" not in you.text("[data-testid=rows]"), "every row analysed", 180)


def _find_and_sort(you: Hands) -> None:
    you.keys("/")
    you.keys(*"cafe")
    wait_for(lambda: you.titles() == ["Café del Muelle"], "one track found without its accent")
    you.keys(Keys.ESCAPE)
    wait_for(lambda: len(you.titles()) > 10, "all tracks again")
    you.press_button("Tempo")
    wait_for(lambda: you.titles()[:2] == ["Bilge Echo", "Ånd i Tåken"], "the slowest first")


def _prepare(you: Hands, server: Server, truth: dict[str, object]) -> int:
    you.keys("/", *TITLE, Keys.ENTER)
    wait_for(lambda: you.titles() == [TITLE], "the track found")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    you.see_text("bpm, steady")
    track_id = int(you.browser.current_url.rpartition("/")[2])
    first = truth["anchors"][0]["time"]  # type: ignore[index]
    beat = 60 / float(truth["bpm"])  # type: ignore[arg-type]

    # Listen, and set cues by key while it plays: each lands on the beat.
    you.keys(Keys.SPACE)
    wait_for(lambda: you.position_s() > 1.0, "the sound to move on")
    you.keys("i")
    you.see("[role=option][aria-selected=true]")
    you.keys(Keys.SPACE)
    you.see("[aria-label=Play]")
    you.keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    you.keys("2")
    wait_for(lambda: len(server.get(f"/api/tracks/{track_id}")["cues"]) == 2, "two cues")
    you.keys("o")
    wait_for(lambda: len(server.get(f"/api/tracks/{track_id}")["cues"]) == 3, "a loop")
    you.press_button("Leave loop")
    you.keys(Keys.ARROW_LEFT, "i", Keys.SPACE)
    you.see("[aria-label=Pause]")
    you.keys(Keys.SPACE)
    found = server.get(f"/api/tracks/{track_id}")["cues"]
    assert len(found) == 3 and sum(cue["role"] == "in" for cue in found) == 1, "the in point moved"
    for cue in server.get(f"/api/tracks/{track_id}")["cues"]:
        beats = (cue["position_s"] - first) / beat
        assert abs(beats - round(beats)) * beat < 0.015, f"{cue} is off the beat"

    # The grid by key: bar starts here, nudge, halve and double.
    grid = server.get(f"/api/tracks/{track_id}")["grid"]["anchors"][0]
    you.keys(".")
    wait_for(
        lambda: (
            server.get(f"/api/tracks/{track_id}")["grid"]["anchors"][0]["time"]
            == pytest.approx(grid["time"] + 0.001)
        ),
        "1 ms later",
    )
    you.see_text("bpm, by hand")
    you.keys("d")
    you.see_text(f"{2 * float(truth['bpm']):.2f}")  # type: ignore[arg-type]
    you.keys("h")
    you.see_text(f"{float(truth['bpm']):.2f}")  # type: ignore[arg-type]
    you.chord(Keys.ALT, "r")
    you.see_text("bpm, steady")
    return track_id


def _fill_crate(you: Hands) -> None:
    you.press_button("Crates")
    you.press_button("Make a crate")
    you.see("[role=dialog] input")
    you.keys(*"Friday at the Slipway", Keys.ENTER)
    you.see_text("This crate is empty")
    you.press_button("Shelf")
    wait_for(lambda: you.titles() == [TITLE], "the Shelf to stand as it was left")
    you.drag(you.row(TITLE), "[data-crate='Friday at the Slipway']")
    you.see_text("1 track put into “Friday at the Slipway”")
    for title in ("Breakwater", "Copper Tide"):
        you.find(title)
        you.row(title).click()
        you.keys("p")
        you.see("[role=dialog] input")
        you.keys(*"friday", Keys.ENTER)
        wait_for(lambda: not you.all("[role=dialog]"), "the dialog to close")
    you.press_button("Crates")
    wait_for(lambda: you.titles() == [TITLE, "Breakwater", "Copper Tide"], "three tracks in the crate")
    you.drag(you.row("Copper Tide"), f"[data-track='{you.row(TITLE).get_attribute('data-track')}']")
    wait_for(lambda: you.titles() == ["Copper Tide", TITLE, "Breakwater"], "the new order")


def _restart_and_undo(you: Hands, server: Server) -> None:
    server.stop()
    server.start()
    you.go("/crates")
    wait_for(lambda: you.titles() == ["Copper Tide", TITLE, "Breakwater"], "the order kept")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: you.titles() == [TITLE, "Breakwater", "Copper Tide"], "the old order after a restart")
    you.press_button("Redo")
    wait_for(lambda: you.titles() == ["Copper Tide", TITLE, "Breakwater"], "the new order again")


def _pack(you: Hands, server: Server) -> Path:
    you.press_button("Sticks")
    you.press_button("A stick…")
    you.see("[role=dialog] input")
    you.keys(Keys.ENTER)
    you.press_button("Friday at the Slipway")
    you.see_text("to convert")
    you.press_button("Pack the stick")
    you.see_text("Packed and verified: 3 tracks on the stick, 3 written")
    you.press_button("Eject")
    you.see_text("can be taken out now")
    return server.home / "sticks" / "Stick 1"


def _check_files(stick: Path, server: Server, track_id: int) -> None:
    index = json.loads((stick / "vinyl-stick.json").read_text())
    (player,) = index["players"]
    assert [each["name"] for each in player["lists"]] == ["Friday at the Slipway"]
    for entry in index["files"]:
        data = (stick / entry["file"]).read_bytes()
        assert (len(data), hashlib.sha256(data).hexdigest()) == (entry["bytes"], entry["sha256"])
    for entry in player["tracks"]:
        assert (stick / entry["picture"]).read_bytes()[:2] == b"\xff\xd8"
    playlist = (stick / "Crates" / "Friday at the Slipway.m3u8").read_text().splitlines()
    files = [line for line in playlist if not line.startswith("#")]
    assert files == [
        "../Music/Halden Pier/Copper Tide.mp3",
        f"../Music/Ilva Dune/{TITLE}.mp3",
        "../Music/Brine Social/Breakwater.flac",
    ]
    assert all((stick / "Crates" / file).resolve().is_file() for file in files)
    here = server.get(f"/api/tracks/{track_id}")
    there = next(entry for entry in player["tracks"] if entry["title"] == TITLE)
    assert there["anchors"] == here["grid"]["anchors"]
    assert [cue["position_s"] for cue in there["cues"]] == [cue["position_s"] for cue in here["cues"]]
    file = next(entry for entry in index["files"] if entry["file"] == there["file"])
    assert file["padding_samples"] == 1105
    assert not list(stick.rglob("*.part")), "nothing half-written is left"


def _play_at_the_gig(you: Hands, stick: Path) -> None:
    you.go("/player/")
    you.click("[data-crate='Friday at the Slipway']")
    you.click(f"[data-track='{TITLE}']")
    you.see_text(f"{TITLE}")
    wait_for(lambda: len(you.all(".cue")) == 3, "three cues on the player")
    cue = you.all(".cue")[1]
    position = float(cue.get_attribute("data-position") or "nan")
    cue.click()
    seconds = wait_for(
        lambda: float(you.see(".time").get_attribute("data-seconds") or 0) > position + 0.3,
        "the player to play from the cue",
    )
    assert seconds
    you.press_button("Stop")
