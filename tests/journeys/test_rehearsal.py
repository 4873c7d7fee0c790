"""Joints are rehearsed by keyboard, and what the page sends to the loudspeaker is recorded: each beat of one
track falls on a beat of the other, at one level, without a gap.
"""

from __future__ import annotations

import base64
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.signals import RATE_HZ, click_track
from vinyl.core.rhythm.tempo_map import Anchor, TempoMap
from vinyl.library import grids
from vinyl.library.database import Database
from vinyl.media.encode import encode

pytestmark = pytest.mark.recorded
TOLERANCE_S, STEP_DB = 0.005, 1.0
LENGTH_S, OUT_S = 44.0, 16.0
BARS = 4
# The recording, both sides as 16-bit numbers in text, from a frame of the audio clock on.
RECORDED = """
  const blocks = heard.blocks;
  const first = blocks[0].frame;
  const side = (name) => {
    const numbers = new Int16Array(blocks.at(-1).frame - first + 128);
    for (const block of blocks) block[name].forEach((value, i) =>
      (numbers[block.frame - first + i] = Math.max(-1, Math.min(1, value)) * 32767));
    const bytes = new Uint8Array(numbers.buffer);
    let text = "";
    for (let at = 0; at < bytes.length; at += 32768)
      text += String.fromCharCode(...bytes.subarray(at, at + 32768));
    return btoa(text);
  };
  return [side("samples"), side("right")];
"""
Floats = NDArray[np.float64]


def _elastic() -> TempoMap:
    """A drummer around 124 who wavers by two percent, bar by bar."""
    anchors, at_s = [], 0.3
    for bar in range(30):
        bpm = 124.0 * (1.0 + 0.02 * np.sin(bar * 1.7))
        anchors.append(Anchor(at_s, 4.0 * bar, bpm))
        at_s += 240.0 / bpm
    return TempoMap(tuple(anchors))


GRIDS = {
    "Anchor": TempoMap.steady(124.0, 0.3),
    "Bollard": TempoMap.steady(124.0, 0.21),
    "Cleat": _elastic(),
    "Dock": TempoMap.steady(124.0, 0.4),
    "Eyot": TempoMap.steady(126.0, 0.3),
    "Fluke": TempoMap.steady(87.0, 0.3),
    "Gaff": TempoMap.steady(174.0, 0.25),
}


@pytest.fixture(scope="module")
def server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """Tracks that click on their beats, in turn on the left and on the right."""
    folder = tmp_path_factory.mktemp("rehearsal")
    music = folder / "music"
    music.mkdir()
    for place, (title, grid) in enumerate(GRIDS.items()):
        samples = click_track(grid.beats_between(0.0, LENGTH_S - 0.1), LENGTH_S, hz=1500.0)
        samples[1 - place % 2] = 0.0
        encode(samples, RATE_HZ, music / f"{title}.flac", "flac")
    running = Server(folder / "home", "--allow", str(folder)).start()
    running.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: running.has_ended("import", "analysis"), "the tracks analysed")
    running.stop()
    with Database.prepared(folder / "home" / "library.db").write() as connection:
        for row in connection.execute("SELECT id, title FROM shelf").fetchall():
            grids.set_grid(connection, row["id"], GRIDS[row["title"]])
    running.start()
    yield running
    running.stop()


@pytest.fixture
def you(browser: webdriver.Chrome, server: Server) -> Hands:
    recorder = (Path(__file__).parent / "recorder.js").read_text()
    browser.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": recorder})
    return Hands(browser, server)


def _joint(server: Server, out: str, into: str, **settings: Any) -> None:
    """The only set has these two, joined so."""
    ids = server.ids()
    for each in server.get("/api/sets"):
        server.send("DELETE", f"/api/sets/{each['id']}")
    made = server.send("POST", "/api/sets", {"name": f"{out} and {into}"})["id"]
    server.send("POST", f"/api/sets/{made}/tracks", {"ids": [ids[out], ids[into]], "placed": True})
    first, second = (each["id"] for each in server.get(f"/api/sets/{made}")["order"])
    usual = {"out_s": OUT_S, "in_s": 0.3, "over_bars": BARS}
    server.send(
        "PUT",
        f"/api/sets/{made}/joint",
        {"out_id": first, "in_id": second, "settings": {**usual, **settings}},
    )


def _rehearse(you: Hands) -> None:
    """Open the joint, and hear it from its start."""
    you.go("/sets")
    you.see("[data-entry]")
    you.keys("j")
    you.see("[role=dialog] canvas[data-knots]")
    you.keys(Keys.HOME)


def _recorded(you: Hands, seconds: float) -> tuple[Floats, Floats]:
    """Both sides of what was sent to the loudspeaker for so long, from the first click on."""
    count = int((seconds + 6.0) * RATE_HZ / 128)
    asked = f"return heard.blocks.length > {count}"
    told = "return `${heard.blocks.length} blocks, the clock ${heard.context?.state}`"
    wait_for(
        lambda: you.browser.execute_script(asked),
        lambda: f"{seconds} s to be heard: {you.browser.execute_script(told)}; {you.text('[role=dialog]')}",
        60 + 4 * seconds,
    )
    # Where the recorder lost a block on a busy machine there is silence.
    left, right = (
        np.frombuffer(base64.b64decode(each), "<i2") / 32767.0
        for each in you.browser.execute_script(RECORDED)
    )
    return left, right


