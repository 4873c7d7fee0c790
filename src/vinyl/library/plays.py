"""What was played: tracks and texts, at a gig in its order or by themselves, with marks."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from vinyl.core.naming import name_key
from vinyl.core.ordering import keys_between
from vinyl.core.text import fold
from vinyl.library import flat, gigs, values
from vinyl.library.clock import local, offset_min
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.locks import without_locked
from vinyl.library.named import Names
from vinyl.library.off_shelf import text_off
from vinyl.library.tracks import get_track
from vinyl.library.values import Value

Went = Literal["", "well", "flat"]
Never = Literal["", "here", "everywhere"]
PlaySource = Literal["by hand", "player", "file", "list"]
MARKS = ("went", "asked", "never", "note")
# Of a track ``t``, which may be on the Shelf as ``s``, or taken off it.
TEXTS = (
    f"coalesce(s.artist, {text_off('artist')}) AS track_artist, "
    f"coalesce(s.title, {text_off('title')}) AS track_title"
)


@dataclass(frozen=True, slots=True)
class Play:
    """A play as the Logbook shows it: texts of the Shelf where the track is there. ``track_id`` is None for
    what is not on the Shelf; ``kept_id`` is its track also while that is taken off. ``played_at`` is told as
    stored, with its offset; it is the gig's where it is not ``timed``.
    """

    id: int
    track_id: int | None
    kept_id: int | None
    artist: str
    title: str
    played_at: str
    timed: bool
    heard_s: float | None
    went: Went
    asked: bool
    never: Never
    note: str
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float | None
    offset_min: int = 0

    @property
    def began(self) -> datetime:
        """When it began, by the clock on the wall where it was."""
        return local(self.played_at, self.offset_min)

    @property
    def name(self) -> str:
        """What tells its track from others."""
        return name_of(self.kept_id, self.artist, self.title)


@dataclass(frozen=True, slots=True)
class Coming:
    """A play that is to be taken in. Texts count where its track is not known."""

    track_id: int | None = None
    artist: str = ""
    title: str = ""
    played_at: str | None = None
    heard_s: float | None = None
    offset_min: int | None = None


def name_of(track_id: int | None, artist: str, title: str) -> str:
    """What tells the track of a play from others: itself, or its texts."""
    return f"#{track_id}" if track_id is not None else text_key(artist, title)


def text_key(artist: str, title: str) -> str:
    """What a text is found by: artist and title; the title alone where no artist is known."""
    return name_key(artist, title) or fold(title).strip()


def note(connection: sqlite3.Connection, track_ids: Sequence[int], played_at: str) -> None:
    """Note by hand that tracks were played."""
    connection.execute(
        "INSERT INTO play (track_id, played_at, offset_min, source, artist, title) SELECT s.id, ?, ?, "
        "'by hand', s.artist, s.title FROM json_each(?) i JOIN shelf s ON s.id = i.value",
        (played_at, offset_min(played_at), json.dumps(list(track_ids))),
    )
    flat.settle(connection, track_ids, ["play"])


def take_last(connection: sqlite3.Connection, track_ids: Sequence[int]) -> int:
    """Forget the newest play of each track that was noted by hand; returns how many there were."""
    gone = connection.execute(
        """DELETE FROM play WHERE id IN (
             SELECT id FROM (SELECT id, max(played_at) FROM play WHERE source = 'by hand' AND gig_id IS NULL
                             AND track_id IN (SELECT value FROM json_each(?)) GROUP BY track_id))""",
        (json.dumps(list(track_ids)),),
    ).rowcount
    flat.settle(connection, track_ids, ["play"])
    return gone


def list_plays(connection: sqlite3.Connection, gig_id: int) -> list[Play]:
    """What was played at a gig, in its order."""
    rows = connection.execute(
        f"""SELECT p.*, s.id AS here, {TEXTS}, s.bpm, s.key, s.energy, s.duration_s, s.never_again
            FROM play p LEFT JOIN track t ON t.id = p.track_id LEFT JOIN shelf s ON s.id = t.id
            WHERE p.gig_id = ? ORDER BY p.position, p.id""",
        (gig_id,),
    )
    return [_play(row) for row in rows]


def insert(
    connection: sqlite3.Connection,
    gig_id: int,
    plays: Sequence[Coming],
    keys: Sequence[str],
    source: PlaySource,
) -> None:
    """Put plays at places of a gig; those without a time have that of its beginning. The caller settles."""
    facts = gigs.get_gig(connection, gig_id).facts
    texts = texts_of(connection, [play.track_id for play in plays if play.track_id is not None])
    rows = []
    for play, key in zip(plays, keys, strict=True):
        artist, title = texts.get(play.track_id or 0, (play.artist, play.title))
        wanted = text_key(artist, title) if play.track_id is None else ""
        at, offset = play.played_at or facts.began_at, play.offset_min
        if offset is None:
            offset = facts.offset_at(at)
        rows.append((gig_id, play.track_id, at, offset, play.played_at is not None, play.heard_s, source, key,
                     artist, title, wanted))  # fmt: skip
    connection.executemany(
        """INSERT INTO play (gig_id, track_id, played_at, offset_min, timed, heard_s, source, position,
             artist, title, name_key) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        rows,
    )


