"""Tracks: adding them, changing what their file holds, and the ratings that are given by hand."""

from __future__ import annotations

import json
import sqlite3
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields

from vinyl.library import flat, given_names, values
from vinyl.library.clock import now, offset_min
from vinyl.library.errors import NotFoundError
from vinyl.library.find import get_rows
from vinyl.library.locks import check_open, without_locked
from vinyl.library.values import Field, Source, Value


@dataclass(frozen=True, slots=True)
class FileFacts:
    """What is known of a track's file: where it lies, which sound it holds and how.

    ``audio_hash`` names what is made of the sound, such as listening copies; the two others tell whether
    another file holds the same (vinyl.library.sounds).
    """

    path: str
    size_bytes: int
    modified_ns: int
    audio_hash: str
    codec: str
    rate_hz: int
    channels: int
    bit_rate: int | None
    trimmed_samples: int
    duration_s: float
    has_picture: bool
    sampled_hash: str | None = None
    packet_hash: str | None = None
    depth_bits: int | None = None
    variable_rate: bool = False
    padding_samples: int = 0


@dataclass(frozen=True, slots=True)
class Said:
    """What a file says of itself, as text, by field; what it does not say is left out. Where its tags give no
    title it says by its name what it is, unless Vinyl gave it that name.
    """

    tags: Mapping[Field, str]
    name: str | None

    def by_source(self, connection: sqlite3.Connection) -> Mapping[Source, Mapping[Field, str]]:
        named = {} if self.name is None else given_names.said_by(connection, self.name)
        return {"file tag": self.tags, "file name": named}


FACTS = tuple(field.name for field in fields(FileFacts))


def add_track(connection: sqlite3.Connection, facts: FileFacts, said: Said) -> int:
    """Insert a track; returns its id."""
    return add_tracks(connection, [(facts, said)])[0]


def add_tracks(connection: sqlite3.Connection, files: Sequence[tuple[FileFacts, Said]]) -> list[int]:
    """Insert tracks; returns their ids."""
    at, marks = now(), ", ".join("?" * len(FACTS))
    insert = f"INSERT INTO track ({', '.join(FACTS)}, added_at, added_offset_min) VALUES ({marks}, ?, ?)"
    ids: list[int] = []
    for facts, _ in files:
        cursor = connection.execute(insert, (*(getattr(facts, name) for name in FACTS), at, offset_min(at)))
        ids.append(int(cursor.lastrowid or 0))
    said = (
        (track_id, field, source, text)
        for track_id, (_, each) in zip(ids, files, strict=True)
        for source, texts in each.by_source(connection).items()
        for field, text in texts.items()
    )
    values.put_new(connection, said)
    flat.settle(connection, ids)
    return ids


def replace_file(connection: sqlite3.Connection, track_id: int, facts: FileFacts) -> None:
    """Note what a track's file holds now."""
    sets = ", ".join(f"{name} = ?" for name in FACTS)
    connection.execute(
        f"UPDATE track SET {sets}, away = 0 WHERE id = ?",
        (*(getattr(facts, name) for name in FACTS), track_id),
    )
    flat.settle(connection, [track_id], ["facts"])


@dataclass(frozen=True, slots=True)
class Difference:
    """A value of a file that is not what was read of it before; None where there is none."""

    track_id: int
    source: Source
    field: Field
    before: str | None
    after: str | None


def differences(connection: sqlite3.Connection, track_id: int, said: Said) -> list[Difference]:
    """What a file says that is not what the library has of it."""
    before: dict[tuple[Source, Field], str | None] = {
        (each.source, each.field): each.value.text
        for each in values.sources_of(connection, track_id)
        if each.source in ("file tag", "file name")
    }
    now_said = {
        (source, field): text
        for source, tags in said.by_source(connection).items()
        for field, text in tags.items()
    }
    return [
        Difference(track_id, source, field, before.get((source, field)), now_said.get((source, field)))
        for source, field in sorted({*before, *now_said})
        if before.get((source, field)) != now_said.get((source, field))
    ]


