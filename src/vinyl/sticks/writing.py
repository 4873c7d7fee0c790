"""Packing a stick after a plan: each file is copied, verified, and only then in its place."""

from __future__ import annotations

import errno
import hashlib
import json
import os
import time
from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Executor, Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from vinyl.core.errors import VinylError
from vinyl.library.clock import now
from vinyl.media.files import new_file, part_of
from vinyl.sticks.errors import (
    PackCancelledError,
    StickError,
    StickFullError,
    StickGoneError,
    StickReadOnlyError,
)
from vinyl.sticks.index import (
    CRATES,
    FORMAT,
    INDEX_FILE,
    MUSIC,
    PICTURES,
    TIME_BASE,
    VERSION,
    WAVEFORMS,
    FileEntry,
    ListEntry,
    PlayerEntry,
    StickIndex,
    TrackEntry,
    index_bytes,
    is_on_stick,
    playlist_text,
)
from vinyl.sticks.making import Making
from vinyl.sticks.medium import check_in, claim, put
from vinyl.sticks.own_files import OwnFiles
from vinyl.sticks.plan import Plan, PlannedFile
from vinyl.sticks.store import Stick

CHUNK = 1 << 20
# What ends packing as a whole; anything else that a file does is that file's.
OF_THE_STICK = (PackCancelledError, StickFullError, StickGoneError, StickReadOnlyError)


@dataclass(frozen=True, slots=True)
class PackProgress:
    """How far packing is: bytes and files that are on the stick and verified, and the file in hand."""

    done_bytes: int
    total_bytes: int
    done_files: int
    total_files: int
    current: str


@dataclass(frozen=True, slots=True)
class Converted:
    """A file that was made for players, and what is to be known of its sound; ``gain_db`` is in its tag."""

    path: Path
    padding_samples: int
    rate_hz: int
    gain_db: float | None = None


@dataclass(frozen=True, slots=True)
class Tools:
    """What packing has others do: making a file that is no plain copy (its path, what it is made from in
    words, and how), making its sleeve small (so many pixels), the waveform of a track, and hearing of what
    failed (item, reason).
    """

    make: Callable[[Path, str, Making], Converted]
    sleeve: Callable[[Path, int], bytes | None]
    waveform: Callable[[int], bytes | None]
    failed: Callable[[str, str], None]


@dataclass(frozen=True, slots=True)
class Packed:
    """What stands on the stick now, how many files were written for it, and how fast it took them."""

    index: StickIndex
    written: int
    rate: float | None


@dataclass(frozen=True, slots=True)
class _Written:
    """A file beside its place, while it is read back."""

    file: PlannedFile
    entry: FileEntry
    part: Path
    proved: Future[None]


Report = Callable[[PackProgress], None]
Cancelled = Callable[[], bool]


class _SourceError(VinylError):
    """A file at home that cannot be used."""


def pack(
    stick: Stick, library: str, own: OwnFiles, plan: Plan, tools: Tools, report: Report, cancelled: Cancelled
) -> Packed:
    """Carry out a plan. The index never names a file that is not whole; a file that fails is left out and
    told.

    Raises:
        StickFullError, StickGoneError, PackCancelledError: what is finished stays and is kept by the next
            plan.
        StickError: if the stick cannot be written at all.
    """
    return _Packing(stick, library, own, plan, tools, report, cancelled).run()


