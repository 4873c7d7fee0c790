"""Packing a stick after a plan: each file is copied or converted, verified, and only then in its place."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from vinyl.core.errors import VinylError
from vinyl.library.clock import now
from vinyl.media.files import part_of, replacing
from vinyl.sticks.errors import PackCancelledError, StickError, StickFullError, StickGoneError
from vinyl.sticks.index import (
    FORMAT,
    MUSIC,
    TIME_BASE,
    VERSION,
    StickIndex,
    TrackEntry,
    is_on_stick,
    playlist_text,
    read_index,
    write_index,
)
from vinyl.sticks.journal import clear_journal, note_finished
from vinyl.sticks.medium import Medium
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import Plan, PlannedTrack
from vinyl.sticks.store import Stick

CHUNK = 1 << 20
# What ends packing as a whole; anything else that a file does is that file's.
OF_THE_STICK = (PackCancelledError, StickFullError, StickGoneError)


@dataclass(frozen=True, slots=True)
class PackProgress:
    """How far packing is: bytes and files that are on the stick and verified, and the file in hand."""

    done_bytes: int
    total_bytes: int
    done_files: int
    total_files: int
    current: str


@dataclass(frozen=True, slots=True)
class Tools:
    """What packing has others do: converting a file, making its sleeve small, and hearing of what failed
    (item, reason).
    """

    convert: Callable[[Path, Path], None]
    sleeve: Callable[[Path], bytes | None]
    failed: Callable[[str, str], None]


@dataclass(frozen=True, slots=True)
class Packed:
    """What stands on the stick now, and how many files were written for it."""

    index: StickIndex
    written: int


Report = Callable[[PackProgress], None]
Cancelled = Callable[[], bool]


class _SourceError(VinylError):
    """A file at home that cannot be used."""


def pack(
    stick: Stick, own: OwnFiles, plan: Plan, tools: Tools, report: Report, cancelled: Cancelled
) -> Packed:
    """Carry out a plan. The index never names a file that is not whole; a file that fails is left out and
    told.

    Raises:
        StickFullError, StickGoneError, PackCancelledError: what is finished stays and is kept by the next
            plan.
        StickError: if the stick cannot be written at all.
    """
    medium = stick.medium
    own.add([*(track.entry.file for track in plan.tracks), *(crate.playlist for crate in plan.crates)])
    _clear_parts(medium.folder, own.all())
    if plan.missing_bytes:
        medium.claim(plan.write_bytes)
    whole = [track.entry for track in plan.tracks if track.action in ("keep", "update")]
    if plan.removed:
        _write_lists(stick, own, plan, whole)
        _remove_old(medium, own, plan)
    written = _write_tracks(medium, plan, tools, report, cancelled)
    order = {track.entry.file: place for place, track in enumerate(plan.tracks)}
    entries = sorted([*whole, *written], key=lambda entry: order[entry.file])
    _write_pictures(medium, own, plan, tools, entries)
    index = _write_lists(stick, own, plan, entries)
    clear_journal(medium.folder)
    return Packed(index, len(written))


def _clear_parts(folder: Path, own: set[str]) -> None:
    """Remove what an interrupted packing left unfinished."""
    for path in own:
        if is_on_stick(folder, path):
            part_of(folder / path).unlink(missing_ok=True)


def _write_tracks(
    medium: Medium, plan: Plan, tools: Tools, report: Report, cancelled: Cancelled
) -> list[TrackEntry]:
    """Write what is new or changed; returns the entries of the files that are whole now."""
    writing = [track for track in plan.tracks if track.action in ("copy", "convert")]
    total, done, entries = plan.write_bytes, 0, []
    for number, track in enumerate(writing):
        report(PackProgress(done, total, number, len(writing), track.entry.file))
        _check(medium, cancelled)
        try:
            _write_track(medium, track, tools, cancelled)
            note_finished(medium.folder, track.entry)
            entries.append(track.entry)
        except OF_THE_STICK:
            raise
        except VinylError as error:
            medium.check_in()
            tools.failed(Path(track.entry.file).name, str(error))
        done += track.size_bytes
    report(PackProgress(total, total, len(writing), len(writing), ""))
    return entries


def _check(medium: Medium, cancelled: Cancelled) -> None:
    if cancelled():
        raise PackCancelledError(
            "Packing was cancelled. What is finished stays on the stick; pack again to go on."
        )
    medium.check_in()


def _write_track(medium: Medium, track: PlannedTrack, tools: Tools, cancelled: Cancelled) -> None:
    target = medium.folder / track.entry.file
    if not is_on_stick(medium.folder, track.entry.file):
        raise StickError(f"{target.name} would be written beside the stick: a folder on it is a link.")
    medium.claim(track.size_bytes)
    _check_source(track)
    try:
        with replacing(target) as part:
            if track.action == "convert":
                tools.convert(track.source, part)
                medium.claim(0)
                digest = _sha256(part)
            else:
                digest = _copy(medium, track.source, part, cancelled)
            _verify(part, digest)
            track.entry.bytes, track.entry.sha256 = part.stat().st_size, digest
    except OSError as error:
        medium.check_in()
        raise StickError(
            f"{target.name} could not be written ({error.strerror}). "
            "Nothing on the stick is damaged; pack again."
        ) from error


def _check_source(track: PlannedTrack) -> None:
    """The file must still be the one that the plan was made for."""
    try:
        stat = track.source.stat()
    except OSError as error:
        raise _SourceError(f"{track.source} cannot be read ({error.strerror}).") from error
    if (stat.st_size, stat.st_mtime_ns) != track.source_state:
        raise _SourceError(f"{track.source} was changed since it was imported: import its folder again.")


def _copy(medium: Medium, source: Path, part: Path, cancelled: Cancelled) -> str:
    digest = hashlib.sha256()
    with _opened(source) as reader, part.open("wb") as writer:
        while chunk := _read(reader.read, source):
            _check(medium, cancelled)
            writer.write(chunk)
            digest.update(chunk)
    return digest.hexdigest()


def _opened(source: Path) -> BinaryIO:
    try:
        return source.open("rb")
    except OSError as error:
        raise _SourceError(f"{source} cannot be read ({error.strerror}).") from error


def _read(read: Callable[[int], bytes], source: Path) -> bytes:
    try:
        return read(CHUNK)
    except OSError as error:
        raise _SourceError(f"{source} cannot be read to its end ({error.strerror}).") from error


def _verify(part: Path, digest: str) -> None:
    """Read back from the medium, not from memory, and compare."""
    with part.open("rb+") as file:
        os.fsync(file.fileno())
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
    if _sha256(part) != digest:
        raise StickError(
            f"{part.name.strip('.').removesuffix('.part')} reads back differently from what was written. "
            "The stick may be worn out: use another."
        )


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _remove_old(medium: Medium, own: OwnFiles, plan: Plan) -> None:
    """Remove the files that are to go: only such as Vinyl has written, and only on the stick."""
    mine = own.all()
    kept = {track.entry.picture for track in plan.tracks}
    going = [entry.file for entry in plan.removed]
    going += [entry.picture for entry in plan.removed if entry.picture and entry.picture not in kept]
    gone = [path for path in going if path in mine and is_on_stick(medium.folder, path)]
    for path in gone:
        (medium.folder / path).unlink(missing_ok=True)
    own.drop(gone)
    for folder in {(medium.folder / path).parent for path in gone}:
        if folder != medium.folder / MUSIC and folder.is_dir() and not any(folder.iterdir()):
            folder.rmdir()


def _write_pictures(
    medium: Medium, own: OwnFiles, plan: Plan, tools: Tools, entries: Sequence[TrackEntry]
) -> None:
    """A sleeve for each track that has one; a damaged one is told, and its track goes without."""
    sources = {track.entry.file: track.source for track in plan.tracks}
    for entry in entries:
        if entry.picture is None or (medium.folder / entry.picture).exists():
            continue
        medium.check_in()
        try:
            small = tools.sleeve(sources[entry.file])
        except OF_THE_STICK:
            raise
        except VinylError as error:
            tools.failed(f"The sleeve of {entry.title}", str(error))
            small = None
        if small is None or not is_on_stick(medium.folder, entry.picture):
            entry.picture = None
            continue
        medium.claim(len(small))
        own.add([entry.picture])
        with replacing(medium.folder / entry.picture) as part:
            part.write_bytes(small)


def _write_lists(stick: Stick, own: OwnFiles, plan: Plan, entries: Sequence[TrackEntry]) -> StickIndex:
    """Playlists, then the index, then old playlists of our own away."""
    folder = stick.medium.folder
    stick.medium.check_in()
    before = read_index(folder)
    by_id = {entry.id: entry for entry in entries}
    crates = [
        crate.model_copy(update={"tracks": [i for i in crate.tracks if i in by_id]}) for crate in plan.crates
    ]
    for crate in crates:
        with replacing(folder / crate.playlist) as part:
            part.write_text(playlist_text([by_id[i] for i in crate.tracks]), encoding="utf-8")
    index = StickIndex(
        format=FORMAT,
        version=VERSION,
        name=stick.name,
        profile=stick.profile.name,
        written_at=now(),
        time_base=TIME_BASE,
        tracks=list(entries),
        crates=crates,
    )
    write_index(folder, index)
    wanted = {crate.playlist for crate in crates}
    old = {crate.playlist for crate in (before.crates if before else [])} - wanted
    gone = [path for path in old if path in own.all() and is_on_stick(folder, path)]
    for path in gone:
        (folder / path).unlink(missing_ok=True)
    own.drop(gone)
    return index
