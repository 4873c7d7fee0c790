"""The papers that players write on a stick, a line each: strangers' files, read with suspicion."""

from __future__ import annotations

from pathlib import Path

LARGEST_BYTES = 16 * 1024**2


def lines_of(path: Path) -> list[bytes]:
    """The lines of a paper; none where it is a link, too large, or cannot be read."""
    try:
        if path.is_symlink() or not path.is_file() or path.stat().st_size > LARGEST_BYTES:
            return []
        return path.read_bytes().splitlines()
    except OSError:
        return []
