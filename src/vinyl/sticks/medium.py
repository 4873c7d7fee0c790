"""What a stick is to whoever writes it: a folder on a real drive, or a stand-in with a size and faults."""

from __future__ import annotations

import errno
import json
import os
import random
import shutil
import time
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO, Literal, Protocol, get_args

from vinyl.media.files import replacing
from vinyl.sticks.errors import StickError, StickFullError, StickGoneError

MEDIUM_FILE = ".stand-in-medium.json"
NAME_FILE = ".vinyl-stick"
SMALLEST_BYTES = 1_000_000
Fault = Literal["", "slow", "full", "torn out", "write error", "read-only", "bit rot"]
FAULTS: tuple[Fault, ...] = get_args(Fault)
SLOW_BYTES_S = 2_000_000
RECOUNT_S = 10.0
BREAKING = {"full": errno.ENOSPC, "write error": errno.EIO, "read-only": errno.EROFS}


class Medium(Protocol):
    """A stick in the computer, or not."""

    @property
    def folder(self) -> Path: ...

    @property
    def is_in(self) -> bool:
        """Whether this very stick is in the computer."""

    @property
    def capacity_bytes(self) -> int: ...

    def free_bytes(self) -> int: ...

    def write(self, writer: BinaryIO, data: bytes) -> None:
        """Write to a file on it.

        Raises:
            OSError, StickGoneError: if it does not take it.
        """

    def let_go(self) -> None:
        """Make sure that everything is on it, so that it can be taken out."""


def check_in(medium: Medium) -> None:
    """Raise StickGoneError unless the stick is in the computer."""
    if not medium.is_in:
        raise StickGoneError(
            f"The stick “{medium.folder.name}” is not in the computer. Put it in and try again."
        )


def claim(medium: Medium, size_bytes: int) -> None:
    """Raise StickFullError unless so much more fits, and StickGoneError where the stick is not there."""
    free = medium.free_bytes()
    if size_bytes > free:
        check_in(medium)
        raise StickFullError(
            f"The stick is full: {megabytes(size_bytes)} more were needed and {megabytes(max(free, 0))} "
            "are free. Take crates off it or use a larger stick."
        )


def put(medium: Medium, path: str, data: bytes) -> None:
    """Put a small file in its place at once, or leave the old one.

    Raises:
        OSError, StickGoneError: if the stick does not take it.
    """
    with replacing(medium.folder / path) as part, part.open("wb") as writer:
        medium.write(writer, data)


@dataclass(frozen=True, slots=True)
class Drive:
    """A folder on a real drive. A file in it names the stick, for another drive may come to the same path."""

    folder: Path
    gid: str

    @property
    def is_in(self) -> bool:
        return gid_of(self.folder) == self.gid

    @property
    def capacity_bytes(self) -> int:
        return shutil.disk_usage(self.folder).total if self.is_in else 0

    def free_bytes(self) -> int:
        return shutil.disk_usage(self.folder).free if self.is_in else 0

    def write(self, writer: BinaryIO, data: bytes) -> None:
        writer.write(data)

    def let_go(self) -> None:
        check_in(self)
        os.sync()


def gid_of(folder: Path) -> str | None:
    """The id of the stick that a folder is; None where it is none."""
    try:
        return (folder / NAME_FILE).read_text().strip()
    except (OSError, UnicodeDecodeError):
        return "" if (folder / NAME_FILE).exists() else None


def claim_drive(folder: Path, gid: str) -> Drive:
    """Make a folder of a real drive a stick of Vinyl.

    Raises:
        StickError: if it is one already, or cannot be written.
    """
    if gid_of(folder) is not None:
        raise StickError(
            f"{folder} is a stick of Vinyl already, perhaps of another computer. Nothing is written on it; "
            "what it holds can be looked at, and taken in as an import."
        )
    try:
        with replacing(folder / NAME_FILE) as part:
            part.write_text(gid)
    except OSError as error:
        raise StickError(f"{folder} cannot be written ({error.strerror}).") from error
    return Drive(folder, gid)


