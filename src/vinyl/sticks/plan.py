"""The plan: what packing would write, convert, keep and remove, before anything is touched."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.library.crates import crate_tracks, get_crate
from vinyl.library.cues import list_cues
from vinyl.library.grids import get_grid
from vinyl.media.encode import ENCODINGS
from vinyl.sticks.index import (
    CRATES,
    MUSIC,
    PICTURES,
    AnchorEntry,
    CrateEntry,
    CueEntry,
    TrackEntry,
    is_on_stick,
    read_index,
)
from vinyl.sticks.journal import read_journal
from vinyl.sticks.names import distinct, safe_name
from vinyl.sticks.profiles import Profile
from vinyl.sticks.store import Stick

CONVERTED_BYTES_PER_S = 125_000
INDEX_BYTES_PER_TRACK = 4_000

Action = Literal["copy", "convert", "keep", "update"]


@dataclass(frozen=True, slots=True)
class PlannedTrack:
    """One file on the stick. ``entry`` has bytes and sha256 filled in where the file is there already.

    ``source_state`` is size and time of change of the source as it was imported.
    """

    source: Path
    source_state: tuple[int, int]
    action: Action
    size_bytes: int
    entry: TrackEntry


@dataclass(frozen=True, slots=True)
class Plan:
    """What packing would do. ``left_out`` says in words which tracks cannot go and why."""

    tracks: tuple[PlannedTrack, ...]
    crates: tuple[CrateEntry, ...]
    removed: tuple[TrackEntry, ...]
    left_out: tuple[str, ...]
    free_bytes: int
    capacity_bytes: int

    @property
    def write_bytes(self) -> int:
        """How much will be written, about: converted files are estimated."""
        return sum(t.size_bytes for t in self.tracks if t.action in ("copy", "convert"))

    @property
    def removed_bytes(self) -> int:
        return sum(entry.bytes for entry in self.removed)

    @property
    def missing_bytes(self) -> int:
        """By how much the stick is too small; 0 if all fits."""
        index = INDEX_BYTES_PER_TRACK * len(self.tracks)
        return max(0, self.write_bytes + index - self.removed_bytes - self.free_bytes)


def make_plan(connection: sqlite3.Connection, stick: Stick) -> Plan:
    """Compare the stick's crates with what stands on it.

    Raises:
        StickGoneError: if the stick is not in the computer.
    """
    stick.medium.check_in()
    folder = stick.medium.folder
    on_stick = _entries_on_stick(folder)
    contents = {crate_id: crate_tracks(connection, crate_id) for crate_id in stick.crate_ids}
    planned: dict[int, PlannedTrack] = {}
    left_out: list[str] = []
    taken = _foreign_files(folder, on_stick)
    for track_id in sorted({track_id for ids in contents.values() for track_id in ids}):
        row = _row(connection, track_id)
        hindrance = _hindrance(row)
        if hindrance:
            left_out.append(f"“{row['title']}” {hindrance}")
        else:
            planned[track_id] = _plan_track(connection, row, stick.profile, on_stick, taken)
    files = {track.entry.file for track in planned.values()}
    return Plan(
        tracks=tuple(planned.values()),
        crates=_plan_crates(connection, contents, planned, stick.profile),
        removed=tuple(
            entry for file, entry in on_stick.items() if file not in files and file in stick.own_files
        ),
        left_out=tuple(left_out),
        free_bytes=stick.medium.free_bytes(),
        capacity_bytes=stick.medium.capacity_bytes,
    )


def _entries_on_stick(folder: Path) -> dict[str, TrackEntry]:
    """What is whole on the stick by file: the index, and what an interrupted packing had finished."""
    index = read_index(folder)
    entries = {entry.file: entry for entry in (index.tracks if index else [])}
    entries.update({entry.file: entry for entry in read_journal(folder)})
    return {
        file: e
        for file, e in entries.items()
        if is_on_stick(folder, file) and _size(folder / file) == e.bytes
    }


def _foreign_files(folder: Path, on_stick: dict[str, TrackEntry]) -> set[str]:
    """Names that are taken by files which no index of ours knows, folded as file systems on
    sticks fold them."""
    found = (path for path in (folder / MUSIC).rglob("*") if path.is_file() and not path.name.startswith("."))
    names = {path.relative_to(folder).as_posix() for path in found}
    return {name.casefold() for name in names - set(on_stick)}


def _row(connection: sqlite3.Connection, track_id: int) -> sqlite3.Row:
    row: sqlite3.Row = connection.execute(
        """SELECT t.*, s.title, s.artist, s.album, s.bpm, s.key,
          s.lufs FROM track t JOIN shelf s ON s.id = t.id
           WHERE t.id = ?""",
        (track_id,),
    ).fetchone()
    return row


def _hindrance(row: sqlite3.Row) -> str:
    """Why a track cannot go, or nothing."""
    try:
        stat = Path(row["path"]).stat()
    except OSError:
        return f"is away: its file {row['path']} cannot be found."
    if (stat.st_size, stat.st_mtime_ns) != (row["size_bytes"], row["modified_ns"]):
        return (
            "was changed since it was imported: import its folder "
            "again, so that grid and cues fit what is heard."
        )
    return ""


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return -1


def _plan_track(
    connection: sqlite3.Connection,
    row: sqlite3.Row,
    profile: Profile,
    on_stick: dict[str, TrackEntry],
    taken: set[str],
) -> PlannedTrack:
    converts = row["codec"] not in profile.plays
    suffix = ENCODINGS[profile.converts_to].suffix if converts else Path(row["path"]).suffix.lower()
    artist = safe_name(row["artist"], profile.longest_name, "Unknown artist")
    title = safe_name(row["title"], profile.longest_name, f"Track {row['id']}")
    entry = _entry(connection, row, distinct(f"{MUSIC}/{artist}/{title}{suffix}", taken), profile, converts)
    size = round(row["duration_s"] * CONVERTED_BYTES_PER_S) if converts else row["size_bytes"]
    source, state = Path(row["path"]), (row["size_bytes"], row["modified_ns"])
    old = on_stick.get(entry.file)
    if old is None or old.source != entry.source:
        return PlannedTrack(source, state, "convert" if converts else "copy", size, entry)
    entry.bytes, entry.sha256 = old.bytes, old.sha256
    return PlannedTrack(source, state, "keep" if old == entry else "update", entry.bytes, entry)


def _entry(
    connection: sqlite3.Connection, row: sqlite3.Row, file: str, profile: Profile, converts: bool
) -> TrackEntry:
    grid = get_grid(connection, row["id"])
    return TrackEntry(
        id=row["audio_hash"],
        file=file,
        bytes=0,
        sha256="",
        source=f"{row['audio_hash']} {row['size_bytes']} {row['modified_ns']}",
        title=row["title"],
        artist=row["artist"],
        album=row["album"],
        duration_s=row["duration_s"],
        padding_samples=0 if converts else row["trimmed_samples"],
        rate_hz=ENCODINGS[profile.converts_to].rate_hz if converts else row["rate_hz"],
        bpm=row["bpm"],
        key=row["key"],
        lufs=row["lufs"],
        beats_per_bar=grid.tempo_map.beats_per_bar if grid else None,
        anchors=[AnchorEntry(**anchor) for anchor in anchors_to(grid.tempo_map)] if grid else [],
        cues=_cue_entries(connection, row["id"], profile),
        picture=f"{PICTURES}/{row['audio_hash']}.jpg" if row["has_picture"] else None,
    )


def _cue_entries(connection: sqlite3.Connection, track_id: int, profile: Profile) -> list[CueEntry]:
    return [
        CueEntry(
            position_s=cue.position_s,
            length_s=cue.length_s,
            label=cue.label,
            role=cue.role,
            colour=cue.colour,
            pad=cue.pad if cue.pad and cue.pad <= profile.pads else None,
            engages=cue.engages,
        )
        for cue in list_cues(connection, track_id)
    ]


def _plan_crates(
    connection: sqlite3.Connection,
    contents: dict[int, list[int]],
    planned: dict[int, PlannedTrack],
    profile: Profile,
) -> tuple[CrateEntry, ...]:
    entries, taken = [], set[str]()
    for crate_id, track_ids in contents.items():
        name = get_crate(connection, crate_id).name
        playlist = distinct(f"{CRATES}/{safe_name(name, profile.longest_name, 'Crate')}.m3u8", taken)
        ids = [planned[i].entry.id for i in track_ids if i in planned]
        entries.append(CrateEntry(name=name, playlist=playlist, tracks=ids))
    return tuple(entries)