def add(
    connection: sqlite3.Connection,
    gig_id: int,
    plays: Sequence[Coming],
    before: int | None,
    source: PlaySource,
) -> None:
    """Put plays into a gig before another of its plays, or at its end.

    Raises:
        LibraryError: if it becomes too long.
    """
    there = connection.execute(
        "SELECT id, position FROM play WHERE gig_id = ? ORDER BY position, id", (gig_id,)
    ).fetchall()
    if len(there) + len(plays) > gigs.MOST_PLAYS:
        raise LibraryError(f"A night can have {gigs.MOST_PLAYS:,} plays at the most.")
    at = next((place for place, row in enumerate(there) if row["id"] == before), len(there))
    low = there[at - 1]["position"] if at else None
    high = there[at]["position"] if at < len(there) else None
    insert(connection, gig_id, plays, keys_between(low, high, len(plays)), source)
    gigs.settle(connection, [gig_id])


def move(connection: sqlite3.Connection, play_ids: Sequence[int], before: int | None) -> None:
    """Move plays of one gig before another of its plays, or to its end."""
    gig_id = _gig_of(connection, play_ids)
    moved = set(play_ids)
    rows = connection.execute(
        "SELECT id FROM play WHERE gig_id = ? ORDER BY position, id", (gig_id,)
    ).fetchall()
    rest = [row[0] for row in rows if row[0] not in moved]
    at = rest.index(before) if before in rest else len(rest)
    gigs.order(connection, [*rest[:at], *(row[0] for row in rows if row[0] in moved), *rest[at:]])


def remove(connection: sqlite3.Connection, play_ids: Sequence[int]) -> None:
    """Take plays out of the Logbook."""
    gig_id, ids = _gig_of(connection, play_ids), json.dumps(list(play_ids))
    tracks = gigs.tracks_of(connection, [gig_id])
    connection.execute("DELETE FROM play WHERE id IN (SELECT value FROM json_each(?))", (ids,))
    flat.settle(connection, tracks, ["play"])


def mark(connection: sqlite3.Connection, play_ids: Sequence[int], marks: Mapping[str, Any]) -> int:
    """Give plays marks, by names of MARKS. Never again everywhere is said of the track itself, so that
    every room knows it; returns for how many that cannot be, because their tags are locked.
    """
    gig_id, ids = _gig_of(connection, play_ids), json.dumps(list(play_ids))
    for name in MARKS:
        if name in marks:
            text = f"UPDATE play SET {name} = ? WHERE id IN (SELECT value FROM json_each(?))"
            connection.execute(text, (marks[name], ids))
    locked = _say_never(connection, ids, marks["never"]) if "never" in marks else 0
    gigs.settle(connection, [gig_id])
    return locked


def match(connection: sqlite3.Connection, play_id: int, track_id: int | None) -> None:
    """Say which track a play was of; None for one that is not on the Shelf."""
    row = connection.execute("SELECT * FROM play WHERE id = ?", (play_id,)).fetchone()
    if row is None:
        raise NotFoundError("This play is no longer in the Logbook.")
    if track_id is not None:
        get_track(connection, track_id)
    wanted = text_key(row["artist"], row["title"]) if track_id is None else ""
    connection.execute("UPDATE play SET track_id = ?, name_key = ? WHERE id = ?", (track_id, wanted, play_id))
    if track_id is not None:
        _take_over(connection, [play_id])
    flat.settle(connection, [each for each in (row["track_id"], track_id) if each is not None], ["play"])


def match_new(connection: sqlite3.Connection, track_ids: Sequence[int]) -> int:
    """Find plays that were kept as text and are of tracks that are here now, as they would be found were they
    typed today; returns how many there were.
    """
    if connection.execute("SELECT 1 FROM play WHERE name_key <> '' LIMIT 1").fetchone() is None:
        return 0
    found: dict[int, int] = {}
    for track_id, (artist, title) in texts_of(connection, track_ids).items():
        found |= dict.fromkeys(_plays_of(connection, artist, title), track_id)
        found |= _by_title(connection, artist, title)
    of_plays = [(track_id, play_id) for play_id, track_id in found.items()]
    connection.executemany("UPDATE play SET track_id = ?, name_key = '' WHERE id = ?", of_plays)
    _take_over(connection, list(found))
    flat.settle(connection, set(found.values()), ["play"])
    return len(found)


