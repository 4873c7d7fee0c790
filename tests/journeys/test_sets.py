"""An evening before a night: collected on the Shelf, placed, ordered, noted and put on paper, by keyboard;
the arc is drawn with the mouse.
"""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.journeys.test_lists import with_lists
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = with_lists(tmp_path_factory.mktemp("sets"))
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def _order(you: Hands) -> list[str]:
    asked = "return [...document.querySelectorAll('[data-entry]')].map((each) => each.dataset.entry)"
    return list(you.browser.execute_script(asked))


def _side(you: Hands) -> list[str]:
    asked = "return [...document.querySelectorAll('[data-line]')].map((each) => each.dataset.line)"
    return list(you.browser.execute_script(asked))


def _stands(you: Hands, *titles: str) -> None:
    wait_for(lambda: tuple(_order(you)) == titles, lambda: f"{titles}, not {_order(you)}")


def test_from_the_shelf_to_the_sheet_by_keyboard(you: Hands, server: Server) -> None:
    you.go("/shelf?sort=title")
    you.see("[data-track]")
    you.chord(Keys.CONTROL, "a")
    you.chord(Keys.ALT, "s")
    you.see_text("into the tray of…")
    you.keys("Slipway Friday", Keys.ENTER)
    you.see_text("6 tracks put into the tray of “Slipway Friday”")
    you.chord(Keys.ALT, "6")
    you.see_text("The running order is empty")
    wait_for(lambda: len(_side(you)) == 6, lambda: str(_side(you)))
    first, second = _side(you)[3], _side(you)[0]
    you.keys(Keys.ARROW_RIGHT, *[Keys.ARROW_DOWN] * 3, Keys.ENTER)
    _stands(you, first)
    you.keys(Keys.HOME, *[Keys.ARROW_UP] * 6, Keys.ENTER)
    _stands(you, first, second)
    for place in range(3, 6):
        you.keys(Keys.ENTER)
        wait_for(lambda place=place: len(_order(you)) == place, lambda: str(_order(you)))
    assert len(_side(you)) == 1
    you.keys(Keys.ARROW_LEFT, Keys.HOME, "l")
    you.see_text("closes")
    you.keys("o")
    you.press_button("Rising tempo")
    you.see_text("better than now")
    you.press_button("Take this order")
    pinned = first
    wait_for(lambda: _order(you)[-1:] == [pinned], lambda: str(_order(you)))
    rest = _order(you)[:-1]
    assert rest == sorted(rest), "their tempi rise with their names"
    you.keys(Keys.HOME, "n")
    you.see_text("A note on")
    you.keys("lamps still on", Keys.ENTER)
    you.see_text("lamps still on")
    you.keys("j")
    you.see("[role=dialog] canvas[data-knots]")
    you.chord(Keys.SHIFT, Keys.ARROW_LEFT)
    you.see_text("8 bars over")
    you.keys("n", "bring the low end in late", Keys.ENTER)
    you.see_text("· bring the low end in late")
    you.keys(Keys.ESCAPE)
    wait_for(lambda: not you.all("[role=dialog]"), "the joint closed")
    you.chord(Keys.SHIFT, "p")
    sheet = you.see("#set-sheet").text
    assert rest[0] in sheet and "lamps still on · bring the low end in late" in sheet
    you.keys(Keys.ESCAPE)
    wait_for(lambda: not you.all("#set-sheet"), "the sheet closed")
    you.keys(Keys.HOME, Keys.DELETE)
    wait_for(lambda: len(_order(you)) == 4 and len(_side(you)) == 2, "the first in the tray again")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: _order(you) == [*rest, pinned], lambda: str(_order(you)))
    (told,) = server.get("/api/sets")
    assert (told["placed"], told["in_tray"]) == (5, 1)
    assert "\n".join(you.faults()) == "" and not you.complaints()


def test_an_arc_is_drawn_and_what_goes_on_is_suggested(you: Hands, server: Server) -> None:
    ids = server.ids()
    made = server.send("POST", "/api/sets", {"name": "Arc", "on_day": "2026-12-31"})["id"]
    server.send("POST", f"/api/sets/{made}/tracks", {"ids": [ids["Anchor"], ids["Buoy"]], "placed": True})
    you.go("/sets")
    you.see_text("Arc")
    picture = you.see("svg[role=img]")
    width, height = picture.size["width"], picture.size["height"]
    ActionChains(you.browser).move_to_element_with_offset(
        picture, width // 4, -height // 4
    ).double_click().perform()
    point = you.see("[data-testid='arc point']")

    def arc() -> list[dict[str, float]]:
        return list(server.get(f"/api/sets/{made}")["arc"])

    (drawn,) = wait_for(arc, "a point of the arc")
    assert drawn["share"] == pytest.approx(0.75, abs=0.03) and drawn["energy"] == pytest.approx(75, abs=6)
    ActionChains(you.browser).drag_and_drop_by_offset(point, -width // 4, 20).perform()
    wait_for(lambda: arc() and arc()[0]["share"] == pytest.approx(0.5, abs=0.03), lambda: str(arc()))
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: arc() == [drawn], lambda: str(arc()))
    you.click("[data-entry=Buoy]")
    you.keys("y")
    wait_for(lambda: "Buoy" not in _side(you) and "Cleat" in _side(you), lambda: str(_side(you)))
    you.keys(Keys.ARROW_RIGHT)
    at = _side(you)
    you.keys("t")
    wait_for(lambda: server.get(f"/api/sets/{made}")["tray"], "it in the tray")
    you.keys(Keys.ENTER)
    you.keys(Keys.ARROW_LEFT)
    wait_for(lambda: _order(you) == ["Anchor", "Buoy", at[0]], lambda: str(_order(you)))
    assert not server.get(f"/api/sets/{made}")["tray"] and not you.complaints()


