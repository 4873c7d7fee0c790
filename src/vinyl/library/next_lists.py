"""The next list for a venue, made from a night that was played."""

from __future__ import annotations

import heapq
import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from vinyl.core.logbook.next_list import (
    MOST_ENERGY,
    MOST_TEMPO,
    Fate,
    Judged,
    Role,
    Verdict,
    judge,
    role_reasons,
    role_score,
)
from vinyl.library import crates, find, gigs, logbook, plays, tags, venues
from vinyl.library.gigs import Gig
from vinyl.library.plays import Play
from vinyl.library.tracks import existing

# Candidates of a role that are looked at, and those that are offered.
LOOKED_AT, OFFERED = 500, 6
# What is between all energies, where a track has none.
UNKNOWN_ENERGY, UNKNOWN = 50, -1
# What tracks are ranked by stands above their ids in one number.
MOST_STARS, ID_BITS = 5, 40
LATELY_WEEKS = 12


@dataclass(frozen=True, slots=True)
class Candidate:
    """A track that can take the place of another, and why."""

    track_id: int
    artist: str
    title: str
    reasons: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Place:
    """What becomes of a play of the former night: kept, dropped, or replaced by the first of the
    candidates.
    """

    play: Play
    fate: Fate
    reason: str
    candidates: tuple[Candidate, ...]


def plan(connection: sqlite3.Connection, gig_id: int, on: date, share: float, weeks: int) -> list[Place]:
    """What of a night would stand in the next list.

    Args:
        share: which part of it is replaced, from 0 to 1.
        weeks: for how long what comes in must not have been played there.
    """
    gig = gigs.get_gig(connection, gig_id)
    there = plays.list_plays(connection, gig_id)
    lately = logbook.played_lately(
        connection, gig.facts.venue_id, logbook.weeks_before(gig.facts.began.date(), LATELY_WEEKS)
    )
    here = [play.track_id for play in there if play.track_id is not None]
    never = logbook.never_at(connection, gig.facts.venue_id, here)
    gone = {play.kept_id: "taken off the Shelf" for play in there if play.track_id != play.kept_id}
    never |= {track: why for track, why in gone.items() if track is not None}
    finder = _Finder(connection, gig, there, weeks, on)
    found = [finder.candidates(play.track_id) if play.track_id is not None else () for play in there]
    judged = [_judged(play, never, lately, bool(others)) for play, others in zip(there, found, strict=True)]
    return _placed(there, judge(judged, share), found, never)


def _placed(
    there: Sequence[Play],
    verdicts: Sequence[Verdict],
    found: Sequence[tuple[Candidate, ...]],
    never: Mapping[int, str],
) -> list[Place]:
    """What becomes of each play; no track takes the place of two."""
    taken: set[int] = set()
    places = []
    for play, verdict, others in zip(there, verdicts, found, strict=True):
        fate, reason = verdict.fate, verdict.reason
        free = sorted(others, key=lambda each: each.track_id in taken)
        if fate == "drop":
            reason = never.get(play.kept_id or 0, reason)
        elif fate == "replace" and free[0].track_id in taken:
            fate, reason = "keep", "nothing else plays its role"
        elif fate == "replace":
            taken.add(free[0].track_id)
        places.append(Place(play, fate, reason, tuple(free)))
    return places


def make_list(
    connection: sqlite3.Connection, gig_id: int, name: str, track_ids: Sequence[int]
) -> tuple[int, dict[int, str]]:
    """Make a crate of tracks for the next night at a night's venue; returns its id, and what of it is
    warned of.
    """
    gig = gigs.get_gig(connection, gig_id)
    crate_id = crates.make_crate(connection, crates.free_name(connection, name))
    connection.execute("UPDATE crate SET venue_id = ? WHERE id = ?", (gig.facts.venue_id, crate_id))
    crates.add_tracks(connection, crate_id, existing(connection, track_ids))
    return crate_id, logbook.never_at(connection, gig.facts.venue_id, track_ids)


def name_for(connection: sqlite3.Connection, gig: Gig, on: date) -> str:
    """What a list for a date is called."""
    venue_id = gig.facts.venue_id
    where = venues.get_venue(connection, venue_id).name if venue_id else gig.facts.name or "Gig"
    return f"{where}, {on:%a} {on.day} {on:%b}"


def _judged(
    play: Play, never: Mapping[int, str], lately: Mapping[int, tuple[int, str]], has_others: bool
) -> Judged:
    track = play.kept_id or 0
    gone = track in never or play.never != ""
    return Judged(play.went, play.asked, gone, lately.get(track, (1, ""))[0], has_others)


