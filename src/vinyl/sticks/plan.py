"""The plan: what packing would write, convert, keep and remove, before anything is touched."""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import accumulate
from pathlib import Path
from typing import Literal

from pydantic import ValidationError

from vinyl.core.carrying.along_route import cues_along, grid_along
from vinyl.core.carrying.collection import Cue, Track
from vinyl.core.cues.bounds import COLOURS
from vinyl.core.cues.routes import Jump, RouteError, Stretch, length_s, stretches
from vinyl.core.rhythm.tempo_map import anchors_to
from vinyl.library.carrying import read_tracks
from vinyl.library.crates import Crate, crate_tracks, list_crates
from vinyl.library.dividers import list_sections
from vinyl.library.waveforms import WaveformStore
from vinyl.media.encode import ENCODINGS
from vinyl.sticks.fitting import Fitted, fit
from vinyl.sticks.index import (
    CRATES,
    LONGEST_LABEL,
    MUSIC,
    PICTURES,
    WAVEFORMS,
    AnchorEntry,
    CueEntry,
    FileEntry,
    ListEntry,
    PlayerEntry,
    RouteEntry,
    TrackEntry,
    is_on_stick,
)
from vinyl.sticks.making import AS_IT_IS, REFERENCE_LUFS, Making
from vinyl.sticks.medium import check_in
from vinyl.sticks.names import Layout, distinct, safe_name
from vinyl.sticks.own_files import OwnFile, read_own_files
from vinyl.sticks.profiles import Profile
from vinyl.sticks.settings import usual_settings
from vinyl.sticks.store import Player, Stick

# With what stands beside a track: its sleeve and waveform.
INDEX_BYTES_PER_TRACK = 40_000
DOUBTFUL = 0.5
PCM_BYTES_PER_S = 176_400
# How much of uncompressed sound is left, about.
LOSSLESS_SHARE = 0.7
# Levelled copies peak no higher, and smaller differences are not heard.
PEAK_DB, HEARD_DB = -1.0, 0.5
# What lossless files become on a stick where they are to be smaller.
SMALLER, SMALLER_RATE_HZ = "mp3", 44100
LOSSLESS = frozenset(
    {"flac", "alac", "pcm_s16le", "pcm_s24le", "pcm_s32le", "pcm_s16be", "pcm_s24be", "pcm_f32le"}
)

Action = Literal["copy", "convert", "keep"]
ProblemKind = Literal["away", "changed", "too large", "grid", "in point", "loss", "route"]


@dataclass(frozen=True, slots=True)
class PlannedFile:
    """A file of sound on the stick. ``entry`` has bytes and sha256 filled in where it is there already.

    ``source_state`` is size and time of change of the source as it was imported.
    """

    track_id: int
    source: Path
    source_state: tuple[int, int]
    making: Making
    action: Action
    size_bytes: int
    duration_s: float
    entry: FileEntry


@dataclass(frozen=True, slots=True)
class PlannedPlayer:
    """What a player finds: its tracks and lists, and by the id of a track what is new or changed of it."""

    player: Player
    entry: PlayerEntry
    changes: Mapping[str, tuple[str, ...]]
    lists_changed: bool


@dataclass(frozen=True, slots=True)
class Problem:
    """What is to be looked at before a gig: which track, for which player, and why."""

    kind: ProblemKind
    track_id: int
    title: str
    says: str
    player: str = ""


@dataclass(frozen=True, slots=True)
class Plan:
    """What packing would do. ``damaged`` are files that were whole and are not any more."""

    files: tuple[PlannedFile, ...]
    players: tuple[PlannedPlayer, ...]
    removed: tuple[OwnFile, ...]
    damaged: tuple[str, ...]
    problems: tuple[Problem, ...]
    free_bytes: int
    capacity_bytes: int
    rate: float | None

    @property
    def write_bytes(self) -> int:
        """How much will be written, about: what is converted is estimated."""
        return sum(file.size_bytes for file in self.files if file.action != "keep")

    @property
    def removed_bytes(self) -> int:
        return sum(file.bytes or 0 for file in self.removed)

    @property
    def missing_bytes(self) -> int:
        """By how much the stick is too small; 0 if all fits."""
        new = sum(len(player.changes) for player in self.players)
        more = self.write_bytes + INDEX_BYTES_PER_TRACK * new
        return max(0, more - self.removed_bytes - self.free_bytes) if self.write_bytes else 0

    @property
    def is_empty(self) -> bool:
        """Whether the stick is as it should be already."""
        if self.removed or self.damaged or any(file.action != "keep" for file in self.files):
            return False
        return not any(player.changes or player.lists_changed for player in self.players)


