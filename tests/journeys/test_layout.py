"""Every page, panel, dialog and menu in three sizes of type and both looks: nothing lies over something else,
is cut off, or scrolls sideways.
"""

from __future__ import annotations

import shutil
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

FIND_MISFITS = (Path(__file__).parent / "layout.js").read_text()
# Only colours differ between the looks.
LOOKS = [("paper", "normal"), ("paper", "large"), ("booth", "largest")]
# As another window chooses a look.
LOOK = """
  for (const [name, value] of Object.entries(arguments[0])) {
    const key = `vinyl.${name}`, newValue = JSON.stringify(value);
    localStorage.setItem(key, newValue);
    window.dispatchEvent(new StorageEvent("storage", { key, newValue }));
  }
"""
STILL = """
  return document.getAnimations().every((each) => each.playState !== "running") && !document.querySelector(
    "[role=progressbar].MuiCircularProgress-root, .MuiSkeleton-root, [aria-busy=true]");
"""
# Rows are measured after a frame and take their places in the next.
DRAWN = (
    "const done = arguments[0]; requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done)));"
)
# What opens something says so by three dots.
OPENERS = """
  return [...new Set([...document.querySelectorAll("main button, main a, [role=menu] [role=menuitem]")]
    .filter((each) => each.offsetParent && !each.disabled)
    .map((each) => (each.innerText || each.ariaLabel || "").trim().split("\\n")[0])
    .filter((words) => words.length > 1 && words.endsWith("…")))];
"""
PRESS = """
  const found = [...document.querySelectorAll("main button, main a, [role=menu] [role=menuitem], [role=tab]")]
    .filter((each) => each.offsetParent && !each.disabled)
    .filter((each) => (each.innerText || each.ariaLabel || "").trim().startsWith(arguments[0]))
    .at(-1);
  found?.click();
  return Boolean(found);
"""
TAKES_LETTERS = "[role=dialog], [aria-label^='Tag by name']:focus"
OPENED = "return document.querySelector('[role=dialog], [role=menu]') !== null"
TITLES = ("Anchor", "Breakwater with a title that is longer than any column would like it to be", "Cleat")
SHIFT, ALT = Keys.SHIFT, Keys.ALT
OF_TRACKS = (
    "e", "t", "p", SHIFT + "b", SHIFT + "t", SHIFT + "f", SHIFT + "e", SHIFT + "w", SHIFT + Keys.DELETE,
    SHIFT + Keys.F10, SHIFT + "/", ALT + "t", "f", "h", SHIFT + "l", ALT + Keys.DELETE, ALT + "n", Keys.F2,
)  # fmt: skip
OF_BENCH = (
    "t",
    SHIFT + "r",
    SHIFT + "s",
    SHIFT + "t",
    SHIFT + "w",
    ALT + "e",
    SHIFT + "c",
    ALT + Keys.DELETE,
    ALT + "n",
)


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("layout")
    music = folder / "music"
    music.mkdir()
    for number, title in enumerate(TITLES):
        file = music / f"{number}.flac"
        encode(drum_loop(118.0 + number, 0.2, 8.0), RATE_HZ, file, "flac")
        write_tags(file, Tags(title, "Kelp Union", genre="House", comment="slow burner, long blend"))
    (music / "promo.mp3").write_bytes(b"")
    shutil.copy(music / "1.flac", music / "breakwater with a long name, as downloads have it (2).flac")
    running = Server(folder / "home", "--allow", str(folder)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis", "twins"), "the tracks analysed and compared")
    _furnish(running, folder)
    yield running
    running.stop()


def _furnish(server: Server, folder: Path) -> None:
    """Something of everything, so that no page is empty."""
    ids = server.ids_of_all()
    send = server.send
    crate = send("POST", "/api/crates", {"name": "Friday at the Slipway, main hours"})["id"]
    send("POST", f"/api/crates/{crate}/tracks", {"ids": ids})
    where = {"kind": "all", "parts": [{"kind": "between", "field": "bpm", "low": 110, "high": 130}]}
    rule = {"where": where, "order": [{"sort": "title"}]}
    send("POST", "/api/rules", {"name": "Around 120", "rule": rule})
    loop = {"position_s": 2.0, "length_s": 2.0, "label": "Loop to wait in", "colour": "violet", "pad": 1}
    send("POST", f"/api/tracks/{ids[0]}/cues", {**loop, "role": None, "engages": True})
    lines = f"23:05 {TITLES[0]}\n23:20 {TITLES[2]}"
    night = {"text": lines, "on": "2026-11-20", "begins": "23:00", "venue": "The Slipway", "kind": "weekly"}
    send("POST", "/api/nights", night)
    facts = {"name": "Friday at the Slipway, from ten on", "venue": "The Slipway", "on_day": "2026-11-27"}
    planned = send("POST", "/api/sets", {**facts, "begins": "22:00", "ends": "01:00"})["id"]
    send("POST", f"/api/sets/{planned}/tracks", {"ids": ids[:2], "placed": True})
    send("POST", f"/api/sets/{planned}/tracks", {"ids": ids[2:]})
    points = [{"share": 0.0, "energy": 40}, {"share": 1.0, "energy": 80}]
    send("PUT", f"/api/sets/{planned}/arc", {"points": points})
    stick = send("POST", "/api/sticks", {"name": "Slipway Friday", "capacity_mb": 60})["id"]
    send("PUT", f"/api/sticks/{stick}/crates", {"crate_ids": [crate]})
    (folder / "out").mkdir()


@pytest.fixture(scope="module")
def you(shared_browser: webdriver.Chrome, server: Server) -> Hands:
    return Hands(shared_browser, server)


def _misfits(you: Hands, where: str) -> list[str]:
    """What does not fit, by where it is and in which look."""
    found = []
    for theme, size in LOOKS:
        you.browser.execute_script(LOOK, {"theme": theme, "size": size})
        wait_for(lambda: you.browser.execute_script(STILL), f"{where} to stand still")
        you.browser.execute_async_script(DRAWN)
        found += [f"{where}, {theme}, {size}: {each}" for each in you.browser.execute_script(FIND_MISFITS)]
    you.browser.execute_script(LOOK, {"theme": "paper", "size": "normal"})
    return found


def _open(you: Hands, path: str) -> None:
    you.go(path)
    you.see("main")
    wait_for(lambda: you.browser.execute_script(STILL), f"{path} to stand still")


def _in_a_page(you: Hands, path: str) -> Iterator[str]:
    _open(you, path)
    yield from _misfits(you, path)
    for opener in you.browser.execute_script(OPENERS):
        _open(you, path)
        wait_for(lambda opener=opener: you.browser.execute_script(PRESS, opener), f"“{opener}” in {path}")
        wait_for(lambda: you.browser.execute_script(OPENED), f"what “{opener}” opens in {path}")
        yield from _misfits(you, f"{path} › {opener}")


def _by_keys(you: Hands, path: str, keys: tuple[str, ...]) -> Iterator[str]:
    for key in keys:
        _open(you, path)
        chord = ActionChains(you.browser)
        if path == "/shelf":
            wait_for(you.titles, "the rows")
            chord.send_keys(Keys.ARROW_DOWN)
        for each in key[:-1]:
            chord.key_down(each)
        chord.send_keys(key[-1])
        for each in key[:-1]:
            chord.key_up(each)
        chord.perform()
        yield from _misfits(you, f"{path} › {key!r}")


@pytest.mark.parametrize(
    "path",
    ["/arrivals", "/shelf", "/crates", "/twins", "/sets", "/logbook", "/logbook?view=month",
     "/logbook?view=played", "/logbook?view=year", "/exchange", "/exchange?view=here", "/sticks"],
)  # fmt: skip
def test_a_page_and_what_it_opens_fits(you: Hands, path: str) -> None:
    misfits = list(_in_a_page(you, path))
    assert not misfits, "\n".join(misfits)


def test_what_is_done_with_tracks_fits(you: Hands) -> None:
    misfits = list(_by_keys(you, "/shelf", OF_TRACKS))
    assert not misfits, "\n".join(misfits)


def test_a_joint_being_rehearsed_fits(you: Hands) -> None:
    misfits = list(_by_keys(you, "/sets", ("j", "n", SHIFT + "p")))
    assert not misfits, "\n".join(misfits)


def test_the_workbench_with_its_panels_fits(you: Hands, server: Server) -> None:
    path = f"/workbench/{server.ids_of_all()[0]}"
    found = [*_in_a_page(you, path), *_by_keys(you, path, OF_BENCH)]
    for panel in ("Grid", "Cues", "Routes", "Track"):
        _open(you, path)
        wait_for(lambda panel=panel: you.browser.execute_script(PRESS, panel), panel)
        if panel == "Cues":
            you.click("[aria-label=Cues] [role=option]")
        found += _misfits(you, f"{path} › {panel}")
    assert not found, "\n".join(found)


def test_both_sides_of_the_workbench_fold_and_stay_so(you: Hands, server: Server) -> None:
    path = f"/workbench/{server.ids_of_all()[0]}"
    _open(you, path)
    you.chord(ALT, "q")
    you.chord(ALT, "p")
    wait_for(lambda: not you.all("nav[aria-label='To prepare']") and not you.all("aside"), "both folded")
    assert list(_in_a_page(you, path)) == [], "and folded they are after a reload"
    you.keys("n")
    you.see("aside [role=tab][aria-selected=true]")
    you.press_button("Show: what to prepare")
    you.see("nav[aria-label='To prepare']")


def test_home_and_end_go_to_points_and_steps_from_the_start_go_on_the_grid(
    you: Hands, server: Server
) -> None:
    track = server.ids_of_all()[0]
    anchor = server.get(f"/api/tracks/{track}")["grid"]["anchors"][0]
    _open(you, f"/workbench/{track}")
    you.keys(Keys.END)
    wait_for(lambda: you.position_s() > 7.5, "the end")
    you.keys(Keys.HOME)
    wait_for(lambda: abs(you.position_s() - anchor["time"]) < 0.01, "bar 1")
    you.keys(Keys.HOME)
    wait_for(lambda: you.position_s() == 0.0, "the start")
    you.keys("[", "[", "[", Keys.ARROW_RIGHT)
    wait_for(lambda: you.position_s() > 0.0, "a step")
    beats = (you.position_s() - anchor["time"]) * anchor["bpm"] / 60
    assert abs(beats - round(beats)) < 0.02, "on the grid"


def test_what_is_typed_while_a_dialog_opens_is_no_command_of_the_room(you: Hands, server: Server) -> None:
    before = server.get("/api/undo")["undo"]
    for key in OF_BENCH:
        _open(you, f"/workbench/{server.ids_of_all()[0]}")
        chord = ActionChains(you.browser, duration=0)
        for each in key[:-1]:
            chord.key_down(each)
        chord.send_keys(key[-1])
        for each in key[:-1]:
            chord.key_up(each)
        chord.send_keys("dc3").perform()
        wait_for(lambda: you.all(TAKES_LETTERS), f"what {key!r} opens")
        assert server.get("/api/undo")["undo"] == before, f"{key!r} and letters after it"
