"""A crate that fills itself: kept from the Shelf, narrowed by keyboard, asked why, frozen, there later."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags

NAMES = ("Anchor", "Buoy", "Cleat", "Dock", "Ebb", "Fender")


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server over six short tracks, three of them House, from 100 bpm on."""
    folder = tmp_path_factory.mktemp("rules")
    music = folder / "music"
    music.mkdir()
    for place, name in enumerate(NAMES):
        path = music / f"{name}.flac"
        encode(drum_loop(100.0 + 4 * place, 0.2, 12.0), RATE_HZ, path, "flac")
        write_tags(path, Tags(name, "Kelp Union", genre=("House", "Dub")[place % 2]))
    running = Server(folder / "home", "--allow", str(folder)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis"), "the import and the analysis", 120)
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def held(you: Hands, *titles: str) -> None:
    """Wait until the open crate holds just these."""
    wait_for(lambda: you.titles() == list(titles), lambda: f"{titles} in the crate, not {you.titles()}")


def say(you: Hands, *sentence: str) -> None:
    """Type a line of the rule and take it, once it is understood."""
    you.see("input[aria-label='A line of the rule']")
    you.keys(*"".join(sentence))
    wait_for(
        lambda: "".join(sentence) in you.texts("[role=option]"),
        lambda: f"{sentence} among {you.texts('[role=option]')}",
    )
    you.keys(Keys.ENTER)


def test_a_search_is_kept_and_narrowed_by_sentences(you: Hands, server: Server) -> None:
    you.go("/shelf?sort=title&q=kelp&bpm_to=117")
    you.press_button("Keep as a crate")
    you.keys(*"Warm", Keys.ENTER)
    you.see_text("fills itself, always up to date")
    held(you, "Anchor", "Buoy", "Cleat", "Dock", "Ebb")
    assert you.texts("[data-line]") != []
    you.keys("l")
    you.see("input[aria-label='A line of the rule']")
    you.keys(*"style hou")
    held(you, "Anchor", "Cleat", "Ebb")
    you.see_text("3 tracks with the line that is being typed")
    you.keys(Keys.ESCAPE)
    held(you, "Anchor", "Buoy", "Cleat", "Dock", "Ebb")
    you.keys("l")
    say(you, "style House")
    held(you, "Anchor", "Cleat", "Ebb")
    you.see("input[aria-label='A line of the rule']")
    you.keys(Keys.ESCAPE)
    left = lambda: [line.split()[-1] for line in you.texts("[data-line]")]  # noqa: E731
    wait_for(lambda: left() == ["6", "5", "3"], lambda: f"what is left after each line, not {left()}")
    ids = server.ids()
    server.send("PUT", "/api/tracks/values", {"ids": [ids["Buoy"]], "values": {"genre": "House"}})
    held(you, "Anchor", "Buoy", "Cleat", "Ebb")
    you.chord(Keys.CONTROL, "z")
    held(you, "Anchor", "Cleat", "Ebb")


def test_groups_nest_and_why_is_told_of_one_inside_one_outside_and_none(you: Hands, server: Server) -> None:
    you.press_button("+ none of")
    say(you, "title begins Cleat")
    held(you, "Anchor", "Ebb")
    you.keys(Keys.ESCAPE, "l")
    say(you, "title is not Ebb")
    say(you, "tempo under 110")
    held(you, "Anchor")
    you.keys(Keys.ESCAPE)
    you.chord(Keys.CONTROL, "z")
    you.chord(Keys.CONTROL, "z")
    held(you, "Anchor", "Ebb")
    you.row("Anchor").click()
    you.keys("w")
    you.see_text("Why is Anchor in here?")
    you.write_in("[aria-label=Why] input", *"cleat")
    you.press_option("Cleat, Kelp Union")
    you.see_text("Why is Cleat not in here?")
    wait_for(lambda: "✗ title begins Cleat" in you.text("[aria-label=Why]"), "the line that keeps it out")
    you.row("Anchor").click()
    you.keys("l")
    say(you, "tempo over 180")
    you.see_text("No track is like that now")
    you.see_text("Without it 2 would be in here")
    you.keys(Keys.ESCAPE)
    you.press_button("Take out tempo from 180")
    held(you, "Anchor", "Ebb")
    assert you.complaints() == [] and you.faults() == []


def test_it_is_frozen_and_there_after_a_restart(you: Hands, server: Server) -> None:
    you.press_until("Freeze", "Freeze into a crate of its own")
    you.press_button("Freeze")
    you.see_text("in your order")
    held(you, "Anchor", "Ebb")
    server.stop()
    server.start()
    you.go("/crates")
    you.click("[data-card='Warm']")
    you.see_text("fills itself, always up to date")
    held(you, "Anchor", "Ebb")
    assert len(you.texts("[data-line]")) == 5


def test_a_folder_is_deleted_and_brought_back_after_a_restart(you: Hands, server: Server) -> None:
    you.go("/crates")
    you.press_button("A folder")
    you.see("[role=dialog] input")
    you.keys(*"Fridays", Keys.ENTER)
    you.see("[data-folder=Fridays]")
    you.click("[data-card='Warm, frozen']")
    you.see_text("in your order")
    you.press_until("Move…", "In no folder")
    you.click("[role=dialog] [aria-label=Folders] > :last-child")
    you.press_button("Move")
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog gone")
    you.click("[aria-label='More with Fridays']")
    you.press_button("Delete")
    you.see_text("With it goes 1 crate with 2 places.")
    you.press_button("Delete the folder")
    wait_for(lambda: not you.all("[data-card='Warm, frozen']"), "the crate gone with its folder")
    assert not you.all("[data-folder]") and len(server.tracks()) == len(NAMES)
    server.stop()
    server.start()
    you.go("/crates")
    you.see("[data-card=Warm]")
    you.chord(Keys.CONTROL, "z")
    you.see("[data-folder=Fridays]")
    you.click("[data-card='Warm, frozen']")
    held(you, "Anchor", "Ebb")
    you.click("[data-folder=Fridays]")
    wait_for(lambda: not you.all("[data-card='Warm, frozen']"), "the folder folded")
