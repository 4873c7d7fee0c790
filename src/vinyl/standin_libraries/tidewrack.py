"""Tidewrack's own reader."""

from __future__ import annotations

import json
import zlib
from base64 import b64decode
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import mutagen

NO_RECORD = {"words": {}, "steps": [], "beats_per_bar": 4, "settled": False, "points": [], "tags": []}


def tracks(folder: Path) -> Iterator[dict[str, Any]]:
    """The files that the lists of a folder name, in the order in which they come."""
    named: dict[str, None] = {}
    for each in _files(folder):
        named.update(dict.fromkeys(each["tracks"]))
    for path in named:
        yield {"path": path, **_record(folder / path)}


def lists(folder: Path) -> list[dict[str, Any]]:
    """Lists with the paths of their tracks."""
    return [each for each in _files(folder) if each["name"] != "everything"]


def _files(folder: Path) -> list[dict[str, Any]]:
    head = _text_of(folder / "tidewrack.txt")
    current = next(line[7:] for line in head.split("\n") if line.startswith("lists: "))
    return [_list(file) for file in sorted((folder / current).glob("*.tide"))]


def _list(file: Path) -> dict[str, Any]:
    lines = _text_of(file).split("\n")
    body = lines.index("--")
    name = next(line[6:] for line in lines[:body] if line.startswith("name: "))
    return {"name": name, "tracks": [line for line in lines[body + 1 :] if line]}


def _text_of(file: Path) -> str:
    if not file.is_file():
        raise ValueError(f"{file.name} is no file")
    return file.read_text(encoding="utf-8")


def _record(file: Path) -> dict[str, Any]:
    try:
        tags = (mutagen.File(file).tags if file.is_file() else None) or {}
    except (OSError, AttributeError, mutagen.MutagenError):
        tags = {}
    for key in ("TXXX:TIDEWRACK", "----:com.apple.iTunes:TIDEWRACK", "TIDEWRACK"):
        try:
            held = tags[key]
        except (KeyError, ValueError):
            continue
        first = held.text[0] if hasattr(held, "text") else held[0]
        return unpacked(first if isinstance(first, str) else bytes(first).decode())
    return dict(NO_RECORD)


def unpacked(text: str) -> dict[str, Any]:
    """What a record says: its version and checksum first, then what is compressed."""
    data = b64decode(text)
    if data[0] != 1 or int.from_bytes(data[1:5], "big") != zlib.crc32(data[5:]):
        raise ValueError("the record is damaged")
    told: dict[str, Any] = json.loads(zlib.decompress(data[5:]))
    return told
