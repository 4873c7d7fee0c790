"""The stick's own index, docs/formats/stick.md: what stands on it, in JSON."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, TypedDict

from vinyl.media.files import replacing

INDEX_FILE = "vinyl-stick.json"
FORMAT = "vinyl-stick"
VERSION = 1
TIME_BASE = "seconds from the first decoded sample after padding_samples"


class CueEntry(TypedDict):
    position_s: float
    length_s: float | None
    label: str
    role: str | None
    colour: str
    pad: int | None
    engages: bool


class TrackEntry(TypedDict):
    id: str
    file: str
    bytes: int
    sha256: str
    source: str
    title: str
    artist: str
    album: str
    duration_s: float
    padding_samples: int
    rate_hz: int
    bpm: float | None
    key: str | None
    lufs: float | None
    beats_per_bar: int | None
    anchors: list[dict[str, float]]
    cues: list[CueEntry]
    picture: str | None


class CrateEntry(TypedDict):
    name: str
    playlist: str
    tracks: list[str]


class StickIndex(TypedDict):
    format: str
    version: int
    name: str
    profile: str
    written_at: str
    time_base: str
    tracks: list[TrackEntry]
    crates: list[CrateEntry]


def read_index(folder: Path) -> StickIndex | None:
    """The index of a stick, or None if there is none that can be read."""
    try:
        data: Any = json.loads((folder / INDEX_FILE).read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return None
    if not isinstance(data, dict) or data.get("format") != FORMAT or data.get("version") != VERSION:
        return None
    index: StickIndex = data  # type: ignore[assignment]
    return index


def write_index(folder: Path, index: StickIndex) -> None:
    """Replace the index at once."""
    with replacing(folder / INDEX_FILE) as part:
        part.write_text(json.dumps(index, ensure_ascii=False, indent=1), encoding="utf-8")


def playlist_text(entries: list[TrackEntry]) -> str:
    """An extended M3U8 playlist for a file in the Crates folder, with relative paths."""
    lines = ["#EXTM3U", "#EXTENC:UTF-8"]
    for entry in entries:
        lines.append(f"#EXTINF:{round(entry['duration_s'])},{entry['artist']} - {entry['title']}")
        lines.append(f"../{entry['file']}")
    return "\n".join(lines) + "\n"
