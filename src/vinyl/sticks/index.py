"""The stick's own index, docs/formats/stick.md: what stands on it, in JSON.

An index that is read is a stranger's file: whatever it says is checked before it is believed.
"""

from __future__ import annotations

import json
import os
from collections.abc import Sequence
from pathlib import Path, PurePosixPath
from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

from vinyl.core.cues.bounds import LONGEST_S, MOST_PADS, Colour, Role
from vinyl.core.rhythm.tempo_map import MAX_BPM, MIN_BPM

INDEX_FILE = "vinyl-stick.json"
FORMAT: Literal["vinyl-stick"] = "vinyl-stick"
VERSION: Literal[2] = 2
TIME_BASE = "seconds from the first decoded sample after padding_samples"
MUSIC, CRATES, PICTURES, WAVEFORMS = "Music", "Crates", "Pictures", "Waveforms"
LARGEST_BYTES = 256 * 1024**2
LONGEST_LABEL = 200
MOST_BEATS = 1e6
# Of a damaged index so often what cannot be is left out and the rest looked at again.
TRIES = 3
# Entries that can be left out by themselves.
SINGLE = frozenset({"files", "tracks", "lists", "cues", "routes"})


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
WaveformPath = Annotated[str, Field(max_length=1000), _inside(WAVEFORMS)]
PlaylistPath = Annotated[str, Field(max_length=1000), _inside(CRATES)]
Number = Annotated[float, Field(allow_inf_nan=False)]


class Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", validate_assignment=True)


class CueEntry(Entry):
    position_s: Annotated[Number, Field(ge=0, le=LONGEST_S)]
    length_s: Annotated[Number, Field(gt=0, le=LONGEST_S)] | None
    label: Annotated[str, Field(max_length=LONGEST_LABEL)]
    role: Role | None
    colour: Colour
    pad: Annotated[int, Field(ge=1, le=MOST_PADS)] | None
    engages: bool
    id: str = ""


class AnchorEntry(Entry):
    time: Annotated[Number, Field(ge=-LONGEST_S, le=LONGEST_S)]
    beat: Annotated[Number, Field(ge=-MOST_BEATS, le=MOST_BEATS)]
    bpm: Annotated[Number, Field(ge=MIN_BPM, le=MAX_BPM)]


class RouteEntry(Entry):
    name: str
    jumps: list[tuple[Number, Number]]


class FileEntry(Entry):
    """A file of sound, whole. ``source`` says what it was made from, and how; ``gain_db`` is what its tag
    asks players to raise it by.
    """

    file: MusicPath
    bytes: Annotated[int, Field(ge=0)]
    sha256: str
    source: str
    padding_samples: int
    rate_hz: int
    gain_db: Number | None = None


class TrackEntry(Entry):
    """A track as a player has it; ``file`` is one of the index's files. One that is a route of another track
    has that one's id, a stroke, and the route's.
    """

    id: str
    file: MusicPath
    title: str
    artist: str
    album: str
    duration_s: Number
    bpm: Number | None
    key: str | None
    lufs: Number | None
    stars: int = 0
    plays: int = 0
    beats_per_bar: int | None
    anchors: list[AnchorEntry]
    cues: list[CueEntry]
    routes: Annotated[list[RouteEntry], Field(default_factory=list)]
    picture: PicturePath | None
    waveform: WaveformPath | None = None


class ListEntry(Entry):
    """A list with the ids of its tracks, in the folders that it stands in. ``divided`` says what stands
    before a place: places and names.
    """

    id: str = ""
    name: str
    within: Annotated[list[str], Field(default_factory=list)]
    playlist: PlaylistPath
    tracks: list[str]
    divided: Annotated[list[tuple[int, str]], Field(default_factory=list)]


class PlayerEntry(Entry):
    """What one player finds on the stick."""

    profile: str
    settings: Annotated[dict[str, str], Field(default_factory=dict)]
    tracks: list[TrackEntry]
    lists: list[ListEntry]


