"""A large made-up library without audio, for trying out how Vinyl behaves at size."""

from __future__ import annotations

import json
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Any

import numpy as np

from vinyl.core.analysis import VERSION
from vinyl.core.tonal.key import TONICS
from vinyl.library import flat
from vinyl.library.database import Database

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
    """Add tracks whose files are away, with tags and results of analysis; the same seed gives the same library."""
    random = np.random.default_rng(seed)
    first = database.read().execute("SELECT COALESCE(max(id), 0) + 1 FROM track").fetchone()[0]
    for start in range(first, first + tracks, BATCH):
        made = [_track(random, i) for i in range(start, min(start + BATCH, first + tracks))]
        with database.write() as connection:
            connection.executemany(
                """INSERT INTO track (id, path, size_bytes, modified_ns, audio_hash, codec, rate_hz, channels, bit_rate,
                     duration_s, has_picture, away, added_at)
                   VALUES (?, ?, 9000000, 0, ?, 'mp3', 44100, 2, 320000, ?, 0, 1, ?)""",
                [track.facts for track in made],
            )
            connection.executemany(
                "INSERT INTO track_value (track_id, field, source, value, detail, doubt, changed_at) "
                "VALUES (?, ?, ?, ?, NULL, ?, ?)",
                [value for track in made for value in track.values],
            )
            connection.executemany(
                "INSERT INTO track_analysis (track_id, version, lufs, analysed_at) VALUES (?, ?, ?, ?)",
                [track.analysis for track in made],
            )
            flat.settle(connection, [track.facts[0] for track in made])


@dataclass(frozen=True, slots=True)
class _Seeded:
    """The rows of one made-up track: its file, its values, its analysis."""

    facts: tuple[Any, ...]
    values: list[tuple[Any, ...]]
    analysis: tuple[Any, ...]


def _track(random: np.random.Generator, number: int) -> _Seeded:
    style = int(random.integers(len(GENRES)))
    added = datetime(2026, 11, 20, tzinfo=UTC) - timedelta(minutes=float(random.integers(0, 60 * 24 * 700)))
    when = added.isoformat(timespec="milliseconds")
    length_s, stars = float(random.integers(150, 480)), int(random.choice((0, 0, 0, 2, 3, 4, 5)))
    tags = {
        "title": f"{random.choice(FIRST)} {random.choice(SECOND)} {random.choice(SECOND)}",
        "artist": f"{random.choice(FIRST)} {random.choice(SECOND)}",
        "album": f"{random.choice(SECOND)} {random.integers(1, 40)}",
        "genre": GENRES[style],
        "year": str(random.integers(1994, 2027)),
        **({"stars": str(stars)} if stars else {}),
    }
    said: list[tuple[str, str, str, float | None]] = [
        (field, "file tag", text, None) for field, text in tags.items()
    ]
    said += [(field, "analysis", text, doubt) for field, text, doubt in _heard(random, style)]
    values = [(number, field, source, text, doubt, when) for field, source, text, doubt in said]
    facts = (number, f"/media/seeded/{number}.mp3", f"seed-{number}", length_s, when)
    return _Seeded(facts, values, (number, VERSION, round(float(random.normal(-9, 2)), 1), when))


def _heard(random: np.random.Generator, style: int) -> list[tuple[str, str, float | None]]:
    """What analysis says of a track: field, value, doubt."""
    bpm = round(float(random.normal(CENTRES[style], 3)), 2)
    key = f"{TONICS[random.integers(12)]} {'minor' if random.random() < 0.62 else 'major'}"
    doubt, energy = round(float(random.beta(1, 6)), 3), int(np.clip(random.normal(60, 14), 5, 98))
    anchors = [{"time": float(random.random()), "beat": 0.0, "bpm": bpm}]
    return [
        ("grid", json.dumps({"anchors": anchors, "beats_per_bar": 4}), doubt),
        ("tempo", str(bpm), doubt),
        ("key", key, 0.2),
        ("energy", str(energy), None),
    ]
