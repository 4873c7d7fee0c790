"""Paths as other computers write them, and which beginning of theirs stands for which of ours."""

from __future__ import annotations

import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from urllib.parse import unquote

from vinyl.core.naming import file_key

DRIVE = re.compile(r"[A-Za-z]:(?=[\\/]|$)")
SCHEME = re.compile(r"([A-Za-z][A-Za-z0-9+.-]+):")
FILE_URL = re.compile(r"file:(//(?P<host>[^/]*))?(?P<path>/.*)", re.IGNORECASE | re.DOTALL)
LOCAL_HOSTS = frozenset({"", "localhost", "127.0.0.1"})
MOST_PROPOSED = 8
# Files of ours with one name that are compared with an entry: more say nothing about where it lies.
MOST_OF_A_NAME = 20


@dataclass(frozen=True, slots=True)
class ForeignPath:
    """A path in parts: ``root`` is "/", a drive such as "C:", a server such as "//nas", or empty where it
    is relative.
    """

    root: str
    parts: tuple[str, ...]

    @property
    def name(self) -> str:
        return self.parts[-1] if self.parts else ""

    def __str__(self) -> str:
        joined = "/".join(self.parts)
        return f"/{joined}" if self.root == "/" else f"{self.root}/{joined}" if self.root else joined


@dataclass(frozen=True, slots=True)
class PathMapping:
    """A beginning of foreign paths, and what it is here."""

    there: str
    here: str


@dataclass(frozen=True, slots=True)
class ProposedMapping:
    """A mapping with how many entries led to it."""

    mapping: PathMapping
    entries: int


def parse_path(text: str) -> ForeignPath | None:
    """A path of any system, or None for what is no path of a file, such as an address of a stream."""
    text = unicodedata.normalize("NFC", text.strip().strip("\x00"))
    url = FILE_URL.fullmatch(text)
    if url:
        host = (url["host"] or "").casefold()
        text = unquote(url["path"], errors="replace")
        if DRIVE.match(text[1:]):
            text = text[1:]
        elif host not in LOCAL_HOSTS:
            text = f"//{host}{text}"
    elif SCHEME.match(text) and not DRIVE.match(text):
        return None
    windows = bool(DRIVE.match(text)) or text.startswith("\\\\") or ("\\" in text and "/" not in text)
    if windows:
        text = text.replace("\\", "/")
    return _split(text)


def _split(text: str) -> ForeignPath | None:
    root, rest = "", text
    drive = DRIVE.match(text)
    if drive:
        root, rest = drive.group().upper(), text[drive.end() :]
    elif text.startswith("//"):
        server, _, rest = text[2:].partition("/")
        root = f"//{server}"
    elif text.startswith("/"):
        root = "/"
    parts: list[str] = []
    for part in rest.split("/"):
        if part == ".." and parts and parts[-1] != "..":
            parts.pop()
        elif part not in ("", "."):
            parts.append(part)
    return ForeignPath(root, tuple(parts)) if parts else None


def map_path(path: ForeignPath, mappings: Iterable[PathMapping]) -> list[str]:
    """What a path may be here by each mapping whose beginning it has."""
    text = str(path)
    found = []
    for mapping in mappings:
        there = mapping.there.rstrip("/")
        if text.casefold().startswith(f"{there}/".casefold()):
            found.append(mapping.here.rstrip("/") + text[len(there) :])
    return found


def by_name(paths: Iterable[str]) -> dict[str, list[str]]:
    """Paths of ours by the keys of their names."""
    found: dict[str, list[str]] = {}
    for path in paths:
        found.setdefault(file_key(path.rpartition("/")[2]), []).append(path)
    return found


def propose_mappings(
    entries: Sequence[ForeignPath], here: Mapping[str, Sequence[str]]
) -> list[ProposedMapping]:
    """Mappings that the names of files suggest, those of most entries first.

    Each entry is compared with our files of the same name: the folders that they share at their ends fall
    away, what is left of both is a mapping.

    Args:
        here: paths of ours by name (``by_name``).
    """
    votes: Counter[PathMapping] = Counter()
    for entry in entries:
        places = here.get(file_key(entry.name), ())
        if entry.root and len(places) <= MOST_OF_A_NAME:
            votes.update({mapping for place in places if (mapping := _mapping(entry, place))})
    best = sorted(votes.items(), key=lambda item: (-item[1], item[0].there, item[0].here))
    return [ProposedMapping(mapping, count) for mapping, count in best[:MOST_PROPOSED]]


def _mapping(entry: ForeignPath, place: str) -> PathMapping | None:
    ours = place.lstrip("/").split("/")
    shared = 1
    while shared < min(len(entry.parts), len(ours)) and _same(entry.parts[-shared - 1], ours[-shared - 1]):
        shared += 1
    there = str(ForeignPath(entry.root, entry.parts[:-shared])).rstrip("/")
    here = "/" + "/".join(ours[:-shared])
    return PathMapping(there, here.rstrip("/")) if there != here.rstrip("/") else None


def _same(one: str, other: str) -> bool:
    return unicodedata.normalize("NFC", one).casefold() == unicodedata.normalize("NFC", other).casefold()
