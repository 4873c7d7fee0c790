"""What the Logbook tells: what was played at a venue, where and when a track was, and a year at a glance."""

from __future__ import annotations

import itertools
import json
import sqlite3
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from functools import cache
from typing import Any, Literal

from vinyl.core.logbook.beside import repeated_pairs
from vinyl.library.off_shelf import text_off
from vinyl.library.plays import TEXTS, texts_of

# Bars of a night's silhouette.
SHAPE_BARS = 9
MOST_WEEKS = 50_000
MOST_PAIRS = 40
MOST_FIGURES = 12
Sorted = Literal["last", "times", "title", "well"]
# What each order goes by, as little of it as can be: thousands of tracks are sorted for a window of some.
ORDERS: dict[Sorted, str] = {
    "last": "max(p.played_at) DESC", "times": "count(*) DESC, max(p.played_at) DESC",
    "title": "coalesce(s.title, p.title) COLLATE NOCASE",
    "well": "sum(p.went = 'well') DESC, count(*) DESC",
}  # fmt: skip
# The cross join has the nights looked through first, which are few beside the plays.
COUNTED = "FROM gig g CROSS JOIN play p ON p.gig_id = g.id WHERE NOT g.practice"


@dataclass(frozen=True, slots=True)
class PlayedThere:
    """A track as it was played at a venue, with the days of the first and the last night; ``track_id`` is
    None for what is not on the Shelf.
    """

    track_id: int | None
    artist: str
    title: str
    times: int
    first_on: str
    last_on: str
    well: int
    flat: int
    asked: int
    never: bool


@dataclass(frozen=True, slots=True)
class Heard:
    """A play of a track: at which gig and venue, and what was played before and after."""

    play_id: int
    gig_id: int | None
    venue: str
    gig: str
    practice: bool
    played_at: str
    offset_min: int
    on_day: str
    timed: bool
    went: str
    asked: bool
    note: str
    before: str
    after: str


@dataclass(frozen=True, slots=True)
class Pair:
    """Two tracks that followed each other at so many nights."""

    first_id: int
    first: str
    then_id: int
    then: str
    nights: int


def played_at(
    connection: sqlite3.Connection,
    venue_id: int | None,
    order: Sorted = "last",
    offset: int = 0,
    limit: int = 100,
) -> tuple[list[PlayedThere], int]:
    """A window of what was played at a venue, or anywhere, and how many tracks that are in all."""
    where = "" if venue_id is None else "AND g.venue_id = ?"
    values = [] if venue_id is None else [venue_id]
    named = "LEFT JOIN shelf s ON s.id = p.track_id" if order == "title" else ""
    found = connection.execute(
        f"""SELECT p.track_id, iif(p.track_id IS NULL, p.name_key, '') AS text, count(*) OVER () AS total
            {COUNTED.replace("WHERE", f"{named} WHERE")} {where}
            GROUP BY p.track_id, text ORDER BY {ORDERS[order]}, p.track_id, text LIMIT ? OFFSET ?""",
        (*values, limit, offset),
    ).fetchall()
    told = _told(connection, [row["track_id"] for row in found], [row["text"] for row in found], venue_id)
    rows = [told[row["track_id"], row["text"]] for row in found]
    return [_there(row) for row in rows], found[0]["total"] if found else 0


def _told(
    connection: sqlite3.Connection,
    track_ids: Sequence[int | None],
    texts: Sequence[str],
    venue_id: int | None,
) -> dict[tuple[int | None, str], sqlite3.Row]:
    """What is told of some tracks and texts that were played at a venue, or anywhere."""
    rows = connection.execute(
        f"""WITH heard AS (
             SELECT p.*, '' AS text FROM json_each(?1) i JOIN play p ON p.track_id = i.value
             UNION ALL
             SELECT p.*, p.name_key AS text FROM json_each(?2) i
             JOIN play p ON p.name_key = i.value AND i.value <> '' AND p.name_key <> '' AND p.track_id IS
             NULL)
           SELECT h.track_id, h.text, s.id AS here, h.artist, h.title, {TEXTS},
             count(*) AS times, min(g.on_day) AS first_on, max(g.on_day) AS last_on,
             sum(h.went = 'well') AS well,
             sum(h.went = 'flat') AS flat, sum(h.asked) AS asked,
             max(h.never <> '') OR coalesce(max(s.never_again), 0) AS never
           FROM heard h JOIN gig g ON g.id = h.gig_id LEFT JOIN track t ON t.id = h.track_id
           LEFT JOIN shelf s ON s.id = t.id
           WHERE NOT g.practice AND (?3 IS NULL OR g.venue_id = ?3) GROUP BY h.track_id, h.text""",
        (json.dumps([each for each in track_ids if each is not None]), json.dumps(list(texts)), venue_id),
    )
    return {(row["track_id"], row["text"]): row for row in rows}


def _there(row: sqlite3.Row) -> PlayedThere:
    names = ("times", "first_on", "last_on", "well", "flat", "asked")
    of = "" if row["track_id"] is None else "track_"
    return PlayedThere(
        track_id=row["here"],
        artist=row[f"{of}artist"],
        title=row[f"{of}title"],
        never=bool(row["never"]),
        **{name: row[name] for name in names},
    )


