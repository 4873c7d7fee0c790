"""Tracks for tests of the library, without files."""

from __future__ import annotations

import sqlite3

from vinyl.library.tracks import FileFacts, Said, add_track


def new_track(
    connection: sqlite3.Connection,
    name: str,
    artist: str = "Kelp Union",
    genre: str = "House",
    duration_s: float = 200.0,
    **said: str,
) -> int:
    """Add a track whose file says these things; gives its id."""
    facts = FileFacts(
        path=f"/music/{name}.mp3",
        size_bytes=1,
        modified_ns=1,
        audio_hash=name,
        codec="mp3",
        rate_hz=44100,
        channels=2,
        bit_rate=192000,
        trimmed_samples=1105,
        duration_s=duration_s,
        has_picture=False,
    )
    tags = {"title": name, "artist": artist, "genre": genre, "year": "2024", "stars": "3", **said}
    return add_track(connection, facts, Said(tags, None))  # type: ignore[arg-type]