def _attacks(side: Floats) -> Floats:
    """Times of clicks: where the loudness of each rises to the half of its most."""
    power = np.convolve(side**2, np.ones(44) / 44, "same")
    found, quiet = [], int(0.12 * RATE_HZ)
    at = 0
    while at < len(power) - quiet:
        part = power[at : at + quiet]
        top = int(part.argmax())
        if part[top] > 2e-4 and 0 < top < quiet - 1:
            rise = int(np.flatnonzero(part[: top + 1] > part[top] / 2)[0])
            found.append((at + rise) / RATE_HZ)
            at += top + quiet
        else:
            at += quiet // 2
    return np.array(found)


def _apart(left: Floats, right: Floats) -> Floats:
    """How far each click of the side that has fewer lies from the nearest of the other, while both sound."""
    few, many = sorted((_attacks(left), _attacks(right)), key=len)
    both = few[(few > max(few[0], many[0])) & (few < min(few[-1], many[-1]))]
    return np.array([np.abs(many - each).min() for each in both])


@pytest.mark.parametrize(
    ("out", "into", "settings"),
    [
        ("Bollard", "Cleat", {"meet": "between"}),
        ("Dock", "Eyot", {"meet": "gliding"}),
        ("Fluke", "Gaff", {"over_bars": 2}),
    ],
)
def test_beats_fall_on_beats(
    you: Hands, server: Server, out: str, into: str, settings: dict[str, Any]
) -> None:
    _joint(server, out, into, **settings)
    _rehearse(you)
    apart = _apart(*_recorded(you, 8.0))
    assert len(apart) >= 5, "both were heard together"
    assert apart.max() < TOLERANCE_S, f"up to {1000 * apart.max():.1f} ms apart"


def test_one_goes_over_into_the_other_at_one_level_without_a_gap(you: Hands, server: Server) -> None:
    _joint(server, "Anchor", "Bollard")
    _rehearse(you)
    # Stopped before its first sound has come, and gone on with.
    you.keys(Keys.SPACE, Keys.SPACE)
    left, right = _recorded(you, 12.0)
    apart = _apart(left, right)
    assert len(apart) >= 10 and apart.max() < TOLERANCE_S, f"up to {1000 * apart.max():.1f} ms apart"
    attacks = np.unique(np.round(np.concatenate([_attacks(left), _attacks(right)]), 2))
    beats = attacks[np.concatenate([[True], np.diff(attacks) > 0.2])]
    assert np.diff(beats).max() < 0.6, "no beat is missing"
    power = [
        sum(
            (side[int((at - 0.06) * RATE_HZ) : int((at + 0.1) * RATE_HZ)] ** 2).sum()
            for side in (left, right)
        )
        for at in beats[1:-1]
    ]
    steps_db = np.abs(np.diff(10 * np.log10(power)))
    assert steps_db.max() < STEP_DB, f"a step of {steps_db.max():.2f} dB"


def test_a_joint_is_moved_by_key_and_all_of_it_is_kept(you: Hands, server: Server) -> None:
    _joint(server, "Anchor", "Bollard")
    you.go("/sets")
    you.see("[data-entry]")
    you.keys("j")
    you.see("[role=dialog] canvas[data-knots]")
    (line,) = server.get("/api/sets")

    def kept() -> dict[str, Any]:
        joint = server.get(f"/api/sets/{line['id']}")["joints"][0]
        return {**joint["settings"], "works": joint["works"], "note": joint["note"]}

    you.keys(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, ".", "m", "m", "f", "b")
    bar_s = 240.0 / 124.0
    grid = GRIDS["Anchor"]
    on_beat_s = float(grid.time_at(grid.nearest_beat(OUT_S)))
    wait_for(lambda: kept()["low_bar"] == 3, lambda: f"all that was pressed: {kept()}")
    assert kept()["out_s"] == pytest.approx(on_beat_s + 3 * bar_s)
    assert kept()["in_s"] == pytest.approx(0.21 + bar_s)
    assert (kept()["meet"], kept()["fade_bars"]) == ("between", 2)
    you.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    wait_for(lambda: kept()["over_bars"] == 8, "it to be longer")
    you.keys("w")
    wait_for(lambda: kept()["works"] is True, "that it works")
    you.keys("n", "low end late", Keys.ENTER)
    wait_for(lambda: kept()["note"] == "low end late", "the note")
    you.chord(Keys.CONTROL, "z")
    wait_for(lambda: kept()["note"] == "", "the note to be taken back")
    you.keys(Keys.ESCAPE)
    you.see_text("works")
    you.go("/shelf?sort=title")
    you.see("[data-track]")
    you.keys(Keys.HOME)
    you.chord(Keys.SHIFT, Keys.ARROW_DOWN)
    you.chord(Keys.ALT, "j")
    you.see("[role=dialog] canvas[data-knots]")
    assert you.browser.execute_script(
        "return document.querySelector('[aria-pressed=true]').innerText"
    ).startswith("Works"), "what was said of the two in a set is said of them anywhere"
