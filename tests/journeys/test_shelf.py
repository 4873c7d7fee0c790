"""An afternoon at the Shelf: tagging while listening, editing in bulk, finding again, two windows in step."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server, make_browser
from tests.signals import RATE_HZ, drum_loop
from vinyl.media.encode import encode
from vinyl.media.tags import Tags, write_tags

TRACKS, TAGGED = 54, 50
NAMES = ("Anchor", "Buoy", "Cleat", "Dock", "Ebb", "Fender", "Gunwale", "Halyard", "Islet")
ARTISTS = ("Kelp Union", "Osk & Maren", "Tern Logic")
NINE = """
  const rooms = document.querySelector("nav[aria-label=Rooms]");
  for (const name of ["Sets"]) {
    const card = rooms.lastElementChild.cloneNode(true);
    card.textContent = name;
    rooms.append(card);
  }
  const header = document.querySelector("header");
  const last = rooms.lastElementChild.getBoundingClientRect().right;
  const buttons = header.lastElementChild.getBoundingClientRect();
  return [last <= buttons.left, buttons.right <= innerWidth, header.scrollWidth <= innerWidth];
"""


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server over fifty-four short tracks, analysed, the first ones in two crates."""
    folder = tmp_path_factory.mktemp("shelf")
    music = folder / "music"
    music.mkdir()
    for number in range(TRACKS):
        path = music / f"{number:02}.flac"
        encode(drum_loop(100.0 + number, 0.2, 8.0), RATE_HZ, path, "flac")
        name = f"{NAMES[number % 9]} {number:02}"
        write_tags(path, Tags(name, ARTISTS[number % 3], genre=("House", "Disco")[number % 2]))
    running = Server(folder / "home", "--allow", str(folder)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis"), "the import and the analysis", 180)
    ids = running.ids_of_all()
    for name, held in (("Friday", ids[:6]), ("Saturday", ids[4:12])):
        crate = running.send("POST", "/api/crates", {"name": name})["id"]
        running.send("POST", f"/api/crates/{crate}/tracks", {"ids": held})
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    hands = Hands(shared_browser, server)
    hands.go("/shelf")
    shared_browser.execute_script("localStorage.clear(); sessionStorage.clear()")
    hands.go("/shelf?sort=title")
    hands.row("Anchor 00")
    return hands


def tags_of(server: Server) -> dict[str, list[str]]:
    """The names of the tags of each track, by title."""
    names = {tag["id"]: tag["name"] for family in server.get("/api/tag-families") for tag in family["tags"]}
    return {track["title"]: [names[tag] for tag in track["tags"]] for track in server.tracks()}


def step(you: Hands, server: Server) -> str | None:
    undone = server.get("/api/undo")["undo"]
    return undone and str(undone["name"])


def test_fifty_tracks_are_tagged_by_keyboard_while_they_play(you: Hands, server: Server) -> None:
    you.keys(Keys.ARROW_DOWN, Keys.SPACE)
    you.see("[data-testid=listening]")
    you.chord(Keys.ALT, "t")
    you.see_text("Letters give and take tags")
    heard = set()
    for number in range(TAGGED):
        you.keys("v", *("w" if number % 2 else ""), Keys.ARROW_DOWN)
        heard.add(you.text("[data-testid=listening] b"))
    wait_for(lambda: sum("Vocal" in tags for tags in tags_of(server).values()) == TAGGED, "fifty tags")
    first = sorted(tags_of(server))[:TAGGED]
    tagged = tags_of(server)
    assert all("Vocal" in tagged[title] for title in first)
    assert [("Warm" in tagged[title]) for title in first] == [bool(n % 2) for n in range(TAGGED)]
    assert len(heard) > TAGGED / 2, "the choice goes on playing"
    you.keys(Keys.ESCAPE)
    you.see_text("Tag by letters")
    you.chord(Keys.CONTROL, "a")
    you.see_text(f"Tags of {TRACKS} tracks")
    box = lambda name: you.see(f"[data-tag='{name}']").get_attribute("aria-checked")  # noqa: E731
    wait_for(lambda: box("Vocal") == "mixed", "a partly ticked tag")
    assert box("Dark") == "false"
    you.click("[data-tag='Vocal']")
    wait_for(lambda: box("Vocal") == "true", "all of them tagged")
    assert step(you, server) == f"Tag {TRACKS} tracks “Vocal”"
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: box("Vocal") == "mixed", "the step taken back")
    you.keys(Keys.SPACE)
    wait_for(lambda: not you.all("[data-testid=listening]"), "silence")
    assert you.complaints() == []


