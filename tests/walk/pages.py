"""What an open window shows, by the keys of its queries, and which of it the page takes for stale after a
change: read from the page's own table, so that what it leaves out is found.
"""

from __future__ import annotations

import itertools
import json
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tests.walk.house import House

FRESHNESS = Path(__file__).parents[2] / "web" / "src" / "api" / "freshness.ts"
EVERY = {"kind": "all", "parts": []}
FORMS = ("text", "m3u8", "cue", "csv")
Key = tuple[object, ...]


@dataclass(frozen=True, slots=True)
class View:
    """Something that a window shows: under which key, and how it is asked for."""

    key: Key
    path: str
    method: str = "GET"
    body: str = ""

    def ask(self, house: House) -> Any:
        """What it shows now.

        Raises:
            AssertionError: if it does not open.
        """
        answer = house.ask(self.method, self.path, json.loads(self.body) if self.body else None)
        assert answer.is_good, f"{self.method} {self.path} {self.body}: {answer.status} {answer.words}"
        return answer.told


def views(house: House) -> Iterator[View]:
    """All listings, and all that can be opened."""
    found = json.dumps({"where": EVERY, "sort": "title", "limit": 100})
    yield View(("tracks", "window"), "/api/tracks/find", "POST", found)
    yield View(("tracks", "off the Shelf"), "/api/off-shelf")
    yield View(("tracks", "away"), "/api/away")
    yield View(("twins", "list"), "/api/twins")
    yield View(("sets", "list"), "/api/sets")
    yield View(("disk-folders",), "/api/disk-folders")
    yield View(("crates",), "/api/crates")
    yield View(("crates", "deleted"), "/api/lists/deleted")
    yield View(("tags",), "/api/tag-families")
    yield View(("backings",), "/api/backings")
    yield View(("templates",), "/api/templates")
    yield View(("rules", "counts"), "/api/rules/counts")
    yield View(("gigs", "venues"), "/api/venues")
    yield View(("gigs", "all", False), "/api/gigs")
    yield View(("gigs", "all", True), "/api/gigs?practice=true")
    yield View(("gigs", "figures", 2026), "/api/figures/2026")
    yield View(("gigs", "played", None), "/api/played")
    yield View(("exchange", "destinations"), "/api/exchange/destinations")
    yield View(("exchange", "carryings"), "/api/exchange/carryings")
    yield View(("sticks", "settings"), "/api/sticks/settings")
    yield View(("imports",), "/api/imports")
    yield View(("undo",), "/api/undo")
    yield from _opened(house)


def _opened(house: House) -> Iterator[View]:
    for dj_set in house.get("/api/sets"):
        yield View(("sets", "one", dj_set["id"]), f"/api/sets/{dj_set['id']}")
        yield View(("sets", "chain", dj_set["id"]), f"/api/sets/{dj_set['id']}/chain")
        yield View(("sets", "clearance", dj_set["id"]), f"/api/sets/{dj_set['id']}/clearance")
    for crate in house.get("/api/crates"):
        if not crate["is_folder"]:
            number = crate["id"]
            if crate["fills_itself"]:
                yield View(("crates", number, "rule"), f"/api/crates/{number}/rule")
            else:
                yield View(("crates", number, "places"), f"/api/crates/{number}/places")
                yield View(("crates", number, "wanted"), f"/api/crates/{number}/wanted")
    nights = [*house.get("/api/gigs"), *house.get("/api/gigs?practice=true")]
    for gig in nights:
        yield View(("gigs", "night", gig["id"]), f"/api/gigs/{gig['id']}")
    for first, second in itertools.pairwise(nights):
        numbers = (first["id"], second["id"])
        yield View(("gigs", "beside", *numbers), f"/api/gigs/{numbers[0]}/beside/{numbers[1]}")
    for venue in house.get("/api/venues"):
        yield View(("gigs", "pairs", venue["id"]), f"/api/venues/{venue['id']}/pairs")
        yield View(("gigs", "played", venue["id"]), f"/api/played?venue_id={venue['id']}")
    for track in house.ask("POST", "/api/tracks/find", {"where": EVERY, "limit": 100}).told["rows"]:
        number = track["id"]
        yield View(("tracks", "one", number), f"/api/tracks/{number}")
        yield View(("tracks", "values", number), f"/api/tracks/{number}/values")
        yield View(("versions", number), f"/api/tracks/{number}/versions")
        yield View(("gigs", "track", number), f"/api/tracks/{number}/plays")


def open_all(house: House) -> None:
    """Open what no window keeps: files of nights, the next list, documents of lists, plans of sticks."""
    for gig in house.get("/api/gigs"):
        for form in FORMS:
            told = house.ask("GET", f"/api/gigs/{gig['id']}/file?form={form}")
            assert told.is_good or (form == "cue" and told.status == 422), told.words
        wanted = {"on": "2026-12-04", "share": 0.4, "weeks": 6}
        assert house.ask("POST", f"/api/gigs/{gig['id']}/next/look", wanted).is_good
    for crate in house.get("/api/crates"):
        assert house.ask("GET", f"/api/crates/{crate['id']}/document").is_good
    for stick in house.get("/api/sticks"):
        assert house.ask("GET", f"/api/sticks/{stick['id']}/home").is_good
        if stick["is_in"]:
            assert house.ask("POST", f"/api/sticks/{stick['id']}/plan").is_good


def stale_table() -> dict[str, list[Key]]:
    """For each topic the beginnings of the keys that the page takes for stale."""
    text = FRESHNESS.read_text()
    table = text[text.index("const QUERIES") : text.index("/** How long changes")]
    found: dict[str, list[Key]] = {}
    for topic, keys in re.findall(
        r"^  (\w+): (\[\[.*?\]\]|\[\n.*?\n  \]),$", table, re.MULTILINE | re.DOTALL
    ):
        plain = re.sub(r",(\s*\])", r"\1", keys)
        found[topic] = [tuple(each) for each in json.loads(plain)]
    assert {"tracks", "lists", "gigs", "undo", "all"} <= found.keys()
    return found


# What has ended makes these stale too (freshness.ts).
ENDED = {"pack": "sticks", "import": "imports", "carry": "exchange", "take": "exchange"}


@dataclass(frozen=True, slots=True)
class Stale:
    """A topic that was told of, and the tracks that it is about; None where it may be any."""

    topic: str
    track_ids: frozenset[int] | None


def told_in(events: list[dict[str, Any]]) -> list[Stale]:
    """What some events say is different."""
    told = [
        Stale(topic, None if event["track_ids"] is None else frozenset(event["track_ids"]))
        for event in events
        if event["type"] == "changed"
        for topic in event["topics"]
    ]
    kinds = {event["job"]["kind"] for event in events if event["type"] == "job"}
    told += [Stale(ENDED[kind], None) for kind in kinds if kind in ENDED]
    whole = any(event["type"] in ("hello", "reload") for event in events)
    return [*told, Stale("all", None)] if whole else told


def is_stale(key: Key, told: list[Stale], table: dict[str, list[Key]]) -> bool:
    """Whether the page would ask anew for what it shows under a key."""
    return any(
        key[: len(begins)] == begins and (stale.track_ids is None or _concerns(key, stale.track_ids))
        for stale in told
        for begins in table.get(stale.topic, ())
    )


def _concerns(key: Key, track_ids: frozenset[int]) -> bool:
    """Whether a query shows one of some tracks, as freshness.ts has it."""
    if key[0] != "tracks" or key[1] == "window" or len(key) < 3:
        return True
    return not isinstance(key[2], int) or key[2] in track_ids
