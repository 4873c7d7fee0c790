"""A large made-up library without audio, for trying out how Vinyl behaves at size."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta

import numpy as np

from vinyl.core.tonal.key import TONICS
from vinyl.library.database import Database
from vinyl.library.tracks import fold

FIRST = [
    "Amber",
    "Brine",
    "Cinder",
    "Copper",
    "Drift",
    "Ebb",
    "Flint",
    "Fog",
    "Gale",
    "Glass",
    "Harbour",
    "Iron",
    "Kelp",
    "Lantern",
    "Marsh",
    "Moss",
    "North",
    "Ochre",
    "Paper",
    "Quay",
    "Rope",
    "Salt",
    "Slate",
    "Tide",
    "Velvet",
    "Winter",
]
SECOND = [
    "Anchor",
    "Arc",
    "Bell",
    "Canal",
    "Chorus",
    "Engine",
    "Ferry",
    "Garden",
    "Hours",
    "Index",
    "Jetty",
    "Letters",
    "Lines",
    "Meridian",
    "Motion",
    "Orchard",
    "Pilot",
    "Quarter",
    "Relay",
    "Signal",
    "Station",
    "Theory",
    "Union",
    "Voyage",
    "Weather",
    "Works",
]
GENRES = ("House", "Disco", "Techno", "Drum & Bass", "Dub", "Breaks", "Downtempo", "Dembow", "Garage", "Soul")
CENTRES = (123, 116, 131, 174, 82, 134, 92, 97, 132, 102)
BATCH = 5000


def seed_library(database: Database, tracks: int, seed: int = 1) -> None:
    """Add tracks whose files are away, with results of analysis; the same seed gives the same library."""
    random = np.random.default_rng(seed)
    first = database.read().execute("SELECT COALESCE(max(id), 0) + 1 FROM track").fetchone()[0]
    for start in range(first, first + tracks, BATCH):
        ids = range(start, min(start + BATCH, first + tracks))
        rows = [_row(random, i) for i in ids]
        with database.write() as connection:
            connection.executemany(
                """INSERT INTO track (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, bit_rate, duration_s, title,
                     artist, album, genre, label, comment, year, file_key, file_rating, has_picture, search_text, away, added_at)
                   VALUES (?, ?, 9000000, 0, ?, 'mp3', 44100, 2, 320000, ?, ?, ?, ?, ?, '', '', ?, '', ?, 0, ?, 1, ?)""",
                [row[0] for row in rows],
            )
            connection.executemany(
                """INSERT INTO track_analysis (track_id, version, bpm, anchors, beats_per_bar, key, key_confidence, tuning_cents, lufs,
                     energy, grid_doubt, grid_reasons, analysed_at) VALUES (?, 2, ?, ?, 4, ?, 0.8, 0, ?, ?, ?, '[]', ?)""",
                [row[1] for row in rows],
            )


def _row(random: np.random.Generator, number: int) -> tuple[tuple[object, ...], tuple[object, ...]]:
    style = int(random.integers(len(GENRES)))
    title = f"{random.choice(FIRST)} {random.choice(SECOND)} {random.choice(SECOND)}"
    artist = f"{random.choice(FIRST)} {random.choice(SECOND)}"
    album = f"{random.choice(SECOND)} {random.integers(1, 40)}"
    bpm = round(float(random.normal(CENTRES[style], 3)), 2)
    key = f"{TONICS[random.integers(12)]} {'minor' if random.random() < 0.62 else 'major'}"
    added = datetime(2026, 11, 20, tzinfo=UTC) - timedelta(minutes=float(random.integers(0, 60 * 24 * 700)))
    when = added.isoformat(timespec="milliseconds")
    search = fold(f"{title} {artist} {album} {GENRES[style]}")
    length, stars = float(random.integers(150, 480)), int(random.choice((0, 0, 0, 2, 3, 4, 5)))
    doubt, energy = round(float(random.beta(1, 6)), 3), int(np.clip(random.normal(60, 14), 5, 98))
    track = (
        number,
        f"/media/seeded/{number}.mp3",
        f"seed-{number}",
        length,
        title,
        artist,
        album,
        GENRES[style],
        int(random.integers(1994, 2027)),
        stars,
        search,
        when,
    )
    anchors = json.dumps([{"time": float(random.random()), "beat": 0.0, "bpm": bpm}])
    return track, (number, bpm, anchors, key, round(float(random.normal(-9, 2)), 1), energy, doubt, when)
