"""Listening copies: a track as plain PCM, in which the browser can seek to the sample.

A copy is raw signed 16-bit little-endian stereo at RATE_HZ. It is made while it is first listened to, and the
oldest copies go when the cache is full.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from vinyl.media.decode import stream_frames
from vinyl.media.errors import BrokenAudioError, MediaError

RATE_HZ = 44100
FRAME_BYTES = 4
WAIT_S = 20.0
CACHE_BYTES = 6 * 1024**3

log = logging.getLogger("vinyl.listening")


class NotReadyError(MediaError):
    """The sound is still being read from a slow disk; the same can be asked for again."""


@dataclass
class _Making:
    """A copy that is being written: how many bytes stand in the part file, and whether it is at its end."""

    part: Path
    ready: int = 0
    done: bool = False
    error: MediaError | None = None
    grown: threading.Condition = field(default_factory=threading.Condition)


class ListeningCopies:
    """The cache of listening copies, by a name that stands for the sound."""

    def __init__(self, folder: Path, limit_bytes: int = CACHE_BYTES, wait_s: float = WAIT_S) -> None:
        self._folder = folder
        self._limit_bytes = limit_bytes
        self._wait_s = wait_s
        self._making: dict[str, _Making] = {}
        self._lock = threading.Lock()
        folder.mkdir(parents=True, exist_ok=True)
        for part in folder.glob("*.part"):
            part.unlink(missing_ok=True)

    def read(self, name: str, source: Path, first_frame: int, frames: int) -> bytes:
        """Frames of a copy, waiting for those that are not decoded yet; fewer than asked at the end of
        the track.

        Raises:
            MediaError: if the source cannot be decoded.
            NotReadyError: if the disk is so slow that they are not there in time; ask again.
        """
        start, size = first_frame * FRAME_BYTES, frames * FRAME_BYTES
        whole = self._folder / f"{name}.pcm"
        making = self._start(name, source, whole)
        if making is None:
            return _read_bytes(whole, start, size)
        with making.grown:
            came = making.grown.wait_for(lambda: making.done or making.ready >= start + size, self._wait_s)
            if making.error:
                raise making.error
        if not came:
            raise NotReadyError(
                "The disk is slow: this part of the track has not been read yet. It is tried again."
            )
        try:
            return _read_bytes(making.part, start, size)
        except FileNotFoundError:  # it was finished and renamed meanwhile
            return _read_bytes(whole, start, size)

    def _start(self, name: str, source: Path, whole: Path) -> _Making | None:
        with self._lock:
            if whole.exists():
                whole.touch()
                return None
            if name not in self._making:
                self._making[name] = _Making(self._folder / f"{name}.part")
                threading.Thread(target=self._make, args=(name, source, whole), daemon=True).start()
            return self._making[name]

    def _make(self, name: str, source: Path, whole: Path) -> None:
        making = self._making[name]
        try:
            self._make_room()
            with making.part.open("wb", buffering=0) as file:
                for piece in _pcm(source):
                    file.write(piece)
                    _grow(making, len(piece))
            if not making.ready:
                raise BrokenAudioError("Not one second of this file could be decoded.")
            making.part.replace(whole)
        except MediaError as error:
            making.error = error
        except OSError as error:
            making.error = MediaError(f"The listening copy could not be written: {error.strerror}.")
        except Exception:
            log.exception("the listening copy of %s", source)
            making.error = BrokenAudioError("This file cannot be decoded.")
        finally:
            if making.error:
                making.part.unlink(missing_ok=True)
            with self._lock:
                del self._making[name]
            with making.grown:
                making.done = True
                making.grown.notify_all()

    def _make_room(self) -> None:
        """Remove the oldest copies beyond the limit. Another thread may be doing the same: what is gone is
        gone.
        """
        copies = sorted(_sized(self._folder), key=lambda copy: copy.used_at)
        used = sum(copy.size_bytes for copy in copies)
        for copy in copies:
            if used <= self._limit_bytes or time.time() - copy.used_at < self._wait_s:
                return
            copy.path.unlink(missing_ok=True)
            used -= copy.size_bytes


@dataclass(frozen=True, slots=True)
class _Copy:
    path: Path
    size_bytes: int
    used_at: float


def _sized(folder: Path) -> Iterator[_Copy]:
    for path in folder.glob("*.pcm"):
        with suppress(FileNotFoundError):
            stat = path.stat()
            yield _Copy(path, stat.st_size, stat.st_mtime)


def _pcm(source: Path) -> Iterator[bytes]:
    for frame in stream_frames(source, RATE_HZ, "s16", 2):
        yield bytes(frame.planes[0])[: frame.samples * FRAME_BYTES]


def _grow(making: _Making, size: int) -> None:
    with making.grown:
        making.ready += size
        making.grown.notify_all()


def _read_bytes(path: Path, start: int, size: int) -> bytes:
    with path.open("rb") as file:
        file.seek(start)
        return file.read(size)
