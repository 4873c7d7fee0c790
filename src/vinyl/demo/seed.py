"""A large made-up library without audio, for trying out how Vinyl behaves at size."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from operator import itemgetter
from typing import Any

import numpy as np

from vinyl.core.analysis import VERSION
from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.ordering import keys_between
from vinyl.core.tonal.key import TONICS
from vinyl.library import flat, venues
from vinyl.library.database import Database

# Names are put together of syllables, so that there are as many different ones as in a real collection.
SYLLABLES = """
am ber bri ne cin der cop per drif eb flin fog ga le gla har bour ir on kel lan tern mar sh mos nor och pa
quay ro pe
sal sla te ti de vel vet win ter an chor ar bel ca nal chor us en gine fer ry gar den ho dex jet ty let lin
mer di mo
tion or chard pi lot quar re lay sig sta the o ry un voy wea ther works tarn haven slip way dock buoy cleat
sound
"""
GENRES = ("House", "Disco", "Techno", "Drum & Bass", "Dub", "Breaks", "Downtempo", "Dembow", "Garage", "Soul")
SPELLINGS = {
    "Drum & Bass": ("Drum & Bass", "drum and bass", "Drum'n'Bass"),
    "Downtempo": ("Downtempo", "Down Tempo"),
}
CENTRES = (123, 116, 131, 174, 82, 134, 92, 97, 132, 102)
FORMATS = (("mp3", 320_000), ("mp3", 256_000), ("flac", 920_000), ("aac", 256_000), ("wav", 1_411_000))
LANGUAGES = ("", "", "", "English", "Portuguese", "Wolof", "Danish")
NAMES = 12_000
CRATES = 500
MOST_IN_CRATE = 160
VENUES, TRACKS_A_GIG, PLAYS_A_GIG = 12, 100, 40
BATCH = 10_000
NEWEST = datetime(2026, 11, 20, tzinfo=UTC)


def seed_library(database: Database, tracks: int, seed: int = 1, crates: int = CRATES) -> None:
    """Add tracks whose files are away, with texts, results of analysis, tags, nights of plays and crates; the
    same seed gives the same library.
    """
    random = np.random.default_rng(seed)
    words = _words(random)
    with database.write() as connection:
        first = connection.execute("SELECT coalesce(max(id), 0) + 1 FROM track").fetchone()[0]
        set_aside = _set_aside(connection)
        for start in range(first, first + tracks, BATCH):
            made = _batch(random, words, range(start, min(start + BATCH, first + tracks)))
            ids = [int(track.facts[0]) for track in made]
            _insert(connection, made)
            _describe(connection, random, ids)
        _make_gigs(connection, random, words, range(first, first + tracks))
        for start in range(first, first + tracks, BATCH):
            flat.settle(connection, range(start, min(start + BATCH, first + tracks)))
        _make_crates(connection, random, words, range(first, first + tracks), crates)
        for statement in set_aside:
            connection.execute(statement)


def _set_aside(connection: sqlite3.Connection) -> list[str]:
    """Drop what the lists' table is sorted by, which is made anew faster than it grows, and what would look
    at each row for Undo, which records nothing here; returns how all of it is made.
    """
    rows = connection.execute(
        """SELECT type, name, sql FROM sqlite_master WHERE (type = 'index' AND tbl_name = 'shelf' AND
             sql IS NOT NULL) OR (type = 'trigger' AND name LIKE 'undo~_%~_insert' ESCAPE '~')"""
    ).fetchall()
    for row in rows:
        connection.execute(f"DROP {row['type']} {row['name']}")
    return [row["sql"] for row in rows]


@dataclass(frozen=True, slots=True)
class _Seeded:
    """The rows of one made-up track: its file, its values, its analysis."""

    facts: tuple[Any, ...]
    values: list[tuple[Any, ...]]
    analysis: tuple[Any, ...]


def _words(random: np.random.Generator) -> list[str]:
    sizes = random.integers(2, 4, NAMES)
    syllables = SYLLABLES.split()
    picked = random.integers(0, len(syllables), (NAMES, 3))
    made = ("".join(syllables[i] for i in row[:size]) for row, size in zip(picked, sizes, strict=True))
    return sorted({word.capitalize() for word in made})


def _insert(connection: sqlite3.Connection, made: Sequence[_Seeded]) -> None:
    connection.executemany(
        """INSERT INTO track (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels,
        bit_rate, duration_s, has_picture, away, added_at)
           VALUES (?, ?, 9000000, 0, ?, ?, 44100, 2, ?, ?, 0, 1, ?)""",
        [track.facts for track in made],
    )
    connection.executemany(
        "INSERT INTO track_value (track_id, field, source, value, detail, doubt, changed_at) "
        "VALUES (?, ?, ?, ?, NULL, ?, ?)",
        sorted((value for track in made for value in track.values), key=itemgetter(1, 0)),
    )
    connection.executemany(
        "INSERT INTO track_analysis (track_id, version, lufs, analysed_at) VALUES (?, ?, ?, ?)",
        [track.analysis for track in made],
    )


def _describe(connection: sqlite3.Connection, random: np.random.Generator, ids: Sequence[int]) -> None:
    """Tags, cues and what each sounds like."""
    tags = [row[0] for row in connection.execute("SELECT id FROM tag ORDER BY id")]
    chances = random.random((len(ids), len(tags))) < np.linspace(0.3, 0.05, len(tags))
    connection.executemany(
        "INSERT INTO track_tag (tag_id, track_id) VALUES (?, ?)",
        [(tags[column], ids[row]) for row, column in np.argwhere(chances).tolist()],
    )
    cued = [track for track, chance in zip(ids, random.random(len(ids)), strict=True) if chance < 0.3]
    connection.executemany(
        "INSERT INTO cue (track_id, position_s, role, colour) VALUES (?, ?, ?, 'vermilion')",
        [(track, place, role) for track in cued for place, role in ((0.5, "in"), (64.5, "main"))],
    )
    sounds = random.normal(0, 1 / np.sqrt(SIZE), (len(ids), SIZE)).astype("<f4")
    connection.executemany(
        "INSERT INTO track_likeness (track_id, descriptor, fingerprint) VALUES (?, ?, x'')",
        [(track, sounds[row].tobytes()) for row, track in enumerate(ids)],
    )


def _make_gigs(
    connection: sqlite3.Connection, random: np.random.Generator, words: Sequence[str], ids: range
) -> None:
    """Nights at a few venues over years: a thousand with forty tracks each for a hundred thousand tracks."""
    nights = max(1, len(ids) // TRACKS_A_GIG)
    made = [
        venues.named(connection, f"{words[int(random.integers(len(words)))]} {n + 1}") for n in range(VENUES)
    ]
    # The newest and the best known are played most.
    drawn = (len(ids) * random.random((nights, PLAYS_A_GIG)) ** 2).astype(int)
    went = random.choice(["", "", "", "", "", "well", "well", "flat"], (nights, PLAYS_A_GIG))
    keys = keys_between(None, None, PLAYS_A_GIG)
    for night in range(nights):
        began = NEWEST - timedelta(days=int(night * 1500 / nights), hours=3)
        at = [
            (began + timedelta(minutes=6 * n)).isoformat(timespec="milliseconds") for n in range(PLAYS_A_GIG)
        ]
        gig = connection.execute(
            "INSERT INTO gig (venue_id, kind, began_at, ended_at) VALUES (?, 'club', ?, ?)",
            (made[int(VENUES * random.random() ** 2)], at[0], at[-1]),
        ).lastrowid
        connection.executemany(
            """INSERT INTO play (gig_id, track_id, played_at, source, position, went, heard_s)
               VALUES (?, ?, ?, 'player', ?, ?, 360)""",
            [
                (gig, ids[int(track)], when, key, mark)
                for track, when, key, mark in zip(drawn[night], at, keys, went[night].tolist(), strict=True)
            ],
        )


def _make_crates(
    connection: sqlite3.Connection, random: np.random.Generator, words: Sequence[str], ids: range, crates: int
) -> None:
    last = connection.execute("SELECT max(position) FROM crate").fetchone()[0]
    for number, position in enumerate(keys_between(last, None, crates)):
        name = f"{words[int(random.integers(len(words)))]} {number + 1}"
        crate = connection.execute(
            "INSERT INTO crate (name, position, created_at) VALUES (?, ?, ?)", (name, position, _when(0))
        ).lastrowid
        held = random.choice(len(ids), min(int(random.integers(5, MOST_IN_CRATE)), len(ids)), replace=False)
        connection.executemany(
            "INSERT INTO crate_place (crate_id, track_id, position) VALUES (?, ?, ?)",
            [
                (crate, ids[int(i)], key)
                for i, key in zip(held, keys_between(None, None, len(held)), strict=True)
            ],
        )


def _when(days: float) -> str:
    return (NEWEST - timedelta(days=days)).isoformat(timespec="milliseconds")


def _batch(random: np.random.Generator, words: Sequence[str], numbers: range) -> list[_Seeded]:
    """So many made-up tracks; all chances of one kind are drawn at once."""
    size = len(numbers)
    draws = {
        "style": random.integers(0, len(GENRES), size),
        "age_days": random.random(size) ** 2 * 700,
        "stars": random.choice((0, 0, 0, 2, 3, 4, 5), size),
        "name": random.integers(0, len(words), (size, 3)),
        # Few make much music, many make little.
        "artist": (len(words) * random.random(size) ** 3).astype(int),
        "label": (300 * random.random(size) ** 2).astype(int),
        "year": random.integers(1994, 2027, size),
        "format": (len(FORMATS) * random.random(size) ** 2).astype(int),
        "length_s": random.integers(150, 480, size),
        "lufs": random.normal(-9, 2, size).round(1),
        "off_bpm": random.normal(0, 3, size),
        "tonic": random.integers(0, 12, size),
        "minor": random.random(size) < 0.62,
        "doubt": random.beta(1, 6, size).round(3),
        "energy": random.normal(60, 14, size).clip(5, 98).astype(int),
        "start_s": random.random(size),
    }
    rows = zip(*(values.tolist() for values in draws.values()), strict=True)
    return [
        _track(dict(zip(draws, row, strict=True)), words, number)
        for number, row in zip(numbers, rows, strict=True)
    ]


def _track(drawn: dict[str, Any], words: Sequence[str], number: int) -> _Seeded:
    when, artist = _when(drawn["age_days"]), drawn["artist"]
    named = [words[i] for i in drawn["name"]]
    genre = GENRES[drawn["style"]]
    spellings = SPELLINGS.get(genre, (genre,))
    tags = {
        "title": " ".join(named[: 1 + number % 3]),
        "artist": f"{words[artist]} {words[(artist * 7) % len(words)]}",
        "album": f"{named[0]} {1 + number % 40}",
        "label": words[drawn["label"]],
        "genre": spellings[number % len(spellings)],
        "language": LANGUAGES[number % len(LANGUAGES)],
        "year": str(drawn["year"]),
        "stars": str(drawn["stars"] or ""),
    }
    said: list[tuple[str, str, str, float | None]] = [
        (field, "file tag", text, None) for field, text in tags.items() if text
    ]
    said += [(field, "analysis", text, doubt) for field, text, doubt in _heard(drawn)]
    values = [(number, field, source, text, doubt, when) for field, source, text, doubt in said]
    codec, bit_rate = FORMATS[drawn["format"]]
    path = f"/media/seeded/{number}.{codec}"
    facts = (number, path, f"seed-{number}", codec, bit_rate, float(drawn["length_s"]), when)
    return _Seeded(facts, values, (number, VERSION, drawn["lufs"], when))


def _heard(drawn: dict[str, Any]) -> list[tuple[str, str, float | None]]:
    """What analysis says of a track: field, value, doubt."""
    bpm = round(CENTRES[drawn["style"]] + drawn["off_bpm"], 2)
    grid = f'{{"anchors": [{{"time": {drawn["start_s"]}, "beat": 0.0, "bpm": {bpm}}}], "beats_per_bar": 4}}'
    return [
        ("grid", grid, drawn["doubt"]),
        ("tempo", str(bpm), drawn["doubt"]),
        ("key", f"{TONICS[drawn['tonic']]} {'minor' if drawn['minor'] else 'major'}", 0.2),
        ("energy", str(drawn["energy"]), None),
    ]