def test_many_are_edited_with_a_preview_and_undone(you: Hands, server: Server) -> None:
    you.row("Anchor 00").click()
    ActionChains(you.browser).key_down(Keys.SHIFT).click(you.row("Anchor 27")).key_up(Keys.SHIFT).perform()
    you.see_text("4 tracks chosen")
    you.keys("e")
    you.see_text("Edit 4 tracks")
    field = "[role=dialog] input[value='Kelp Union']"
    assert you.see("[role=dialog] input[placeholder='several values']")
    you.write_in(field, *"Halden Pier")
    you.press_button("Set artist")
    wait_for(lambda: step(you, server) == "Edit artist of 4 tracks", "the edit")
    assert {t["artist"] for t in server.tracks() if t["title"].startswith("Anchor")} >= {"Halden Pier"}
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: "Halden Pier" not in json.dumps(server.tracks()), "the edit taken back")
    you.keys("e")
    you.press_until("Find and replace", "Put in its place")
    you.write_in("[role=dialog] input[type=text]", *"anchor", Keys.TAB, *"Kedge")
    told = lambda: you.text("[role=dialog]")  # noqa: E731
    wait_for(lambda: "Kedge 09" in told(), lambda: f"the preview in {told()!r}")
    assert "Kedge" not in json.dumps(server.tracks())
    you.press_button("Change 4 texts")
    wait_for(lambda: "Kedge 27" in server.ids(), "the replaced titles")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: "Anchor 27" in server.ids() and "Kedge 27" not in server.ids(), "the old titles")
    assert you.complaints() == []


def test_each_list_remembers_its_own_sorts_and_columns(you: Hands, server: Server) -> None:
    def heads() -> str:
        return " ".join(you.texts("[role=columnheader]"))

    def sort_by(name: str, further: bool = False) -> None:
        button = you.see(f"[role=columnheader] button[title^='Sort by {name}']")
        chain = ActionChains(you.browser)
        (
            chain.key_down(Keys.SHIFT).click(button).key_up(Keys.SHIFT) if further else chain.click(button)
        ).perform()

    def show(column: str) -> None:
        you.press_button("Columns")
        you.press_button(column)
        you.keys(Keys.ESCAPE)

    sort_by("artist")
    sort_by("tempo", further=True)
    wait_for(lambda: "Tempo ↑2" in heads().replace("\n", ""), "the second sort")
    show("Album")
    crates = {crate["name"]: crate["id"] for crate in server.get("/api/crates")}
    you.go(f"/crates/{crates['Friday']}")
    you.row("Anchor 00")
    sort_by("key")
    show("Year")
    you.go(f"/crates/{crates['Saturday']}")
    you.row("Ebb 04")
    sort_by("tempo")
    sort_by("tempo")
    for path, there, gone in (
        ("/shelf", ("Artist ↑", "Tempo ↑2", "Album"), ("Year",)),
        (f"/crates/{crates['Friday']}", ("Key ↑", "Year"), ("Album", "Tempo ↑", "Tempo ↓")),
        (f"/crates/{crates['Saturday']}", ("Tempo ↓",), ("Album", "Year", "Key ↑")),
    ):
        you.go(path)
        said = lambda: heads().replace("\n", "")  # noqa: E731
        wait_for(lambda there=there, said=said: all(each in said() for each in there), f"{there} in {path}")
        assert not any(each in said() for each in gone), said()
    wait_for(lambda: you.titles()[:1] == ["Cleat 11"], "the fastest of Saturday first")


def test_a_word_with_an_error_and_limits_in_words(you: Hands) -> None:
    you.keys("/", *"halyerd", Keys.ENTER)
    you.see_text("found as “halyard”")
    wait_for(lambda: you.titles() and all("Halyard" in title for title in you.titles()), "the halyards")
    you.chord(Keys.CONTROL, "a")
    you.keys(*"tempo 109.5 to 119.5", Keys.ENTER)
    you.see_text("tempo 109.5 to 119.5")
    wait_for(lambda: you.text("[data-testid=count]").startswith("10 of"), "ten tracks")
    you.keys(*"style disc")
    you.see_text("style Disco")
    you.keys(Keys.ARROW_DOWN, Keys.ENTER)
    wait_for(lambda: you.text("[data-testid=count]").startswith("5 of"), "the disco among them")
    assert "style=" not in you.browser.current_url and "limits=" in you.browser.current_url
    you.browser.refresh()
    wait_for(lambda: you.text("[data-testid=count]").startswith("5 of"), "the same after a reload")


