"""The commonest loop, from a folder of 35 files to a packed stick, with its keys and clicks counted
(docs/journeys.md tells them)."""

from __future__ import annotations

import os
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.journeys.hands import Hands
from tests.patience import wait_for
from tests.running import Server

TRACKS = 35
# In a few nothing was heard that a point could be counted from: those are looked at one by one.
LEAST_CUED = 28
# What the same loop took before cues, locks and tags could be given to all that is chosen.
KEYS_BEFORE, CLICKS_BEFORE = 16, 9


class Counting(Hands):
    """Hands that count what they press."""

    presses = 0
    clicks = 0

    def keys(self, *keys: str) -> None:
        self.presses += len(keys)
        super().keys(*keys)

    def chord(self, modifier: str, key: str) -> None:
        self.presses += 1
        super().chord(modifier, key)

    def press_button(self, name: str) -> None:
        self.clicks += 1
        super().press_button(name)


@pytest.fixture
def you(browser: webdriver.Chrome, demo: Path, tmp_path: Path) -> Iterator[Counting]:
    home = tmp_path / "home"
    shutil.copytree(demo, home / "demo", copy_function=os.link)
    server = Server(home, "--bare", command="demo").start()
    yield Counting(browser, server)
    server.stop()


def test_the_commonest_loop_takes_few_keys(you: Counting) -> None:
    _bring_in(you)
    _prepare_all(you)
    _pack(you)
    server = you.server
    tracks = server.tracks()
    assert len(tracks) == TRACKS
    prepared = [track for track in tracks if {"grid"} <= set(track["locks"]) and track["tags"]]
    with_in = [track for track in tracks if "I" in track["cues"].split()]
    assert len(prepared) == TRACKS and len(with_in) >= LEAST_CUED, [track["cues"] for track in tracks]
    print(f"\nThe commonest loop: {you.presses} keys, {you.clicks} clicks")
    assert you.presses + you.clicks < KEYS_BEFORE + CLICKS_BEFORE


def _bring_in(you: Counting) -> None:
    you.go("/arrivals")
    you.press_button("Add this folder")
    you.see_text("35 added")
    wait_for(lambda: you.server.has_ended("import", "analysis"), "the analysis", 300)


def _prepare_all(you: Counting) -> None:
    """Cues, locks, a tag and a crate, for all that came in at once."""
    you.chord(Keys.ALT, "2")
    wait_for(lambda: len(you.titles()) > 10, "rows on the Shelf")
    you.chord(Keys.CONTROL, "a")
    you.see_text("35 tracks chosen")
    you.keys("t")
    wait_for(lambda: "Set " in you.text("[role=dialog]"), "what the first template sets")
    you.keys(Keys.ARROW_DOWN)
    heard = lambda: you.text("[role=dialog] [role=option][aria-selected=true]")  # noqa: E731
    wait_for(lambda: heard().startswith("In, main and out"), "the template of the points that were heard")
    wait_for(
        lambda: int((re.findall(r"Set (\d+) cues", you.text("[role=dialog]")) or [0])[-1]) > 80, "many cues"
    )
    you.keys(Keys.ENTER)
    wait_for(lambda: sum(bool(track["cues"]) for track in you.server.tracks()) >= LEAST_CUED, "their cues")
    you.chord(Keys.SHIFT, "l")
    you.see_text("Lock the grid")
    you.keys(Keys.ENTER)
    wait_for(lambda: all("grid" in track["locks"] for track in you.server.tracks()), "all grids locked")
    you.chord(Keys.ALT, "t")
    you.see("[data-tag=Uplifting]")
    you.keys("u")
    wait_for(lambda: all(track["tags"] for track in you.server.tracks()), "the tag on all")
    you.keys(Keys.ESCAPE)
    you.see_text("Tag by letters")
    you.keys("p")
    you.see("[role=dialog] input")
    you.keys(*"Fri", Keys.ENTER)
    you.see_text("35 tracks put into “Fri”")


def _pack(you: Counting) -> None:
    you.chord(Keys.ALT, "9")
    you.press_button("A stick…")
    you.see("[role=dialog] input")
    you.keys(Keys.ENTER)
    you.press_button("Fri")
    you.see_text("to convert")
    you.press_button("Pack the stick")
    you.see_text("Packed and verified: 35 tracks on the stick", 180)
