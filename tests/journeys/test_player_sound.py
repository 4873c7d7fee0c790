"""What comes out of the stand-in players: clicks are heard where their displays, grids and cues say, from
every format and as every conversion.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from selenium import webdriver

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server
from tests.sticks.test_sound_on_players import ATTACKS_S, PLAYERS, clicks, packed
from vinyl.sticks.index import StickIndex
from vinyl.sticks.medium import StandIn

pytestmark = pytest.mark.recorded
TOLERANCE_S = 0.005
# At each change of the display: the audio clock, and the place that is shown.
WATCH = """
  heard.blocks = []; heard.shown = [];
  const time = document.querySelector(".time");
  new MutationObserver(() => heard.shown.push([heard.context.currentTime, Number(time.dataset.seconds)]))
    .observe(time, { attributes: true, attributeFilter: ["data-seconds"] });
"""


@pytest.fixture(scope="module")
def sticks(tmp_path_factory: pytest.TempPathFactory) -> dict[str, StickIndex]:
    """A stick for each player and each form that files become for it."""
    home = tmp_path_factory.mktemp("sound") / "home"
    home.mkdir()
    clicks(home)
    made = {}
    for player, form in sorted(PLAYERS):
        name = f"{player} {form}"
        made[name] = packed(home, home / "sticks" / name, player, form)
        StandIn(home / "sticks" / name).set_in(False)
    return made


@pytest.fixture(scope="module")
def server(sticks: dict[str, StickIndex], tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    home = tmp_path_factory.getbasetemp() / "sound0" / "home"
    running = Server(home, "--workers", "1").start()
    yield running
    running.stop()


@pytest.mark.parametrize(("player", "form"), sorted(PLAYERS))
def test_clicks_are_heard_where_the_player_says(
    browser: webdriver.Chrome, server: Server, sticks: dict[str, StickIndex], player: str, form: str
) -> None:
    browser.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument",
        {"source": (Path(__file__).parent / "recorder.js").read_text()},
    )
    browser.set_window_size(700, 500)
    you, index = Hands(browser, server), sticks[f"{player} {form}"]
    you.go(f"/player/?as={player}")
    you.click(f"[data-stick='{player} {form}']")
    first = min(other for name, other in PLAYERS if name == player) == form
    worst = 0.0
    for track in index.players[0].tracks:
        # What a player takes as it is does not depend on what other files become.
        if not first and not track.file.endswith(form):
            continue
        you.click(f"[data-track='{track.title}']")
        _wait_for_title(you, track.title)
        you.see("[data-position='1']")
        if not you.browser.execute_script("return heard.blocks.length"):
            _begin(you)
        place = _record(you)
        beats = [a.time + n * 60 / a.bpm for a in track.anchors for n in range(16)]
        cues = [cue.position_s for cue in track.cues]
        off = [float(np.abs(np.array(each) - place).min()) for each in (ATTACKS_S, beats, cues)]
        assert max(off) < TOLERANCE_S, f"{track.title} as {track.file}: {1000 * max(off):.1f} ms off"
        worst = max(worst, *off)
    print(f"{player} {form}: {1000 * worst:.1f} ms")


def _wait_for_title(you: Hands, title: str) -> None:
    loaded = "return document.querySelector('h1').textContent"
    wait_for(lambda: you.browser.execute_script(loaded) == title, f"{title} in the player")


def _begin(you: Hands) -> None:
    """The recorder is made when something is played first."""
    you.click("[data-position='1']")
    wait_for(lambda: you.browser.execute_script("return heard.blocks.length"), "the recorder")
    you.press_button("Stop")


def _record(you: Hands) -> float:
    """The place that is shown when the second click from the first cue on is heard."""
    you.browser.execute_script(WATCH)
    you.click("[data-position='1']")
    find = "return window.onsets(0.2, 0.2)"
    heard = wait_for(lambda: (t := you.browser.execute_script(find)) and len(t) >= 2 and t, "two clicks")[1]
    wait_for(lambda: you.browser.execute_script("return heard.shown.at(-1)[0]") > heard, "the display")
    shown = np.array(you.browser.execute_script("return heard.shown"))
    you.press_button("Stop")
    # A busy machine reads the clock some time after it has drawn: what is shown is then too old, never too
    # new.
    near = shown[shown[:, 0] > heard - 0.4]
    return heard + float(np.quantile(near[:, 1] - near[:, 0], 0.9))