def _plays_of(connection: sqlite3.Connection, artist: str, title: str) -> list[int]:
    key = text_key(artist, title) if artist else ""
    rows = connection.execute(
        "SELECT id FROM play WHERE name_key = ?1 AND name_key <> '' AND ?1 <> ''", (key,)
    )
    return [row[0] for row in rows]


def _by_title(connection: sqlite3.Connection, artist: str, title: str) -> dict[int, int]:
    """Plays of a title without an artist, or by one where the track has none, where no other track can be
    meant.
    """
    rows = connection.execute(
        """SELECT id, artist, title FROM play WHERE name_key = ?1 AND name_key <> '' AND artist = ''
           UNION SELECT id, artist, title FROM play
           WHERE ?2 = '' AND title = ?3 COLLATE NOCASE AND track_id IS NULL""",
        (fold(title).strip(), artist, title),
    ).fetchall()
    names = Names(connection, len(rows))
    of_plays = {row["id"]: names.find(row["artist"], row["title"]) for row in rows}
    return {play_id: track_id for play_id, track_id in of_plays.items() if track_id is not None}


def _take_over(connection: sqlite3.Connection, play_ids: Sequence[int]) -> None:
    """What was said of a text is said of its track now."""
    ids = json.dumps(list(play_ids))
    rows = connection.execute(
        "SELECT DISTINCT track_id FROM play WHERE never = 'everywhere' "
        "AND id IN (SELECT value FROM json_each(?))",
        (ids,),
    )
    _put_never(connection, [row[0] for row in rows], True)
    connection.execute(
        "UPDATE play SET never = '' WHERE never = 'everywhere' AND id IN (SELECT value FROM json_each(?))",
        (ids,),
    )


def _say_never(connection: sqlite3.Connection, ids: str, never: Never) -> int:
    rows = connection.execute(
        """SELECT DISTINCT s.id, s.never_again FROM play p JOIN shelf s ON s.id = p.track_id
           WHERE p.id IN (SELECT value FROM json_each(?))""",
        (ids,),
    ).fetchall()
    wanted = never == "everywhere"
    changed = [row["id"] for row in rows if bool(row["never_again"]) != wanted]
    connection.execute(
        "UPDATE play SET never = '' WHERE never = 'everywhere' AND track_id IS NOT NULL "
        "AND id IN (SELECT value FROM json_each(?))",
        (ids,),
    )
    return _put_never(connection, changed, wanted)


def _put_never(connection: sqlite3.Connection, track_ids: Sequence[int], never: bool) -> int:
    open_ids = without_locked(connection, track_ids, "tags")
    values.put(connection, open_ids, "by hand", {"never again": Value("yes" if never else "no")})
    flat.settle(connection, open_ids, ["never again"])
    return len(track_ids) - len(open_ids)


def _gig_of(connection: sqlite3.Connection, play_ids: Iterable[int]) -> int:
    """The one gig that plays are of.

    Raises:
        LibraryError: if they are of several, or of none.
    """
    rows = connection.execute(
        "SELECT DISTINCT gig_id FROM play WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(play_ids)),),
    ).fetchall()
    if len(rows) != 1 or rows[0][0] is None:
        raise LibraryError("These plays are no longer in one night of the Logbook.")
    return int(rows[0][0])


def texts_of(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, tuple[str, str]]:
    """Artist and title of tracks, also of those taken off the Shelf."""
    rows = connection.execute(
        f"""SELECT t.id, {TEXTS} FROM json_each(?) i JOIN track t ON t.id = i.value
            LEFT JOIN shelf s ON s.id = t.id""",
        (json.dumps(list(track_ids)),),
    )
    return {row["id"]: (row["track_artist"], row["track_title"]) for row in rows}


def _play(row: sqlite3.Row) -> Play:
    known, here = row["track_id"] is not None, row["here"] is not None
    return Play(
        id=row["id"],
        track_id=row["here"],
        kept_id=row["track_id"],
        artist=row["track_artist"] if known else row["artist"],
        title=row["track_title"] if known else row["title"],
        played_at=row["played_at"],
        timed=bool(row["timed"]),
        heard_s=row["heard_s"],
        went=row["went"],
        asked=bool(row["asked"]),
        never="everywhere" if here and row["never_again"] else row["never"],
        note=row["note"],
        bpm=row["bpm"],
        key=row["key"],
        energy=row["energy"],
        duration_s=row["duration_s"],
        offset_min=row["offset_min"],
    )