def make_plan(connection: sqlite3.Connection, stick: Stick, waveforms: WaveformStore) -> Plan:
    """Compare what a stick is to carry with what stands on it.

    Raises:
        StickGoneError: if the stick is not in the computer.
    """
    check_in(stick.medium)
    return _Planner(connection, stick, waveforms).plan()


class _Planner:
    def __init__(self, connection: sqlite3.Connection, stick: Stick, waveforms: WaveformStore) -> None:
        self._connection = connection
        self._stick = stick
        self._waveforms = waveforms
        self._folder = stick.medium.folder
        self._own = read_own_files(connection, stick.id)
        self._whole = {path: own for path, own in self._own.items() if self._is_whole(own)}
        self._by_source = {
            own.entry.source: own.entry for own in self._whole.values() if own.entry is not None
        }
        self._cue_gids: dict[int, list[str]] = {}
        self._hindered: dict[int, tuple[ProblemKind, str]] = {}
        self._problems: dict[Problem, None] = {}
        self._files: dict[tuple[int, Making], PlannedFile] = {}
        self._layout = self._new_layout()

    def plan(self) -> Plan:
        contents = {i: crate_tracks(self._connection, i) for i in self._stick.crate_ids}
        ids = sorted({i for tracks in contents.values() for i in tracks} - self._stick.left_out)
        rows = {row["id"]: row for row in self._connection.execute(_ROWS, (json.dumps(ids),))}
        tracks = {int(track.key): track for track in read_tracks(self._connection, ids)}
        self._cue_gids = _cue_gids(self._connection, ids)
        going = [i for i in ids if i in rows and i in tracks]
        self._hindered = {i: found for i in going if (found := _hindrance(rows[i])) is not None}
        self._look_at(rows[i] for i in going)
        pairs = [(rows[i], tracks[i]) for i in going]
        players = tuple(
            self._player(player, at, pairs, contents) for at, player in enumerate(self._stick.players)
        )
        files = tuple(self._files.values())
        wanted = {file.entry.file for file in files}
        music = [own for path, own in self._own.items() if path.startswith(f"{MUSIC}/")]
        return Plan(
            files=files,
            players=players,
            removed=tuple(own for own in music if own.path not in wanted and self._is_there(own.path)),
            damaged=tuple(own.path for own in self._own.values() if self._is_damaged(own)),
            problems=tuple(self._problems),
            free_bytes=self._stick.medium.free_bytes(),
            capacity_bytes=self._stick.medium.capacity_bytes,
            rate=self._stick.rate,
        )

    def _is_damaged(self, own: OwnFile) -> bool:
        """Whether a file that was whole is not any more: a list, a picture or the index too."""
        if own.path in self._whole:
            return False
        return bool(own.damage) or (own.sha256 is not None and not self._is_there(own.path))

    def _is_there(self, path: str) -> bool:
        return is_on_stick(self._folder, path) and (self._folder / path).is_file()

    def _is_whole(self, own: OwnFile) -> bool:
        """Whether a file is there as it was proved, as far as its size tells, and no check said otherwise."""
        if own.sha256 is None or own.damage or not is_on_stick(self._folder, own.path):
            return False
        try:
            return (self._folder / own.path).stat().st_size == own.bytes
        except OSError:
            return False

    def _new_layout(self) -> Layout:
        """Names are free where no file of anybody's stands."""
        taken = self._foreign(MUSIC) | {entry.file.casefold() for entry in self._by_source.values()}
        profiles = [player.profile for player in self._stick.players]
        limits = [each.folder_files for each in profiles if each.folder_files]
        return Layout(
            MUSIC,
            taken,
            min(each.longest_name for each in profiles),
            any(each.plain_names for each in profiles),
            min(limits) if limits else None,
        )

    def _foreign(self, folder: str) -> set[str]:
        """The files in a folder of the stick that are not Vinyl's, folded."""
        found = (
            (Path(parent) / name).relative_to(self._folder).as_posix()
            for parent, _, names in os.walk(self._folder / folder)
            for name in names
            if not name.startswith(".")
        )
        return {path.casefold() for path in found if path not in self._own}

    def _look_at(self, rows: Iterable[sqlite3.Row]) -> None:
        """What a DJ would want to know of before the gig."""
        for row in rows:
            if row["bpm"] is None:
                self._say("grid", "has no grid", row)
            elif (row["doubt"] or 0.0) >= DOUBTFUL:
                self._say("grid", "has a grid in doubt", row)
            if "in" not in (row["cue_roles"] or "").split(","):
                self._say("in point", "has no in point", row)

    def _say(self, kind: ProblemKind, says: str, row: sqlite3.Row, player: str = "") -> None:
        self._problems[Problem(kind, row["id"], row["title"], says, player)] = None

    def _player(
        self, player: Player, at: int, pairs: Sequence[tuple[sqlite3.Row, Track]],
        contents: Mapping[int, Sequence[int]],
    ) -> PlannedPlayer:  # fmt: skip
        entries: dict[int, list[TrackEntry]] = {}
        for row, track in pairs:
            file = self._file(player, row, self._making(player, row))
            if file is not None:
                fitted = fit(player.profile, track.cues, track.grid, row["key"] or "", track.duration_s)
                for loss in fitted.losses:
                    self._say("loss", loss, row, player.profile.name)
                whole = self._entry(player.profile, row, track, fitted, file)
                entries[row["id"]] = [whole, *self._along_routes(player, row, track, whole)]
        packed = _packed(self._connection, self._stick.id, player.profile.name)
        lists = tuple(self._lists(player.profile, at, contents, entries))
        entry = PlayerEntry(
            profile=player.profile.name,
            settings=self._settings(player),
            tracks=[each for some in entries.values() for each in some],
            lists=list(lists),
        )
        tracks = {gid: told for (kind, gid), told in packed.items() if kind == "track"}
        changes = {
            each.id: parts for each in entry.tracks if (parts := _changed_parts(tracks.get(each.id), each))
        }
        before = sorted(told for (kind, _), told in packed.items() if kind != "track")
        after = sorted([*(each.model_dump_json() for each in lists), json.dumps(entry.settings)])
        changed = before != after or set(tracks) != {each.id for each in entry.tracks}
        return PlannedPlayer(player, entry, changes, changed)

    def _settings(self, player: Player) -> dict[str, str]:
        usual = usual_settings(player.profile.settings)
        return {name: (player.settings or {}).get(name, answer) for name, answer in usual.items()}

    def _making(self, player: Player, row: sqlite3.Row, played: tuple[Stretch, ...] = ()) -> Making:
        """How a player's file is made of a track, or of a route of it."""
        profile, options = player.profile, self._stick.options
        fits = profile.largest_bytes is None or row["size_bytes"] <= profile.largest_bytes
        form = AS_IT_IS if profile.can_play(row["codec"], row["rate_hz"]) and fits else player.form
        if options.smaller and row["codec"] in LOSSLESS and profile.can_play("mp3", SMALLER_RATE_HZ):
            form = SMALLER
        gain_db = self._gain_db(row)
        if form == AS_IT_IS and (gain_db or played):
            form = player.form
        told = options.loudness_tags and row["lufs"] is not None
        tag_gain_db = round(REFERENCE_LUFS - row["lufs"] - gain_db, 1) if told else None
        return Making(form, gain_db, tag_gain_db, played)

    def _along_routes(
        self, player: Player, row: sqlite3.Row, track: Track, whole: TrackEntry
    ) -> Iterator[TrackEntry]:
        """A track's routes as tracks of their own, if they are to go so."""
        for route in track.routes if self._stick.options.route_files else ():
            try:
                played = tuple(stretches([Jump(*jump) for jump in route.jumps], track.duration_s))
            except RouteError as error:
                self._say("route", f"has a route “{route.name}” that cannot be gone: {error}", row)
                continue
            making, title = self._making(player, row, played), f"{row['title']} ({route.name})"
            file = self._file(player, row, making, title, length_s(played))
            if file is None:
                continue
            passed = cues_along(track.cues, played)
            grid = grid_along(track.grid, played) if track.grid else None
            fitted = fit(player.profile, [cue for _, cue in passed], grid, row["key"] or "", length_s(played))
            # Cues of a route are no cues of the track: changes of them do not come home.
            entry = self._entry(player.profile, row, track, replace(fitted, places=(), cues=()), file)
            yield entry.model_copy(
                update={
                    "id": f"{row['audio_hash']}/{making.route_mark}", "title": title,
                    "duration_s": length_s(played), "waveform": None, "routes": [],
                    "cues": [_cue_entry(cue, "") for cue in fitted.cues], "picture": whole.picture,
                }
            )  # fmt: skip

    def _file(
        self,
        player: Player,
        row: sqlite3.Row,
        making: Making,
        title: str | None = None,
        duration_s: float | None = None,
    ) -> PlannedFile | None:
        """The file that a player gets of a track, shared by all that can play it."""
        profile = player.profile
        if (row["id"], making) not in self._files:
            planned = self._planned(row, making, title or row["title"], duration_s or row["duration_s"])
            # What is on the stick already stays there while its file at home is away.
            if planned.action != "keep" and row["id"] in self._hindered:
                self._say(*self._hindered[row["id"]], row)
                return None
            if profile.largest_bytes is not None and planned.size_bytes > profile.largest_bytes:
                self._say("too large", "is longer than this player’s files may be", row, profile.name)
                return None
            self._files[row["id"], making] = planned
        return self._files[row["id"], making]

    def _gain_db(self, row: sqlite3.Row) -> float:
        """What brings a track to the stick's loudness, as far as its peaks allow it; 0 for too little."""
        level_lufs = self._stick.options.level_lufs
        if level_lufs is None or row["lufs"] is None:
            return 0.0
        wanted = level_lufs - row["lufs"]
        if wanted > 0 and row["true_peak_db"] is not None:
            wanted = max(0.0, min(wanted, PEAK_DB - row["true_peak_db"]))
        return round(wanted, 1) if abs(wanted) >= HEARD_DB else 0.0

    def _planned(self, row: sqlite3.Row, making: Making, title: str, duration_s: float) -> PlannedFile:
        form = making.form
        source = f"{row['audio_hash']} {row['size_bytes']} {row['modified_ns']} {making.words}".strip()
        path, state = Path(row["path"]), (row["size_bytes"], row["modified_ns"])
        there = self._by_source.get(source)
        if there is not None:
            return PlannedFile(row["id"], path, state, making, "keep", there.bytes, duration_s, there)
        suffix = ENCODINGS[form].suffix if form else path.suffix.lower()
        place = self._layout.place(row["artist"] or "Unknown artist", title, suffix)
        entry = FileEntry(
            file=place, bytes=0, sha256="", source=source,
            padding_samples=row["trimmed_samples"], rate_hz=row["rate_hz"],
        )  # fmt: skip
        size = _converted_bytes(form, duration_s) if form else row["size_bytes"]
        action: Action = "convert" if form else "copy"
        return PlannedFile(row["id"], path, state, making, action, size, duration_s, entry)

    def _entry(
        self, profile: Profile, row: sqlite3.Row, track: Track, fitted: Fitted, file: PlannedFile
    ) -> TrackEntry:
        grid = fitted.grid
        routes = track.routes if profile.routes and self._stick.options.routes else ()
        return TrackEntry(
            id=row["audio_hash"],
            file=file.entry.file,
            title=row["title"],
            artist=row["artist"],
            album=row["album"],
            duration_s=row["duration_s"],
            bpm=grid.bpm if grid and profile.grids == "steady" else row["bpm"],
            key=fitted.key or None,
            lufs=row["lufs"] + file.making.gain_db if row["lufs"] is not None else None,
            stars=row["rating"],
            plays=row["plays"],
            beats_per_bar=grid.beats_per_bar if grid else None,
            anchors=[AnchorEntry(**anchor) for anchor in anchors_to(grid)] if grid else [],
            cues=[
                _cue_entry(cue, self._cue_gids[row["id"]][at])
                for at, cue in zip(fitted.places, fitted.cues, strict=True)
            ],
            routes=[RouteEntry(name=route.name, jumps=list(route.jumps)) for route in routes],
            picture=f"{PICTURES}/{row['audio_hash']}.jpg"
            if row["has_picture"] and profile.picture_pixels
            else None,
            waveform=f"{WAVEFORMS}/{row['audio_hash']} {row['version']}.vwo"
            if row["version"] is not None and profile.waveforms and self._waveforms.has(row["id"])
            else None,
        )

    def _lists(
        self,
        profile: Profile,
        at: int,
        contents: Mapping[int, Sequence[int]],
        entries: Mapping[int, Sequence[TrackEntry]],
    ) -> Iterator[ListEntry]:
        """Lists in their folders; those of a second player stand in a folder of its own."""
        crates = {crate.id: crate for crate in list_crates(self._connection)}
        gids = dict(self._connection.execute("SELECT id, gid FROM crate").fetchall())
        taken = self._foreign(CRATES)
        own = [safe_name(f"for {profile.name}", 40, "Player")] if at else []
        for crate_id, track_ids in contents.items():
            crate = crates[crate_id]
            within = _folders(crate, crates)
            parts = [safe_name(name, profile.longest_name, "Crate") for name in (*within, crate.name)]
            playlist = distinct(f"{'/'.join([CRATES, *own, *parts])}.m3u8", taken)
            places = [(number, i) for number, i in enumerate(track_ids) if i in entries]
            # What is left out does not count where a divider stands; routes that follow their track do.
            begins = list(accumulate((len(entries[i]) for _, i in places), initial=0))
            moved = {number: begins[place] for place, (number, _) in enumerate(places)}
            yield ListEntry(
                id=gids[crate_id],
                name=crate.name,
                within=within,
                playlist=playlist,
                tracks=[each.id for _, i in places for each in entries[i]],
                divided=[
                    (min((moved[n] for n in moved if n >= each.at), default=begins[-1]), each.name)
                    for each in list_sections(self._connection, crate_id)
                    if each.name
                ],
            )


