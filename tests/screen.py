"""``./vinyl screen``: how fast the Workbench and the Shelf draw and answer in headless Chromium, on a track
of ten minutes, a mix of an hour, and 100,000 rows.
"""

from __future__ import annotations

import shutil
import sys
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server, make_browser
from tests.signals import RATE_HZ, drum_loop
from vinyl.demo.seed import seed_library
from vinyl.library.database import Database
from vinyl.media.encode import encode

SECONDS = 10
FRAMES = """
  const [seconds, done] = arguments;
  const times = [];
  const step = (now) => {
    times.push(now);
    if (now - times[0] < 1000 * seconds) requestAnimationFrame(step);
    else done(times);
  };
  requestAnimationFrame(step);
"""
# Milliseconds from each move of the pointer on the raster until its picture is another one.
DRAG = """
  const done = arguments[0];
  const canvas = document.querySelector("canvas[aria-label^='Each bar']");
  const box = canvas.getBoundingClientRect();
  const at = { bubbles: true, pointerId: 1, clientY: box.top + 120, shiftKey: true };
  const send = (type, x) => canvas.dispatchEvent(new PointerEvent(type, { ...at, clientX: x }));
  canvas.setPointerCapture = () => {};
  const pixels = () => canvas.getContext("2d").getImageData(0, canvas.height >> 1, canvas.width, 20).data;
  const picture = () => pixels().reduce((sum, value) => (sum * 31 + value) >>> 0, 7);
  send("pointerdown", box.left + 100);
  const took = [];
  let x = box.left + 100;
  const next = () => {
    if (took.length === 20) { send("pointermove", box.left + 100); send("pointerup", box.left + 100);
      done(took); return; }
    const before = picture();
    const began = performance.now();
    send("pointermove", (x += 3));
    const look = () => {
      if (picture() === before) { requestAnimationFrame(look); return; }
      took.push(performance.now() - began);
      requestAnimationFrame(next);
    };
    requestAnimationFrame(look);
  };
  setTimeout(next, 100);
"""
WATCH_NEXT = """
  addEventListener("keydown", (event) => {
    if (event.key === "Enter") window.pressedAt = heard.context.currentTime; }, true);
"""
# Seconds from the key to the first sound after the silence between both tracks.
KEY_TO_SOUND = """
  let silent = 0, quiet = false;
  for (const { frame, samples } of heard.blocks) {
    for (let i = 0; i < samples.length; i++) {
      const at = (frame + i) / 44100;
      if (at < window.pressedAt) continue;
      silent = Math.abs(samples[i]) < 1e-6 ? silent + 1 : 0;
      if (silent > 100) quiet = true;
      if (quiet && silent === 0) return at - window.pressedAt;
    }
  }
  return null;
"""
DRAWN = """
  const canvas = document.querySelector("[data-testid=page] canvas");
  if (!canvas || !canvas.width) return false;
  const pixels = canvas.getContext("2d").getImageData(0, 0, canvas.width, canvas.height).data;
  for (let i = 0; i < pixels.length; i += 4000) if (pixels[i + 3]) return performance.now();
  return false;
"""


# Scrolls so many pixels a frame; for each frame how long it took, and for how long a row in sight was empty.
# Each frame looks at one of three rows in turn, since looking costs time too.
SCROLL = """
  const [step, done] = arguments;
  const rows = document.querySelector("[data-testid=rows]");
  const box = rows.getBoundingClientRect();
  const places = [80, box.height / 2, box.height - 60].map((y) => ({ y: box.top + y, since: null }));
  const frames = [], blank = [];
  let last = performance.now(), began = last, turn = 0;
  const look = (now) => {
    const place = places[turn++ % 3];
    const row = document.elementFromPoint(box.left + 120, place.y)?.closest("[data-track]");
    if (!row?.querySelector(".title")) place.since ??= now;
    else if (place.since !== null) { blank.push(now - place.since); place.since = null; }
  };
  const next = (now) => {
    frames.push(now - last);
    last = now;
    look(now);
    rows.scrollTop += step;
    if (now - began < 8000) requestAnimationFrame(next);
    else done([frames.slice(1), blank]);
  };
  requestAnimationFrame(next);
"""
# Milliseconds from each letter until the count of what is found is another one; null where it stays.
TYPE = """
  const [text, done] = arguments;
  const input = document.getElementById("shelf-search");
  const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set;
  const count = () => document.querySelector("[data-testid=count] b").textContent;
  const took = [];
  input.focus();
  const next = (end) => {
    if (end > text.length) { done(took); return; }
    const before = count(), began = performance.now();
    set.call(input, text.slice(0, end));
    input.dispatchEvent(new Event("input", { bubbles: true }));
    const look = () => {
      const now = performance.now();
      if (count() === before && now - began < 1000) { requestAnimationFrame(look); return; }
      took.push(count() === before ? null : now - began);
      setTimeout(() => next(end + 1), 200);
    };
    requestAnimationFrame(look);
  };
  next(1);
"""
SEEDED = 100_000
# One row, and three rows, in each frame: 2,300 and 6,800 pixels a second.
STEPS_PX = (38, 114)


def main() -> int:
    folder = Path(tempfile.mkdtemp(prefix="screen-"))
    try:
        measure_shelf(folder)
        server = make_library(folder)
        try:
            measure(server, folder)
        finally:
            server.stop()
    finally:
        shutil.rmtree(folder)
    return 0


