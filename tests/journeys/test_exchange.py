"""Exchange as a DJ uses it: one track, one list, all, then what changed; a friend's library; straight on."""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import Select

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from vinyl.standin_libraries import reedbank


@pytest.fixture(scope="module")
def server(demo: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """The demo, its music brought in and not analysed, with cues on one track and two lists in a folder."""
    home = tmp_path_factory.mktemp("exchange") / "home"
    shutil.copytree(demo, home / "demo", copy_function=os.link)
    (home / "demo" / "out").mkdir()
    running = Server(home, "--bare", "--workers", "1", command="demo").start()
    running.send("POST", "/api/imports", {"paths": [running.get("/api/offered")[0]["path"]]})
    wait_for(lambda: running.has_ended("import"), "the import", 120)
    running.pause_analysis()
    ids = {track["title"]: track["id"] for track in running.tracks()}
    for number in range(10):
        cue = {"position_s": 10.0 + 8 * number, "length_s": None, "label": f"cue {number}", "role": None,
               "colour": "blue", "pad": None, "engages": False}  # fmt: skip
        running.send("POST", f"/api/tracks/{ids['Copper Tide']}/cues", cue)
    folder = running.send("POST", "/api/crates", {"name": "Fridays", "is_folder": True})["id"]
    for name, titles in (
        ("Warm-up", ("Copper Tide", "Paraffin")),
        ("Late", ("Halyard", "Rigging", "Breakwater")),
    ):
        crate = running.send("POST", "/api/crates", {"name": name})["id"]
        running.send("POST", f"/api/crates/{crate}/tracks", {"ids": [ids[title] for title in titles]})
        running.send("PUT", f"/api/crates/{crate}/folder", {"folder_id": folder})
    yield running
    running.stop()


@pytest.fixture
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def _pick(you: Hands, label: str, words: str) -> None:
    """Change an underlined part of a sentence."""
    Select(you.see(f"select[aria-label='{label}']")).select_by_visible_text(words)


def _count(you: Hands, kind: str, fate: int) -> int:
    """The ledger's figure of a kind: 1 as it is, 2 changed, 3 left here."""
    lines = you.text(f"[data-kind='{kind}']").split("\n")
    figures = [line.replace(",", "") for line in lines if line.replace(",", "").isdecimal()]
    return int(figures[fate - 1]) if len(figures) >= 3 else -1


def _report(you: Hands) -> None:
    """Write, and wait for the report of it."""
    you.press_button("Write and check")
    you.see_text("all as the ledger promised")


def test_one_track_then_one_list_then_all_then_what_changed(you: Hands, server: Server) -> None:
    out = server.home / "demo" / "out"
    you.go("/exchange")
    you.press_button("Where to?")
    you.write_in("[role=dialog] input[type=text]:not([value^='My'])", str(out))
    you.press_button("Keep this destination")
    wait_for(lambda: _count(you, "cues", 3) == 2, "two cues that find no place")
    you.see_text("tracks to My Reedbank")
    assert not list(out.iterdir()), "nothing is written by looking"
    # One track: both sides over each other.
    ActionChains(you.browser).send_keys("o").perform()
    you.write_in("[role=dialog] input[type=text]", "Copper Tide")
    found = lambda: you.texts("[role=dialog] .MuiListItemText-primary")  # noqa: E731
    wait_for(lambda: found() == ["Copper Tide"], lambda: f"Copper Tide among {found()}")
    you.press_button("Try it")
    you.see_text("below: Reedbank, 8 cues; left here: cue 8, cue 9")
    assert not you.faults()
    you.press_button("Close")
    # All of them lack an in point; the ledger has the way to give them those that were heard.
    you.see_text("tracks without an in point")
    you.press_button("Set those that were heard")
    you.see_text("Cue template for")
    you.keys(Keys.ESCAPE)
    wait_for(lambda: not you.all("[role=dialog]"), "the dialog closed")
    # One list, its folder ticked in part.
    you.click("label:has(input[value=lists])")
    wait_for(lambda: len(you.all("[role=group] input[data-indeterminate=true]")) == 0, "all lists ticked")
    you.click("[role=group] label:nth-of-type(3)")
    wait_for(lambda: you.all("[role=group] input[data-indeterminate=true]"), "the folder ticked in part")
    you.see_text("2 tracks to My Reedbank")
    _report(you)
    document = out / "vinyl.reedbank.xml"
    assert [each["words"]["title"] for each in reedbank.tracks(document)] == ["Copper Tide", "Paraffin"]
    assert reedbank.lists(document) == [
        {"name": "Fridays", "lists": [{"name": "Warm-up", "tracks": ["1", "2"]}]}
    ]
    # All; then only what changed.
    you.press_button("Carry there")
    you.click("label:has(input[value=all])")
    wait_for(lambda: "2 tracks are there already" in you.text(), "what is there already")
    you.press_button("Write and check")
    wait_for(lambda: len(list(reedbank.tracks(document))) > 30, "all tracks in the document")
    you.see_text("all as the ledger promised")
    ids = {track["title"]: track["id"] for track in server.tracks()}
    server.send("PUT", "/api/tracks/rating", {"ids": [ids["Halyard"]], "stars": 2})
    you.press_button("Carry there")
    you.click("label:has(input[value=changed])")
    you.see_text("1 track to My Reedbank")
    _report(you)
    wait_for(
        lambda: (
            {t["words"]["title"]: t["words"].get("stars") for t in reedbank.tracks(document)}["Halyard"]
            == "2"
        ),
        "the new stars in the document",
    )
    assert len(list(out.glob("vinyl.reedbank.xml.backup-*"))) == 2


def test_their_cues_stay_and_come_back_with_conflicts(you: Hands, server: Server) -> None:
    out = server.home / "demo" / "out"
    document = out / "vinyl.reedbank.xml"
    text = document.read_text().replace('name="cue 3"', 'name="their own"')
    document.write_text(
        text.replace('<says of="title" is="Paraffin"/>', '<says of="title" is="Paraffin (loud)"/>')
    )
    you.go("/exchange")
    you.click("label:has(input[value=whole])")
    you.see_text("with cues and loops that the other side has changed itself")
    assert not you.faults()
    you.press_button("Bring here")
    you.write_in("main input[type=text]", str(document))
    you.press_button("Look at it")
    you.see("[data-difference]")
    assert sorted(you.texts("[data-difference] > :nth-child(2)")) == ["cues and loops", "title"]
    assert not you.faults()
    _pick(you, "What becomes of Texts", "theirs")
    wait_for(
        lambda: (
            "Paraffin (loud)" in you.texts("[data-difference] b")[-1]
            or any("Paraffin (loud)" in each for each in you.texts("[data-difference] > :nth-child(5)"))
        ),
        "what will be",
    )
    you.press_button("Take it in")
    you.see_text("Taken in:")
    wait_for(lambda: "Paraffin (loud)" in server.ids(), "the new title")
    ActionChains(you.browser).key_down(Keys.CONTROL).send_keys("z").key_up(Keys.CONTROL).perform()
    wait_for(lambda: "Paraffin" in server.ids(), "the old title")


def test_a_friends_library_is_found_by_its_beginnings_and_its_faults_are_said(
    you: Hands, server: Server
) -> None:
    friends = next((server.home / "demo" / "From a friend").glob("*.reedbank.xml"))
    before = friends.read_bytes()
    you.go("/exchange?view=here")
    you.write_in("main input[type=text]", str(friends))
    you.press_button("Look at it")
    you.see_text("D:/Musik/Tarnhaven")
    you.press_button("Look with it")
    you.see_text("18 are here under their paths")
    you.see_text("3 are not found")
    you.press_button("Take it in")
    you.see_text("Taken in: 18 tracks, 3 lists")
    names = {crate["name"]: crate for crate in server.get("/api/crates")}
    assert names["For Maren"]["tracks"] + names["For Maren"]["wanted"] == 7
    assert friends.read_bytes() == before
    tracks = {track["title"]: track for track in server.tracks()}
    assert tracks["Halyard"]["comment"] == "from Anselm" or any(
        t["comment"] == "from Anselm" for t in tracks.values()
    )


def test_a_friends_library_goes_straight_on_without_the_own_collection(you: Hands, server: Server) -> None:
    friends = next((server.home / "demo" / "From a friend").glob("*.reedbank.xml"))
    before = {track["title"]: track["genre"] for track in server.tracks()}
    you.go("/exchange?view=here")
    you.write_in("main input[type=text]", str(friends))
    you.press_button("Look at it")
    you.press_button("Straight on to…")
    you.see_text("Straight on, without your collection")
    you.press_button("Write and check 21 tracks")
    you.see_text("all as the ledger promised")
    document = server.home / "demo" / "out" / "vinyl.reedbank.xml"
    assert any(each["path"].startswith("D:/Musik/Tarnhaven/Promos") for each in reedbank.tracks(document))
    assert {track["title"]: track["genre"] for track in server.tracks()} == before


def test_straight_through_by_the_command_line_while_the_server_runs(
    server: Server, capsys: pytest.CaptureFixture[str]
) -> None:
    from vinyl.cli import main

    document, out = server.home / "demo" / "out" / "vinyl.reedbank.xml", server.home / "demo" / "out"
    given = ["convert", "--home", str(server.home), "--from", str(document), "--to", f"saltmarsh:{out}"]
    assert main(given) == 0
    assert "values were read back as promised" in capsys.readouterr().out