def history(connection: sqlite3.Connection, track_id: int) -> list[Heard]:
    """Where and when a track was played, the newest first, practice too."""
    beside = (
        f"SELECT iif(t.id IS NULL, o.title, coalesce(s.title, {text_off('title')})) FROM play o "
        "LEFT JOIN track t ON t.id = o.track_id LEFT JOIN shelf s ON s.id = t.id "
        "WHERE o.gig_id = p.gig_id AND o.position {0} p.position ORDER BY o.position {1} LIMIT 1"
    )
    rows = connection.execute(
        f"""SELECT p.id AS play_id, p.gig_id, coalesce(v.name, '') AS venue, coalesce(g.name, '') AS gig,
              coalesce(g.practice, 0) AS practice, p.played_at, p.offset_min,
              coalesce(g.on_day, p.on_day) AS on_day, p.timed, p.went, p.asked, p.note,
              coalesce(({beside.format("<", "DESC")}), '') AS before, coalesce(({beside.format(">", "")}),
              '') AS after
            FROM play p LEFT JOIN gig g ON g.id = p.gig_id LEFT JOIN venue v ON v.id = g.venue_id
            WHERE p.track_id = ? ORDER BY p.played_at DESC, p.id DESC LIMIT 500""",
        (track_id,),
    )
    return [_heard(row) for row in rows]


def _heard(row: sqlite3.Row) -> Heard:
    facts: dict[str, Any] = dict(row)
    return Heard(**facts | {name: bool(row[name]) for name in ("practice", "timed", "asked")})


def pairs_at(connection: sqlite3.Connection, venue_id: int, most: int = MOST_PAIRS) -> list[Pair]:
    """Tracks that followed each other at more than one night of a venue, the commonest first."""
    nights: dict[int, list[int]] = defaultdict(list)
    for gig_id, track_id in connection.execute(
        f"SELECT p.gig_id, p.track_id {COUNTED} AND g.venue_id = ? AND p.track_id IS NOT NULL "
        "ORDER BY p.gig_id, p.position",
        (venue_id,),
    ):
        nights[gig_id].append(track_id)
    found = repeated_pairs([[str(track) for track in tracks] for tracks in nights.values()])[:most]
    ids = {int(track) for pair, _ in found for track in pair}
    texts = texts_of(connection, list(ids))
    return [
        Pair(int(first), texts[int(first)][1], int(then), texts[int(then)][1], count)
        for (first, then), count in found
    ]


def played_lately(
    connection: sqlite3.Connection, venue_id: int | None, since: str
) -> dict[int, tuple[int, str]]:
    """How often tracks were played at a venue since a day, or anywhere, and on which day last."""
    rows = connection.execute(
        f"""SELECT p.track_id, count(*), max(g.on_day) {COUNTED} AND (?1 IS NULL OR g.venue_id = ?1)
            AND p.track_id IS NOT NULL AND g.on_day >= ?2 GROUP BY p.track_id""",
        (venue_id, since),
    )
    return {row[0]: (row[1], row[2]) for row in rows}


def never_at(
    connection: sqlite3.Connection, venue_id: int | None, track_ids: Sequence[int]
) -> dict[int, str]:
    """Of some tracks those that shall never be played again, everywhere or at a venue, each with why."""
    rows = connection.execute(
        """SELECT s.id, s.title, s.never_again, s.explicit, v.clean_words, v.name,
             EXISTS (SELECT 1 FROM play p JOIN gig g ON g.id = p.gig_id
                     WHERE p.track_id = s.id AND p.never = 'here' AND g.venue_id = ?2) AS never_here
           FROM json_each(?1) i JOIN shelf s ON s.id = i.value LEFT JOIN venue v ON v.id = ?2
           WHERE s.never_again OR (s.explicit AND v.clean_words) OR never_here""",
        (json.dumps(list(track_ids)), venue_id),
    )
    return {row["id"]: _warning(row) for row in rows}


def _warning(row: sqlite3.Row) -> str:
    if row["never_again"]:
        return "never again"
    return (
        f"never again at {row['name']}"
        if row["never_here"]
        else f"explicit, and {row['name']} wants clean words"
    )


def last_at(
    connection: sqlite3.Connection, venue_id: int | None, track_ids: Sequence[int]
) -> dict[int, tuple[str, int]]:
    """On which day tracks were last played at a venue, or anywhere, and how often they were."""
    rows = connection.execute(
        """SELECT p.track_id, max(g.on_day), count(*)
           FROM json_each(?1) i JOIN play p ON p.track_id = i.value JOIN gig g ON g.id = p.gig_id
           WHERE (?2 IS NULL OR g.venue_id = ?2) AND NOT g.practice GROUP BY p.track_id""",
        (json.dumps(list(track_ids)), venue_id),
    )
    return {row[0]: (row[1], row[2]) for row in rows}


