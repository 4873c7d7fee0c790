"""A set as it stands: times, what each joint is, and what speaks against tracks and joints."""

from __future__ import annotations

import itertools
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from vinyl.core.planning.clearance import Ruling, caution_of
from vinyl.core.planning.mixing import Settings
from vinyl.core.planning.proposing import By, Proposal, propose
from vinyl.core.planning.running_order import Pins
from vinyl.core.planning.transitions import (
    Caution,
    Handover,
    Rules,
    Stop,
    Weight,
    begins_s,
    cautions_at,
    cautions_between,
    transition,
)
from vinyl.library import clearances, logbook, mixes, sets
from vinyl.library.clock import today
from vinyl.library.errors import LibraryError
from vinyl.library.sets import DjSet, Entry, Said

LATELY_WEEKS = 12
# What is ordered at once: each with each is weighed.
MOST_ORDERED = 150
BEATS_A_BAR, SECONDS_A_MINUTE, USUAL_BPM = 4, 60.0, 120.0


@dataclass(frozen=True, slots=True)
class Planned:
    """An entry with when it begins, from the start of the set on, what speaks against it, and when it was
    last played there.
    """

    entry: Entry
    begins_s: float
    cautions: tuple[Caution, ...]
    last_here: str
    times_here: int


@dataclass(frozen=True, slots=True)
class Joint:
    """Where an entry goes over into the next: how, for how many seconds, what it is, what to do, and whether
    it was said to work.
    """

    out_id: int
    in_id: int
    settings: Settings
    over_s: float
    works: bool | None
    words: tuple[str, ...]
    cautions: tuple[Caution, ...]
    note: str


@dataclass(frozen=True, slots=True)
class Plan:
    """A set with its running order, its tray, and how long it lasts."""

    set: DjSet
    placed: tuple[Planned, ...]
    tray: tuple[Planned, ...]
    joints: tuple[Joint, ...]
    lasts_s: float


def read_plan(connection: sqlite3.Connection, set_id: int) -> Plan:
    """All of a set.

    Raises:
        NotFoundError: if it is gone.
    """
    dj_set, entries = sets.get_set(connection, set_id), sets.list_entries(connection, set_id)
    stops, last = _stops(connection, dj_set, entries)
    count = sum(entry.placed for entry in entries)
    joints = _joints(connection, dj_set, entries[:count], stops[:count])
    handovers = [Handover(each.over_s, each.settings.out_s, each.settings.in_s) for each in joints]
    times = begins_s([stop.duration_s for stop in stops[:count]], handovers)
    planned = [
        Planned(
            entry,
            times[place] if place < count else 0.0,
            tuple(cautions_at(stops[:count] if place < count else [stop], place if place < count else 0)),
            *last.get(entry.track_id or 0, ("", 0)),
        )
        for place, (entry, stop) in enumerate(zip(entries, stops, strict=True))
    ]
    return Plan(dj_set, tuple(planned[:count]), tuple(planned[count:]), tuple(joints), times[-1])


def rules_of(dj_set: DjSet) -> Rules:
    """What its joints may be."""
    return Rules(dj_set.tempo_percent, dj_set.key_held)


def _stops(
    connection: sqlite3.Connection, dj_set: DjSet, entries: Sequence[Entry]
) -> tuple[list[Stop], dict[int, tuple[str, int]]]:
    """Entries as they are weighed, and on which day each was last played there, and how often."""
    ids = [entry.track_id for entry in entries if entry.track_id is not None]
    day = date.fromisoformat(dj_set.on_day) if dj_set.on_day else today()
    never = logbook.never_at(connection, dj_set.venue_id, ids)
    said = clearances.clearances(connection, ids)
    last, since = {}, logbook.weeks_before(day, LATELY_WEEKS)
    if dj_set.venue_id is not None:
        last = logbook.last_at(connection, dj_set.venue_id, ids)
    lately = {each: _day(on) for each, (on, _) in last.items() if on >= since}
    stops = [
        Stop(
            entry.bpm, entry.key, entry.energy, entry.duration_s, entry.artist, entry.doubt, entry.away,
            entry.on_shelf, lately.get(entry.track_id or 0, ""), never.get(entry.track_id or 0, ""),
            caution_of(said.get(entry.track_id or 0, Ruling())),
        )
        for entry in entries
    ]  # fmt: skip
    return stops, {each: (_day(on), times) for each, (on, times) in last.items()}


