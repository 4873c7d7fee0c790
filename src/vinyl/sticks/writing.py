"""Packing a stick after a plan: each file is copied or converted, verified, and only then in its place."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from vinyl.library.database import now
from vinyl.media.encode import convert
from vinyl.media.files import replacing
from vinyl.media.pictures import small_jpeg
from vinyl.media.tags import read_tags
from vinyl.sticks.errors import PackCancelledError, StickError
from vinyl.sticks.index import FORMAT, TIME_BASE, VERSION, StickIndex, TrackEntry, playlist_text, write_index
from vinyl.sticks.journal import clear_journal, note_finished
from vinyl.sticks.medium import Medium
from vinyl.sticks.plan import CRATES, MUSIC, PICTURES, Plan, PlannedTrack
from vinyl.sticks.store import Stick

CHUNK = 1 << 20
PICTURE_PIXELS = 400


@dataclass(frozen=True, slots=True)
class PackProgress:
    """How far packing is: bytes and files that are on the stick and verified, and the file in hand."""

    done_bytes: int
    total_bytes: int
    done_files: int
    total_files: int
    current: str


Report = Callable[[PackProgress], None]
Cancelled = Callable[[], bool]


def pack(stick: Stick, plan: Plan, report: Report, cancelled: Cancelled) -> StickIndex:
    """Carry out a plan. The index never names a file that is not whole.

    Raises:
        StickFullError, StickGoneError, PackCancelledError: what is finished stays and is kept by the next plan.
        StickError: if a file cannot be read, or reads back differently.
    """
    medium = stick.medium
    _clear_parts(medium.folder)
    if plan.missing_bytes:
        medium.claim(plan.write_bytes)
    staying = [track for track in plan.tracks if track.action in ("keep", "update")]
    if plan.removed:
        _write_lists(stick, plan, [track.entry for track in staying])
        _remove_old(medium, plan)
    writing = [track for track in plan.tracks if track.action in ("copy", "convert")]
    total, done = plan.write_bytes, 0
    for number, track in enumerate(writing):
        report(PackProgress(done, total, number, len(writing), track.entry["file"]))
        _check(medium, cancelled)
        _write_track(medium, track, cancelled)
        note_finished(medium.folder, track.entry)
        done += track.size_bytes
    _write_pictures(medium, plan)
    index = _write_lists(stick, plan, [track.entry for track in plan.tracks])
    clear_journal(medium.folder)
    report(PackProgress(total, total, len(writing), len(writing), ""))
    return index


def _clear_parts(folder: Path) -> None:
    """Remove what an interrupted packing left unfinished."""
    for part in folder.rglob(".*.part"):
        part.unlink(missing_ok=True)


def _check(medium: Medium, cancelled: Cancelled) -> None:
    if cancelled():
        raise PackCancelledError(
            "Packing was cancelled. What is finished stays on the stick; pack again to go on."
        )
    medium.check_in()


def _write_track(medium: Medium, track: PlannedTrack, cancelled: Cancelled) -> None:
    target = medium.folder / track.entry["file"]
    medium.claim(track.size_bytes)
    try:
        with replacing(target) as part:
            if track.action == "convert":
                convert(track.source, part, "flac")
                medium.claim(0)
                digest = _sha256(part)
            else:
                digest = _copy(medium, track.source, part, cancelled)
            _verify(part, digest)
            track.entry["bytes"], track.entry["sha256"] = part.stat().st_size, digest
    except OSError as error:
        medium.check_in()
        raise StickError(
            f"{target.name} could not be written ({error.strerror}). Nothing on the stick is damaged; pack again."
        ) from error


def _copy(medium: Medium, source: Path, part: Path, cancelled: Cancelled) -> str:
    digest = hashlib.sha256()
    with source.open("rb") as reader, part.open("wb") as writer:
        while chunk := reader.read(CHUNK):
            _check(medium, cancelled)
            writer.write(chunk)
            digest.update(chunk)
    return digest.hexdigest()


def _verify(part: Path, digest: str) -> None:
    """Read back from the medium, not from memory, and compare."""
    with part.open("rb+") as file:
        os.fsync(file.fileno())
        if hasattr(os, "posix_fadvise"):
            os.posix_fadvise(file.fileno(), 0, 0, os.POSIX_FADV_DONTNEED)
    if _sha256(part) != digest:
        raise StickError(
            f"{part.name.strip('.')} reads back differently from what was written. The stick may be worn out: use another."
        )


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _remove_old(medium: Medium, plan: Plan) -> None:
    for entry in plan.removed:
        (medium.folder / entry["file"]).unlink(missing_ok=True)
    kept = {track.entry["picture"] for track in plan.tracks}
    for entry in plan.removed:
        if entry["picture"] and entry["picture"] not in kept:
            (medium.folder / entry["picture"]).unlink(missing_ok=True)
    for folder in (medium.folder / MUSIC).glob("*/"):
        if not any(folder.iterdir()):
            folder.rmdir()


def _write_pictures(medium: Medium, plan: Plan) -> None:
    for track in plan.tracks:
        name = track.entry["picture"]
        if name is None or (medium.folder / name).exists():
            continue
        medium.check_in()
        picture = read_tags(track.source).picture
        small = small_jpeg(picture, PICTURE_PIXELS) if picture else None
        if small is None:
            track.entry["picture"] = None
            continue
        medium.claim(len(small))
        with replacing(medium.folder / PICTURES / Path(name).name) as part:
            part.write_bytes(small)


def _write_lists(stick: Stick, plan: Plan, entries: list[TrackEntry]) -> StickIndex:
    """Playlists, then the index, then old playlists away."""
    folder = stick.medium.folder
    stick.medium.check_in()
    by_id = {entry["id"]: entry for entry in entries}
    crates = [{**crate, "tracks": [i for i in crate["tracks"] if i in by_id]} for crate in plan.crates]
    for crate in plan.crates:
        with replacing(folder / crate["playlist"]) as part:
            part.write_text(
                playlist_text([by_id[i] for i in crate["tracks"] if i in by_id]), encoding="utf-8"
            )
    index = StickIndex(
        format=FORMAT,
        version=VERSION,
        name=stick.name,
        profile=stick.profile.name,
        written_at=now(),
        time_base=TIME_BASE,
        tracks=entries,
        crates=crates,  # type: ignore[typeddict-item]
    )
    write_index(folder, index)
    wanted = {crate["playlist"] for crate in plan.crates}
    for path in (folder / CRATES).glob("*.m3u8"):
        if f"{CRATES}/{path.name}" not in wanted:
            path.unlink()
    return index
