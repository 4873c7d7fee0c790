"""What a DJ sees when something goes wrong, and that there is a way on from it."""

from __future__ import annotations

import os
import shutil
from pathlib import Path

import numpy as np
import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server, make_browser
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode


@pytest.fixture
def you(browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(browser, server)


@pytest.fixture
def music(tmp_path: Path) -> Path:
    folder = tmp_path / "music"
    folder.mkdir()
    for number in range(3):
        encode(drum_loop(120 + number, 0.5, 12.0), RATE_HZ, folder / f"Song {number}.wav", "wav")
    return folder


def bring_in(server: Server, folder: Path) -> list[int]:
    server.send("POST", "/api/imports", {"paths": [str(folder)]})
    wait_for(lambda: server.has_ended("import", "analysis"), "the import and the analysis")
    return [server.ids()[title] for title in sorted(server.ids())]


def test_a_wrong_folder_and_unreadable_files(you: Hands, music: Path) -> None:
    (music / "Lost link.mp3").symlink_to(music / "nowhere.mp3")
    (music / "Noise.flac").write_bytes(b"fLaC" + np.random.default_rng(0).bytes(5000))
    you.go("/shelf")
    you.see_text("The Shelf is empty")
    you.press_button("Go to Arrivals")
    you.see_text("Nothing has arrived yet")
    you.press_button("Choose a folder")
    for wrong, words in (
        ("/etc", "lies outside the folders that Vinyl may read"),
        (str(music / "nowhere"), "There is no folder"),
    ):
        you.write_in("[role=dialog] input", *wrong, Keys.ENTER)
        you.see_text(words)
        assert you.see("[role=dialog] input").get_attribute("value") == wrong, (
            "what was typed stays, to be put right"
        )
    you.chord(Keys.CONTROL, "a")
    you.keys(*str(music), Keys.ENTER)
    you.see_text("5 audio files here")
    you.press_button("Add this folder")
    you.see_text("3 added, 2 broken")
    you.see_text("The file could not be read: No such file or directory.")
    you.see_text("begins like audio but cannot be opened")


def test_an_import_can_be_cancelled_and_analysis_paused(
    you: Hands, server: Server, demo: Path, tmp_path: Path
) -> None:
    many = tmp_path / "many"
    for copy in range(24):
        shutil.copytree(demo / "music" / "Downloads", many / str(copy), copy_function=os.link)
    you.go("/arrivals")
    server.send("POST", "/api/imports", {"paths": [str(many)]})
    wait_for(lambda: server.get("/api/imports")[0]["done"] > 0, "the first file to be imported")
    you.press_button("Cancel import")
    you.see_text("cancelled:")
    run = server.get("/api/imports")[0]
    assert run["state"] == "cancelled" and 0 < run["done"] < run["total"]
    kept = len(server.tracks())
    assert kept == run["outcomes"]["added"], "what was added stays"
    shutil.copytree(demo / "music", tmp_path / "enough", copy_function=os.link)
    server.send("POST", "/api/imports", {"paths": [str(tmp_path / "enough")]})
    wait_for(lambda: server.get("/api/imports")[0]["state"] == "done", "the import of enough to pause")
    you.press_button("Pause")
    you.see_text("paused")
    job = wait_for(lambda: (j := server.jobs("analysis")[0])["state"] == "paused" and j, "the pause")
    waiting = lambda: sum(t["analysis_state"] == "paused" for t in server.tracks())  # noqa: E731
    paused = waiting()
    assert paused > 0
    server.stop()
    server.start()
    assert server.get(f"/api/jobs/{job['id']}")["state"] == "paused", "a pause outlives the server"
    assert 0 < waiting() <= paused, "but for those that were in hand"
    you.go("/arrivals")
    you.press_button("Go on")
    wait_for(lambda: waiting() == 0, "the queue to go on")


def test_a_full_stick_and_a_pulled_one(you: Hands, server: Server, demo: Path, tmp_path: Path) -> None:
    shutil.copytree(demo / "music" / "Downloads" / "November", tmp_path / "november")
    server.send("POST", "/api/imports", {"paths": [str(tmp_path / "november")]})
    wait_for(lambda: server.get("/api/imports")[0]["state"] == "done", "the import")
    server.pause_analysis()
    crate = server.send("POST", "/api/crates", {"name": "November"})["id"]
    server.send("POST", f"/api/crates/{crate}/tracks", {"ids": server.ids_of_all()})
    you.go("/sticks")
    you.press_button("A stick…")
    Select(you.see("[role=dialog] select")).select_by_visible_text("A stand-in of 60 MB (soon full)")
    you.press_button("Make")
    you.press_button("November")
    you.see_text("It does not fit:")
    pack = next(button for button in you.all("button") if button.text == "Pack the stick")
    assert not pack.is_enabled()

    big = server.send("POST", "/api/sticks", {"name": "Big", "capacity_mb": 4000})
    server.send("PUT", f"/api/sticks/{big['id']}/crates", {"crate_ids": [crate]})
    you.press_button("Big")
    you.press_button("Pack the stick")
    you.press_button("Pull out")
    you.see_text("The stick “Big” is not in the computer")
    folder = Path(big["folder"])
    assert not (folder / "vinyl-stick.json").exists(), "no index names files that are not there"
    you.go("/player/")
    you.see_text("There is nothing on it that this player can read.")
    you.go("/sticks")
    you.press_button("Big")
    you.press_button("Put it into the computer")
    you.press_until("Pack the stick", "Packed and verified: 7 tracks on the stick")


def test_two_windows_stay_in_step_and_a_lost_server_is_said(
    you: Hands, server: Server, music: Path, tmp_path: Path
) -> None:
    track = bring_in(server, music)[0]
    other_browser = make_browser(tmp_path / "other profile")
    try:
        other = Hands(other_browser, server)
        for window in (you, other):
            window.go(f"/workbench/{track}")
            window.see_text("bpm, steady")
        you.keys("c", ".")
        wait_for(
            lambda: len(other.all("[role=option]")) == 1 and "by hand" in other.text(),
            "the other window to follow",
        )
        other.chord(Keys.CONTROL, "z")
        wait_for(lambda: "by hand" not in you.text(), "the undo to be seen here")
        server.kill()
        you.see_text("The server does not answer")
        you.keys("c")
        you.see_text("Start it again with ./vinyl start")
        server.start()
        wait_for(
            lambda: "does not answer; trying again" not in you.text(), "the window to find the server again"
        )
        assert len(server.get(f"/api/tracks/{track}")["cues"]) == 1, "nothing was lost and nothing came twice"
    finally:
        other_browser.quit()


def test_everything_by_keyboard_in_a_crate(you: Hands, server: Server, music: Path) -> None:
    ids = bring_in(server, music)
    you.go("/shelf?sort=title&order=up")
    wait_for(lambda: len(you.titles()) == 3, "three rows")
    you.keys(Keys.ARROW_DOWN)
    you.chord(Keys.SHIFT, Keys.ARROW_DOWN)
    you.keys("4", "p")
    you.see("[role=dialog] input")
    you.keys(*"Late", Keys.ENTER)
    you.see_text("2 tracks put into “Late”")
    assert [{t["id"]: t["rating"] for t in server.tracks()}[i] for i in ids] == [4, 4, 0]
    you.chord(Keys.ALT, "4")
    wait_for(lambda: you.titles() == ["Song 0", "Song 1"], "the crate")
    you.keys(Keys.ARROW_DOWN)
    you.chord(Keys.ALT, Keys.ARROW_DOWN)
    wait_for(lambda: you.titles() == ["Song 1", "Song 0"], "the new order")
    you.keys(Keys.DELETE)
    wait_for(lambda: you.titles() == ["Song 1"], "one taken out")
    for expected in (["Song 1", "Song 0"], ["Song 0", "Song 1"]):
        you.chord(Keys.CONTROL, "z")
        wait_for(lambda wanted=expected: you.titles() == wanted, f"undone to {expected}")  # type: ignore[misc]
    you.keys(Keys.ARROW_UP, Keys.ENTER)
    you.see_text("bpm, steady")
    you.keys(Keys.ENTER)
    wait_for(lambda: you.browser.current_url.endswith(f"/{ids[1]}"), "the next track of the crate")
    you.chord(Keys.SHIFT, "/")
    you.see("#key-sheet")
    for word in ("Space", "A bar starts here", "Set or move the in point"):
        assert word in you.text("#key-sheet")