@dataclass(slots=True)
class StandIn:
    """A stand-in stick on disk. Its own file keeps what real hardware would know of itself, and the fault
    that it is to show.
    """

    folder: Path
    _written: int = 0
    _used: tuple[float, int] = field(default=(0.0, -1))

    @property
    def is_in(self) -> bool:
        return bool(self._state().get("plugged_in", False))

    @property
    def capacity_bytes(self) -> int:
        return int(self._state().get("capacity_bytes", 0))

    @property
    def fault(self) -> tuple[Fault, int]:
        """The fault that is chosen, and after how many bytes of a packing it shows."""
        state = self._state()
        kind = state.get("fault", "")
        return (kind if kind in FAULTS else ""), int(state.get("after_bytes", 0))

    def used_bytes(self) -> int:
        """Bytes of all files on it, counted anew every few seconds, and by what is written meanwhile."""
        at, used = self._used
        if used < 0 or time.monotonic() - at > RECOUNT_S:
            used = sum(size for _, size in self._files())
            self._used = (time.monotonic(), used)
        return used

    def _files(self) -> Iterator[tuple[Path, int]]:
        """What is on it, with sizes; others may write there, and take away, while it is looked through."""
        for parent, _, names in os.walk(self.folder):
            for path in (Path(parent) / name for name in names if name != MEDIUM_FILE):
                with suppress(OSError):
                    yield path, path.lstat().st_size

    def free_bytes(self) -> int:
        return self.capacity_bytes - self.used_bytes()

    def write(self, writer: BinaryIO, data: bytes) -> None:
        fault, after = self.fault
        left = max(0, after - self._written)
        breaks = fault in ("torn out", *BREAKING) and len(data) >= left
        writer.write(data[:left] if breaks else data)
        self._written += len(data)
        self._used = (self._used[0], self._used[1] + len(data))
        if fault == "slow":
            time.sleep(len(data) / SLOW_BYTES_S)
        elif breaks and fault == "torn out":
            writer.flush()
            self._write({**self._state(), "plugged_in": False, "fault": ""})
            check_in(self)
        elif breaks:
            raise OSError(BREAKING[fault], os.strerror(BREAKING[fault]))
        if self.free_bytes() < 0:
            raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    def let_go(self) -> None:
        self.set_in(False)

    def set_in(self, is_in: bool) -> None:
        """Put the stick into the computer, or take it out after everything is on it."""
        if not self.folder.is_dir():
            raise StickGoneError(f"The folder of the stand-in stick “{self.folder.name}” is no longer there.")
        os.sync()
        if is_in and self.fault[0] == "bit rot":
            self._rot()
        self._write({**self._state(), "plugged_in": is_in})

    def set_fault(self, fault: Fault, after_bytes: int) -> None:
        """Choose what goes wrong with it, and after how many bytes of a packing."""
        self._write({**self._state(), "fault": fault, "after_bytes": after_bytes})

    def _rot(self) -> None:
        files = [path for path, size in self._files() if size]
        if files:
            flip(random.choice(files), random.random())
        self._write({**self._state(), "fault": ""})

    def _state(self) -> dict[str, Any]:
        try:
            state = json.loads((self.folder / MEDIUM_FILE).read_text())
        except (OSError, ValueError):
            return {}
        return state if isinstance(state, dict) else {}

    def _write(self, state: dict[str, Any]) -> None:
        with replacing(self.folder / MEDIUM_FILE) as part:
            part.write_text(json.dumps(state))


def flip(path: Path, where: float) -> None:
    """Turn one bit of a file over, as worn memory does."""
    with path.open("rb+") as file:
        bit = int(where * path.stat().st_size * 8)
        file.seek(bit // 8)
        byte = file.read(1)[0] ^ (1 << bit % 8)
        file.seek(bit // 8)
        file.write(bytes([byte]))


def make_stand_in(folder: Path, capacity_bytes: int) -> StandIn:
    """Make a stand-in stick, in the computer.

    Raises:
        StickError: if the folder is already there, or the stick would be too small for anything.
    """
    if capacity_bytes < SMALLEST_BYTES:
        raise StickError("A stick must hold at least 1 MB.")
    if folder.exists():
        raise StickError(f"There is already a stick in {folder}.")
    folder.mkdir(parents=True)
    medium = StandIn(folder)
    medium._write({"capacity_bytes": capacity_bytes, "plugged_in": True})
    return medium


def megabytes(size_bytes: int) -> str:
    """A size for people, in decimal units as printed on sticks."""
    if size_bytes >= 1_000_000_000:
        return f"{size_bytes / 1e9:.1f} GB"
    return f"{size_bytes / 1e6:.1f} MB"
