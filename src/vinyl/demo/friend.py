"""A library from a friend's computer, as people are handed them: other paths, and the faults that come along."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from vinyl.core.carrying.card import Card, Point, Step
from vinyl.core.carrying.collection import Node
from vinyl.demo.scenario import SONGS, Song
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.media.errors import MediaError
from vinyl.media.probe import probe

NAME = "Anselm's laptop.reedbank.xml"
# Where the same music lies on the friend's computer.
ROOT = "D:/Musik/Tarnhaven"
MISSING = (("Harbour Choir", "Sailmaker (unreleased)", "Promos/Sailmaker.mp3", 128.0),
           ("Nils Weir", "Bollard", "Promos/Bollard (final v3).wav", 126.0),
           ("Osk & Maren", "Tidal Clock", "Downloads/Tidal Clock 1.mp3", 122.0))  # fmt: skip
HALF_TEMPO = ("Rigging", "Foghorn Romance")
TWELVE_CUES = "Copper Tide"
LOOPS_IN_DISORDER = "Lantern Weather"
TINTS = ("rowan", "water", "amber", "moss", "thistle", "slate")
COUNT = 18


def make_friends_library(folder: Path) -> Path:
    """Write a Reedbank document beside the demo music, unless it is there; returns it."""
    place = folder / "From a friend" / NAME
    if place.exists():
        return place
    truths = {each["path"]: each for each in json.loads((folder / "truth.json").read_text(encoding="utf-8"))}
    cards = [("1", _mine(path, truth, folder / "music")) for path, truth in list(truths.items())[:COUNT]]
    cards += [("2", _missing(*each)) for each in MISSING]
    cards = [(str(number), card) for number, (_, card) in enumerate(cards, 1)]
    place.parent.mkdir(parents=True, exist_ok=True)
    part = place.with_name(f".{place.name}.part")
    write_reedbank(part, cards, _lists([key for key, _ in cards]))
    part.replace(place)
    return place


def _mine(path: str, truth: Mapping[str, Any], music: Path) -> Card:
    song = next((song for song in SONGS if song.title in path), SONGS[0])
    padding_s = _padding_s(music / path)
    beats, bars = truth["beats"], truth["beats_per_bar"]
    bpm = truth["bpm"] / (2 if song.title in HALF_TEMPO else 1)
    first = truth["anchors"][0]
    at = round((first["time"] + padding_s) * 1_000_000)
    words = {"title": song.title, "artist": song.artist, "genre": "Tarnhaven sound", "stars": "4",
             "comment": "from Anselm", "plays": "12"}  # fmt: skip
    return Card(
        f"{ROOT}/{path}", words, (Step(at, 0.0, bpm),), bars, True, _points(song, truth, beats, padding_s)
    )


def _points(
    song: Song, truth: Mapping[str, Any], beats: Sequence[float], padding_s: float
) -> tuple[Point, ...]:
    """Pegs at the starts of sections; with one track more than there are places, with another out of order."""
    starts = [start for start, _ in truth["sections"]]
    if song.title == TWELVE_CUES:
        starts = [beats[min(16 * number, len(beats) - 1)] for number in range(12)]
    points = [
        Point("peg", number, round(1000 * (start + padding_s)), None, f"{number}", TINTS[number % len(TINTS)])
        for number, start in enumerate(starts[:12], 1)
    ]
    if song.title == LOOPS_IN_DISORDER:
        beat_ms = 60_000 / truth["bpm"]
        points = [
            Point("peg", number, each.at, round(16 * beat_ms), f"loop {number}", each.colour)
            for number, each in enumerate(reversed(points[:5]), 1)
        ]
    return tuple(points)


def _padding_s(path: Path) -> float:
    try:
        found = probe(path)
    except MediaError:
        return 0.0
    return found.trimmed_samples / found.rate_hz


def _missing(artist: str, title: str, path: str, bpm: float) -> Card:
    words = {"title": title, "artist": artist}
    return Card(
        f"{ROOT}/{path}", words, (Step(0, 0.0, bpm),), 4, True, (Point("peg", 1, 15000, None, "start"),)
    )


def _lists(keys: Sequence[str]) -> tuple[Node, ...]:
    half = len(keys) // 2
    return (
        Node("Anselm's Fridays", "folder", inner=(
            Node("Early", "list", tuple(keys[:half])),
            Node("Late", "list", tuple(keys[half:])),
        )),
        Node("For Maren", "list", tuple(keys[::3])),
    )  # fmt: skip
