"""Crates in order: dividers by key, tracks cut and pasted, crates dragged, combined, brought back."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags

NAMES = ("Anchor", "Buoy", "Cleat", "Dock", "Ebb", "Fender")


def with_lists(folder: Path) -> Server:
    """A server over six short tracks in two styles: five of them in one crate, two in another."""
    music = folder / "music"
    music.mkdir()
    for place, name in enumerate(NAMES):
        path = music / f"{name}.flac"
        encode(drum_loop(100.0 + 4 * place, 0.2, 8.0), RATE_HZ, path, "flac")
        write_tags(path, Tags(name, "Kelp Union", genre=("House", "Dub")[place % 2]))
    running = Server(folder / "home", "--allow", str(folder)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis"), "the import and the analysis", 120)
    ids = running.ids()
    for crate, held in (("Friday", NAMES[:5]), ("Spare", NAMES[4:])):
        made = running.send("POST", "/api/crates", {"name": crate})["id"]
        running.send("POST", f"/api/crates/{made}/tracks", {"ids": [ids[name] for name in held]})
    return running


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = with_lists(tmp_path_factory.mktemp("lists"))
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def stands(you: Hands, *lines: str) -> None:
    """Wait until the rows are just these, titles and dividers in their order."""
    script = (
        "return [...document.querySelectorAll('[data-testid=rows] [role=row]')]"
        ".filter(row => row.offsetParent && (row.dataset.divider || row.dataset.track))"
        ".sort((a, b) => parseFloat(a.style.top) - parseFloat(b.style.top))"
        ".map(row => row.dataset.divider ? '— ' + row.dataset.divider "
        ": row.querySelector('.title')?.firstChild.textContent)"
    )
    seen = lambda: you.browser.execute_script(script)  # noqa: E731
    wait_for(lambda: seen() == list(lines), lambda: f"{lines}, not {seen()}")


def open_crate(you: Hands, name: str) -> None:
    you.click(f"[data-card='{name}']")
    wait_for(lambda: you.text("main h1, h1").startswith(name), lambda: f"{name} open, not {you.text('h1')}")


def say(you: Hands, *text: str) -> None:
    """Answer the dialog that is open with a word and Enter."""
    you.see("[role=dialog] input")
    you.keys(*"".join(text), Keys.ENTER)
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog gone")


def test_dividers_are_set_passed_jumped_to_and_folded_by_key(you: Hands, server: Server) -> None:
    you.go("/crates")
    open_crate(you, "Friday")
    stands(you, *NAMES[:5])
    you.row("Cleat").click()
    you.keys("d")
    say(you, "Late")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb")
    you.see_text("3 tracks, ")
    you.chord(Keys.ALT, Keys.ARROW_UP)
    stands(you, "Anchor", "Buoy", "Cleat", "— Late", "Dock", "Ebb")
    you.chord(Keys.ALT, Keys.ARROW_DOWN)
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb")
    you.row("Anchor").click()
    you.chord(Keys.CONTROL, Keys.ARROW_DOWN)
    wait_for(
        lambda: "Cleat" in you.text("[data-track][aria-selected=true]"), "the first track of Late chosen"
    )
    you.keys("o")
    stands(you, "Anchor", "Buoy", "— Late")
    you.keys("o")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb")
    assert you.faults() == []


def test_tracks_are_cut_and_pasted_between_crates(you: Hands, server: Server) -> None:
    you.row("Dock").click()
    you.chord(Keys.CONTROL, "x")
    you.see_text("1 track cut")
    open_crate(you, "Spare")
    stands(you, "Ebb", "Fender")
    you.row("Ebb").click()
    you.chord(Keys.CONTROL, "v")
    stands(you, "Ebb", "Dock", "Fender")
    open_crate(you, "Friday")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Ebb")
    you.chord(Keys.CONTROL, "z")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb")


def test_a_track_stands_twice_with_a_note_on_one_place(you: Hands, server: Server) -> None:
    you.press_until("This crate…", "Let a track stand here more than once")
    you.press_button("Let a track stand here more than once")
    you.see_text("can stand in “Friday” more than once")
    you.row("Anchor").click()
    you.chord(Keys.CONTROL, "c")
    you.row("Ebb").click()
    you.chord(Keys.CONTROL, "v")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb", "Anchor")
    you.keys(Keys.ARROW_DOWN, "n")
    say(you, "once more at the end")
    wait_for(lambda: you.texts(".place-note") == ["once more at the end"], "the note on the second place")
    you.chord(Keys.ALT, Keys.ARROW_UP)
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Anchor", "Ebb")
    you.keys("3")
    rated = lambda: [t["title"] for t in server.tracks() if t["rating"] == 3]  # noqa: E731
    wait_for(lambda: rated() == ["Anchor"], "stars of the one track")
    you.keys(Keys.DELETE)
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock", "Ebb")


def test_crates_are_combined_kept_as_sorted_and_divided_by_value(you: Hands, server: Server) -> None:
    you.press_until("This crate…", "With another crate…")
    you.press_button("With another crate…")
    you.see("[role=dialog] input")
    you.keys(*"spare")
    you.press_button("Take out what is in it")
    you.press_button("Do it")
    stands(you, "Anchor", "Buoy", "— Late", "Cleat", "Dock")
    you.press_button("Title")
    you.see_text("Back to my order")
    you.press_button("Title")
    wait_for(
        lambda: you.titles() == ["Dock", "Cleat", "Buoy", "Anchor"], lambda: f"sorted, not {you.titles()}"
    )
    you.press_until("This crate…", "Keep it as it is sorted now")
    you.press_button("Keep it as it is sorted now")
    stands(you, "Dock", "Cleat", "— Late", "Buoy", "Anchor")
    you.press_until("This crate…", "Divide by…")
    you.press_button("Divide by…")
    you.press_button("Style")
    you.press_button("Divide")
    stands(you, "— Dub", "Dock", "— House", "Cleat", "— Dub", "Buoy", "— House", "Anchor")


def test_what_is_made_is_opened_and_keys_go_on_to_the_rows(you: Hands) -> None:
    you.go("/crates")
    you.press_button("≡ One by rule")
    say(you, "All of it")
    wait_for(lambda: you.text("h1").startswith("All of it"), "the new crate open")
    you.press_button("Delete")
    you.press_button("Keep it")
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog gone")
    you.row("Buoy").click()
    you.keys(Keys.SPACE)
    you.see_text("Pause")


def test_a_crate_for_each_style_and_one_more_when_a_style_appears(you: Hands, server: Server) -> None:
    you.click("[aria-label='More with crates']")
    you.press_button("One by rule for each value")
    you.press_button("Make them")
    you.see("[data-folder='By style']")
    wait_for(lambda: you.text("[data-card=House]").endswith("3"), "three in House")
    ids = server.ids()
    server.send("PUT", "/api/tracks/values", {"ids": [ids["Fender"]], "values": {"genre": "Electro"}})
    you.see("[data-card=Electro]")
    open_crate(you, "Electro")
    stands(you, "Fender")


def test_a_crate_is_dragged_into_a_folder_renamed_deleted_and_brought_back(
    you: Hands, server: Server
) -> None:
    server.send("POST", "/api/crates", {"name": "Nights", "is_folder": True})
    folder, card = you.see("[data-folder=Nights]"), you.see("[data-card=Spare]")
    ActionChains(you.browser).move_to_element(card).click_and_hold().move_by_offset(0, 14).perform()

    def is_within() -> bool:
        ActionChains(you.browser).move_to_element(folder).move_by_offset(1, 1).perform()
        told = you.browser.execute_script(
            "return document.querySelector('[id^=DndLiveRegion]')?.textContent ?? ''"
        )
        return "card-" in told and f"card-{nights}" in told

    nights = next(crate["id"] for crate in server.get("/api/crates") if crate["name"] == "Nights")
    wait_for(is_within, "being over the folder")
    ActionChains(you.browser).release().perform()
    spare = lambda: next(c for c in server.get("/api/crates") if c["name"].startswith("Spare"))  # noqa: E731
    wait_for(lambda: spare()["folder_id"] == nights, "Spare in its folder")
    open_crate(you, "Spare")
    you.chord(Keys.SHIFT, Keys.F2)
    you.see("input[aria-label='Name of Spare']")
    you.keys(*"Spare parts", Keys.ENTER)
    you.see("[data-card='Spare parts']")
    you.click("[aria-label='More with Nights']")
    you.press_button("Delete")
    you.press_button("Delete the folder")
    wait_for(lambda: not you.all("[data-folder=Nights]"), "the folder gone")
    server.stop()
    server.start()
    you.go("/crates")
    you.click("[aria-label='More with crates']")
    you.press_button("Deleted ones…")
    you.see_text("1 crate, 2 places")
    you.click("[role=dialog] [aria-label=Deleted] > :first-child")
    you.press_button("Bring it back")
    you.see("[data-folder=Nights]")
    open_crate(you, "Spare parts")
    stands(you, "Ebb", "Fender")