class _Finder:
    """Finds what can take the place of tracks of one night."""

    def __init__(
        self, connection: sqlite3.Connection, gig: Gig, there: Sequence[Play], weeks: int, on: date
    ) -> None:
        self._connection = connection
        self._held = {plays.text_key(play.artist, play.title) for play in there}
        self._venue_id = gig.facts.venue_id
        at = gig.facts.began.date()
        since = logbook.weeks_before(at, max(0, weeks - max(0, (on - at).days) // 7))
        self._lately = logbook.played_lately(connection, self._venue_id, since)
        self._names = dict(tags.names(connection))
        self._roles = _roles(connection, [play.track_id for play in there if play.track_id is not None])
        self._measures = _Measures(connection, self._lately)

    def candidates(self, track_id: int) -> tuple[Candidate, ...]:
        """What can take a track's place, the best first."""
        wanted, found = self._roles[track_id], []
        for other in self._near(wanted):
            score = role_score(wanted, self._roles[other])
            if score is not None:
                found.append((-score, other))
        best = [other for _, other in heapq.nsmallest(4 * OFFERED, found)]
        reasons = {other: role_reasons(wanted, self._roles[other], self._names) for other in best}
        return tuple(self._allowed(reasons)[:OFFERED])

    def _allowed(self, found: Mapping[int, tuple[str, ...]]) -> list[Candidate]:
        """Those that may be played there again, and are not there under another id, as the same recording in
        another file is.
        """
        never = logbook.never_at(self._connection, self._venue_id, list(found))
        ever = logbook.last_at(self._connection, self._venue_id, list(found))
        rows = find.get_rows(self._connection, list(found))
        return [
            _candidate(row, found[row["id"]], ever.get(row["id"]))
            for row in rows
            if row["id"] not in never and plays.text_key(row["artist"], row["title"]) not in self._held
        ]

    def _near(self, wanted: Role) -> list[int]:
        """Tracks that may take a role by their measures, whose own roles are then known."""
        near = self._measures.near(wanted)
        self._roles.update(_roles(self._connection, [track for track in near if track not in self._roles]))
        return [track for track in near if track in self._roles]


def _candidate(row: sqlite3.Row, reasons: tuple[str, ...], ever: tuple[str, int] | None) -> Candidate:
    when = f"not here since {_day(ever[0])}" if ever else "never played here"
    return Candidate(row["id"], row["artist"], row["title"], (*reasons, when))


def _day(on: str) -> str:
    day = date.fromisoformat(on)
    return f"{day.day} {day:%b %Y}"


class _Measures:
    """Tempo, energy and stars of all tracks that may be played, read once for all plays of a night."""

    def __init__(self, connection: sqlite3.Connection, but_not: Iterable[int]) -> None:
        # One text a column is faster than a row a track.
        texts = connection.execute(
            """SELECT group_concat(id), group_concat(coalesce(bpm, 'nan')),
                 group_concat(coalesce(energy, 'nan')), group_concat(rating)
               FROM shelf INDEXED BY shelf_narrow WHERE NOT never_again"""
        ).fetchone()
        table = np.array([np.fromstring(text or "", sep=",") for text in texts]).T
        table = table[~np.isin(table[:, 0], list(but_not))]
        # By tempo, those without one last, so that what is near in it lies together.
        table = table[np.argsort(table[:, 1])]
        self._bpm, whole = table[:, 1], np.nan_to_num(table, nan=UNKNOWN).astype(np.int64)
        self._ids, self._energy, self._stars = whole[:, 0], whole[:, 2], whole[:, 3]

    def near(self, wanted: Role) -> list[int]:
        """Those with the most stars, then those nearest in energy, among what is near in tempo."""
        within = slice(None)
        if wanted.bpm:
            ends = [wanted.bpm / (1 + MOST_TEMPO), wanted.bpm / (1 - MOST_TEMPO)]
            within = slice(*np.searchsorted(self._bpm, ends))
        middle = wanted.energy if wanted.energy is not None else UNKNOWN_ENERGY
        apart = np.abs(np.where(self._energy[within] == UNKNOWN, middle, self._energy[within]) - middle)
        ranks = ((MOST_STARS - self._stars[within]) * (MOST_ENERGY + 1) + apart << ID_BITS) | self._ids[
            within
        ]
        ranks = ranks[apart <= MOST_ENERGY]
        first = np.sort(np.partition(ranks, LOOKED_AT)[:LOOKED_AT] if len(ranks) > LOOKED_AT else ranks)
        return [int(rank) & ((1 << ID_BITS) - 1) for rank in first]


def _roles(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, Role]:
    rows = connection.execute(
        """SELECT s.id, s.bpm, s.energy, s.key, s.tags, s.rating FROM json_each(?) i
           JOIN shelf s INDEXED BY shelf_narrow ON s.id = i.value""",
        (json.dumps(list(track_ids)),),
    )
    return {row["id"]: _role(row) for row in rows}


def _role(row: sqlite3.Row) -> Role:
    held = frozenset(int(tag) for tag in filter(None, row["tags"].split(",")))
    return Role(row["bpm"], row["energy"], row["key"], held, row["rating"])