def measure_shelf(folder: Path) -> None:
    seed_library(Database.prepared(folder / "seeded" / "library.db"), SEEDED)
    profile = folder / "shelf profile"
    server = Server(folder / "seeded").start()
    browser = make_browser(profile)
    browser.set_script_timeout(120)
    you = Hands(browser, server)
    try:
        you.go("/shelf")
        you.see("[data-track] .title")
        for step in STEPS_PX:
            times, blank = browser.execute_async_script(SCROLL, step)
            longest = f"a row empty for {max(blank):.0f} ms at most" if blank else "no row empty"
            tell(
                f"{SEEDED:,} rows, {step} pixels a frame",
                f"{1000 / np.mean(times):.1f} frames a second, {longest}",
            )
        title = server.tracks()[0]["title"]
        took = [ms for ms in browser.execute_async_script(TYPE, title.lower()) if ms is not None]
        tell("from a letter to what is found", f"median {np.median(took):.0f} ms, most {max(took):.0f} ms")
        tell("memory of the tab", f"{memory_mb(profile):.0f} MB")
    finally:
        browser.quit()
        server.stop()


def make_library(folder: Path) -> Server:
    music = folder / "music"
    music.mkdir()
    loop = drum_loop(124.0, 0.2, 600.0)
    encode(loop, RATE_HZ, music / "Ten minutes.flac", "flac")
    encode(drum_loop(128.0, 0.0, 60.0), RATE_HZ, music / "Next.flac", "flac")
    encode(np.tile(loop, 6), RATE_HZ, music / "Mix of an hour.mp3", "mp3")
    server = Server(folder / "home", "--allow", str(folder)).start()
    server.send("POST", "/api/imports", {"paths": [str(music)]})
    wait_for(lambda: server.has_ended("import", "analysis"), "the import and the analysis", 300)
    return server


def measure(server: Server, folder: Path) -> None:
    profile = folder / "profile"
    browser = make_browser(profile)
    browser.set_script_timeout(120)
    browser.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument",
        {"source": (Path(__file__).parent / "journeys" / "recorder.js").read_text()},
    )
    you = Hands(browser, server)
    ids = server.ids()
    try:
        measure_playing(you, server, ids)
        measure_mix(you, ids["Mix of an hour"], profile)
    finally:
        browser.quit()


def measure_playing(you: Hands, server: Server, ids: dict[str, int]) -> None:
    crate = server.send("POST", "/api/crates", {"name": "Both"})["id"]
    server.send("POST", f"/api/crates/{crate}/tracks", {"ids": [ids["Ten minutes"], ids["Next"]]})
    you.go("/shelf")
    you.browser.execute_script(f"localStorage.setItem('vinyl.queue-list', '\"crate {crate}\"')")
    you.go(f"/workbench/{ids['Ten minutes']}")
    you.see("canvas[aria-label^='Drift']")
    you.keys(Keys.SPACE)
    wait_for(lambda: you.position_s() > 1, "the sound")
    for name, keys in (
        ("8 s in the close-up", ()),
        ("the whole track in the close-up", ("0",)),
        ("half a second", ("0", *"+++++++++")),
    ):
        you.keys(*keys)
        tell(f"frames while playing, {name}", frames(you.browser))
    took = np.array(you.browser.execute_async_script(DRAG))
    tell("raster after a move of the hand", f"median {np.median(took):.0f} ms, most {took.max():.0f} ms")
    you.browser.execute_script(WATCH_NEXT)
    you.keys(Keys.ENTER)
    took_s = wait_for(lambda: you.browser.execute_script(KEY_TO_SOUND), "the next track's sound")
    tell("from the key to the next track's sound", f"{1000 * took_s:.0f} ms")


def tell(name: str, figure: str) -> None:
    print(f"{name}: {figure}", flush=True)


def frames(browser: webdriver.Chrome) -> str:
    intervals = np.diff(np.array(browser.execute_async_script(FRAMES, SECONDS)))
    return (
        f"{1000 / intervals.mean():.1f} a second, 95% within {np.quantile(intervals, 0.95):.1f} ms, "
        f"longest {intervals.max():.0f} ms"
    )


def measure_mix(you: Hands, track: int, profile: Path) -> None:
    you.go(f"/workbench/{track}")
    drawn: Any = wait_for(lambda: you.browser.execute_script(DRAWN), "the page of the mix")
    you.keys(Keys.SPACE)
    wait_for(lambda: you.position_s() > 1, "the sound")
    for _ in range(60):
        you.keys(Keys.ARROW_RIGHT)
    wait_for(lambda: you.position_s() > 400, "the jumps")
    tell("mix of an hour, first drawing after opening its address", f"{drawn:.0f} ms")
    tell("mix of an hour, frames", frames(you.browser))
    tell("mix of an hour, memory of the tab", f"{memory_mb(profile):.0f} MB")


def memory_mb(profile: Path) -> float:
    """Resident memory of the largest page process of the browser with this profile."""
    largest = 0
    for process in Path("/proc").glob("[0-9]*"):
        try:
            command = (process / "cmdline").read_bytes()
            if b"--type=renderer" in command and str(profile).encode() in command:
                pages = int((process / "statm").read_text().split()[1])
                largest = max(largest, pages * 4096)
        except OSError:
            continue
    return largest / 1e6


if __name__ == "__main__":
    sys.exit(main())
