"""An evening with twins: one group heard and settled by keyboard, all sure ones in one step, both undone, and
files put aside brought back or thrown away.
"""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ
from vinyl.demo.fresh import fresh_score
from vinyl.demo.render import render
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags

LENGTH_S, SILENCE_S = 45, 0.41
# Keys of a room, where nothing has the focus.
PLAYS = "[data-testid=twins] [data-playing=true]"


@pytest.fixture(scope="module")
def place(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Where a home and its music lie, as they were analysed, for each test anew."""
    return tmp_path_factory.mktemp("twins") / "place"


@pytest.fixture(scope="module")
def kept(place: Path) -> Path:
    """Two recordings, each as FLAC and later as MP3, the second noted once more; and another."""
    music = place / "music"
    music.mkdir(parents=True)
    silence = np.zeros((2, round(SILENCE_S * RATE_HZ)), np.float32)
    for seed, title in ((91, "Anchor"), (92, "Buoy"), (93, "Cleat")):
        piece = render(fresh_score(seed))[:, : LENGTH_S * RATE_HZ]
        _write(piece, music / f"{title}.flac", title)
        if title != "Cleat":
            _write(np.hstack([silence, piece]), music / f"{title} 1.mp3", f"{title} in March")
    shutil.copy(music / "Buoy.flac", music / "Buoy again.flac")
    running = Server(place / "home", "--allow", str(music)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis", "twins"), "the tracks analysed and compared")
    march = running.ids()["Anchor in March"]
    cue = {"position_s": 12.0, "length_s": None, "label": "drop", "colour": "violet", "pad": 3}
    running.send("POST", f"/api/tracks/{march}/cues", {**cue, "role": None, "engages": False})
    running.send("POST", "/api/tracks/played", {"ids": [march]})
    running.stop()
    return place.rename(place.with_name("kept"))


@pytest.fixture
def server(kept: Path, place: Path) -> Iterator[Server]:
    shutil.rmtree(place, ignore_errors=True)
    shutil.copytree(kept, place)
    running = Server(place / "home", "--allow", str(place / "music")).start()
    yield running
    running.stop()


def _write(samples: np.ndarray[tuple[int, int], np.dtype[np.float32]], path: Path, title: str) -> None:
    encode(samples, RATE_HZ, path, path.suffix[1:])
    write_tags(path, Tags(title, "Kelp Union", genre="House"))


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def _groups(you: Hands) -> list[str]:
    asked = "return [...document.querySelectorAll('[data-group]')].map((each) => each.dataset.group)"
    return list(you.browser.execute_script(asked))


def test_a_group_is_heard_and_settled_by_keyboard_and_all_comes_back(
    you: Hands, server: Server, place: Path
) -> None:
    files = [place / "music" / name for name in ("Anchor.flac", "Anchor 1.mp3")]
    you.go("/shelf")
    you.see("main")
    you.chord(Keys.ALT, "5")
    wait_for(lambda: _groups(you) == ["Anchor", "Buoy"], lambda: str(_groups(you)))
    you.see_text("Anchor, twice")
    you.see_text("1 cue (moved by -0.41 s)")
    you.see_text("2 starts 0.41 s later")
    you.keys(Keys.SPACE)
    you.see(PLAYS)
    you.keys("2")
    you.see(f"{PLAYS}[data-heard='2']")
    you.keys(Keys.SPACE)
    wait_for(lambda: not you.all(PLAYS), "silence")
    you.keys(Keys.ENTER)
    you.see_text("1 file gave way")
    wait_for(lambda: _groups(you) == ["Buoy"], "the next group")
    wait_for(lambda: [file.exists() for file in files] == [True, False], "the MP3 put aside")
    (cue,) = server.get(f"/api/tracks/{server.ids()['Anchor']}")["cues"]
    march = 12.0
    assert (cue["label"], cue["pad"]) == ("drop", 3) and abs(cue["position_s"] + SILENCE_S - march) < 0.3
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: _groups(you) == ["Anchor", "Buoy"], "the group again")
    wait_for(lambda: all(file.exists() for file in files), "the file again")
    assert not server.get(f"/api/tracks/{server.ids()['Anchor']}")["cues"]
    you.keys("n")
    wait_for(lambda: _groups(you) == ["Buoy"], "what is no twin gone")
    assert not you.complaints()


def test_all_sure_groups_go_in_one_step_and_what_was_put_aside_is_thrown_away(
    you: Hands, server: Server, place: Path
) -> None:
    music = place / "music"
    you.go("/twins")
    wait_for(lambda: _groups(you) == ["Anchor", "Buoy"], lambda: str(_groups(you)))
    you.press_button("Settle the 2 sure…")
    you.see_text("3 files")
    you.see_text("1 cue (moved by -0.41 s)")
    you.keys(Keys.ENTER)
    you.see_text("No file is here twice")
    left = {"Anchor.flac", "Buoy.flac", "Cleat.flac"}
    wait_for(lambda: {path.name for path in music.iterdir()} == left, "the copies put aside")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: _groups(you) == ["Anchor", "Buoy"], "the groups again")
    wait_for(lambda: len(list(music.iterdir())) == 6, "the files again")
    you.chord(Keys.CONTROL, "y")
    wait_for(lambda: {path.name for path in music.iterdir()} == left, "the copies put aside once more")
    you.go("/arrivals")
    you.press_button("Look through them…")
    you.see_text("a copy of Anchor.flac")
    you.press_button("Choose all")
    you.press_button("Throw 3 files away…")
    you.press_button("Throw away")
    wait_for(lambda: all(each["kept"] is None for each in server.get("/api/off-shelf")), "nothing put aside")
    aside = [path for path in (place / "home" / "put aside").rglob("*") if path.is_file()]
    assert not aside and {path.name for path in music.iterdir()} == left
    assert not you.complaints()
