"""Sets: nights to come, with a tray of candidates and a running order."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from datetime import date, time
from typing import Any

from vinyl.core.naming import name_key
from vinyl.core.ordering import keys_between
from vinyl.core.planning.arc import Point, check_arc
from vinyl.core.planning.mixing import MOST_BARS, Settings
from vinyl.core.twins.merging import Way
from vinyl.library import chains
from vinyl.library.clock import now
from vinyl.library.errors import LibraryError, NotFoundError

LONGEST_NAME, MOST_ENTRIES = 120, 2000
COLUMNS = ("name", "venue_id", "on_day", "begins", "ends", "note", "tempo_percent", "key_held")
PINS = ("", "first", "last", "here")
SETTINGS = ("out_s", "in_s", "over_bars", "meet", "fade_bars", "low_bar")
FIRST_YEAR, LAST_YEAR = 1970, 2999


@dataclass(frozen=True, slots=True)
class DjSet:
    """A set: where and when, the arc that is wanted, and what its joints may be; ``placed`` are in its
    running order, ``in_tray`` not.
    """

    id: int
    name: str
    venue_id: int | None
    venue: str
    clean_words: bool
    on_day: str
    begins: str
    ends: str
    note: str
    arc: tuple[Point, ...]
    tempo_percent: float
    key_held: bool
    placed: int
    in_tray: int

    @property
    def slot_s(self) -> float | None:
        """How long the slot is; None where that was not said."""
        if not self.begins or not self.ends:
            return None
        minutes = [each.hour * 60 + each.minute for each in map(time.fromisoformat, (self.begins, self.ends))]
        return ((minutes[1] - minutes[0]) % 1440 or 1440) * 60.0


@dataclass(frozen=True, slots=True)
class Entry:
    """A track of a set, or one that is not on the Shelf (any more); measures are None where not known."""

    id: int
    placed: bool
    track_id: int | None
    artist: str
    title: str
    pin: str
    with_next: bool
    note: str
    on_shelf: bool
    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float
    doubt: float | None
    away: bool
    explicit: bool
    main_s: float | None


@dataclass(frozen=True, slots=True)
class Said:
    """What was said of a joint: how the one goes over into the other, and what to do there."""

    settings: Settings = field(default_factory=Settings)
    note: str = ""


def list_sets(connection: sqlite3.Connection) -> list[DjSet]:
    """All sets, those to come last in time first, then those without a day."""
    rows = connection.execute(f"{_SETS} ORDER BY d.on_day = '', d.on_day DESC, d.id DESC")
    return [_set(row) for row in rows]


def get_set(connection: sqlite3.Connection, set_id: int) -> DjSet:
    """One set.

    Raises:
        NotFoundError: if it is gone.
    """
    row = connection.execute(f"{_SETS} WHERE d.id = ?", (set_id,)).fetchone()
    if row is None:
        raise NotFoundError("This set is no longer there.")
    return _set(row)


_SETS = """SELECT d.*, coalesce(v.name, '') AS venue, coalesce(v.clean_words, 0) AS clean_words,
  (SELECT count(*) FROM set_entry e WHERE e.set_id = d.id AND e.placed) AS placed,
  (SELECT count(*) FROM set_entry e WHERE e.set_id = d.id AND NOT e.placed) AS in_tray
  FROM dj_set d LEFT JOIN venue v ON v.id = d.venue_id"""


def _set(row: sqlite3.Row) -> DjSet:
    arc = tuple((share, energy) for share, energy in json.loads(row["arc"]))
    return DjSet(
        row["id"], row["name"], row["venue_id"], row["venue"], bool(row["clean_words"]), row["on_day"],
        row["begins"], row["ends"], row["note"], arc,
        row["tempo_percent"], bool(row["key_held"]), row["placed"], row["in_tray"],
    )  # fmt: skip


def make_set(connection: sqlite3.Connection, facts: Mapping[str, Any]) -> int:
    """Make a set by names of COLUMNS; returns its id.

    Raises:
        LibraryError: for what cannot be.
    """
    cursor = connection.execute("INSERT INTO dj_set (name, made_at) VALUES ('Set', ?)", (now(),))
    set_id = int(cursor.lastrowid or 0)
    change_set(connection, set_id, {"name": "Set", **facts})
    return set_id


def change_set(connection: sqlite3.Connection, set_id: int, changes: Mapping[str, Any]) -> None:
    """Change what is known of a set, by names of COLUMNS.

    Raises:
        LibraryError: for what cannot be.
    """
    get_set(connection, set_id)
    for name in COLUMNS:
        if name in changes:
            value = _checked(name, changes[name])
            connection.execute(f"UPDATE dj_set SET {name} = ? WHERE id = ?", (value, set_id))


def _checked(name: str, value: Any) -> Any:
    if name == "name":
        value = " ".join(str(value).split())
        if not 0 < len(value) <= LONGEST_NAME:
            raise LibraryError(f"A set's name has 1 to {LONGEST_NAME} characters.")
    if name == "tempo_percent" and not 0.5 <= value <= 50.0:
        raise LibraryError("The change of tempo that is allowed is from 0.5 to 50 percent.")
    try:
        if name == "on_day" and value:
            day = date.fromisoformat(value)
            if not FIRST_YEAR <= day.year <= LAST_YEAR:
                raise LibraryError(f"The day is one of the years {FIRST_YEAR} to {LAST_YEAR}.")
            return day.isoformat()
        if name in ("begins", "ends") and value:
            return time.fromisoformat(value).strftime("%H:%M")
    except ValueError as error:
        raise LibraryError("The day is written as 2026-11-27, the time as 21:30.") from error
    return value


def set_arc(connection: sqlite3.Connection, set_id: int, points: Sequence[Point]) -> None:
    """Change the arc that is wanted.

    Raises:
        ArcError: if it is none.
    """
    get_set(connection, set_id)
    connection.execute("UPDATE dj_set SET arc = ? WHERE id = ?", (json.dumps(check_arc(points)), set_id))


def delete_set(connection: sqlite3.Connection, set_id: int) -> None:
    """Delete a set with what is in it; tracks stay on the Shelf."""
    get_set(connection, set_id)
    remove(connection, set_id, [entry.id for entry in list_entries(connection, set_id)])
    chains.forget(connection, set_id)
    connection.execute("DELETE FROM dj_set WHERE id = ?", (set_id,))


def list_entries(connection: sqlite3.Connection, set_id: int) -> list[Entry]:
    """The running order, then the tray."""
    rows = connection.execute(
        """SELECT e.*, s.id AS here, coalesce(s.artist, e.artist) AS artist_now,
             coalesce(s.title, e.title) AS title_now, s.bpm, s.key, s.energy,
             coalesce(s.duration_s, t.duration_s, 0) AS lasts_s, s.doubt, coalesce(s.away, 0) AS away,
             coalesce(s.explicit, 0) AS explicit, s.main_s
           FROM set_entry e LEFT JOIN track t ON t.id = e.track_id LEFT JOIN shelf s ON s.id = t.id
           WHERE e.set_id = ? ORDER BY e.placed DESC, e.position, e.id""",
        (set_id,),
    )
    return [_entry(row) for row in rows]


def _entry(row: sqlite3.Row) -> Entry:
    return Entry(
        row["id"], bool(row["placed"]), row["track_id"], row["artist_now"], row["title_now"], row["pin"],
        bool(row["with_next"]), row["note"], row["here"] is not None, row["bpm"], row["key"], row["energy"],
        row["lasts_s"], row["doubt"], bool(row["away"]), bool(row["explicit"]), row["main_s"],
    )  # fmt: skip


def add_tracks(
    connection: sqlite3.Connection,
    set_id: int,
    track_ids: Sequence[int],
    placed: bool = False,
    before: int | None = None,
) -> int:
    """Put tracks into the tray, where each stands once, or into the running order, where one that was in the
    tray moves; returns how many came.

    Args:
        before: an entry before which they are put; the end if none.

    Raises:
        LibraryError: if there would be too many.
    """
    get_set(connection, set_id)
    there = list_entries(connection, set_id)
    held = {entry.track_id for entry in there}
    new = [each for each in dict.fromkeys(track_ids) if each not in held]
    if len(there) + len(new) > MOST_ENTRIES:
        raise LibraryError(f"A set has up to {MOST_ENTRIES:,} tracks.")
    keys = keys_between(*_neighbours(connection, set_id, placed, before, ()), len(new))
    connection.executemany(
        """INSERT INTO set_entry (set_id, placed, position, track_id, artist, title)
           SELECT ?, ?, ?, id, artist, title FROM shelf WHERE id = ?""",
        [(set_id, placed, key, track_id) for track_id, key in zip(new, keys, strict=True)],
    )
    waiting = {entry.track_id for entry in there if not entry.placed}
    if placed and not waiting.isdisjoint(track_ids):
        come = {*new, *waiting}
        rows = connection.execute("SELECT track_id, id FROM set_entry WHERE set_id = ?", (set_id,))
        ids = {row[0]: row[1] for row in rows if row[0] in come}
        moved = [ids[each] for each in dict.fromkeys(track_ids) if each in ids]
        move(connection, set_id, moved, True, before)
        return len(moved)
    return len(new)


def want(
    connection: sqlite3.Connection,
    set_id: int,
    artist: str,
    title: str,
    placed: bool = False,
    before: int | None = None,
) -> int:
    """Put a track that is not owned yet into a set, by its name; returns the entry.

    Args:
        before: an entry before which it is put; the end if none.

    Raises:
        LibraryError: for a name under which nothing could arrive, or if there would be too many.
    """
    get_set(connection, set_id)
    if not name_key(artist, title):
        raise LibraryError("What is wanted has an artist and a title, by which it is known when it arrives.")
    if len(list_entries(connection, set_id)) >= MOST_ENTRIES:
        raise LibraryError(f"A set has up to {MOST_ENTRIES:,} tracks.")
    (key,) = keys_between(*_neighbours(connection, set_id, placed, before, ()), 1)
    cursor = connection.execute(
        "INSERT INTO set_entry (set_id, placed, position, artist, title) VALUES (?, ?, ?, ?, ?)",
        (set_id, placed, key, " ".join(artist.split()), " ".join(title.split())),
    )
    return int(cursor.lastrowid or 0)


def fulfil(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, list[str]]:
    """Have tracks that came stand where sets want them by their names; gives the names of those sets by
    track. In a tray a track that the set has already stands no second time.
    """
    wanted = connection.execute(
        """SELECT e.id, e.set_id, e.placed, e.artist, e.title, d.name FROM set_entry e
           JOIN dj_set d ON d.id = e.set_id WHERE e.track_id IS NULL ORDER BY e.id"""
    ).fetchall()
    if not wanted:
        return {}
    rows = connection.execute(
        "SELECT id, artist, title FROM shelf WHERE id IN (SELECT value FROM json_each(?)) ORDER BY id DESC",
        (json.dumps(list(track_ids)),),
    )
    came = {name_key(row["artist"], row["title"]): row["id"] for row in rows}
    found: dict[int, list[str]] = {}
    for row in wanted:
        track_id = came.get(name_key(row["artist"], row["title"]) or "-")
        if track_id is None:
            continue
        there = connection.execute(
            "SELECT 1 FROM set_entry WHERE set_id = ? AND track_id = ?", (row["set_id"], track_id)
        ).fetchone()
        if there and not row["placed"]:
            remove(connection, row["set_id"], [row["id"]])
        else:
            connection.execute("UPDATE set_entry SET track_id = ? WHERE id = ?", (track_id, row["id"]))
        found.setdefault(track_id, []).append(row["name"])
    return found


def move(
    connection: sqlite3.Connection, set_id: int, entry_ids: Sequence[int], placed: bool, before: int | None
) -> None:
    """Move entries, in the order they are given, into the running order or into the tray."""
    own = _own(connection, set_id, entry_ids)
    keys = keys_between(*_neighbours(connection, set_id, placed, before, own), len(own))
    connection.executemany(
        "UPDATE set_entry SET placed = ?, position = ? WHERE id = ?",
        [(placed, key, entry_id) for entry_id, key in zip(own, keys, strict=True)],
    )


def _own(connection: sqlite3.Connection, set_id: int, entry_ids: Sequence[int]) -> list[int]:
    """Those that are entries of the set, in the order they are given."""
    rows = connection.execute("SELECT id FROM set_entry WHERE set_id = ?", (set_id,))
    there = {row[0] for row in rows}
    return [each for each in dict.fromkeys(entry_ids) if each in there]


def _neighbours(
    connection: sqlite3.Connection, set_id: int, placed: bool, before: int | None, without: Sequence[int]
) -> tuple[str | None, str | None]:
    """Positions between which something is put."""
    rows = connection.execute(
        "SELECT id, position FROM set_entry WHERE set_id = ? AND placed = ? ORDER BY position, id",
        (set_id, placed),
    )
    there = [(row[0], row[1]) for row in rows if row[0] not in set(without)]
    place = next((place for place, (entry_id, _) in enumerate(there) if entry_id == before), len(there))
    first = there[place - 1][1] if place else None
    then = there[place][1] if place < len(there) else None
    return first, then if then is None or first is None or first < then else None


def reorder(connection: sqlite3.Connection, set_id: int, entry_ids: Sequence[int]) -> None:
    """Put the running order, or a stretch of it, into another order.

    Raises:
        LibraryError: if it is not of entries that stand one after the other now.
    """
    rows = connection.execute(
        "SELECT id, position FROM set_entry WHERE set_id = ? AND placed ORDER BY position, id", (set_id,)
    ).fetchall()
    ids = [row[0] for row in rows]
    at = sorted(ids.index(each) for each in entry_ids if each in ids)
    if not at or len(at) != len(entry_ids) or at != list(range(at[0], at[0] + len(at))):
        raise LibraryError("The running order has changed meanwhile. Have it ordered again.")
    # All get keys of their own anew, so that two that stood at one place by chance do so no more.
    before = rows[at[0] - 1][1] if at[0] else None
    after = rows[at[-1] + 1][1] if at[-1] + 1 < len(rows) else None
    connection.executemany(
        "UPDATE set_entry SET position = ? WHERE id = ?",
        list(zip(keys_between(before, after, len(entry_ids)), entry_ids, strict=True)),
    )


def remove(connection: sqlite3.Connection, set_id: int, entry_ids: Sequence[int]) -> int:
    """Take entries out of a set; returns how many."""
    ids = json.dumps(_own(connection, set_id, entry_ids))
    # By hand, not by the foreign key: so each change is noted for Undo.
    connection.execute(
        "DELETE FROM set_transition WHERE out_id IN (SELECT value FROM json_each(?1)) "
        "OR in_id IN (SELECT value FROM json_each(?1))",
        (ids,),
    )
    query = "DELETE FROM set_entry WHERE id IN (SELECT value FROM json_each(?))"
    return connection.execute(query, (ids,)).rowcount


def change_entry(
    connection: sqlite3.Connection, set_id: int, entry_id: int, changes: Mapping[str, Any]
) -> None:
    """Change an entry's note, its pin, or whether the next stays with it. Only one is first, and one last.

    Raises:
        NotFoundError: if it is gone.
        LibraryError: for a pin that is none.
    """
    if not _own(connection, set_id, [entry_id]):
        raise NotFoundError("This is no longer in the set.")
    if changes.get("pin", "") not in PINS:
        raise LibraryError("A track is pinned first, last, here, or not at all.")
    if changes.get("pin") in ("first", "last"):
        connection.execute(
            "UPDATE set_entry SET pin = '' WHERE set_id = ? AND pin = ? AND id <> ?",
            (set_id, changes["pin"], entry_id),
        )
    for name in ("note", "pin", "with_next"):
        if name in changes:
            connection.execute(f"UPDATE set_entry SET {name} = ? WHERE id = ?", (changes[name], entry_id))


def list_transitions(connection: sqlite3.Connection, set_id: int) -> dict[tuple[int, int], Said]:
    """What was said of joints, by the entries they join."""
    rows = connection.execute(
        """SELECT x.* FROM set_transition x JOIN set_entry e ON e.id = x.out_id WHERE e.set_id = ?""",
        (set_id,),
    )
    return {
        (row["out_id"], row["in_id"]): Said(Settings(*(row[name] for name in SETTINGS)), row["note"])
        for row in rows
    }


def put_transition(connection: sqlite3.Connection, set_id: int, out_id: int, in_id: int, said: Said) -> None:
    """Say how two entries are joined.

    Raises:
        NotFoundError: if one is gone.
        LibraryError: for bars that cannot be.
    """
    if len(_own(connection, set_id, [out_id, in_id])) < 2:
        raise NotFoundError("One of the two is no longer in the set.")
    if not 0 <= said.settings.over_bars <= MOST_BARS:
        raise LibraryError(f"Two tracks sound together for 0 to {MOST_BARS} bars.")
    connection.execute(
        f"""INSERT INTO set_transition (out_id, in_id, {", ".join(SETTINGS)}, note)
            VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
            ON CONFLICT (out_id, in_id) DO UPDATE SET note = excluded.note,
              {", ".join(f"{name} = excluded.{name}" for name in SETTINGS)}""",
        (out_id, in_id, *(getattr(said.settings, name) for name in SETTINGS), said.note),
    )


def take_over(connection: sqlite3.Connection, kept_id: int, copies: Mapping[int, Way | None]) -> None:
    """Have a track stand where copies of it stood; in a tray only once. Times at which joints begin are
    moved, or the usual ones where theirs are not known in it.

    Args:
        copies: how times of each become times of the kept track, where that is known.
    """
    for copy_id, way in copies.items():
        _move_points(connection, copy_id, way)
    connection.execute(
        "UPDATE set_entry SET track_id = ? WHERE track_id IN (SELECT value FROM json_each(?))",
        (kept_id, json.dumps(list(copies))),
    )
    again = connection.execute(
        """SELECT e.set_id, e.id FROM set_entry e WHERE e.track_id = ?1 AND NOT e.placed AND e.note = ''
           AND EXISTS (SELECT 1 FROM set_entry o WHERE o.set_id = e.set_id AND o.track_id = ?1
                       AND (o.placed OR o.id < e.id))""",
        (kept_id,),
    ).fetchall()
    for set_id, entry_id in again:
        remove(connection, set_id, [entry_id])


def _move_points(connection: sqlite3.Connection, track_id: int, way: Way | None) -> None:
    """Times of joints in a track become times of the one it gives way to."""
    for entry, point in (("out_id", "out_s"), ("in_id", "in_s")):
        rows = connection.execute(
            f"""SELECT x.id, x.{point} FROM set_transition x JOIN set_entry e ON e.id = x.{entry}
                WHERE e.track_id = ? AND x.{point} IS NOT NULL""",
            (track_id,),
        ).fetchall()
        for row_id, time_s in rows:
            moved_s = None if way is None else way.time(time_s)
            if moved_s is not None and way is not None and not 0.0 <= moved_s <= way.duration_s:
                moved_s = None
            connection.execute(f"UPDATE set_transition SET {point} = ? WHERE id = ?", (moved_s, row_id))


def copy_set(connection: sqlite3.Connection, set_id: int, facts: Mapping[str, Any]) -> int:
    """Make a set for another date with the same tracks, pins, notes and joints; returns its id."""
    old = get_set(connection, set_id)
    kept = {name: getattr(old, name) for name in COLUMNS}
    new_id = make_set(connection, {**kept, **facts})
    set_arc(connection, new_id, old.arc)
    ids: dict[int, int] = {}
    rows = connection.execute("SELECT * FROM set_entry WHERE set_id = ? ORDER BY id", (set_id,)).fetchall()
    for row in rows:
        cursor = connection.execute(
            """INSERT INTO set_entry (set_id, placed, position, track_id, artist, title, pin, with_next, note)
               VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)""",
            (new_id, *(row[name] for name in (
                "placed", "position", "track_id", "artist", "title", "pin", "with_next", "note"
            ))),
        )  # fmt: skip
        ids[row["id"]] = int(cursor.lastrowid or 0)
    for (out_id, in_id), said in list_transitions(connection, set_id).items():
        put_transition(connection, new_id, ids[out_id], ids[in_id], said)
    return new_id