def keep_said(connection: sqlite3.Connection, track_id: int, said: Said) -> list[Field]:
    """Keep what a file says of itself in place of what it said before; returns the fields that are different
    now.
    """
    different = differences(connection, track_id, said)
    for each in different:
        value = None if each.after is None else Value(each.after)
        values.put(connection, [track_id], each.source, {each.field: value})
    changed = list(dict.fromkeys(each.field for each in different))
    flat.settle(connection, [track_id], changed)
    return changed


def get_track(connection: sqlite3.Connection, track_id: int) -> sqlite3.Row:
    """One track as the Shelf shows it.

    Raises:
        NotFoundError: if it is not in the library.
    """
    rows = get_rows(connection, [track_id])
    if not rows:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    return rows[0]


def get_file(connection: sqlite3.Connection, track_id: int) -> sqlite3.Row:
    """What is known of one track's file.

    Raises:
        NotFoundError: if the track is not in the library.
    """
    row: sqlite3.Row | None = connection.execute("SELECT * FROM track WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    return row


def by_audio_hash(connection: sqlite3.Connection, names: Sequence[str]) -> dict[str, int]:
    """Ids of tracks by the names of their sounds; names of none are left out."""
    rows = connection.execute(
        "SELECT audio_hash, min(id) FROM track WHERE audio_hash IN (SELECT value FROM json_each(?)) "
        "GROUP BY audio_hash",
        (json.dumps(list(names)),),
    )
    return {row[0]: row[1] for row in rows}


def meant_by(connection: sqlite3.Connection, names: Sequence[str]) -> dict[str, int]:
    """The same, where the sound of a track that gave way to a twin means that twin."""
    home = by_audio_hash(connection, names)
    rows = connection.execute(
        "SELECT track_id, twin_of FROM off_shelf WHERE twin_of IS NOT NULL "
        "AND track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(home.values())),),
    )
    instead = dict(rows.fetchall())
    return {name: instead.get(track_id, track_id) for name, track_id in home.items()}


def paths_of_sounds(connection: sqlite3.Connection, names: Sequence[str]) -> dict[str, str]:
    """Where the files of tracks on the Shelf lie, by the names of their sounds."""
    rows = connection.execute(
        "SELECT t.audio_hash, t.path FROM track t JOIN shelf s ON s.id = t.id "
        "WHERE t.audio_hash IN (SELECT value FROM json_each(?))",
        (json.dumps(list(names)),),
    )
    return {row[0]: row[1] for row in rows}


def folders(connection: sqlite3.Connection) -> Counter[str]:
    """How many tracks have their file in each folder."""
    rows = connection.execute("SELECT path FROM track")
    rows.row_factory = None
    return Counter(path.rpartition("/")[0] for (path,) in rows)


def existing(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[int]:
    """Those of the ids that are tracks on the Shelf, once each, in the same order."""
    # One row: each row that is fetched may have to wait for another thread.
    row = connection.execute(
        "SELECT json_group_array(id) FROM shelf WHERE id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(track_ids)),),
    ).fetchone()
    there = set(json.loads(row[0]))
    return [track_id for track_id in dict.fromkeys(track_ids) if track_id in there]


def rate(connection: sqlite3.Connection, track_ids: Sequence[int], stars: int) -> int:
    """Give tracks a rating by hand, 0 to 5 stars; returns how many were left out because their tags are
    locked.

    Raises:
        LockedError: if all of them are locked.
    """
    open_ids = without_locked(connection, track_ids, "tags")
    if track_ids and not open_ids:
        check_open(connection, track_ids[0], "tags")
    values.put(connection, open_ids, "by hand", {"stars": Value(str(stars))})
    flat.settle(connection, open_ids, ["stars"])
    return len(track_ids) - len(open_ids)


def note_replaced(connection: sqlite3.Connection, track_id: int) -> None:
    """Mark a track whose file holds another sound now: its grid and cues are in doubt until somebody has
    looked.
    """
    connection.execute(
        "INSERT OR REPLACE INTO track_replaced (track_id, noticed_at) VALUES (?, ?)", (track_id, now())
    )
    flat.settle(connection, [track_id], ["track_replaced"])


def confirm_replaced(connection: sqlite3.Connection, track_id: int) -> None:
    """Take the doubt away: grid and cues fit the new sound."""
    connection.execute("DELETE FROM track_replaced WHERE track_id = ?", (track_id,))
    flat.settle(connection, [track_id], ["track_replaced"])