def test_a_chain_is_gone_branched_and_placed_by_keyboard(you: Hands, server: Server) -> None:
    made = server.send("POST", "/api/sets", {"name": "Chain", "on_day": "2027-01-08"})["id"]
    server.send("POST", f"/api/sets/{made}/tracks", {"ids": [server.ids()["Anchor"]]})
    you.go("/sets")
    you.see_text("The running order is empty")
    you.keys(Keys.ARROW_RIGHT)
    while "Where a chain begins" not in you.text("aside"):
        you.keys("y")
    you.keys(Keys.ENTER)
    you.see_text("On from Anchor")
    wait_for(lambda: len(_side(you)) > 1, "what goes on from it")
    first, other = _side(you)[:2]
    you.keys(Keys.ENTER)
    you.see_text(f"On from {first}")
    you.keys("b")
    you.see_text("On from Anchor")
    wait_for(lambda: other in _side(you), "what goes on from it")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    you.see_text(f"On from {other}")
    steps = "return [...document.querySelectorAll('[data-step]')].map((each) => each.dataset.step)"
    assert you.browser.execute_script(steps) == ["Anchor", other, first]
    you.chord(Keys.SHIFT, Keys.ENTER)
    _stands(you, "Anchor", other)
    entry = lambda title: you.see(f"[data-entry='{title}']")  # noqa: E731
    on_anchor = f"[data-drop={entry('Anchor').get_attribute('data-drop')}]"
    you.drag(entry(other), on_anchor)
    _stands(you, other, "Anchor")
    next_one = _side(you)[0]
    you.drag(you.see(f"[data-line='{next_one}']"), on_anchor)
    _stands(you, other, next_one, "Anchor")
    you.drag(entry(other), "aside[data-drop=tray]")
    wait_for(lambda: other not in _order(you), lambda: str(_order(you)))
    you.go("/sets")
    you.see_text(f"On from {other}")
    assert "\n".join(you.faults()) == "" and not you.complaints()


def test_a_recording_is_cleared_by_hand_by_a_register_and_by_a_table(you: Hands, server: Server) -> None:
    made = server.send("POST", "/api/sets", {"name": "Recorded", "on_day": "2027-01-15"})["id"]
    ids = [server.ids()[title] for title in ("Anchor", "Buoy")]
    server.send("POST", f"/api/sets/{made}/tracks", {"ids": ids, "placed": True})

    def states() -> list[str]:
        return [each["state"] for each in server.get(f"/api/sets/{made}/clearance")["lines"]]

    you.go("/sets")
    you.see("[data-entry]")
    you.chord(Keys.SHIFT, "c")
    you.see_text("nothing known of 2 tracks")
    you.press_button("Ask the rights register")
    you.see_text("nothing said of 2")
    you.press_button("Read a table")
    artist = server.get(f"/api/sets/{made}")["order"][0]["artist"]
    you.see("[role=dialog] textarea")
    rows = f"artist,title,state,where{Keys.ENTER}{artist},Anchor,free,{Keys.ENTER}{artist},Buoy,muted,"
    you.keys(*rows, Keys.TAB, Keys.TAB, Keys.ENTER)
    you.see_text("silent while one track plays")
    wait_for(lambda: states() == ["free", "muted"], lambda: f"both told of: {states()}")
    you.click("[data-clearance=Buoy]")
    you.write_in(
        "form[aria-label='Clearance of Buoy'] input[type=text]:not([readonly])", "Ostmark", Keys.ENTER
    )
    you.see_text("by hand")
    assert server.get(f"/api/sets/{made}/clearance")["lines"][1]["places"] == ["Ostmark"]
    assert "\n".join(you.faults()) == "" and not you.complaints()
    you.keys(Keys.ESCAPE)
    you.see_text("muted in Ostmark in a recording")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: server.get(f"/api/sets/{made}/clearance")["lines"][1]["places"] == [], "taken back")


def test_a_wanted_track_is_placed_and_takes_its_place_when_its_file_comes(you: Hands, server: Server) -> None:
    made = server.send("POST", "/api/sets", {"name": "Wanted", "on_day": "2027-01-22"})["id"]
    ids = [server.ids()[title] for title in ("Anchor", "Buoy")]
    server.send("POST", f"/api/sets/{made}/tracks", {"ids": ids, "placed": True})
    you.go("/sets")
    you.see("[data-entry=Buoy]")
    you.chord(Keys.SHIFT, "w")
    you.see_text("Want a track that you do not have")
    you.keys("Kelp Union", Keys.TAB, "Not Yet Out", Keys.ENTER)
    _stands(you, "Anchor", "Not Yet Out", "Buoy")
    you.see_text("not on the Shelf")
    you.chord(Keys.CONTROL, "z")
    _stands(you, "Anchor", "Buoy")
    you.press_button("Redo")
    _stands(you, "Anchor", "Not Yet Out", "Buoy")
    music = server.home.parent / "later"
    music.mkdir()
    encode(drum_loop(126.0, 0.2, 8.0), RATE_HZ, music / "new.flac", "flac")
    write_tags(music / "new.flac", Tags("Not Yet Out", "Kelp Union"))
    server.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: "not on the Shelf" not in you.text(), "it to be on the Shelf")
    _stands(you, "Anchor", "Not Yet Out", "Buoy")
    assert server.get(f"/api/sets/{made}")["order"][1]["track_id"] == server.ids()["Not Yet Out"]
    you.go("/arrivals")
    you.see_text("It was wanted in “Wanted” and stands in its place now.")
    assert not you.complaints()