def test_what_is_typed_is_understood_whole_and_what_is_misspelt_is_offered(you: Hands) -> None:
    count = lambda: you.text("[data-testid=count]")  # noqa: E731
    you.keys("/", *"house, 109.5 to 119 bpm, fastest", Keys.ENTER)
    wait_for(
        lambda: count().startswith("5 of"),
        lambda: f"five tracks; {you.browser.current_url} {you.text()[:900]}",
    )
    assert you.titles()[0] == "Anchor 18" and "sort=-bpm" in you.browser.current_url
    you.keys(*"halyard 12", Keys.ENTER)
    you.see_text("No track has the words “halyard 12”")
    you.press_button("Show all tracks")
    you.keys("/", *"tempoo over 149.5", Keys.ENTER)
    you.press_button("tempo from 149.5")
    wait_for(
        lambda: count().startswith("4 of"),
        lambda: f"the limit that was meant: {count()} {you.browser.current_url}",
    )


def test_sleeves_have_the_same_choice_and_keys(you: Hands) -> None:
    you.keys(Keys.ARROW_DOWN, "v")
    you.see("[data-testid=sleeves] [aria-selected=true]")
    you.keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    chosen = lambda: you.text("[data-testid=sleeves] [aria-selected=true]")  # noqa: E731
    wait_for(lambda: "Anchor 18" in chosen(), "the third sleeve")
    you.keys(Keys.ARROW_DOWN)
    wait_for(lambda: "Anchor" not in chosen(), "a sleeve of the next line")
    third = chosen().split("\n")[-3]
    you.keys("v")
    wait_for(lambda: third in you.text("[role=row][aria-selected=true]"), "the same row chosen")
    you.keys("f")
    you.see("[aria-label='Tracks that fit'] li")
    you.keys("f", Keys.ENTER)
    you.see("canvas[aria-label='Close-up']")
    assert third in you.text("header h1, main h1")


def test_two_windows_stay_in_step(you: Hands, server: Server, tmp_path: Path) -> None:
    other = make_browser(tmp_path / "other")
    try:
        they = Hands(other, server)
        they.go("/shelf?sort=title")
        they.row("Buoy 01").click()
        they.chord(Keys.ALT, "t")
        they.see("[data-tag='Dark']")
        you.row("Buoy 01").click()
        you.chord(Keys.ALT, "t")
        you.keys("d")
        wait_for(
            lambda: they.see("[data-tag='Dark']").get_attribute("aria-checked") == "true", "the tick there"
        )
        wait_for(lambda: "Dark" in they.row("Buoy 01").text, "the tag in their row")
        they.keys("d")
        wait_for(lambda: "Dark" not in you.row("Buoy 01").text, "the tag gone here")
        family = server.get("/api/tag-families")[1]
        server.send("PATCH", f"/api/tags/{family['tags'][0]['id']}", {"name": "Singing"})
        for hands in (you, they):
            hands.see("[data-tag='Singing']")
        server.send("POST", "/api/undo")
        you.see("[data-tag='Vocal']")
    finally:
        other.quit()


@pytest.mark.parametrize(("look", "size"), [("paper", "normal"), ("booth", "normal"), ("paper", "large")])
def test_nothing_serious_stands_in_anybodys_way(you: Hands, server: Server, look: str, size: str) -> None:
    for name, value in (("theme", look), ("size", size)):
        you.browser.execute_script(f"localStorage['vinyl.{name}'] = JSON.stringify('{value}')")
    track, crate = server.ids_of_all()[0], server.get("/api/crates")[0]["id"]
    faults: dict[str, Any] = {}
    for path, there in (
        ("/arrivals", "main h1, main h2"),
        ("/shelf", "[data-track] .title"),
        (f"/workbench/{track}", "canvas[aria-label='Close-up']"),
        (f"/crates/{crate}", "[data-track] .title"),
        ("/sticks", "main"),
    ):
        you.go(path)
        you.see(there)
        if path == "/shelf":
            you.keys(Keys.ARROW_DOWN)
            you.chord(Keys.ALT, "t")
            you.see("[data-tag='Vocal']")
        if found := you.faults():
            faults[path] = found
    assert faults == {}, json.dumps(faults, indent=1)
    fits = you.browser.execute_script(NINE)
    assert fits == [True, True, True], f"nine rooms in {size} type: {fits}"