_ROWS = """SELECT t.*, s.title, s.artist, s.album, s.bpm, s.key, s.lufs, s.rating, s.plays, s.doubt,
    s.cue_roles, a.true_peak_db, a.version
  FROM json_each(?) i JOIN track t ON t.id = i.value JOIN shelf s ON s.id = t.id
  LEFT JOIN track_analysis a ON a.track_id = t.id"""


def _hindrance(row: sqlite3.Row) -> tuple[ProblemKind, str] | None:
    """Why a file cannot be copied."""
    try:
        stat = Path(row["path"]).stat()
    except OSError:
        return "away", "is away: its file cannot be found. It is packed when it is back."
    if (stat.st_size, stat.st_mtime_ns) != (row["size_bytes"], row["modified_ns"]):
        return "changed", (
            "was changed since it was imported: import its folder again, so that grid and cues fit what "
            "is heard."
        )
    return None


def _folders(crate: Crate, crates: Mapping[int, Crate]) -> list[str]:
    found: list[str] = []
    while crate.folder_id is not None:
        crate = crates[crate.folder_id]
        found.insert(0, crate.name)
    return found


def _converted_bytes(form: str, duration_s: float) -> int:
    encoding = ENCODINGS[form]
    if encoding.bit_rate:
        return round(duration_s * encoding.bit_rate / 8)
    return round(duration_s * PCM_BYTES_PER_S * (LOSSLESS_SHARE if form == "flac" else 1.0))


