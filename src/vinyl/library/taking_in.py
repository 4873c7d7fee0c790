"""Taking in what was played, from a stick, a file or a list: nights told apart, and the same night joined."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass, replace

from vinyl.core.logbook.nights import split_nights
from vinyl.core.logbook.same_night import Played, Together, put_together
from vinyl.core.ordering import keys_between
from vinyl.library import gigs, plays
from vinyl.library.clock import from_seconds, now, offset_min, seconds
from vinyl.library.gigs import Facts
from vinyl.library.plays import Coming, Play, PlaySource

# Clocks of players are set wrong by hours or a day; nights further apart are never taken for one.
NEAR_DAYS = 1.5
LONGEST_NOTE = 4000


@dataclass(frozen=True, slots=True)
class Told:
    """A play that a player has written down, and what the player calls it."""

    play: Coming
    told_as: str


@dataclass(frozen=True, slots=True)
class Taken:
    """A night that was taken in: into which gig, whether that was there, what it added and what both told
    of, and by how many seconds its clock was ahead.
    """

    gig_id: int
    was_there: bool
    added: int
    shared: int
    clock_off_s: float = 0.0


def take_in_told(connection: sqlite3.Connection, told: Sequence[Told]) -> list[Taken]:
    """Keep what a player has told, each play once ever, as nights."""
    known = {
        row[0]
        for row in connection.execute(
            "SELECT told_as FROM play_told WHERE told_as IN (SELECT value FROM json_each(?))",
            (json.dumps([each.told_as for each in told]),),
        )
    }
    fresh = list({each.told_as: each for each in told if each.told_as not in known}.values())
    fresh.sort(key=lambda each: each.play.played_at or "")
    connection.executemany(
        "INSERT INTO play_told (told_as, taken_at) VALUES (?, ?)", [(each.told_as, now()) for each in fresh]
    )
    begins = [seconds(each.play.played_at or now()) for each in fresh]
    taken = []
    for night in split_nights(begins):
        coming = [fresh[place].play for place in night]
        facts = Facts(coming[0].played_at or now(), ended_at=_end(coming), came_from="a stick")
        taken.append(take_in(connection, coming, facts, "player"))
    return taken


def take_in(
    connection: sqlite3.Connection, coming: Sequence[Coming], facts: Facts, source: PlaySource
) -> Taken:
    """Take a night in: joined with a gig that tells of the same night, else as a new one."""
    found = find_same(connection, coming, facts)
    if found is not None:
        return _join(connection, *found, coming, facts, source)
    gig_id = gigs.make_gig(connection, facts)
    plays.insert(connection, gig_id, coming, keys_between(None, None, len(coming)), source)
    gigs.settle(connection, [gig_id])
    return Taken(gig_id, False, len(coming), 0)


def find_same(
    connection: sqlite3.Connection, coming: Sequence[Coming], facts: Facts
) -> tuple[int, list[Play], Together] | None:
    """The gig that tells of the same night, what was played there, and how both go together; None if there is
    none.
    """
    texts = plays.texts_of(connection, [play.track_id for play in coming if play.track_id is not None])
    told = [_told(play, texts) for play in coming]
    best: tuple[int, list[Play], Together] | None = None
    for gig_id in _near(connection, facts) if coming else ():
        there = plays.list_plays(connection, gig_id)
        together = put_together([_as_played(play) for play in there], told) if there else None
        if together and (best is None or together.shared > best[2].shared):
            best = (gig_id, there, together)
    return best


def _near(connection: sqlite3.Connection, facts: Facts) -> list[int]:
    """Gigs that may be the same night: near in time, or on the same date where that is all that is known;
    not at two different venues.
    """
    at = seconds(facts.began_at)
    window = [from_seconds(at + sign * NEAR_DAYS * 86400) for sign in (-1, 1)]
    rows = connection.execute(
        """SELECT id, on_day, timed FROM gig WHERE began_at BETWEEN ? AND ?
           AND (venue_id IS NULL OR ?3 IS NULL OR venue_id = ?3) ORDER BY began_at""",
        (*window, facts.venue_id),
    ).fetchall()
    on = str(facts.began.date())
    return [row["id"] for row in rows if (facts.timed and row["timed"]) or row["on_day"] == on]


def _join(
    connection: sqlite3.Connection,
    gig_id: int,
    there: Sequence[Play],
    together: Together,
    coming: Sequence[Coming],
    facts: Facts,
    source: PlaySource,
) -> Taken:
    off_s = together.clock_off_s
    set_right = [_earlier(play, off_s) for play in coming]
    timed = any(play.timed for play in there)
    for first, second in together.order:
        if first is not None and second is not None:
            _complete(connection, there[first], set_right[second])
    order = [None if first is None else there[first].id for first, _ in together.order]
    new = [set_right[second] for first, second in together.order if first is None and second is not None]
    _place(connection, gig_id, order, new, source)
    _complete_facts(connection, gig_id, replace(facts, came_from=""), set_right, timed)
    gigs.settle(connection, [gig_id])
    return Taken(gig_id, True, len(new), together.shared, off_s)


def _place(
    connection: sqlite3.Connection,
    gig_id: int,
    order: Sequence[int | None],
    new: Sequence[Coming],
    source: PlaySource,
) -> None:
    """Put new plays where None stands in an order of plays, all of which get their places anew."""
    keys = keys_between(None, None, len(order))
    connection.executemany(
        "UPDATE play SET position = ? WHERE id = ?",
        [(key, play_id) for key, play_id in zip(keys, order, strict=True) if play_id is not None],
    )
    free = [key for key, play_id in zip(keys, order, strict=True) if play_id is None]
    plays.insert(connection, gig_id, new, free, source)


def _complete(connection: sqlite3.Connection, there: Play, coming: Coming) -> None:
    """What a play lacks, and the other telling has."""
    if not there.timed and coming.played_at:
        connection.execute(
            "UPDATE play SET played_at = ?, offset_min = ?, timed = 1 WHERE id = ?",
            (coming.played_at, offset_min(coming.played_at), there.id),
        )
    if there.heard_s is None and coming.heard_s is not None:
        connection.execute("UPDATE play SET heard_s = ? WHERE id = ?", (coming.heard_s, there.id))


def _complete_facts(
    connection: sqlite3.Connection, gig_id: int, facts: Facts, coming: Sequence[Coming], was_timed: bool
) -> None:
    before = gigs.get_gig(connection, gig_id).facts
    changes: dict[str, object] = {
        name: getattr(facts, name)
        for name in ("venue_id", "name", "kind", "note")
        if getattr(facts, name) and not getattr(before, name)
    }
    if said := _said_besides(before, facts):
        changes["note"] = said
    begins = [play.played_at for play in coming if play.played_at]
    if begins and (not before.timed or not was_timed):
        changes |= {"timed": True, "ended_at": before.ended_at or _end(coming)}
        first = min(begins)
        connection.execute(
            "UPDATE gig SET began_at = ?, began_offset_min = ? WHERE id = ?",
            (first, before.offset_at(first), gig_id),
        )
    elif begins:
        ends = [end for end in (before.ended_at, _end(coming)) if end]
        changes["ended_at"] = max(ends) if ends else None
        connection.execute("UPDATE gig SET began_at = min(began_at, ?) WHERE id = ?", (min(begins), gig_id))
    if changes.get("ended_at"):
        changes["ended_offset_min"] = before.offset_at(str(changes["ended_at"]))
    gigs.change_gig(connection, gig_id, changes)


def _said_besides(before: Facts, facts: Facts) -> str:
    """The note of a gig with what another telling of it says besides; empty where that is nothing new."""
    more = [facts.note] if facts.note and before.note and facts.note not in before.note else []
    if facts.name and before.name and facts.name not in f"{before.name}\n{before.note}":
        more.append(f"Also called “{facts.name}”.")
    return "\n".join([before.note, *more] if before.note else more)[:LONGEST_NOTE] if more else ""


def _end(coming: Sequence[Coming]) -> str | None:
    """When the last of some plays ended, as far as is known."""
    ends = [seconds(play.played_at) + (play.heard_s or 0.0) for play in coming if play.played_at]
    return from_seconds(max(ends)) if ends else None


def _earlier(play: Coming, by_s: float) -> Coming:
    if not by_s or play.played_at is None:
        return play
    return replace(play, played_at=from_seconds(seconds(play.played_at) - by_s))


def _as_played(play: Play) -> Played:
    return Played(
        _name(play.kept_id, play.artist, play.title), seconds(play.played_at) if play.timed else None
    )


def _told(play: Coming, texts: dict[int, tuple[str, str]]) -> Played:
    artist, title = texts.get(play.track_id or 0, (play.artist, play.title))
    return Played(_name(play.track_id, artist, title), seconds(play.played_at) if play.played_at else None)


def _name(track_id: int | None, artist: str, title: str) -> str:
    """By artist and title first: two files of one recording may tell of the same play."""
    return plays.text_key(artist, title) or f"#{track_id}"