class StickIndex(Entry):
    """The whole index. ``id`` is the stick's own, ``library`` that of the library it was packed from."""

    format: Literal["vinyl-stick"]
    version: Literal[2]
    id: str
    library: str
    name: str
    written_at: str
    time_base: str
    files: list[FileEntry]
    players: list[PlayerEntry]


def track_of(id_on_stick: str) -> str:
    """The id of the track that something on a stick is, or is a route of."""
    return id_on_stick.partition("/")[0]


def read_index(folder: Path) -> tuple[StickIndex | None, list[str]]:
    """The index of a stick, or None if there is none that can be read and believed; and in words which of its
    entries were left out, because they cannot be.
    """
    path = folder / INDEX_FILE
    try:
        if path.is_symlink() or not path.is_file() or path.stat().st_size > LARGEST_BYTES:
            return None, []
        data = path.read_bytes()
        return StickIndex.model_validate_json(data), []
    except (OSError, RecursionError):
        return None, []
    except ValidationError as error:
        return _without_faults(data, error)


def _without_faults(data: bytes, error: ValidationError) -> tuple[StickIndex | None, list[str]]:
    left_out: list[str] = []
    try:
        told = json.loads(data)
    except (ValueError, RecursionError):
        return None, []
    for _ in range(TRIES):
        for found in error.errors(include_url=False, include_input=False):
            place = _place_of(found["loc"])
            if place is None:
                return None, left_out
            left_out += _leave_out(told, place, found["msg"])
        told = _packed(told)
        try:
            return StickIndex.model_validate(told), left_out
        except ValidationError as again:
            error = again
    return None, left_out


def _place_of(loc: tuple[int | str, ...]) -> tuple[int | str, ...] | None:
    """The innermost entry around a fault that can be left out by itself; of a grid all anchors."""
    if "anchors" in loc:
        return loc[: loc.index("anchors") + 1]
    for at in range(len(loc) - 1, 0, -1):
        if isinstance(loc[at], int) and loc[at - 1] in SINGLE:
            return loc[: at + 1]
    return None


def _leave_out(told: Any, place: tuple[int | str, ...], why: str) -> list[str]:
    """Put nothing where an entry stands; says which it was, unless it is left out already."""
    holder, name = told, ""
    for step in place[:-1]:
        holder = holder[step]
        if not holder:
            return []
        name = str(holder.get("title") or holder.get("name") or name) if isinstance(holder, dict) else name
    last = place[-1]
    if not holder[last]:
        return []
    found, holder[last] = holder[last], [] if last == "anchors" else None
    if isinstance(found, dict):
        name = str(found.get("title") or found.get("name") or found.get("file") or name)
    what = "grid" if last == "anchors" else str(place[-2]).removesuffix("s")
    return [f"{INDEX_FILE}: a {what} of “{name[:80]}” left out: {why}."]


def _packed(told: Any) -> Any:
    """Without the entries that were left out."""
    if isinstance(told, dict):
        return {name: _packed(value) for name, value in told.items()}
    if isinstance(told, list):
        return [_packed(each) for each in told if each is not None]
    return told


def index_bytes(index: StickIndex) -> bytes:
    """The index as it is written."""
    return index.model_dump_json(indent=1).encode()


def is_on_stick(folder: Path, path: str) -> bool:
    """Whether a path, links followed, lies on the stick."""
    root = os.path.realpath(folder)
    return Path(os.path.realpath(f"{root}/{path}")).is_relative_to(root)


def playlist_text(tracks: Sequence[TrackEntry], up: int) -> str:
    """An extended M3U8 playlist for a file so many folders down, with relative paths."""
    lines = ["#EXTM3U", "#EXTENC:UTF-8"]
    for track in tracks:
        said = " ".join(f"{track.artist} - {track.title}".split())
        lines.append(f"#EXTINF:{round(track.duration_s)},{said}")
        lines.append("../" * up + track.file)
    return "\n".join(lines) + "\n"