def shapes(connection: sqlite3.Connection, since: str, until: str) -> dict[int, list[int]]:
    """The energy through each night that began in a span, as a few bars from 0 to 100."""
    # The index has the plays of a night in their order.
    rows = connection.execute(
        """SELECT p.gig_id, json_group_array(s.energy)
           FROM play p INDEXED BY play_gig LEFT JOIN shelf s INDEXED BY shelf_narrow ON s.id = p.track_id
           WHERE p.gig_id IN (SELECT id FROM gig WHERE began_at BETWEEN ? AND ?) GROUP BY p.gig_id""",
        (since, until),
    )
    return {gig_id: _bars(json.loads(energies)) for gig_id, energies in rows}


def _bars(energies: Sequence[int | None]) -> list[int]:
    parts = (
        [energy for energy in energies[low:high] if energy is not None]
        for low, high in itertools.pairwise(_edges(len(energies)))
    )
    return [round(sum(part) / len(part)) if part else 0 for part in parts]


@cache
def _edges(count: int) -> tuple[int, ...]:
    """Where the bars of so many plays begin, and the last ends."""
    bars = min(SHAPE_BARS, count)
    return tuple(round(place * count / bars) for place in range(bars + 1))


@dataclass(frozen=True, slots=True)
class Figures:
    """A span at a glance: plays by month, venue, key and tempo (in fives), what was played most, how many
    tracks were bought in it and how many of these never played.
    """

    nights: int
    plays: int
    tracks: int
    months: dict[str, int]
    venues: dict[str, int]
    keys: dict[str, int]
    tempi: dict[int, int]
    most: list[tuple[int, str, str, int]]
    bought: int
    never_played: int


def figures(connection: sqlite3.Connection, since: str, until: str) -> Figures:
    """A span of days, both ends included, at a glance."""
    span = f"{COUNTED} AND g.on_day BETWEEN ? AND ?"
    joined = span.replace("WHERE", "JOIN shelf s INDEXED BY shelf_narrow ON s.id = p.track_id WHERE")
    asked = (since, until)

    def counted(what: str, source: str = joined, more: str = "") -> dict[str, int]:
        rows = connection.execute(
            f"SELECT {what} AS what, count(*) {source} {more} GROUP BY what ORDER BY what", asked
        )
        return {str(row[0]): row[1] for row in rows if row[0] is not None}

    whole = connection.execute(
        f"SELECT count(DISTINCT g.id), count(*), count(DISTINCT p.track_id) {span}", asked
    ).fetchone()
    most = connection.execute(
        f"""SELECT s.id, s.title, s.artist, times FROM
              (SELECT p.track_id AS played, count(*) AS times {span} GROUP BY p.track_id)
            JOIN shelf s ON s.id = played ORDER BY times DESC, s.title LIMIT {MOST_FIGURES}""",
        asked,
    ).fetchall()
    bought = connection.execute(
        "SELECT count(*), sum(plays = 0) FROM shelf INDEXED BY shelf_narrow "
        "WHERE added_at BETWEEN ? AND ? || '~'",
        asked,
    ).fetchone()
    venue = "(SELECT name FROM venue v WHERE v.id = g.venue_id)"
    return Figures(
        nights=whole[0], plays=whole[1], tracks=whole[2],
        months=counted("substr(g.on_day, 1, 7)", span), venues=counted(f"coalesce({venue}, '')", span),
        keys=counted("s.key"),
        tempi={int(bpm): n for bpm, n in counted("CAST(s.bpm / 5 AS INTEGER) * 5").items()},
        most=[(row[0], row[1], row[2], row[3]) for row in most],
        bought=bought[0], never_played=bought[1] or 0,
    )  # fmt: skip


def weeks_before(on: date, weeks: int) -> str:
    """The day so many weeks before another."""
    return str(on - timedelta(weeks=min(weeks, MOST_WEEKS)))


def last_pairs(connection: sqlite3.Connection, venue_id: int, before: str) -> set[tuple[int, int]]:
    """Tracks that followed each other at the last night of a venue before a day."""
    rows = connection.execute(
        f"""SELECT p.track_id {COUNTED} AND g.id = (
              SELECT id FROM gig WHERE venue_id = ?1 AND NOT practice AND on_day < ?2
              ORDER BY on_day DESC, began_at DESC LIMIT 1) ORDER BY p.position""",
        (venue_id, before),
    )
    return set(itertools.pairwise(row[0] or 0 for row in rows)) - {(0, 0)}


def pairs_before(connection: sqlite3.Connection, venue_id: int, gig_id: int) -> set[tuple[str, str]]:
    """Tracks that followed each other at nights of a venue before one of them, by what tells them apart."""
    rows = connection.execute(
        """SELECT p.gig_id, p.track_id, p.name_key FROM gig g JOIN play p ON p.gig_id = g.id
           WHERE g.venue_id = ?1 AND NOT g.practice AND g.began_at < (SELECT began_at FROM gig WHERE id = ?2)
           ORDER BY p.gig_id, p.position""",
        (venue_id, gig_id),
    ).fetchall()
    names = [(row[0], f"#{row[1]}" if row[1] is not None else row[2]) for row in rows]
    return {(before[1], after[1]) for before, after in itertools.pairwise(names) if before[0] == after[0]}
