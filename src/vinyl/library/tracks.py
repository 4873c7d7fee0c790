"""Tracks: adding, finding, sorting, and the figures behind the Shelf's index."""

from __future__ import annotations

import sqlite3
import unicodedata
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

from vinyl.core.tonal.key import fitting_keys, parse_key
from vinyl.library.database import now
from vinyl.library.errors import LibraryError, NotFoundError
from vinyl.library.locks import check_open, without_locked

ENERGY_STEP = 10

SortName = Literal[
    "title",
    "artist",
    "album",
    "genre",
    "bpm",
    "key",
    "lufs",
    "energy",
    "duration_s",
    "added_at",
    "rating",
    "doubt",
    "year",
    "crate",
]

SORTS: dict[str, str] = {
    "title": "title COLLATE NOCASE",
    "artist": "artist COLLATE NOCASE",
    "album": "album COLLATE NOCASE",
    "genre": "genre COLLATE NOCASE",
    "bpm": "bpm",
    "key": "(SELECT place FROM key_place WHERE key_place.key = shelf.key)",
    "lufs": "lufs",
    "energy": "energy",
    "duration_s": "duration_s",
    "added_at": "added_at",
    "rating": "rating",
    "doubt": "doubt",
    "year": "year",
    "crate": "crate_position",
}


@dataclass(frozen=True, slots=True)
class NewTrack:
    """What is known of a file when it is added."""

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
    title: str
    artist: str
    album: str
    genre: str
    label: str
    comment: str
    year: int | None
    file_key: str
    file_bpm: float | None
    file_rating: int
    has_picture: bool


@dataclass(frozen=True, slots=True)
class Filter:
    """Which tracks are wanted; everything given must hold. ``month`` is "2026-11", ranges take in both ends.

    ``energy`` is the lower end of a range of ENERGY_STEP.
    """

    words: str = ""
    bpm_from: float | None = None
    bpm_to: float | None = None
    key: str | None = None
    key_fits: bool = True
    genre: str | None = None
    month: str | None = None
    rating_from: int | None = None
    energy: int | None = None
    crate_id: int | None = None


@dataclass(frozen=True, slots=True)
class Index:
    """How many tracks lie where: whole bpm, key, genre, month of arrival, stars, energy in steps of ENERGY_STEP."""

    bpm: dict[int, int]
    key: dict[str, int]
    genre: dict[str, int]
    month: dict[str, int]
    rating: dict[int, int]
    energy: dict[int, int]


def fold(text: str) -> str:
    """Text without case and accents, for finding."""
    decomposed = unicodedata.normalize("NFKD", text.casefold())
    return "".join(c for c in decomposed if not unicodedata.combining(c))