class _Packing:
    def __init__(
        self, stick: Stick, library: str, own: OwnFiles, plan: Plan, tools: Tools, report: Report,
        cancelled: Cancelled,
    ) -> None:  # fmt: skip
        self._stick, self._library, self._own, self._plan = stick, library, own, plan
        self._tools, self._report, self._cancelled = tools, report, cancelled
        self._medium = stick.medium
        self._folder = stick.medium.folder
        self._worked_s = 0.0
        self._done_bytes = 0
        self._written_bytes = 0

    def run(self) -> Packed:
        self._own.add([*(file.entry.file for file in self._plan.files), *self._playlists(), INDEX_FILE])
        self._clear_parts()
        if self._plan.missing_bytes:
            claim(self._medium, self._plan.write_bytes)
        whole = {file.entry.file: file.entry for file in self._plan.files if file.action == "keep"}
        if self._plan.removed:
            self._write_lists(whole)
            self._remove(own.path for own in self._plan.removed)
        written = self._write_files()
        self._write_pictures({**whole, **written})
        self._write_waveforms({**whole, **written})
        index = self._write_lists({**whole, **written})
        self._remove_old(index)
        rate = self._written_bytes / self._worked_s if self._written_bytes and self._worked_s else None
        return Packed(index, len(written), rate)

    def _playlists(self) -> list[str]:
        return [each.playlist for player in self._plan.players for each in player.entry.lists]

    def _clear_parts(self) -> None:
        """Remove what an interrupted packing left unfinished."""
        for path in self._own.all():
            if is_on_stick(self._folder, path):
                part_of(self._folder / path).unlink(missing_ok=True)

    def _write_files(self) -> dict[str, FileEntry]:
        """Write what is new or changed; returns the files that are whole now. While one is written, the one
        before is read back.
        """
        writing = [file for file in self._plan.files if file.action != "keep"]
        entries: dict[str, FileEntry] = {}
        total, before = self._plan.write_bytes, None
        with ThreadPoolExecutor(1, "reading back") as proving:
            try:
                for file in writing:
                    done = PackProgress(self._done_bytes, total, len(entries), len(writing), file.entry.file)
                    self._report(done)
                    self._check()
                    after = self._attempt(file, lambda file=file: self._written(file, proving))  # type: ignore[misc]
                    self._settle(before, entries)
                    before = after
                self._settle(before, entries)
                before = None
            finally:
                if before is not None:
                    self._give_up(before, entries)
        self._report(PackProgress(total, total, len(writing), len(writing), ""))
        return entries

    def _attempt(self, file: PlannedFile, do: Callable[[], _Written]) -> _Written | None:
        """Do something with a file; if that fails, it is told, and the others go on."""
        try:
            return do()
        except OF_THE_STICK:
            raise
        except VinylError as error:
            check_in(self._medium)
            self._tools.failed(Path(file.entry.file).name, str(error))
            self._done_bytes += file.size_bytes
            return None

    def _settle(self, written: _Written | None, entries: dict[str, FileEntry]) -> None:
        """Put a file that reads back as it was written into its place."""
        if written is None:
            return
        if self._attempt(written.file, lambda: self._placed(written)) is not None:
            self._own.prove(written.entry)
            entries[written.entry.file] = written.entry
            self._done_bytes += written.file.size_bytes

    def _placed(self, written: _Written) -> _Written:
        target = self._folder / written.entry.file
        try:
            written.proved.result()
            check_in(self._medium)
            written.part.replace(target)
        except OSError as error:
            raise self._refused(target.name, error) from error
        finally:
            written.part.unlink(missing_ok=True)
        return written

    def _give_up(self, written: _Written, entries: dict[str, FileEntry]) -> None:
        """Packing ends: what was written last counts if it is whole."""
        with suppress(VinylError, OSError):
            self._settle(written, entries)

    def _check(self) -> None:
        if self._cancelled():
            raise PackCancelledError(
                "Packing was cancelled. What is finished stays on the stick; pack again to go on."
            )
        check_in(self._medium)

    def _written(self, file: PlannedFile, proving: Executor) -> _Written:
        target = self._folder / file.entry.file
        if not is_on_stick(self._folder, file.entry.file):
            raise StickError(f"{target.name} would be written beside the stick: a folder on it is a link.")
        _check_source(file)
        source, entry = file.source, file.entry
        if not file.making.is_copy:
            made = self._tools.make(file.source, file.entry.source, file.making)
            source = made.path
            facts = {name: getattr(made, name) for name in ("padding_samples", "rate_hz", "gain_db")}
            entry = entry.model_copy(update=facts)
        size, part = _size(source), part_of(target)
        claim(self._medium, size)
        began = time.monotonic()
        try:
            target.parent.mkdir(parents=True, exist_ok=True)
            digest = self._copy(source, part)
        except BaseException as error:
            part.unlink(missing_ok=True)
            if isinstance(error, OSError):
                raise self._refused(target.name, error) from error
            raise
        self._worked_s += time.monotonic() - began
        self._written_bytes += size
        entry = entry.model_copy(update={"bytes": size, "sha256": digest})
        return _Written(file, entry, part, proving.submit(_verify, part, digest))

    def _refused(self, name: str, error: OSError) -> StickError:
        """What it means that the stick did not take a file."""
        check_in(self._medium)
        if error.errno == errno.ENOSPC:
            return StickFullError(
                f"The stick is full: {name} found no room. Take crates off it, or use a larger one."
            )
        if error.errno == errno.EROFS:
            return StickReadOnlyError(
                "The stick lets nothing be written: look for a lock on it, or use another."
            )
        return StickError(
            f"{name} could not be written ({error.strerror}). Nothing on the stick is damaged; pack again."
        )

    def _copy(self, source: Path, part: Path) -> str:
        digest = hashlib.sha256()
        with _opened(source) as reader, new_file(part).open("wb", buffering=0) as writer:
            while chunk := _read(reader.read, source):
                self._check()
                self._medium.write(writer, chunk)
                digest.update(chunk)
        return digest.hexdigest()

    def _remove(self, going: Iterable[str]) -> None:
        """Remove files: only such as Vinyl has written, and only on the stick."""
        mine = self._own.all()
        gone = [path for path in going if path in mine and is_on_stick(self._folder, path)]
        for path in gone:
            (self._folder / path).unlink(missing_ok=True)
        self._own.drop(gone)
        kept = {self._folder / name for name in (MUSIC, CRATES, PICTURES, WAVEFORMS)} | {self._folder}
        for folder in {(self._folder / path).parent for path in gone}:
            while folder not in kept and folder.is_dir() and not any(folder.iterdir()):
                folder.rmdir()
                folder = folder.parent

    def _remove_old(self, index: StickIndex) -> None:
        """Remove lists, pictures and waveforms that the index does not name any more."""
        wanted = {INDEX_FILE, *(file.file for file in index.files)}
        for player in index.players:
            wanted |= {each.playlist for each in player.lists}
            wanted |= {each.picture for each in player.tracks if each.picture}
            wanted |= {each.waveform for each in player.tracks if each.waveform}
        # Files of sound that failed are in the plan, and may be tried again under their names.
        wanted |= {file.entry.file for file in self._plan.files}
        self._remove(path for path in self._own.all() if path not in wanted)

    def _write_pictures(self, files: Mapping[str, FileEntry]) -> None:
        """A sleeve for each track that has one; a damaged one is told, and its track goes without."""
        sources = {file.entry.file: file.source for file in self._plan.files}
        proved = self._proved()
        pixels = [player.player.profile.picture_pixels for player in self._plan.players]
        least = min((each for each in pixels if each), default=0)
        failed = set[str]()
        for track in (track for player in self._plan.players for track in player.entry.tracks):
            path = track.picture
            if path is None or track.file not in files:
                continue
            if path in failed or not (path in proved and (self._folder / path).is_file()):
                made = path not in failed and self._write_picture(track, path, sources[track.file], least)
                if not made:
                    failed.add(path)
                    track.picture = None
                else:
                    proved.add(path)

    def _write_picture(self, track: TrackEntry, path: str, source: Path, pixels: int) -> bool:
        check_in(self._medium)
        try:
            small = self._tools.sleeve(source, pixels)
        except OF_THE_STICK:
            raise
        except VinylError as error:
            self._tools.failed(f"The sleeve of {track.title}", str(error))
            small = None
        if small is None or not is_on_stick(self._folder, path):
            return False
        claim(self._medium, len(small))
        self._own.add([path])
        self._put(path, small)
        return True

    def _proved(self) -> set[str]:
        """The files beside the sound that are whole."""
        return {path for path, each in self._own.all().items() if each.sha256 and not each.damage}

    def _write_waveforms(self, files: Mapping[str, FileEntry]) -> None:
        """The waveform of each track that has one; a track whose is not there goes without."""
        ids, proved = {file.entry.file: file.track_id for file in self._plan.files}, self._proved()
        for track in (track for player in self._plan.players for track in player.entry.tracks):
            path = track.waveform
            if path is None or track.file not in files:
                continue
            if path in proved and (self._folder / path).is_file():
                continue
            check_in(self._medium)
            data = self._tools.waveform(ids[track.file])
            if data is None or not is_on_stick(self._folder, path):
                track.waveform = None
                continue
            claim(self._medium, len(data))
            self._own.add([path])
            self._put(path, data)
            proved.add(path)

    def _put(self, path: str, data: bytes) -> None:
        if not is_on_stick(self._folder, path):
            raise StickError(
                f"{Path(path).name} would be written beside the stick: a folder on it is a link. Remove the "
                "link, then pack again."
            )
        try:
            put(self._medium, path, data)
        except OSError as error:
            raise self._refused(Path(path).name, error) from error
        self._own.prove_all({path: {"bytes": len(data), "sha256": hashlib.sha256(data).hexdigest()}})

    def _write_lists(self, files: Mapping[str, FileEntry]) -> StickIndex:
        """Playlists, then the index, with what is whole."""
        check_in(self._medium)
        players = [_with_files(player.entry, files) for player in self._plan.players]
        for player in players:
            by_id = {track.id: track for track in player.tracks}
            for each in player.lists:
                up = each.playlist.count("/")
                self._put(each.playlist, playlist_text([by_id[i] for i in each.tracks], up).encode())
        index = StickIndex(
            format=FORMAT,
            version=VERSION,
            id=self._stick.gid,
            library=self._library,
            name=self._stick.name,
            written_at=now(),
            time_base=TIME_BASE,
            files=list(files.values()),
            players=players,
        )
        self._put(INDEX_FILE, index_bytes(index))
        return index


