"""The walk itself: what people and programs do in all rooms, and what must hold after each of it."""

from __future__ import annotations

import json
import random
import re
import shutil
import sqlite3
import uuid
from collections.abc import Callable, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any, ClassVar, TypeVar

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from tests.patience import wait_for
from tests.walk import checks, pages
from tests.walk.house import ZONES, Answer, House
from tests.walk.pages import EVERY, View

T = TypeVar("T")
Verb = TypeVar("Verb", bound=Callable[..., None])
TOLD_S = 3.0
N = st.integers(0, 9)
ZONE = st.sampled_from(ZONES)
DAYS = st.sampled_from(["2026-11-20", "2026-11-27", "2026-10-31", "2026-12-31", "2026-03-28"])
CLOCKS = st.sampled_from(["21:00", "23:30", "00:10", "12:00"])
TARGETS = st.sampled_from(["reedbank", "saltmarsh", "tidewrack", "m3u8", "csv", "pls", "cue"])
LIBRARIES = ("reedbank", "saltmarsh", "tidewrack")
SPOILS = (
    "INSERT OR REPLACE INTO word SELECT id, 'title', 'Theirs ' || id FROM track",
    "INSERT OR IGNORE INTO list VALUES (70, NULL, 5, 'Odd', 0, '{\"all\": [{\"of\": 7}]}')",
    "INSERT OR IGNORE INTO point SELECT id, 90, 1.5, NULL, 'theirs', '#1f6397', 0 FROM track",
    "INSERT OR IGNORE INTO quick SELECT id, 12, 2.5, -3, 'nowhere', 'x', 0 FROM track",
    "INSERT OR IGNORE INTO play SELECT 500 + id, id, 'nonsense', 'a night' FROM track",
    "INSERT OR IGNORE INTO play SELECT 600 + id, id, '2026-11-20T21:00:00+00:00', 'a night' FROM track",
    "UPDATE track SET beats = x'00'",
)
BAD_PARTS = ({"pad": 12}, {"position_s": -4.0}, {"role": "nowhere"}, {"colour": "mauve"})
FIELDS = ("title", "artist", "comment", "genre", "year", "energy")


REACHES = ("whole track", "from here", "this part")
# What a body that is not as the API has it is refused with: a verb that is refused so tries nothing.
MISTAKEN = ("Field required", "Unable to extract tag", "Extra inputs")
ROOMS = ("arrivals", "shelf", "tags", "workbench", "crates", "twins", "sets", "logbook", "sticks", "exchange")
# Through all rooms, or to and fro between a few, where one thing leads to another sooner.
SOME = st.one_of(st.just(frozenset(ROOMS)), st.frozensets(st.sampled_from(ROOMS), min_size=2, max_size=3))


def of(room: str) -> Callable[[Verb], Verb]:
    """A verb of a room, for walks that go there."""
    return precondition(lambda self: room in self.rooms)


def pick(things: Sequence[T], number: int) -> T | None:
    """One of some things, by a number of any size."""
    return things[number % len(things)] if things else None


