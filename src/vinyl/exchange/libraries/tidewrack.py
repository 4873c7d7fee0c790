"""Tidewrack: text lists beside the music, a record in each file's tags (docs/formats/tidewrack.md)."""

from __future__ import annotations

import base64
import json
import struct
import zlib
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

from mutagen import MutagenError

from vinyl.core.carrying.card import Card, card_of, checked
from vinyl.core.carrying.collection import Node
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Told
from vinyl.media.tags.free import read_free

FOLDER = "tidewrack"
HEAD_FILE = "tidewrack.txt"
SUFFIX = ".tide"
FIRST_LINE = "TIDEWRACK LISTS 1"
LIST_LINE = "TIDEWRACK LIST 1"
EVERYTHING = "everything"
TAG = "TIDEWRACK"
VERSION = 1
RECORD = struct.Struct(">BI")
LARGEST_RECORD = 4 * 1024**2
MOST_ENTRIES = 1_000_000
LARGEST_LIST = 256 * 1024**2


def pack_record(card: Card) -> str:
    """A card as the text of a tag: version, checksum, and what is told, compressed."""
    told = {name: value for name, value in card.told().items() if name != "path"}
    body = zlib.compress(json.dumps(told, ensure_ascii=False, separators=(",", ":")).encode())
    return base64.b64encode(RECORD.pack(VERSION, zlib.crc32(body)) + body).decode()


def unpack_record(text: str, path: str) -> Card:
    """The card of a record.

    Raises:
        LibraryFormatError: if it is damaged or newer.
    """
    try:
        data = base64.b64decode(text, validate=True)
        version, checksum = RECORD.unpack_from(data)
    except (ValueError, struct.error) as error:
        raise LibraryFormatError("its Tidewrack record is damaged") from error
    if version > VERSION:
        raise LibraryFormatError(f"its Tidewrack record is of version {version}; Vinyl reads up to {VERSION}")
    body = data[RECORD.size :]
    if zlib.crc32(body) != checksum:
        raise LibraryFormatError("its Tidewrack record does not fit its checksum")
    try:
        told = json.loads(zlib.decompressobj().decompress(body, LARGEST_RECORD))
        return checked(card_of({**told, "path": path}))
    except (ValueError, KeyError, TypeError, AttributeError, zlib.error) as error:
        raise LibraryFormatError("its Tidewrack record is damaged") from error


def write_lists(folder: Path, lists: Sequence[tuple[str, Sequence[str]]]) -> None:
    """Write lists, each a name and the paths in it, as files of a folder that is not there yet.

    Raises:
        OSError: if the disk does not do it.
    """
    folder.mkdir(parents=True)
    for number, (name, paths) in enumerate(lists, 1):
        lines = [LIST_LINE, f"name: {' '.join(name.split())}", f"count: {len(paths)}", "--", *paths]
        (folder / f"{number:04}{SUFFIX}").write_text("\n".join(lines) + "\n", encoding="utf-8", newline="\n")


def head_text(lists_folder: str) -> str:
    """What the head file says: which folder of lists holds now."""
    return f"{FIRST_LINE}\nlists: {lists_folder}\n"


def current_folder(folder: Path) -> Path:
    """The folder of lists that the head file names.

    Raises:
        LibraryFormatError: if there is none.
    """
    head = folder / HEAD_FILE
    try:
        lines = _text_of(head).splitlines()
    except (OSError, UnicodeDecodeError, LibraryFormatError) as error:
        raise LibraryFormatError(
            f"There is no Tidewrack library in {folder}: {HEAD_FILE} is missing."
        ) from error
    if not lines or lines[0] != FIRST_LINE:
        raise LibraryFormatError(f"{head} is no head of Tidewrack lists, or of a newer kind.")
    named = dict(line.split(": ", 1) for line in lines[1:] if ": " in line).get("lists", "")
    if not named or Path(named).name != named:
        raise LibraryFormatError(f"{head} names no folder of lists.")
    return folder / named


def _text_of(file: Path) -> str:
    if not file.is_file() or file.stat().st_size > LARGEST_LIST:
        raise LibraryFormatError("it is no file, or too large for a list")
    return file.read_text(encoding="utf-8")


def can_stand(path: str) -> bool:
    """Whether a path can be a line of a list."""
    return path.splitlines() == [path] and path == path.strip()


class TidewrackReader:
    """Lists, and the records of the files that they name. Paths start from the folder of the head file."""

    def __init__(self, folder: Path, may_read: Callable[[Path], bool] = lambda path: True) -> None:
        self.told = Told()
        self._folder, self._may_read = folder, may_read

    def cards(self) -> Iterator[tuple[str, Card]]:
        """The card of each file that a list names; one without a record has its path only.

        Raises:
            LibraryFormatError: if there are no such lists.
        """
        lists = []
        named: dict[str, None] = {}
        folder = current_folder(self._folder)
        for file in sorted(folder.glob(f"*{SUFFIX}")):
            if (found := self._list(file)) is not None:
                named.update(dict.fromkeys(found.tracks))
                lists.append(found)
        self.told.lists = tuple(each for each in lists if each.name != EVERYTHING)
        for path in named:
            yield path, self._card(path)

    def _list(self, file: Path) -> Node | None:
        try:
            head, _, body = _text_of(file).partition("\n--\n")
        except (OSError, UnicodeDecodeError, LibraryFormatError) as error:
            self.told.problems.append(f"{file.name} cannot be read ({error}).")
            return None
        said = dict(line.split(": ", 1) for line in head.splitlines() if ": " in line)
        if not head.startswith(LIST_LINE) or "name" not in said:
            self.told.problems.append(f"{file.name} is no Tidewrack list.")
            return None
        paths = [line for line in body.split("\n") if line][:MOST_ENTRIES]
        if said.get("count") != str(len(paths)):
            self.told.problems.append(
                f"“{said['name']}” says it has {said.get('count', '?')} tracks, and has {len(paths)}: "
                "it may be cut off."
            )
        return Node(said["name"], "list", tuple(paths))

    def _card(self, path: str) -> Card:
        try:
            if not self._may_read(self._folder / path):
                raise LibraryFormatError("it lies outside the folders that Vinyl may read")
            if not (self._folder / path).is_file():
                raise LibraryFormatError("the file is not there")
            text = read_free(self._folder / path, TAG)
            return Card(path) if text is None else unpack_record(text, path)
        except LibraryFormatError as error:
            self.told.problems.append(f"{path}: {error}.")
        except FileNotFoundError:
            self.told.problems.append(f"{path}: the file is not there.")
        except (MutagenError, OSError) as error:
            self.told.problems.append(f"{path}: its tags cannot be read ({error}).")
        return Card(path)
