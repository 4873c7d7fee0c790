"""Reading a playlist file of any of the kinds that are known, told by its suffix and its first words."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from vinyl.core.foreign_paths import parse_path
from vinyl.exchange.errors import ListError
from vinyl.exchange.lists.cue_sheet import read_cue_sheet
from vinyl.exchange.lists.m3u import read_m3u
from vinyl.exchange.lists.model import Columns, Entry, Playlist
from vinyl.exchange.lists.pls import read_pls
from vinyl.exchange.lists.table import read_table
from vinyl.exchange.lists.text import decode
from vinyl.exchange.lists.xspf import read_xspf

LIST_SUFFIXES = frozenset({".m3u", ".m3u8", ".pls", ".xspf", ".cue", ".csv", ".tsv"})
LARGEST_BYTES = 64 * 1024**2
MOST_ENTRIES = 100_000
LONGEST_TEXT = 1000


def read_playlist(path: Path, columns: Columns | None = None) -> Playlist:
    """What a playlist file says.

    Args:
        columns: for a table, which column holds what.

    Raises:
        ListError: with the reason, in words.
    """
    try:
        if path.stat().st_size > LARGEST_BYTES:
            raise ListError(f"Playlists of more than {LARGEST_BYTES // 1024**2} MB are not read.")
        data = path.read_bytes()
    except OSError as error:
        raise ListError(f"{path.name} cannot be read: {error.strerror}.") from error
    found = _read(data, path.suffix.lower(), path.stem, columns)
    entries = tuple(_trimmed(entry) for entry in found.entries)
    files = tuple(each for each in entries if not each.path or parse_path(each.path) is not None)
    if len(files) > MOST_ENTRIES:
        raise ListError(f"This list has {len(files)} entries; {MOST_ENTRIES} can be brought in at once.")
    passed_over = found.passed_over + len(entries) - len(files)
    if not files and not found.sheets and found.table is None:
        raise ListError(f"{path.name} holds no entries of files.")
    return replace(found, name=found.name[:120].strip() or path.stem, entries=files, passed_over=passed_over)


def _read(data: bytes, suffix: str, name: str, columns: Columns | None) -> Playlist:
    if suffix == ".xspf":
        return read_xspf(data, name)
    text, encoding = decode(data)
    if "\x00" in text:
        raise ListError("This is no text, whatever its name says.")
    if suffix == ".pls":
        return read_pls(text, name, encoding)
    if suffix == ".cue":
        return read_cue_sheet(text, name, encoding)
    if suffix in (".csv", ".tsv"):
        return read_table(text, name, encoding, columns)
    return read_m3u(text, name, encoding)


def _trimmed(entry: Entry) -> Entry:
    return replace(
        entry,
        path=entry.path[: 4 * LONGEST_TEXT],
        artist=entry.artist[:LONGEST_TEXT],
        title=entry.title[:LONGEST_TEXT],
    )
