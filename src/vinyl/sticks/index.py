"""The stick's own index, docs/formats/stick.md: what stands on it, in JSON.

An index that is read is a stranger's file: whatever it says is checked before it is believed.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from vinyl.media.files import replacing

INDEX_FILE = "vinyl-stick.json"
FORMAT: Literal["vinyl-stick"] = "vinyl-stick"
VERSION: Literal[1] = 1
TIME_BASE = "seconds from the first decoded sample after padding_samples"
MUSIC, CRATES, PICTURES = "Music", "Crates", "Pictures"
LARGEST_BYTES = 256 * 1024**2


def _inside(*folders: str) -> AfterValidator:
    """A relative path that stays in one of the stick's own folders."""

    def check(path: str) -> str:
        parts = PurePosixPath(path).parts
        if "\\" in path or "\0" in path or len(parts) < 2 or parts[0] not in folders or ".." in parts:
            raise ValueError(f"{path!r} leaves the stick's folders")
        return path

    return AfterValidator(check)


MusicPath = Annotated[str, Field(max_length=1000), _inside(MUSIC)]
PicturePath = Annotated[str, Field(max_length=1000), _inside(PICTURES)]
PlaylistPath = Annotated[str, Field(max_length=1000), _inside(CRATES)]
Number = Annotated[float, Field(allow_inf_nan=False)]


class Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", validate_assignment=True)


class CueEntry(Entry):
    position_s: Number
    length_s: Number | None
    label: str
    role: str | None
    colour: str
    pad: int | None
    engages: bool


class AnchorEntry(Entry):
    time: Number
    beat: Number
    bpm: Number


class TrackEntry(Entry):
    id: str
    file: MusicPath
    bytes: Annotated[int, Field(ge=0)]
    sha256: str
    source: str
    title: str
    artist: str
    album: str
    duration_s: Number
    padding_samples: int
    rate_hz: int
    bpm: Number | None
    key: str | None
    lufs: Number | None
    beats_per_bar: int | None
    anchors: list[AnchorEntry]
    cues: list[CueEntry]
    picture: PicturePath | None


class CrateEntry(Entry):
    name: str
    playlist: PlaylistPath
    tracks: list[str]


class StickIndex(Entry):
    format: Literal["vinyl-stick"]
    version: Literal[1]
    name: str
    profile: str
    written_at: str
    time_base: str
    tracks: list[TrackEntry]
    crates: list[CrateEntry]


def read_index(folder: Path) -> StickIndex | None:
    """The index of a stick, or None if there is none that can be read and believed."""
    path = folder / INDEX_FILE
    try:
        if path.is_symlink() or path.stat().st_size > LARGEST_BYTES:
            return None
        return StickIndex.model_validate_json(path.read_bytes())
    except (OSError, ValidationError, RecursionError):
        return None


def write_index(folder: Path, index: StickIndex) -> None:
    """Replace the index at once."""
    with replacing(folder / INDEX_FILE) as part:
        part.write_text(json.dumps(index.model_dump(), ensure_ascii=False, indent=1), encoding="utf-8")


def is_on_stick(folder: Path, path: str) -> bool:
    """Whether a path, links followed, lies on the stick."""
    return (folder / path).resolve().is_relative_to(folder.resolve())


def playlist_text(entries: Sequence[TrackEntry]) -> str:
    """An extended M3U8 playlist for a file in the Crates folder, with relative paths."""
    lines = ["#EXTM3U", "#EXTENC:UTF-8"]
    for entry in entries:
        lines.append(f"#EXTINF:{round(entry.duration_s)},{entry.artist} - {entry.title}")
        lines.append(f"../{entry.file}")
    return "\n".join(lines) + "\n"