class Walk(RuleBasedStateMachine):
    """A walk through one house. ``template`` and ``place`` are given by who runs it."""

    template: ClassVar[Path]
    place: ClassVar[Path]

    @initialize(zone=ZONE, rooms=SOME)
    def come_in(self, zone: str, rooms: frozenset[str]) -> None:
        self.rooms = rooms
        self.house = House(self.template, self.place, zone)
        self.stale_table = pages.stale_table()
        self.count = 0
        self.words: set[str] = set()
        self.only_redone: set[str] = set()
        self.own: dict[Path, bytes] = {}
        self.days: dict[int, str] = {}
        self.seen: dict[View, Any] = {}
        self.heard = 0
        self.has_moved = True
        self._look()

    # What is asked of the server.

    def word(self, what: str) -> str:
        """A word that was never typed before."""
        self.count += 1
        return f"{what} wk{self.count:04}x"

    def do(self, method: str, path: str, body: object = None, *typed: str) -> Answer:
        """Ask for something; the words that are typed must stand somewhere from then on, if it was done."""
        answer = self.house.ask(method, path, body)
        assert not any(each in answer.words for each in MISTAKEN), f"{method} {path} {body}: {answer.words}"
        if answer.is_good:
            self.words |= set(typed)
        return answer

    def rows(self) -> list[dict[str, Any]]:
        found = {"where": EVERY, "sort": "added_at", "limit": 100}
        rows: list[dict[str, Any]] = self.house.ask("POST", "/api/tracks/find", found).told["rows"]
        return sorted(rows, key=lambda row: int(row["id"]))

    def track(self, n: int) -> int:
        """A track of the Shelf; 1 where there is none."""
        row = pick(self.rows(), n)
        return int(row["id"]) if row else 1

    def tracks(self, n: int) -> list[int]:
        ids = [int(row["id"]) for row in self.rows()]
        return [each for place, each in enumerate(ids) if (n + place) % 3] or ids[:1] or [1]

    def some(self, path: str, n: int) -> dict[str, Any] | None:
        """One of what is listed."""
        return pick(sorted(self.house.get(path), key=lambda each: int(each["id"])), n)

    def list_by_hand(self, n: int) -> dict[str, Any] | None:
        crates = [each for each in self.house.get("/api/crates") if not each["is_folder"]]
        return pick([each for each in crates if not each["fills_itself"]], n)

    @rule()
    def stand_still(self) -> None:
        """Nothing is done; the first walk of all is made of this alone, as Hypothesis has it."""
        self.has_moved = False

    # Arrivals.

    @rule(n=N)
    @of("arrivals")
    def import_file(self, n: int) -> None:
        file = pick(sorted((self.house.folder / "later").iterdir()), n)
        assert file is not None
        target = self.house.music / file.name
        if not target.exists():
            shutil.copy2(file, target)
        if file.suffix == ".m3u8":
            self.do("POST", "/api/playlists", {"path": str(target), "name": self.word("Playlist")})
        else:
            self.do("POST", "/api/imports", {"paths": [str(target)]})

    @rule(n=N)
    @of("arrivals")
    def a_file_goes_away_and_all_is_imported_again(self, n: int) -> None:
        file = pick(sorted(self.house.music.glob("*.*")), n)
        if file is not None:
            away = self.house.folder / "away"
            away.mkdir(exist_ok=True)
            file.rename(away / file.name)
            self.do("POST", "/api/imports", {"paths": [str(self.house.music)]})
            self.house.rest()
            (away / file.name).rename(file)
        self.do("POST", "/api/imports", {"paths": [str(self.house.music)]})

    # The Shelf.

    @rule(n=N, aside=st.booleans())
    @of("shelf")
    def take_off(self, n: int, aside: bool) -> None:
        self.do("POST", "/api/off-shelf", {"ids": [self.track(n)], "aside": aside})

    @rule(n=N)
    @of("shelf")
    def bring_back(self, n: int) -> None:
        off = pick(self.house.get("/api/off-shelf"), n)
        if off:
            self.do("POST", "/api/off-shelf/back", {"track_ids": [off["track_id"]]})

    @rule(n=N, field=st.sampled_from(FIELDS))
    @of("shelf")
    def edit(self, n: int, field: str) -> None:
        text = {"year": "1998", "energy": "70"}.get(field) or self.word("Value")
        typed = () if field in ("year", "energy") else (text,)
        self.do("PUT", "/api/tracks/values", {"ids": self.tracks(n), "values": {field: text}}, *typed)

    @rule(n=N, stars=st.integers(0, 5))
    @of("shelf")
    def rate(self, n: int, stars: int) -> None:
        self.do("PUT", "/api/tracks/rating", {"ids": self.tracks(n), "stars": stars})

    @rule(n=N, part=st.sampled_from(["grid", "cues", "key", "tags"]), locked=st.booleans())
    @of("shelf")
    def lock(self, n: int, part: str, locked: bool) -> None:
        self.do("PUT", "/api/tracks/locks", {"ids": [self.track(n)], "part": part, "locked": locked})

    @rule(n=N)
    @of("shelf")
    def note_as_played(self, n: int) -> None:
        self.do("POST", "/api/tracks/played", {"ids": [self.track(n)]})

    @rule(n=N)
    @of("shelf")
    def put_over_one_backing(self, n: int) -> None:
        name = self.word("Backing")
        self.do("PUT", "/api/backings", {"ids": self.tracks(n), "name": name}, name)

    # Twins: any two tracks may be taken for them.

    @rule(n=N, m=N, aside=st.booleans())
    @of("twins")
    def settle_twins(self, n: int, m: int, aside: bool) -> None:
        wanted = {"kept_id": self.track(n), "copy_ids": [self.track(m)]}
        if wanted["kept_id"] in wanted["copy_ids"]:
            return
        seen = self.house.ask("POST", "/api/twins/look", wanted)
        if seen.is_good and seen.told:
            self.do("POST", "/api/twins/settle", {**wanted, "seal": seen.told["seal"], "aside": aside})

    @rule(aside=st.booleans())
    @of("twins")
    def settle_all_sure_twins(self, aside: bool) -> None:
        if self.house.get("/api/twins/sure")["groups"]:
            self.do("POST", "/api/twins/sure", {"aside": aside})

    @rule(n=N, kind=st.sampled_from(["not", "later", "search"]))
    @of("twins")
    def speak_of_twins(self, n: int, kind: str) -> None:
        said = {"not": {"track_ids": self.tracks(n)}, "later": {"track_ids": self.tracks(n), "later": True}}
        self.do("POST", f"/api/twins/{kind}", said.get(kind))

    @rule(n=N, linked=st.booleans())
    @of("twins")
    def versions(self, n: int, linked: bool) -> None:
        ids = self.tracks(n)
        if linked and len(set(ids)) > 1:
            name = self.word("Work")
            kinds = {ids[0]: "radio"}
            self.do("PUT", "/api/versions", {"track_ids": ids, "name": name, "kinds": kinds}, name)
        else:
            self.do("POST", "/api/versions/apart", {"track_ids": ids})

    # Sets.

    def a_set(self, n: int) -> int:
        there = [each["id"] for each in self.house.get("/api/sets")]
        if not there:
            name = self.word("Set")
            self.do("POST", "/api/sets", {"name": name, "on_day": "2026-12-04", "venue": "The Slipway"}, name)
            there = [each["id"] for each in self.house.get("/api/sets")]
        return int(there[n % len(there)])

    @rule(n=N, m=N, placed=st.booleans())
    @of("sets")
    def fill_a_set(self, n: int, m: int, placed: bool) -> None:
        asked = {"ids": self.tracks(m), "placed": placed}
        self.do("POST", f"/api/sets/{self.a_set(n)}/tracks", asked)

    @rule(
        n=N,
        m=N,
        what=st.sampled_from(
            [
                "move",
                "tray",
                "remove",
                "pin",
                "joint",
                "mix",
                "order",
                "copy",
                "chain",
                "unchain",
                "clear",
                "want",
                "delete",
            ]
        ),
    )
    @of("sets")
    def change_a_set(self, n: int, m: int, what: str) -> None:
        number = self.a_set(n)
        path = f"/api/sets/{number}"
        found = self.house.get(path)
        every = [each["id"] for each in (*found["order"], *found["tray"])]
        if what == "delete":
            self.do("DELETE", path)
        elif what == "copy":
            self.do("POST", f"{path}/copy", {"name": f"{found['name']} again"[:100]})
        elif what == "order" and len(found["order"]) > 1:
            ids = self.house.ask("POST", f"{path}/order", {"by": "all"}).told["entry_ids"]
            self.do("PUT", f"{path}/order", {"entry_ids": ids})
        elif what == "joint" and found["joints"]:
            joint = found["joints"][m % len(found["joints"])]
            said = {
                "out_id": joint["out_id"],
                "in_id": joint["in_id"],
                "settings": {"over_bars": m % 64, "out_s": float(m % 90), "in_s": float(m % 20)},
                "note": self.word("n"),
            }
            self.do("PUT", f"{path}/joint", said)
        elif what == "clear" and (ids := [e["track_id"] for e in found["order"] if e["on_shelf"]]):
            states = ("free", "blocked", "unknown")
            said = {"track_ids": ids[:2], "state": states[m % 3], "places": "Ostmark"}
            self.do("PUT" if m % 2 else "POST", f"{path}/clearance{'' if m % 2 else '/ask'}", said)
        elif what == "want":
            wanted = {"artist": "Kelp Union", "title": self.word("w"), "placed": bool(m % 2)}
            self.do("POST", f"{path}/wanted", wanted)
        elif what in ("chain", "unchain"):
            self.chain(path, m, what == "unchain")
        elif what == "mix" and len(ids := [e["track_id"] for e in found["order"] if e["on_shelf"]]) > 1:
            pair = {"out_track_id": ids[m % len(ids)], "in_track_id": ids[(m + 1) % len(ids)]}
            self.do("PUT", "/api/mixes/verdict", {**pair, "works": (None, True, False)[m % 3]})
        elif every:
            entry = every[m % len(every)]
            if what == "pin":
                self.do("PATCH", f"{path}/entries/{entry}", {"pin": "here", "with_next": bool(m % 2)})
            elif what == "remove":
                self.do("POST", f"{path}/remove", {"entry_ids": [entry]})
            else:
                before = every[(m + 1) % len(every)]
                self.do(
                    "POST", f"{path}/move", {"entry_ids": [entry], "placed": what == "move", "before": before}
                )

    def chain(self, path: str, m: int, back: bool) -> None:
        steps = [each["id"] for each in self.house.get(f"{path}/chain")]
        if back and steps:
            self.do("DELETE", f"{path}/chain/{steps[m % len(steps)]}")
        elif ids := self.tracks(m):
            begins = [None, *steps]
            self.do("POST", f"{path}/chain", {"track_id": ids[0], "from_id": begins[m % len(begins)]})

    # Tags.

    def tag(self, n: int) -> dict[str, Any] | None:
        families = self.house.get("/api/tag-families")
        return pick([tag for family in families for tag in family["tags"]][-6:], n)

    @rule(n=N)
    @of("tags")
    def make_tag(self, n: int) -> None:
        name = self.word("Tag")
        family = self.some("/api/tag-families", n)
        if n % 3 == 0 or family is None:
            self.do("POST", "/api/tag-families", {"name": name, "colour": "blue"}, name)
        else:
            self.do("POST", "/api/tags", {"family_id": family["id"], "name": name}, name)

    @rule(n=N, m=N)
    @of("tags")
    def give_new_tag(self, n: int, m: int) -> None:
        name = self.word("Tag")
        if family := self.some("/api/tag-families", n):
            body = {"ids": self.tracks(m), "family_id": family["id"], "name": name}
            self.do("POST", "/api/tracks/tags/new", body, name)

    @rule(n=N, m=N, given=st.booleans())
    @of("tags")
    def give_tag(self, n: int, m: int, given: bool) -> None:
        if tag := self.tag(n):
            self.do("PUT", "/api/tracks/tags", {"ids": self.tracks(m), "tag_id": tag["id"], "given": given})

    @rule(n=N, m=N)
    @of("tags")
    def merge_tags(self, n: int, m: int) -> None:
        """Preferably one that a rule asks for: the rule asks for the other then."""
        asked, there = self._asked_tags()
        one, other = pick(sorted(asked & there), n) or (self.tag(n) or {}).get("id"), self.tag(m)
        if one and other:
            self.do("POST", f"/api/tags/{one}/merge", {"into": other["id"]})
            still_asked, still_there = self._asked_tags()
            assert still_asked - still_there <= asked - there, "rules ask for the other"

    def _asked_tags(self) -> tuple[set[int], set[int]]:
        """The tags that rules ask for, and those that there are."""
        crates = [each["id"] for each in self.house.get("/api/crates") if each["fills_itself"]]
        rules = [json.dumps(self.house.get(f"/api/crates/{each}/rule")) for each in crates]
        asked = {int(tag) for rule in rules for tag in re.findall(r'"tag_id": (\d+)', rule)}
        families = self.house.get("/api/tag-families")
        return asked, {int(tag["id"]) for family in families for tag in family["tags"]}

    @rule(n=N)
    @of("tags")
    def delete_tag(self, n: int) -> None:
        if tag := self.tag(n):
            self.do("DELETE", f"/api/tags/{tag['id']}")

    # The Workbench.

    @rule(n=N, pad=st.integers(0, 8))
    @of("workbench")
    def set_cue(self, n: int, pad: int) -> None:
        label = self.word("Cue")
        cue = {
            "position_s": 0.5 + n / 2,
            "label": label,
            "pad": pad or None,
            "role": "in" if n == 3 else None,
        }
        self.do("POST", f"/api/tracks/{self.track(n)}/cues", cue, label)

    @rule(n=N, m=N)
    @of("workbench")
    def change_or_delete_cue(self, n: int, m: int) -> None:
        track = self.track(n)
        cue = pick(self.house.ask("GET", f"/api/tracks/{track}").told.get("cues", ()), m)
        if cue and m % 2:
            self.do("DELETE", f"/api/tracks/{track}/cues/{cue['id']}")
        elif cue:
            self.do("PATCH", f"/api/tracks/{track}/cues/{cue['id']}", {"move_ms": 40, "pad": 1 + n % 8})

    @rule(n=N)
    @of("workbench")
    def shift_grid(self, n: int) -> None:
        step = {"edit": "step tempo", "by_bpm": 0.1, "reach": REACHES[n % 3], "time_s": 2.0}
        there = {"edit": "step to other end", "time_s": 2.0}
        others = ({"edit": "shift", "by_s": 0.003 * n}, {"edit": "double"}, {"edit": "halve"})
        edit = (step, there, *others)[n % 5]
        self.do("POST", f"/api/tracks/{self.track(n)}/grid", edit)

    @rule(n=N, kind=st.sampled_from(["all", "others", "roles", "pads", "loops"]))
    @of("workbench")
    def delete_cues_of_a_kind(self, n: int, kind: str) -> None:
        self.do("POST", "/api/tracks/cues/delete", {"ids": self.tracks(n), "kind": kind})

    @rule(n=N, away=st.booleans())
    @of("workbench")
    def use_template_or_take_it_away(self, n: int, away: bool) -> None:
        if template := self.some("/api/templates", n):
            path = f"/api/templates/{template['id']}/{'take-away' if away else 'use'}"
            self.do("POST", path, {"ids": self.tracks(n)})

    @rule(n=N)
    @of("workbench")
    def save_route(self, n: int) -> None:
        name = self.word("Route")
        jumps = [{"from_s": 4.0, "to_s": 2.0 + n / 10}]
        self.do("POST", f"/api/tracks/{self.track(n)}/routes", {"name": name, "jumps": jumps}, name)

    # Crates.

    @rule(n=N, is_folder=st.booleans())
    @of("crates")
    def make_crate(self, n: int, is_folder: bool) -> None:
        name = self.word("Crate")
        folders = [each["id"] for each in self.house.get("/api/crates") if each["is_folder"]]
        body = {"name": name, "is_folder": is_folder, "folder_id": pick(folders, n) if n % 2 else None}
        self.do("POST", "/api/crates", body, name)

    @rule(n=N, m=N)
    @of("crates")
    def fill_crate(self, n: int, m: int) -> None:
        if crate := self.list_by_hand(n):
            self.do("POST", f"/api/crates/{crate['id']}/tracks", {"ids": self.tracks(m), "at": m % 2 or None})

    @rule(n=N, m=N, what=st.sampled_from(["remove", "move"]))
    @of("crates")
    def empty_or_move_in_crate(self, n: int, m: int, what: str) -> None:
        if crate := self.list_by_hand(n):
            places = self.house.get(f"/api/crates/{crate['id']}/places")["places"]
            if places:
                chosen = [places[m % len(places)]]
                self.do("POST", f"/api/crates/{crate['id']}/tracks/{what}", {"places": chosen, "at": n % 3})

    @rule(n=N, m=N)
    @of("crates")
    def note_on_a_place(self, n: int, m: int) -> None:
        if crate := self.list_by_hand(n):
            places = self.house.get(f"/api/crates/{crate['id']}/places")["places"]
            note = self.word("Note")
            if places:
                body = {"places": [places[m % len(places)]], "note": note}
                self.do("PUT", f"/api/crates/{crate['id']}/notes", body, note)

    @rule(n=N)
    @of("crates")
    def rename_crate(self, n: int) -> None:
        name = self.word("Renamed")
        if crate := self.some("/api/crates", n):
            self.do("PATCH", f"/api/crates/{crate['id']}", {"name": name}, name)

    @rule(n=N)
    @of("crates")
    def delete_crate(self, n: int) -> None:
        if crate := self.some("/api/crates", n):
            self.do("DELETE", f"/api/crates/{crate['id']}")

    @rule(n=N, m=N, way=st.sampled_from(["add", "take", "change"]))
    @of("crates")
    def change_a_line_of_all_rules(self, n: int, m: int, way: str) -> None:
        ids = [each["id"] for each in self.house.get("/api/crates") if each["fills_itself"]]
        if ids:
            shared = self.house.ask("POST", "/api/rules/shared", {"crate_ids": ids}).told
            line = {"kind": "between", "field": "energy", "low": m, "high": None}
            old = None if way == "add" else (pick(shared, n) or {}).get("where")
            new = None if way == "take" else line
            self.do("POST", "/api/rules/shared/change", {"crate_ids": ids, "old": old, "new": new})

    @rule(n=N)
    @of("crates")
    def bring_back_crate(self, n: int) -> None:
        if deleted := self.some("/api/lists/deleted", n):
            self.do("POST", f"/api/lists/deleted/{deleted['id']}/bring-back")

    @rule(n=N, m=N)
    @of("crates")
    def move_into_folder(self, n: int, m: int) -> None:
        folders = [each["id"] for each in self.house.get("/api/crates") if each["is_folder"]]
        if crate := self.some("/api/crates", n):
            self.do("PUT", f"/api/crates/{crate['id']}/folder", {"folder_id": pick([*folders, None], m)})

    @rule(n=N, m=N)
    @of("crates")
    def make_rule(self, n: int, m: int) -> None:
        name, where = self.word("Rule"), self._condition(n, m)
        order = [{"sort": "title", "descending": False}]
        self.do("POST", "/api/rules", {"name": name, "rule": {"where": where, "order": order}}, name)

    def _condition(self, n: int, m: int) -> dict[str, Any]:
        tag, venue, crate = self.tag(m), self.some("/api/venues", m), self.some("/api/crates", m)
        asked: list[dict[str, Any]] = [{"kind": "between", "field": "rating", "low": 1, "high": 5}]
        asked += [{"kind": "tagged", "tag_id": tag["id"]}] if tag else []
        asked += [{"kind": "never at", "venue_id": venue["id"]}] if venue else []
        asked += [{"kind": "played at", "venue_id": venue["id"]}] if venue else []
        asked += [{"kind": "list", "list_id": crate["id"]}] if crate else []
        return {"kind": "all", "parts": [asked[n % len(asked)], asked[m % len(asked)]]}

    @rule(n=N)
    @of("crates")
    def make_series(self, n: int) -> None:
        name, by = self.word("Series"), ("style", "key", "month", "tempo", "energy")[n % 5]
        self.do("POST", "/api/lists/series", {"name": name, "by": by}, name)

    @rule(n=N, m=N)
    @of("crates")
    def divide_arrange_or_combine(self, n: int, m: int) -> None:
        crate, other = self.list_by_hand(n), self.some("/api/crates", m)
        name = self.word("Divider")
        if crate and m % 3 == 0:
            self.do("POST", f"/api/crates/{crate['id']}/dividers", {"name": name, "at": m % 4}, name)
        elif crate and m % 3 == 1:
            self.do("POST", f"/api/crates/{crate['id']}/arrange", {"how": "reverse"})
        elif crate and other:
            body = {"other_id": other["id"], "how": ("merge", "subtract", "intersect")[m % 3]}
            self.do("POST", f"/api/crates/{crate['id']}/combine", body)

    # The Logbook.

    @rule(n=N, on=DAYS, begins=CLOCKS)
    @of("logbook")
    def type_night(self, n: int, on: str, begins: str) -> None:
        play, venue, name = self.word("Play"), self.word("Venue"), self.word("Gig")
        titles = [row["title"] for row in self.rows()]
        lines = [f"{begins} Kelp Union – {title}" for title in titles[n % 3 : n % 3 + 3] if title]
        lines += [f"9:40 PM {play}", f"Nobody – {play} again"]
        known = self.some("/api/venues", n)
        body = {"text": "\n".join(lines), "on": on, "begins": begins, "name": name,
                "venue": known["name"] if known and n % 2 else venue}  # fmt: skip
        self.do("POST", "/api/nights", body, play, name)

    @rule(n=N)
    @of("logbook")
    def night_from_a_crate(self, n: int) -> None:
        if crate := self.list_by_hand(n):
            self.do("POST", "/api/nights", {"crate_id": crate["id"], "on": "2026-11-21"})

    def gig(self, n: int) -> dict[str, Any] | None:
        return self.some("/api/gigs", n)

    def plays(self, n: int) -> list[int]:
        gig = self.gig(n)
        return [play["id"] for play in self.house.get(f"/api/gigs/{gig['id']}")["plays"]] if gig else []

    @rule(n=N, on=DAYS, begins=CLOCKS)
    @of("logbook")
    def change_night(self, n: int, on: str, begins: str) -> None:
        note = self.word("Note")
        change = ({"on": on}, {"begins": begins}, {"ends": "03:00"}, {"begins": None}, {"note": note})[n % 5]
        if gig := self.gig(n):
            answer = self.do("PATCH", f"/api/gigs/{gig['id']}", change, *([note] if "note" in change else []))
            if answer.is_good:
                self.days.pop(gig["id"], None)

    @rule(n=N, m=N)
    @of("logbook")
    def mark_plays(self, n: int, m: int) -> None:
        note, plays = self.word("Mark"), self.plays(n)
        mark = (
            {"went": "well"},
            {"asked": True},
            {"never": "here"},
            {"never": "everywhere"},
            {"note": note},
        )[m % 5]
        if plays:
            self.do(
                "PUT",
                "/api/plays/marks",
                {"ids": plays[: 1 + m % 3], **mark},
                *([note] if "note" in mark else []),
            )

    @rule(n=N, m=N)
    @of("logbook")
    def put_into_night(self, n: int, m: int) -> None:
        play = self.word("Typed")
        if gig := self.gig(n):
            body = {"text": f"22:15 Somebody – {play}", "track_ids": self.tracks(m)[:1]}
            self.do("POST", f"/api/gigs/{gig['id']}/plays", body, play)

    @rule(n=N, m=N)
    @of("logbook")
    def take_move_or_match_play(self, n: int, m: int) -> None:
        plays = self.plays(n)
        play = pick(plays, m)
        if play is not None and m % 3 == 0:
            self.do("POST", "/api/plays/remove", {"ids": [play]})
        elif play is not None and m % 3 == 1:
            self.do("POST", "/api/plays/move", {"ids": [play], "before": plays[0]})
        elif play is not None:
            self.do("PUT", f"/api/plays/{play}/track", {"track_id": self.track(m) if n % 2 else None})

    @rule(n=N, m=N, what=st.sampled_from(["split", "join", "throw", "back", "delete"]))
    @of("logbook")
    def split_join_throw_or_delete(self, n: int, m: int, what: str) -> None:
        gig, plays = self.gig(n), self.plays(n)
        thrown, others = self.some("/api/gigs?practice=true", m), self.house.get("/api/gigs")
        if what == "split" and gig and plays:
            self.do("POST", f"/api/gigs/{gig['id']}/split", {"play_id": plays[m % len(plays)]})
        elif what == "join" and gig:
            other = thrown or pick(others, m)
            self.do("POST", "/api/gigs/join", {"ids": [gig["id"], other["id"] if other else gig["id"]]})
        elif what == "throw" and gig:
            self.do("POST", "/api/gigs/thrown-away", {"ids": [gig["id"]], "practice": True})
        elif what == "back" and thrown:
            self.do("POST", "/api/gigs/thrown-away", {"ids": [thrown["id"]], "practice": False})
        elif what == "delete" and gig:
            self.do("POST", "/api/gigs/delete", {"ids": [gig["id"]]})
        self.days = {}

    @rule(n=N)
    @of("logbook")
    def make_change_or_delete_venue(self, n: int) -> None:
        name, venue = self.word("Straße"), self.some("/api/venues", n)
        if n % 4 == 0 or venue is None:
            self.do("POST", "/api/venues", {"name": name}, name)
        elif n % 4 == 1:
            self.do("DELETE", f"/api/venues/{venue['id']}")
        else:
            self.do("PATCH", f"/api/venues/{venue['id']}", {"name": name, "clean_words": bool(n % 2)}, name)

    @rule(n=N)
    @of("logbook")
    def make_next_list(self, n: int) -> None:
        name = self.word("Next")
        if gig := self.gig(n):
            body = {"on": "2026-12-04", "name": name, "track_ids": self.tracks(n)}
            self.do("POST", f"/api/gigs/{gig['id']}/next", body, name)

    # Sticks.

    def stick(self, n: int) -> dict[str, Any] | None:
        return self.some("/api/sticks", n)

    @rule(n=N)
    @precondition(lambda self: len(self.house.get("/api/sticks")) < 2)
    @of("sticks")
    def make_stick(self, n: int) -> None:
        name = self.word("Stick")
        profile = ("Quay One", "Fairlead")[n % 2]
        self.do("POST", "/api/sticks", {"name": name, "capacity_mb": 40, "profile": profile}, name)

    @rule(n=N, m=N)
    @of("sticks")
    def choose_for_stick(self, n: int, m: int) -> None:
        crates = [each["id"] for each in self.house.get("/api/crates") if not each["is_folder"]]
        if stick := self.stick(n):
            path = f"/api/sticks/{stick['id']}"
            self.do("PUT", f"{path}/crates", {"crate_ids": crates[m % 3 :]})
            if m % 4 == 0:
                self.do("PUT", f"{path}/options", {"route_files": True, "smaller": bool(n % 2)})

    @rule(n=N)
    @of("sticks")
    def pack(self, n: int) -> None:
        if stick := self.stick(n):
            own = Path(stick["folder"]) / "Crates" / "Mine.m3u8"
            if stick["is_in"] and own not in self.own:
                own.parent.mkdir(exist_ok=True, parents=True)
                own.write_bytes(b"mine")
                self.own[own] = b"mine"
            self.do("POST", f"/api/sticks/{stick['id']}/pack")

    @rule(n=N, m=N)
    @of("sticks")
    def write_papers(self, n: int, m: int) -> None:
        stick = self.stick(n)
        index = Path(stick["folder"]) / "vinyl-stick.json" if stick else None
        if stick is None or index is None or not index.is_file():
            return
        told = json.loads(index.read_text())
        player = told["players"][0]
        track = pick(player["tracks"], m)
        if track is None:
            return
        change = uuid.UUID(int=random.Random(self.count).getrandbits(128)).hex
        line = {"change": change, "at": "2026-12-01T10:00:00Z", "on": told["written_at"],
                "player": player["profile"], "track": track["id"]}  # fmt: skip
        cue = {"position_s": 1.0 + m / 4, "length_s": None, "label": "booth", "role": None, "colour": "ink",
               "pad": None, "engages": False, "id": ""}  # fmt: skip
        kinds: list[dict[str, Any]] = [
            {"what": "stars", "stars": m % 6},
            {"what": "cues", "cues": [*track["cues"], cue], "before": track["cues"]},
            {"what": "cues", "cues": [{**cue, **BAD_PARTS[m % 4]}], "before": track["cues"]},
            {"what": "grid", "beats_per_bar": 4, "anchors": [{"time": 0.1 * m, "beat": 0.0, "bpm": 120.0}]},
            {"what": "grid", "beats_per_bar": 4, "anchors": [{"time": 0.0, "beat": 0.0, "bpm": -5.0}]},
            {
                "what": "list",
                "list": player["lists"][0]["id"] if player["lists"] else "",
                "tracks": [track["id"]],
            },
        ]
        self.count += 1
        with (index.parent / "changes.jsonl").open("a") as paper:
            paper.write(json.dumps({**line, **kinds[(n + m) % len(kinds)]}) + "\n" + ("{" if m == 7 else ""))
        play = {"play": f"walked play {self.count:04}", "track": track["id"], "heard_s": 200.0,
                "began_at": f"2026-11-2{m % 9}T22:0{n}:00Z"}  # fmt: skip
        with (index.parent / "plays.jsonl").open("a") as paper:
            paper.write(json.dumps(play) + "\n")

    @rule(n=N, choice=st.sampled_from(["theirs", "ours"]))
    @of("sticks")
    def take_home(self, n: int, choice: str) -> None:
        if stick := self.stick(n):
            path = f"/api/sticks/{stick['id']}"
            came = self.house.get(f"{path}/home")
            self.do("POST", f"{path}/home", {"choices": {each["key"]: choice for each in came}})

    @rule(n=N, what=st.sampled_from(["pull", "insert", "eject", "plays", "check"]))
    @of("sticks")
    def handle_stick(self, n: int, what: str) -> None:
        if stick := self.stick(n):
            body = {"mend": True} if what == "check" else None
            self.do("POST", f"/api/sticks/{stick['id']}/{what}", body)

    @rule(n=N)
    @of("sticks")
    def forget_stick(self, n: int) -> None:
        if (stick := self.stick(n)) and self.do("DELETE", f"/api/sticks/{stick['id']}").is_good:
            self.words.discard(stick["name"])

    # Exchange.

    def _order(self, target: str, n: int) -> dict[str, Any]:
        place = self.house.out / target
        place.mkdir(exist_ok=True)
        crates = [each["id"] for each in self.house.get("/api/crates") if not each["is_folder"]]
        return {"target": target, "place": str(place), "lists": crates[: n % 3] if n % 2 else None}

    @rule(n=N, library=TARGETS)
    @of("exchange")
    def keep_destination(self, n: int, library: str) -> None:
        name = self.word("Way")
        self.do("POST", "/api/exchange/destinations", {"name": name, "order": self._order(library, n)}, name)

    @rule(n=N, library=TARGETS)
    @of("exchange")
    def carry(self, n: int, library: str) -> None:
        kept = [each for each in self.house.get("/api/exchange/destinations") if each["target"] == library]
        order = {**kept[0]["order"], "changed_only": bool(n % 2)} if kept else self._order(library, n)
        self.do("POST", "/api/exchange/ledgers", order)
        self.house.rest()
        self.do("POST", "/api/exchange/carryings", order)
        self.house.rest()
        for job in self.house.get("/api/exchange/carryings"):
            assert job["state"] == "done" or "error of its own" not in (job["error"] or ""), job

    @rule(n=N, library=TARGETS)
    @of("exchange")
    def try_one_track(self, n: int, library: str) -> None:
        self.do("POST", f"/api/exchange/tracks/{self.track(n)}/try", self._order(library, n))

    @rule(n=N, spoil=st.sampled_from(SPOILS), in_journal=st.booleans())
    @of("exchange")
    def another_program_works(self, n: int, spoil: str, in_journal: bool) -> None:
        place = self.house.out / "saltmarsh" / "vinyl.saltmarsh.db"
        if not place.is_file():
            return
        with closing(sqlite3.connect(place, isolation_level=None)) as other:
            other.execute(f"PRAGMA journal_mode = {'WAL' if in_journal else 'DELETE'}")
            other.execute(spoil)

    @rule(
        n=N,
        library=st.sampled_from(LIBRARIES),
        lists=st.booleans(),
        choice=st.sampled_from(["rule", "theirs", "ours"]),
    )
    @of("exchange")
    def look_at_library_and_take(self, n: int, library: str, lists: bool, choice: str) -> None:
        place = self.house.out / library
        answer = self.do("POST", "/api/exchange/looks", {"target": library, "place": str(place)})
        if not answer.is_good:
            return
        self.house.rest()
        path = f"/api/exchange/looks/{answer.told['id']}"
        job = self.house.get(f"/api/jobs/{answer.told['id']}")
        assert "error of its own" not in (job["error"] or ""), job
        if job["state"] == "done":
            self.house.get(path)
            self.house.get(f"{path}/rows?limit=50")
            self.do("POST", f"{path}/choose", {"choice": choice})
            taken = self.do("POST", f"{path}/take", {"lists": lists, "plays": True})
            self.house.rest()
            if taken.is_good:
                ended = self.house.get(f"/api/jobs/{taken.told['id']}")
                assert ended["state"] == "done", ended["error"]
        self.days = {}

    @rule(n=N)
    @of("exchange")
    def write_document(self, n: int) -> None:
        self.do("POST", "/api/exchange/documents", {"place": str(self.house.out / f"all {n % 2}")})

    @rule(n=N)
    @of("exchange")
    def write_tags(self, n: int) -> None:
        fields = ["title", "artist", "stars", "year", "comment"]
        self.do("POST", "/api/tags/write", {"ids": [self.track(n)], "fields": fields, "cues": bool(n % 2)})

    # Steps back and forth, other hands, and the power.

    @rule(n=N)
    def undo(self, n: int) -> None:
        for _ in range(1 + n % 3):
            self._step("undo")
        self.days = {}

    @rule(n=N)
    def redo(self, n: int) -> None:
        for _ in range(1 + n % 3):
            self._step("redo")
        self.days = {}

    def _step(self, stack: str, step_id: int | None = None) -> Answer:
        """Take a step back; what is said to have been changed since is let go of."""
        held = checks.words_of_step(self.house, stack, step_id, self.words)
        answer = self.do("POST", f"/api/{stack}", None if step_id is None else {"id": step_id})
        if answer.is_good and answer.told["left"]:
            self.words -= held
        return answer

    @rule(n=N)
    def undo_what_a_slow_window_shows(self, n: int) -> None:
        """Another hand comes in between; the step that was meant is taken back, and no other."""
        shown = self.house.get("/api/undo")["undo"]
        self.rename_crate(n)
        on_top = self.house.get("/api/undo")["undo"]
        if shown and on_top and shown["id"] != on_top["id"]:
            answer = self._step("undo", shown["id"])
            assert not answer.is_good or answer.told["name"] == shown["name"]
            assert self.house.get("/api/undo")["undo"]["id"] == on_top["id"]
        self.days = {}

    @rule(n=N)
    def command_beside(self, n: int) -> None:
        commands = (["crate", "list"], ["log", "list"], ["stick", "list"], ["crate", "show", "nowhere"])
        ended = self.house.command(*commands[n % len(commands)])
        assert "Traceback" not in ended.stderr, ended.stderr

    @rule(zone=ZONE, kill=st.booleans())
    def begin_again_elsewhere(self, zone: str, kill: bool) -> None:
        """The laptop travels; the day of each night stays what it was."""
        if not kill:
            self.house.rest()
        self.house.again(zone, kill)
        self.heard = 0
        self.house.rest()
        for gig in self.house.get("/api/gigs"):
            assert self.days.get(gig["id"], gig["on"]) == gig["on"], "the day of a night stays"

    # What must hold.

    @invariant()
    def all_is_well(self) -> None:
        moved, self.has_moved = self.has_moved, True
        if not moved:
            return
        self.house.rest()
        self._look()
        pages.open_all(self.house)
        checks.undo_then_redo_is_the_same(self.house)
        self.house.rest()
        checks.references_are_whole(self.house)
        checks.server_is_small(self.house)
        checks.own_files_stay(self.own)
        self._words_are_kept()
        self.days = {gig["id"]: gig["on"] for gig in self.house.get("/api/gigs")}
        self.seen = {view: view.ask(self.house) for view in pages.views(self.house)}
        self.heard = len(self.house.listener.events)

    def _look(self) -> None:
        """Everything opens, and what is other than it was is taken for stale by the page."""
        for view in pages.views(self.house):
            now = view.ask(self.house)
            if view in self.seen and self.seen[view] != now:
                self._page_hears_of(view)

    def _page_hears_of(self, view: View) -> None:
        """What the program does by itself may be told a moment after it can be seen."""
        told = lambda: pages.told_in(self.house.listener.events[self.heard :])  # noqa: E731
        wait_for(
            lambda: pages.is_stale(view.key, told(), self.stale_table),
            lambda: f"{view.key} shows something else; told were {sorted({e.topic for e in told()})}",
            TOLD_S,
        )

    def _words_are_kept(self) -> None:
        gone, only_redone = checks.words_kept(self.house, self.words)
        lost = gone - self.only_redone
        assert not lost, f"typed, and nowhere any more: {sorted(lost)}"
        self.words -= gone
        self.only_redone |= only_redone

    def teardown(self) -> None:
        if not hasattr(self, "house"):
            return
        try:
            checks.documents_carry_all(self.house)
        finally:
            self.house.end()
