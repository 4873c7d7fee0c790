"""Where the entries of a playlist are: in the library, on the disk, or nowhere yet."""

from __future__ import annotations

import sqlite3
import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Literal
from urllib.parse import unquote

from vinyl.core.foreign_paths import (
    ForeignPath,
    PathMapping,
    ProposedMapping,
    by_name,
    map_path,
    parse_path,
    propose_mappings,
)
from vinyl.core.naming import name_key
from vinyl.exchange.lists import Entry
from vinyl.media.files import AllowedRoots, FolderError, walk_files
from vinyl.media.probe import AUDIO_SUFFIXES

State = Literal["here", "by name", "on disk", "wanted"]
NORMAL_FORMS: tuple[Literal["NFC", "NFD"], ...] = ("NFC", "NFD")
# Files near a playlist that are looked through for names of its entries.
MOST_NEAR = 20_000


@dataclass(frozen=True, slots=True)
class Resolved:
    """An entry with where it is: a track of the library, a file that can be imported, or a reason."""

    entry: Entry
    state: State
    track_id: int | None = None
    file: str | None = None
    reason: str = ""


@dataclass(slots=True)
class Known:
    """What the library has, for looking up thousands of entries: tracks by path (as ``_key`` has it) and by
    name, the paths as they are, and audio files near the playlist.
    """

    paths: dict[str, int] = field(default_factory=dict)
    files: list[str] = field(default_factory=list)
    near: dict[str, str] = field(default_factory=dict)
    names: dict[str, int] = field(default_factory=dict)


def known_of(connection: sqlite3.Connection, folders: Iterable[Path]) -> Known:
    """The paths and names of all tracks, those of copies too, and the audio files below some folders."""
    known = Known(near={_key(path): path for folder in folders for path in _near(folder)})
    for track_id, path in connection.execute(
        "SELECT track_id, path FROM (SELECT track_id, path FROM track_copy UNION ALL "
        "SELECT id, path FROM track) WHERE track_id NOT IN (SELECT track_id FROM off_shelf) "
        # A file that gave way to a twin means that one.
        "UNION ALL SELECT o.twin_of, t.path FROM off_shelf o JOIN track t ON t.id = o.track_id "
        "WHERE o.twin_of NOT IN (SELECT track_id FROM off_shelf)"
    ):
        known.paths[_key(path)] = track_id
        known.files.append(path)
    for track_id, artist, title in connection.execute("SELECT id, artist, title FROM shelf ORDER BY id DESC"):
        known.names[name_key(artist, title)] = track_id
    known.names.pop("", None)
    return known


class Resolver:
    """Looks entries of one playlist up, by its folder and the mappings that the user confirmed."""

    def __init__(
        self,
        known: Known,
        roots: AllowedRoots,
        folder: Path,
        mappings: Sequence[PathMapping] = (),
        by_names: bool = True,
    ) -> None:
        self._known, self._roots, self._folder = known, roots, folder
        self._mappings, self._by_names = mappings, by_names

    def resolve(self, entry: Entry) -> Resolved:
        """Where an entry is. Nothing outside the allowed folders is looked at."""
        candidates = self._candidates(entry.path)
        for candidate in candidates:
            track_id = self._known.paths.get(_key(candidate))
            if track_id is not None:
                return Resolved(entry, "here", track_id, candidate)
        reason = ""
        for candidate in candidates:
            try:
                found = self._on_disk(candidate)
            except FolderError as error:
                reason = str(error)
                continue
            if found is not None:
                track_id = self._known.paths.get(_key(found))
                return Resolved(entry, "here" if track_id else "on disk", track_id, found)
        if self._by_names:
            track_id = self._known.names.get(name_key(entry.artist, entry.title))
            if track_id is not None:
                return Resolved(entry, "by name", track_id)
        return Resolved(entry, "wanted", reason=reason or "It was not found under its path.")

    def is_file(self, candidate: str) -> bool:
        """Whether a path leads to a file that can be imported."""
        try:
            return self._on_disk(candidate) is not None
        except FolderError:
            return False

    def _candidates(self, text: str) -> list[str]:
        """What a path may be here, the likeliest first; some programs encode blanks in it."""
        texts = [text, text.strip()]
        texts += [unquote(each) for each in texts if "%" in each]
        return [place for each in dict.fromkeys(texts) for place in self._places(each)]

    def _places(self, text: str) -> list[str]:
        path = parse_path(text) if text else None
        if path is None:
            return []
        if not path.root:
            return [str(_joined(self._folder, path))]
        mapped = map_path(path, self._mappings)
        return [*mapped, str(path)] if path.root == "/" else mapped

    def _on_disk(self, candidate: str) -> str | None:
        """A file that can be imported, in whichever case or normal form its name is written on the disk.

        Raises:
            FolderError: if it lies outside the allowed folders.
        """
        forms = [unicodedata.normalize(form, candidate) for form in NORMAL_FORMS]
        for path in map(Path, (self._known.near.get(_key(candidate), candidate), *forms)):
            if path.suffix.lower() not in AUDIO_SUFFIXES:
                return None
            real = self._roots.check(path)
            if real.is_file():
                return str(path)
        return None


def propose(entries: Iterable[Entry], known: Known, resolver: Resolver) -> list[tuple[ProposedMapping, int]]:
    """Mappings for entries that are not found by their paths, each with how many it finds."""
    paths = [path for entry in entries if (path := parse_path(entry.path)) is not None]
    here = by_name({*known.files, *known.near.values()})
    proposed = propose_mappings(paths, here)
    return [(each, _count(paths, each.mapping, known, resolver)) for each in proposed]


def _count(paths: Sequence[ForeignPath], mapping: PathMapping, known: Known, resolver: Resolver) -> int:
    """How many paths a mapping leads to something."""
    found = (mapped for path in paths for mapped in map_path(path, [mapping]))
    return sum(_key(path) in known.paths or resolver.is_file(path) for path in found)


def _near(folder: Path) -> list[str]:
    """Audio files below a folder, up to a number."""
    found: list[str] = []
    for path in walk_files(folder):
        if path.suffix.lower() in AUDIO_SUFFIXES:
            found.append(str(path))
        if len(found) >= MOST_NEAR:
            break
    return found


def _joined(folder: Path, path: ForeignPath) -> Path:
    """A relative path from a folder. Steps upwards are taken as text; links are followed by the check."""
    here = folder
    for part in path.parts:
        here = here.parent if part == ".." else here / part
    return here


def _key(path: str) -> str:
    """A path as it is compared: other systems do not tell case and normal forms apart."""
    return unicodedata.normalize("NFC", path).casefold()
