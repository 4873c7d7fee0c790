"""Listening copies: a track as plain PCM, in which the browser can seek to the sample.

A copy is raw signed 16-bit little-endian stereo at RATE_HZ. It is made while it is first listened to, and the oldest
copies go when the cache is full.
"""

from __future__ import annotations

import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

from vinyl.media.decode import stream_frames
from vinyl.media.errors import MediaError

RATE_HZ = 44100
FRAME_BYTES = 4
WAIT_S = 30.0
CACHE_BYTES = 6 * 1024**3


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

    def __init__(self, folder: Path, limit_bytes: int = CACHE_BYTES) -> None:
        self._folder = folder
        self._limit_bytes = limit_bytes
        self._making: dict[str, _Making] = {}
        self._lock = threading.Lock()
        folder.mkdir(parents=True, exist_ok=True)
        for part in folder.glob("*.part"):
            part.unlink()

    def read(self, name: str, source: Path, first_frame: int, frames: int) -> bytes:
        """Frames of a copy, waiting for those that are not decoded yet; fewer than asked at the end of the track.

        Raises:
            MediaError: if the source cannot be decoded.
        """
        start, size = first_frame * FRAME_BYTES, frames * FRAME_BYTES
        whole = self._folder / f"{name}.pcm"
        making = self._start(name, source, whole)
        if making is None:
            return _read_bytes(whole, start, size)
        with making.grown:
            making.grown.wait_for(lambda: making.done or making.ready >= start + size, WAIT_S)
            if making.error:
                raise making.error
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
                for frame in stream_frames(source, RATE_HZ, "s16", 2):
                    file.write(bytes(frame.planes[0])[: frame.samples * FRAME_BYTES])
                    _grow(making, frame.samples * FRAME_BYTES)
            making.part.replace(whole)
        except MediaError as error:
            making.error = error
        except OSError as error:
            making.error = MediaError(
                f"The listening copy could not be written: {error.strerror}. Is the disk full?"
            )
        with self._lock:
            del self._making[name]
        with making.grown:
            making.done = True
            making.grown.notify_all()

    def _make_room(self) -> None:
        copies = sorted(self._folder.glob("*.pcm"), key=lambda path: path.stat().st_mtime)
        used = sum(path.stat().st_size for path in copies)
        while copies and used > self._limit_bytes:
            oldest = copies.pop(0)
            if time.time() - oldest.stat().st_mtime < WAIT_S:
                return
            used -= oldest.stat().st_size
            oldest.unlink()


def _grow(making: _Making, size: int) -> None:
    with making.grown:
        making.ready += size
        making.grown.notify_all()


def _read_bytes(path: Path, start: int, size: int) -> bytes:
    with path.open("rb") as file:
        file.seek(start)
        return file.read(size)