def add_track(connection: sqlite3.Connection, new: NewTrack) -> int:
    """Insert a track; returns its id."""
    search = fold(" ".join((new.title, new.artist, new.album, new.genre, new.label)))
    cursor = connection.execute(
        """INSERT INTO track (path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, bit_rate, trimmed_samples,
             duration_s, title, artist, album, genre, label, comment, year, file_key, file_bpm, file_rating, has_picture,
             search_text, added_at)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            new.path,
            new.size_bytes,
            new.modified_ns,
            new.audio_hash,
            new.codec,
            new.rate_hz,
            new.channels,
            new.bit_rate,
            new.trimmed_samples,
            new.duration_s,
            new.title,
            new.artist,
            new.album,
            new.genre,
            new.label,
            new.comment,
            new.year,
            new.file_key,
            new.file_bpm,
            new.file_rating,
            new.has_picture,
            search,
            now(),
        ),
    )
    return int(cursor.lastrowid or 0)


def get_track(connection: sqlite3.Connection, track_id: int) -> sqlite3.Row:
    """One track as the Shelf shows it.

    Raises:
        NotFoundError: if it is not in the library.
    """
    row: sqlite3.Row | None = connection.execute("SELECT * FROM shelf WHERE id = ?", (track_id,)).fetchone()
    if row is None:
        raise NotFoundError(f"Track {track_id} is not in the library (any more).")
    return row


def get_tracks(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[sqlite3.Row]:
    """Tracks by id, in the order asked for; those that are gone are left out."""
    marks = ",".join("?" * len(track_ids))
    rows = connection.execute(f"SELECT * FROM shelf WHERE id IN ({marks})", tuple(track_ids))
    by_id = {row["id"]: row for row in rows}
    return [by_id[i] for i in track_ids if i in by_id]


def order(
    connection: sqlite3.Connection, wanted: Filter, sort: SortName = "added_at", descending: bool = False
) -> list[int]:
    """Ids of all tracks wanted, sorted; those without a value come last, ties go by title.

    Raises:
        LibraryError: for a sort by place in a crate without a crate.
    """
    if sort == "crate" and wanted.crate_id is None:
        raise LibraryError("Only the tracks of a crate have an order of their own.")
    source = "shelf"
    if wanted.crate_id is not None:
        source = "(SELECT shelf.*, ct.crate_id, ct.position AS crate_position FROM crate_track ct JOIN shelf ON shelf.id = ct.track_id) shelf"
    where, values = _where(wanted)
    direction = "DESC" if descending else "ASC"
    rows = connection.execute(
        f"SELECT id FROM {source} WHERE {where} ORDER BY {SORTS[sort]} {direction} NULLS LAST, title COLLATE NOCASE, id",
        values,
    )
    return [row[0] for row in rows]


def count_by(connection: sqlite3.Connection, wanted: Filter) -> Index:
    """The index of the tracks wanted; each picture leaves its own filter out, so that it can be widened."""
    pictures = (
        ("bpm", "CAST(bpm AS INTEGER)", replace(wanted, bpm_from=None, bpm_to=None)),
        ("key", "key", replace(wanted, key=None)),
        ("genre", "NULLIF(genre, '')", replace(wanted, genre=None)),
        ("month", "substr(added_at, 1, 7)", replace(wanted, month=None)),
        ("rating", "rating", replace(wanted, rating_from=None)),
        ("energy", f"min(energy, 99) / {ENERGY_STEP} * {ENERGY_STEP}", replace(wanted, energy=None)),
    )
    selects: list[str] = []
    found_where, values = _where(Filter(wanted.words))
    for name, expression, filtered in pictures:
        where, more = _where(replace(filtered, words="", crate_id=None))
        selects.append(
            f"SELECT '{name}' AS picture, {expression} AS value, count(*) AS n FROM found "
            f"WHERE {where} AND value IS NOT NULL GROUP BY value"
        )
        values += more
    rows = connection.execute(
        f"""WITH found AS MATERIALIZED (SELECT bpm, key, genre, added_at, rating, energy FROM shelf WHERE {found_where})
            {" UNION ALL ".join(selects)}""",
        values,
    )
    counts: dict[str, dict[Any, int]] = {name: {} for name, _, _ in pictures}
    for row in rows:
        counts[row["picture"]][row["value"]] = row["n"]
    return Index(**counts)


def rate(connection: sqlite3.Connection, track_ids: Sequence[int], stars: int) -> int:
    """Give tracks a rating by hand, 0 to 5 stars; returns how many were left out because their tags are locked.

    Raises:
        LockedError: if all of them are locked.
    """
    open_ids = without_locked(connection, track_ids, "tags")
    if track_ids and not open_ids:
        check_open(connection, track_ids[0], "tags")
    connection.executemany(
        "INSERT INTO hand_rating (track_id, stars) VALUES (?, ?) ON CONFLICT (track_id) DO UPDATE SET stars = excluded.stars",
        [(track_id, stars) for track_id in open_ids],
    )
    return len(track_ids) - len(open_ids)


def _where(wanted: Filter) -> tuple[str, list[str | float | int]]:
    parts: list[str] = ["1"]
    values: list[str | float | int] = []
    for word in fold(wanted.words).split():
        parts.append("instr(search_text, ?)")
        values.append(word)
    simple = (
        ("bpm >= ?", wanted.bpm_from),
        ("bpm <= ?", wanted.bpm_to),
        ("genre = ?", wanted.genre),
        ("substr(added_at, 1, 7) = ?", wanted.month),
        ("rating >= ?", wanted.rating_from),
        ("crate_id = ?", wanted.crate_id),
    )
    for part, value in simple:
        if value is not None:
            parts.append(part)
            values.append(value)
    if wanted.energy is not None:
        parts.append("min(energy, 99) BETWEEN ? AND ?")
        values += [wanted.energy, wanted.energy + ENERGY_STEP - 1]
    if wanted.key is not None:
        keys = _keys(wanted.key, wanted.key_fits)
        parts.append(f"key IN ({','.join('?' * len(keys))})")
        values += keys
    return " AND ".join(parts), values


def _keys(name: str, fits: bool) -> list[str]:
    try:
        key = parse_key(name)
    except ValueError as error:
        raise LibraryError(str(error)) from error
    return [str(k) for k in fitting_keys(key)] if fits else [str(key)]