def _with_files(player: PlayerEntry, files: Mapping[str, FileEntry]) -> PlayerEntry:
    """What a player finds while only some files are whole."""
    tracks = [track for track in player.tracks if track.file in files]
    ids = {track.id for track in tracks}
    return player.model_copy(
        update={"tracks": tracks, "lists": [_of_those(each, ids) for each in player.lists]}
    )


def _of_those(each: ListEntry, ids: set[str]) -> ListEntry:
    kept = [track for track in each.tracks if track in ids]
    moved = [sum(track in ids for track in each.tracks[:at]) for at, _ in each.divided]
    divided = [(at, name) for at, (_, name) in zip(moved, each.divided, strict=True)]
    return each.model_copy(update={"tracks": kept, "divided": divided})


def _check_source(file: PlannedFile) -> None:
    """The file must still be the one that the plan was made for."""
    try:
        stat = file.source.stat()
    except OSError as error:
        raise _SourceError(f"{file.source} cannot be read ({error.strerror}).") from error
    if (stat.st_size, stat.st_mtime_ns) != file.source_state:
        raise _SourceError(f"{file.source} was changed since it was imported: import its folder again.")


def _size(source: Path) -> int:
    try:
        return source.stat().st_size
    except OSError as error:
        raise _SourceError(f"{source} cannot be read ({error.strerror}).") from error


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
    if sha256_of(part) != digest:
        raise StickError(
            f"{part.name.strip('.').removesuffix('.part')} reads back differently from what was written. "
            "The stick may be worn out: use another."
        )


def sha256_of(path: Path) -> str:
    """The SHA-256 of a file."""
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def packed_rows(index: StickIndex) -> Iterator[tuple[str, str, str, str]]:
    """What is to be kept of a packing, to tell changes from: profile, kind, global id, JSON."""
    for player in index.players:
        yield player.profile, "settings", "", json.dumps(player.settings)
        for track in player.tracks:
            yield player.profile, "track", track.id, track.model_dump_json()
        for each in player.lists:
            yield player.profile, "list", each.id, each.model_dump_json()
