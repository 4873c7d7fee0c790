"""What hands do in lists and on the Workbench: cells, menus, tags, what fits, many rules, keys by ear."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.journeys.test_lists import NAMES, with_lists
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    running = with_lists(tmp_path_factory.mktemp("hands"))
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def row(server: Server, title: str) -> dict[str, Any]:
    return next(track for track in server.tracks() if track["title"] == title)


def on_the_shelf(you: Hands, title: str) -> None:
    """The Shelf sorted by title, with the focus on a track."""
    you.go("/shelf?sort=title")
    wait_for(lambda: len(you.titles()) == len(NAMES), "the rows")
    you.row(title).click()
    you.see_text("1 track chosen")


def test_cells_are_typed_into_and_kept(you: Hands, server: Server) -> None:
    on_the_shelf(you, "Anchor")
    you.keys(Keys.F2)
    you.see("input[aria-label='Title of Anchor']")
    you.keys(Keys.TAB)
    you.see("input[aria-label='Artist of Anchor']")
    you.keys(*"Sluice", Keys.ARROW_DOWN)
    you.see("input[aria-label='Artist of Buoy']")
    you.keys(*"Nobody", Keys.ESCAPE)
    wait_for(lambda: row(server, "Anchor")["artist"] == "Sluice", "the artist kept")
    assert row(server, "Buoy")["artist"] == "Kelp Union", "Esc left it as it was"
    assert not you.all("input.cell-edit")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: row(server, "Anchor")["artist"] == "Kelp Union", "the artist taken back")


def test_a_new_tag_is_typed_and_locks_and_cues_are_of_all_that_is_chosen(you: Hands, server: Server) -> None:
    on_the_shelf(you, "Anchor")
    you.chord(Keys.CONTROL, "a")
    you.chord(Keys.ALT, "n")
    you.see("input[aria-label='Tag by name, or a new one']")
    wait_for(
        lambda: (
            you.browser.switch_to.active_element.get_attribute("aria-label") == "Tag by name, or a new one"
        ),
        "the focus in the field",
    )
    you.keys(*"Foghorn", Keys.ENTER)
    you.see_text("Into which family does “Foghorn” go?")
    you.keys("o")
    wait_for(lambda: all(track["tags"] for track in server.tracks()), "the tag on all")
    you.see("[data-tag=Foghorn][aria-checked=true]")
    you.keys(Keys.ESCAPE, Keys.ESCAPE)
    for track in server.tracks():
        cues = [{"position_s": 1.0, "role": "in"}, {"position_s": 3.0, "pad": 2}]
        server.send("POST", f"/api/tracks/{track['id']}/cues/several", {"cues": cues})
    you.chord(Keys.ALT, Keys.DELETE)
    you.see_text("Delete 12 cues")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    wait_for(lambda: {track["cues"] for track in server.tracks()} == {"I"}, "only the in points left")
    you.see_text("6 cues of 6 tracks deleted")
    you.chord(Keys.SHIFT, "l")
    you.see_text("Lock the grid")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    wait_for(lambda: all(track["locks"] == ["cues"] for track in server.tracks()), "the cues of all locked")
    you.chord(Keys.ALT, Keys.DELETE)
    you.see_text("Nothing to delete")
    you.keys(Keys.ESCAPE)
    for _ in range(3):
        you.chord(Keys.CONTROL, "z")
    wait_for(lambda: not any(track["locks"] for track in server.tracks()), "the locks taken back")


def test_each_thing_has_its_own_menu(you: Hands, server: Server) -> None:
    spare = next(crate["id"] for crate in server.get("/api/crates") if crate["name"] == "Spare")
    you.go(f"/crates/{spare}")
    card = you.see("[data-card=Friday]")
    ActionChains(you.browser).context_click(card).perform()
    you.see("[role=menu][aria-label='With Friday']")
    you.press_button("Rename")
    you.see("input[aria-label='Name of Friday']")
    you.keys(*"Saturday", Keys.ENTER)
    you.see("[data-card=Saturday]")
    head = "[role=columnheader] button[title^='Sort by artist']"
    you.browser.execute_script("arguments[0].focus()", you.see(head))
    you.chord(Keys.SHIFT, Keys.F10)
    you.see("[role=menu][aria-label='Column Artist']")
    you.press_button("Hide this column")
    wait_for(lambda: not you.all(head), "the column gone")
    you.chord(Keys.ALT, "q")
    you.see("[aria-label='Show: the crates']")
    assert not you.all("[data-card=Saturday]"), "the side is folded"
    you.chord(Keys.ALT, "q")
    you.see("[data-card=Saturday]")


def test_what_fits_goes_after_the_present_track(you: Hands, server: Server) -> None:
    solo = server.send("POST", "/api/crates", {"name": "Solo"})["id"]
    server.send("POST", f"/api/crates/{solo}/tracks", {"ids": [row(server, "Dock")["id"]]})
    you.go(f"/crates/{solo}")
    you.row("Dock").click()
    you.keys("f")
    you.click("[aria-label='How far']")
    you.press_option("in wide reach")
    you.see("[aria-label='Tracks that fit'] li")
    wait_for(lambda: not you.all(".MuiPopover-root"), "the choice to close")
    you.chord(Keys.ALT, "f")
    fits = you.see("[aria-label='Tracks that fit'] li[aria-selected=true]").text.splitlines()[1]
    you.keys("a")
    titles = lambda: [track["title"] for track in server.tracks(crate=solo)]  # noqa: E731
    wait_for(lambda: titles() == ["Dock", fits], "it right after the present track")
    you.keys(Keys.ARROW_RIGHT)
    you.see_text("Back to Dock")
    you.keys(Keys.ARROW_LEFT, Keys.ESCAPE)
    active = lambda: you.browser.switch_to.active_element.get_attribute("role")  # noqa: E731
    wait_for(lambda: active() == "grid", "the focus in the list")


def test_a_line_goes_into_many_rules(you: Hands, server: Server) -> None:
    where = {"kind": "all", "parts": [{"kind": "text", "field": "genre", "text": "House", "how": "is"}]}
    rule = {"where": where, "order": [{"sort": "title", "descending": False}], "limit": None}
    ids = [server.send("POST", "/api/rules", {"name": name, "rule": rule})["id"] for name in ("One", "Two")]
    you.go("/crates")
    you.click("[aria-label='More with crates']")
    you.press_button("A line in many rules…")
    you.see_text("in 2 of 2 rules")
    you.click("[role=dialog] input[aria-label='A line of the rule']")
    you.keys(*"tempo over 110", Keys.ENTER)
    you.press_button("Add it to 2 rules")
    parts = lambda rule_id: server.get(f"/api/crates/{rule_id}/rule")["where"]["parts"]  # noqa: E731
    wait_for(lambda: [len(parts(each)) for each in ids] == [2, 2], "the line in both")
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog to close")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: [len(parts(each)) for each in ids] == [1, 1], "one step took it back")


def test_tempo_and_key_are_set_by_ear_and_a_held_pad_returns(you: Hands, server: Server) -> None:
    track = row(server, "Cleat")["id"]
    server.send("POST", f"/api/tracks/{track}/cues", {"position_s": 4.0, "pad": 1})
    you.go(f"/workbench/{track}")
    you.see_text("bpm, steady")
    bpm = server.get(f"/api/tracks/{track}")["grid"]["anchors"][0]["bpm"]
    ActionChains(you.browser).key_down(Keys.ALT).send_keys("]").send_keys("]").key_up(Keys.ALT).perform()
    stepped = lambda: server.get(f"/api/tracks/{track}")["grid"]["anchors"][0]["bpm"]  # noqa: E731
    wait_for(lambda: stepped() == pytest.approx(bpm + 0.02), "two steps of the tempo")
    ActionChains(you.browser).key_down("1").perform()
    wait_for(lambda: you.position_s() > 4.3, "the pad to play")
    ActionChains(you.browser).key_up("1").perform()
    you.see("[aria-label=Play]")
    wait_for(lambda: you.position_s() < 0.5, "the place where one was")
    you.chord(Keys.SHIFT, "c")
    you.see("[aria-label='Key, by arrows']")
    before = row(server, "Cleat")["key"]
    you.keys(Keys.ARROW_RIGHT, Keys.ENTER)
    wait_for(lambda: row(server, "Cleat")["key"] not in (before, None), "another key")
    assert row(server, "Cleat")["key_source"] == "by hand"
    assert you.complaints() == []


def test_tracks_let_go_over_a_folder_become_a_crate_in_it(you: Hands, server: Server) -> None:
    folder = server.send("POST", "/api/crates", {"name": "Weddings", "is_folder": True})["id"]
    spring = server.send("POST", "/api/crates", {"name": "Spring"})["id"]
    server.send("PUT", f"/api/crates/{spring}/folder", {"folder_id": folder})
    on_the_shelf(you, "Anchor")
    you.drag(you.row("Anchor"), "[data-crate=Spring]", typing="spr")
    wait_for(lambda: [t["title"] for t in server.tracks(crate=spring)] == ["Anchor"], "it in the crate")
    assert not you.all("[data-testid=crate-drop]"), "the letters were for the tree alone"
    you.drag(you.row("Buoy"), "[data-crate=Weddings]")
    you.see_text("A crate in “Weddings” for 1 track")
    you.keys(*"June", Keys.ENTER)
    made = lambda: [each for each in server.get("/api/crates") if each["name"] == "June"]  # noqa: E731
    wait_for(made, "the crate")
    june = made()[0]
    assert june["folder_id"] == folder
    wait_for(lambda: [t["title"] for t in server.tracks(crate=june["id"])] == ["Buoy"], "it in the crate")
    # Held over a folder that is folded, a track opens it.
    you.go(f"/crates/{june['id']}")
    you.click("[data-folder=Weddings]")
    wait_for(lambda: not you.all("[data-card=Spring]"), "the folder folded")
    hand = ActionChains(you.browser).move_to_element(you.row("Buoy")).click_and_hold().move_by_offset(0, 12)
    hand.move_to_element(you.see("[data-folder=Weddings]")).move_by_offset(0, 2).perform()
    you.see("[data-card=Spring]")
    ActionChains(you.browser).release().perform()
    you.see_text("A crate in “Weddings” for 1 track")
    you.keys(Keys.ESCAPE)


def test_where_files_lie_stands_beside_the_shelf(you: Hands, server: Server) -> None:
    later = server.home.parent / "music" / "later"
    later.mkdir()
    encode(drum_loop(99.0, 0.4, 9.0), RATE_HZ, later / "Undertow.flac", "flac")
    (later / "Pier.mp3").write_bytes(b"nothing")
    you.go("/shelf?sort=title")
    you.chord(Keys.ALT, "q")
    you.see("[role=treeitem]:focus")
    you.keys(Keys.ARROW_RIGHT)
    you.see("[role=treeitem][aria-expanded=true]")
    wait_for(lambda: "later" in you.text("[role=tree]"), "the folder in it")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    you.see_text("2 files here not in Vinyl yet")
    you.see_text("No track meets all these limits")
    assert not you.faults()
    you.press_button("Bring in 2 files")
    wait_for(lambda: you.titles() == ["Undertow"], "its track")
    you.see_text("1 file here not in Vinyl yet")
    you.press_button("All folders")
    wait_for(lambda: len(you.titles()) == len(NAMES) + 1, "all tracks")
    you.chord(Keys.ALT, "q")
    wait_for(lambda: not you.all("[role=treeitem]"), "the side folded")
