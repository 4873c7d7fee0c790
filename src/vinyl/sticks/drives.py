"""Removable drives that are in the computer."""

from __future__ import annotations

import re
from dataclasses import dataclass
from pathlib import Path

import psutil

# Where systems put drives that come and go.
PLACES = ("/media/", "/run/media/", "/Volumes/", "/mnt/")


@dataclass(frozen=True, slots=True)
class FoundDrive:
    """A drive, where it is, and what is on it."""

    path: str
    name: str
    file_system: str
    capacity_bytes: int
    free_bytes: int


def find_drives() -> list[FoundDrive]:
    """Removable drives, by name. One that does not answer is passed over."""
    found = []
    for part in psutil.disk_partitions(all=False):
        if not _is_removable(part.device, part.mountpoint, part.opts):
            continue
        try:
            usage = psutil.disk_usage(part.mountpoint)
        except OSError:
            continue
        name = Path(part.mountpoint).name or part.mountpoint
        found.append(FoundDrive(part.mountpoint, name, part.fstype, usage.total, usage.free))
    return sorted(found, key=lambda drive: drive.name.casefold())


def file_system_of(folder: Path) -> str:
    """The kind of file system that a folder lies on, or nothing where it cannot be told."""
    parts = [part for part in psutil.disk_partitions(all=True) if folder.is_relative_to(part.mountpoint)]
    return max(parts, key=lambda part: len(part.mountpoint)).fstype if parts else ""


def _is_removable(device: str, mountpoint: str, options: str) -> bool:
    if "removable" in options.split(",") or mountpoint.startswith(PLACES):
        return True
    disk = re.sub(r"p?\d+$", "", Path(device).name)
    try:
        return (Path("/sys/block") / disk / "removable").read_text().strip() == "1"
    except OSError:
        return False