def _packed(connection: sqlite3.Connection, stick_id: int, profile: str) -> dict[tuple[str, str], str]:
    """What was packed last for a player."""
    rows = connection.execute(
        "SELECT kind, gid, told FROM stick_packed WHERE stick_id = ? AND profile = ?", (stick_id, profile)
    )
    return {(row["kind"], row["gid"]): row["told"] for row in rows}


PARTS: Mapping[str, tuple[str, ...]] = {
    "file": ("file",),
    "texts": ("title", "artist", "album", "key", "lufs", "duration_s"),
    "grid": ("bpm", "beats_per_bar", "anchors"),
    "cues": ("cues",),
    "routes": ("routes",),
    "stars": ("stars",),
    "plays": ("plays",),
    "picture": ("picture",),
    "waveform": ("waveform",),
}


def _changed_parts(before: str | None, after: TrackEntry) -> tuple[str, ...]:
    """What of a track is another than it was packed."""
    if before is None:
        return ("new",)
    if before == after.model_dump_json():
        return ()
    try:
        old = TrackEntry.model_validate_json(before)
    except ValidationError:
        return ("new",)
    return tuple(
        part
        for part, names in PARTS.items()
        if any(getattr(old, name) != getattr(after, name) for name in names)
    )


def _cue_entry(cue: Cue, gid: str) -> CueEntry:
    told = {name: getattr(cue, name) for name in ("position_s", "length_s", "role", "pad", "engages")}
    colour = cue.colour if cue.colour in COLOURS else "ink"
    return CueEntry.model_validate({**told, "label": cue.label[:LONGEST_LABEL], "colour": colour, "id": gid})


def _cue_gids(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, list[str]]:
    """Global ids of tracks' cues, in order of time as ``read_tracks`` has them."""
    rows = connection.execute(
        "SELECT track_id, gid FROM cue WHERE track_id IN (SELECT value FROM json_each(?)) "
        "ORDER BY position_s, id",
        (json.dumps(list(track_ids)),),
    )
    found: dict[int, list[str]] = {}
    for row in rows:
        found.setdefault(row["track_id"], []).append(row["gid"])
    return found
