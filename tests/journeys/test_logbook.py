"""The Logbook as a resident uses it: a stick comes home, practice goes, two nights side by side, the next
list.
"""

from __future__ import annotations

import json
import os
import shutil
from collections.abc import Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server


@pytest.fixture(scope="module")
def server(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """The demo with its thirty nights, its music brought in and not analysed."""
    home = tmp_path_factory.mktemp("logbook") / "home"
    shutil.copytree(demo, home / "demo", copy_function=os.link)
    running = Server(home, "--bare", "--workers", "1", command="demo").start()
    offered = running.get("/api/offered")
    running.send("POST", "/api/imports", {"paths": [offered[0]["path"]]})
    wait_for(lambda: running.has_ended("import"), "the import", 120)
    running.pause_analysis()
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def nights(server: Server, venue: str | None) -> list[dict[str, object]]:
    """The nights of a venue, or those without one, the newest first."""
    ids = {each["name"]: each["id"] for each in server.get("/api/venues")}
    return [gig for gig in server.get("/api/gigs") if gig["venue_id"] == (ids[venue] if venue else None)]


def open_night(you: Hands, number: object) -> None:
    you.click(f"[data-night='{number}']")
    you.see(f"[data-night='{number}'][aria-pressed=true]")
    you.see("[role=option][data-play]")


def open_venue(you: Hands, name: str) -> None:
    you.go("/logbook")
    you.press_button(name)
    wait_for(lambda: you.text("h1") == name, name)


def test_the_plays_of_a_stick_become_a_gig(you: Hands, server: Server) -> None:
    stick = server.send("POST", "/api/sticks", {"name": "Saturday", "capacity_mb": 60})
    titles = ("Copper Tide", "Paraffin", "Foghorn Romance", "Halyard", "Rigging", "Breakwater", "Glasswort")
    home = {track["title"]: track["id"] for track in server.tracks()}
    folder = Path(stick["folder"])
    hashes = hashes_of(server)
    began = datetime.now(UTC).replace(hour=21, minute=0) - timedelta(days=1)
    lines = [
        {"play": f"saturday-{place}", "track": hashes[home[title]], "heard_s": 300.0,
         "began_at": (began + timedelta(minutes=6 * place)).isoformat()}
        for place, title in enumerate(titles)
    ]  # fmt: skip
    server.send("POST", f"/api/sticks/{stick['id']}/eject")
    (folder / "plays.jsonl").write_text("".join(f"{json.dumps(line)}\n" for line in lines))
    you.go("/sticks")
    you.press_button("Put it into the computer")
    you.see_text("7 plays taken in from “Saturday” into the Logbook.")
    you.press_button("Logbook")
    newest = nights(server, None)[0]
    open_night(you, newest["id"])
    assert you.texts("[data-play] .title") == list(titles)
    you.press_button("This night…")
    you.press_button("Venue, date, times, kind, notes")
    you.write_in("[role=dialog] input[role=combobox]", "The Slipway")
    you.press_button("Keep")
    wait_for(lambda: len(nights(server, "The Slipway")) == 17, "a seventeenth night at The Slipway")
    # The spare stick tells of the same night: it is joined, and nothing counts twice.
    before = {track["title"]: track["plays"] for track in server.tracks()}
    told = "\n".join(f"21:{6 * place:02} {title}" for place, title in enumerate(titles))
    on = newest["on"]
    found = server.send("POST", "/api/nights/look", {"text": told, "on": on, "venue": "The Slipway"})
    assert found["nights"][0]["same"]["id"] == newest["id"] and found["nights"][0]["shared"] == 7
    taken = server.send("POST", "/api/nights", {"text": told, "on": on, "venue": "The Slipway"})
    assert (taken[0]["was_there"], taken[0]["added"]) == (True, 0)
    assert {track["title"]: track["plays"] for track in server.tracks()} == before


def hashes_of(server: Server) -> dict[int, str]:
    """By which names a player knows tracks."""
    import sqlite3

    with sqlite3.connect(server.home / "library.db") as library:
        return dict(library.execute("SELECT id, audio_hash FROM track").fetchall())


def test_five_practice_sessions_are_thrown_away_and_brought_back(you: Hands, server: Server) -> None:
    plays = lambda: sum(track["plays"] for track in server.tracks())  # noqa: E731
    before = plays()
    you.go("/logbook?view=tidy")
    you.see_text("Looks like practice (5)")
    you.press_button("Throw 5 nights away")
    you.see_text("Thrown away (5)")
    assert plays() < before, "practice does not count as played"
    you.press_button("Bring all 5 back")
    you.see_text("Looks like practice (5)")
    assert plays() == before
    you.press_button("Throw 5 nights away")
    you.see_text("Nothing looks like practice.")
    you.chord(Keys.CONTROL, "z")
    you.see_text("Looks like practice (5)")
    you.press_button("Name 3 nights as proposed")
    you.see_text("Every night has its venue.")
    assert len(nights(server, "Boathouse Bar")) == 8


def test_two_nights_side_by_side(you: Hands, server: Server) -> None:
    _, second, first, *_ = nights(server, "The Slipway")
    open_venue(you, "The Slipway")
    open_night(you, first["id"])
    other = you.see(f"[data-night='{second['id']}']")
    ActionChains(you.browser).key_down(Keys.SHIFT).click(other).key_up(Keys.SHIFT).perform()
    you.see("[data-testid=shared]")
    told = server.get(f"/api/gigs/{first['id']}/beside/{second['id']}")
    titles = [[play["title"] for play in told[side]["plays"]] for side in ("first", "second")]
    both = set(titles[0]) & set(titles[1])
    assert len(told["shared"]) == len(both) > 3
    wait_for(lambda: f"{len(both)} tracks" in you.text("[data-testid=shared]"), "how many they share")
    assert len(you.all("svg path[stroke]")) >= len(both), "a line for each"
    assert you.faults() == []


def test_next_fridays_list_replaces_a_fifth_and_warns_of_never_again(you: Hands, server: Server) -> None:
    last = nights(server, "The Slipway")[1]
    open_venue(you, "The Slipway")
    open_night(you, last["id"])
    plays = server.get(f"/api/gigs/{last['id']}")["plays"]
    for play in plays:
        server.send("PUT", "/api/plays/marks", {"ids": [play["id"]], "went": "", "never": ""})
    well, never = plays[2], plays[3]
    wait_for(
        lambda: not any("went" in text or "never" in text for text in you.texts("[data-play]")), "no mark"
    )
    you.see(f"[data-play='{well['id']}']").click()
    you.keys("w")
    wait_for(lambda: "went well" in you.text(f"[data-play='{well['id']}']"), "the mark")
    you.keys(Keys.ARROW_DOWN, "x")
    wait_for(lambda: "never here again" in you.text(f"[data-play='{never['id']}']"), "the mark")
    you.press_button("Next list from this…")
    you.see("[role=listitem][data-fate=replace]")
    fates = [row.get_attribute("data-fate") for row in you.all("[role=listitem]")]
    staying = len(plays) - fates.count("drop")
    assert fates[2:4] == ["keep", "drop"] and fates.count("replace") == round(0.2 * staying)
    you.press_button("Make the list")
    wait_for(lambda: "/crates/" in you.browser.current_url, "the new crate")
    crate = int(you.browser.current_url.rpartition("/")[2])
    held = [track["title"] for track in server.tracks(crate=crate)]
    assert len(set(held)) == staying and well["title"] in held and never["title"] not in held
    old = {play["title"] for play in plays}
    assert sum(title not in old for title in held) == fates.count("replace")
    # What shall never be played there again is warned of when it is put in.
    name = server.send("POST", "/api/tracks/rows", {"ids": [never["track_id"]]})[0]["title"]
    you.go("/shelf")
    you.find(name)
    you.keys(Keys.ARROW_DOWN, "p")
    you.write_in("[role=dialog] input", "The Slipway, ", Keys.ENTER)
    you.see_text("Look again: ")
    you.see_text("never again at The Slipway")


def test_a_night_goes_out_as_a_file(you: Hands, server: Server) -> None:
    open_venue(you, "The Slipway")
    open_night(you, nights(server, "The Slipway")[1]["id"])
    you.press_button("Export…")
    you.press_button("M3U8")
    you.press_button("Save the file")
    you.see_text("The file is made.")
    assert you.complaints() == []