def _day(on: str) -> str:
    day = date.fromisoformat(on)
    return f"{day.day} {day:%b %Y}" if day.year != today().year else f"{day.day} {day:%b}"


def _joints(
    connection: sqlite3.Connection, dj_set: DjSet, entries: Sequence[Entry], stops: Sequence[Stop]
) -> list[Joint]:
    known, rules = sets.list_transitions(connection, dj_set.id), rules_of(dj_set)
    heard = mixes.verdicts(connection, [each.track_id for each in entries if each.track_id is not None])
    pairs: set[tuple[int, int]] = set()
    if dj_set.venue_id is not None:
        pairs = logbook.last_pairs(connection, dj_set.venue_id, dj_set.on_day or "9999")
    joints = []
    for (out, out_stop), (into, in_stop) in itertools.pairwise(zip(entries, stops, strict=True)):
        said = known.get((out.id, into.id), Said())
        pair = (out.track_id or 0, into.track_id or 0)
        found = transition(out_stop, in_stop, rules)
        cautions = tuple(cautions_between(out_stop, in_stop, rules, pair in pairs))
        over_s = said.settings.over_bars * BEATS_A_BAR * SECONDS_A_MINUTE / (out.bpm or USUAL_BPM)
        joints.append(
            Joint(out.id, into.id, said.settings, over_s, heard.get(pair), found.words, cautions, said.note)
        )
    return joints


def propose_order(
    connection: sqlite3.Connection,
    set_id: int,
    by: By,
    entry_ids: Sequence[int] = (),
    weights: Mapping[Weight, float] | None = None,
) -> tuple[list[int], Proposal]:
    """A running order for a set, or for a stretch of it, that keeps what is pinned; nothing is changed.

    Args:
        entry_ids: the stretch, entries that stand one after the other; all if none are given.
        weights: what each is to say where all is weighed, if not what is usual.

    Raises:
        LibraryError: if they do not, or there is nothing to order.
        PinsError: if pins contradict each other.
    """
    dj_set = sets.get_set(connection, set_id)
    entries = [entry for entry in sets.list_entries(connection, set_id) if entry.placed]
    wanted = set(entry_ids) or {entry.id for entry in entries}
    at = [place for place, entry in enumerate(entries) if entry.id in wanted]
    if len(at) < 2 or at[-1] - at[0] >= len(at):
        raise LibraryError("Choose two tracks or more that stand one after the other to have them ordered.")
    if len(at) > MOST_ORDERED:
        raise LibraryError(f"Up to {MOST_ORDERED} tracks are ordered at once: choose a stretch of them.")
    stretch = entries[at[0] : at[-1] + 1]
    stops, _ = _stops(connection, dj_set, stretch)
    shares = [(place + 0.5) / len(entries) for place in at]
    pins = _pins(stretch, at[0], len(entries))
    found = propose(stops, by, rules_of(dj_set), dj_set.arc, pins, shares, weights)
    return [stretch[place].id for place in found.order], found


def _pins(stretch: Sequence[Entry], start: int, total: int) -> Pins:
    """What is pinned of a stretch, by places within it."""
    places: dict[int, int] = {}
    for place, entry in enumerate(stretch):
        if entry.pin == "here":
            places[place] = place
        elif entry.pin == "first" and start == 0:
            places[place] = 0
        elif entry.pin == "last" and start + len(stretch) == total:
            places[place] = len(stretch) - 1
    followed = {place: place + 1 for place, entry in enumerate(stretch[:-1]) if entry.with_next}
    return Pins(places, followed)
