"""The stand-in for a memory stick: a folder with a capacity, that can be in the computer or not."""

from __future__ import annotations

import json
import os
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.media.files import replacing
from vinyl.sticks.errors import StickError, StickFullError, StickGoneError

MEDIUM_FILE = ".stand-in-medium.json"
SMALLEST_BYTES = 1_000_000


@dataclass(frozen=True, slots=True)
class Medium:
    """A stand-in stick on disk. Its own file keeps what real hardware would know of itself."""

    folder: Path

    @property
    def is_in(self) -> bool:
        """Whether the stick is in the computer."""
        return bool(self._state().get("plugged_in", False))

    @property
    def capacity_bytes(self) -> int:
        return int(self._state().get("capacity_bytes", 0))

    def check_in(self) -> None:
        """Raise StickGoneError unless the stick is in the computer."""
        if not self.is_in:
            raise StickGoneError(
                f"The stick “{self.folder.name}” is not in the computer. Put it in and try again."
            )

    def used_bytes(self) -> int:
        """Bytes of all files on the stick."""
        return sum(
            path.stat().st_size
            for path in self.folder.rglob("*")
            if path.is_file() and path.name != MEDIUM_FILE
        )

    def free_bytes(self) -> int:
        return self.capacity_bytes - self.used_bytes()

    def claim(self, size_bytes: int) -> None:
        """Raise StickFullError unless so much more fits."""
        free = self.free_bytes()
        if size_bytes > free:
            raise StickFullError(
                f"The stick is full: {megabytes(size_bytes)} more were needed and {megabytes(max(free, 0))} "
                f"are free. "
                "Take crates off it or use a larger stick."
            )

    def set_in(self, is_in: bool) -> None:
        """Put the stick into the computer, or take it out after everything is on it."""
        if not self.folder.is_dir():
            raise StickGoneError(f"The folder of the stand-in stick “{self.folder.name}” is no longer there.")
        os.sync()
        self._write({**self._state(), "plugged_in": is_in})

    def _state(self) -> dict[str, Any]:
        try:
            state = json.loads((self.folder / MEDIUM_FILE).read_text())
        except (OSError, ValueError):
            return {}
        return state if isinstance(state, dict) else {}

    def _write(self, state: dict[str, Any]) -> None:
        with replacing(self.folder / MEDIUM_FILE) as part:
            part.write_text(json.dumps(state))


def make_medium(folder: Path, capacity_bytes: int) -> Medium:
    """Make a stand-in stick, in the computer.

    Raises:
        StickError: if the folder is already there, or the stick would be too small for anything.
    """
    if capacity_bytes < SMALLEST_BYTES:
        raise StickError("A stick must hold at least 1 MB.")
    if folder.exists():
        raise StickError(f"There is already a stick in {folder}.")
    folder.mkdir(parents=True)
    medium = Medium(folder)
    medium._write({"capacity_bytes": capacity_bytes, "plugged_in": True})
    return medium


def megabytes(size_bytes: int) -> str:
    """A size for people, in decimal units as printed on sticks."""
    if size_bytes >= 1_000_000_000:
        return f"{size_bytes / 1e9:.1f} GB"
    return f"{size_bytes / 1e6:.1f} MB"
