"""The packing journal on the stick: files that are whole while their index is not yet written.

It lets packing go on where it stopped, after a cancel, a pulled stick or a killed server.
"""

from __future__ import annotations

import os
from pathlib import Path

from pydantic import ValidationError

from vinyl.sticks.index import TrackEntry

JOURNAL_FILE = ".vinyl-packing.jsonl"


def read_journal(folder: Path) -> list[TrackEntry]:
    """Entries of finished files; a line that was cut off, or that makes no sense, is passed over."""
    path, entries = folder / JOURNAL_FILE, []
    try:
        lines = [] if path.is_symlink() else path.read_text(encoding="utf-8").splitlines()
    except (OSError, UnicodeDecodeError):
        return []
    for line in lines:
        try:
            entries.append(TrackEntry.model_validate_json(line))
        except ValidationError:
            continue
    return entries


def note_finished(folder: Path, entry: TrackEntry) -> None:
    """Append a finished file, on disk before this returns."""
    with (folder / JOURNAL_FILE).open("a", encoding="utf-8") as file:
        file.write(entry.model_dump_json() + "\n")
        file.flush()
        os.fsync(file.fileno())


def clear_journal(folder: Path) -> None:
    """Remove the journal once the index stands."""
    (folder / JOURNAL_FILE).unlink(missing_ok=True)
