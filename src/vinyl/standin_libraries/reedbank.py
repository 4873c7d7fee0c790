"""Reedbank's own reader."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit
from xml.etree.ElementTree import Element

from defusedxml import ElementTree

WORDS = {"tone": "key", "worth": "stars", "heard": "plays", "tint": "colour", "house": "label"}
PEGS = 8


def tracks(document: Path) -> Iterator[dict[str, Any]]:
    """The items of a document in its order."""
    holdings = None
    for event, element in ElementTree.iterparse(document, events=("start", "end")):
        if event == "start" and element.tag == "holdings":
            holdings = element
        if event == "end" and element.tag == "item":
            yield _track(element)
            if holdings is not None:
                holdings.clear()


def lists(document: Path) -> list[dict[str, Any]]:
    """Folders and lists, with the numbers of their items."""
    shelves = ElementTree.parse(document).getroot().find("shelves")
    return [_list(each) for each in shelves] if shelves is not None else []


def _list(element: Element) -> dict[str, Any]:
    name = element.attrib["name"]
    if element.tag == "folder":
        return {"name": name, "lists": [_list(each) for each in element]}
    return {"name": name, "tracks": [each.attrib["item"] for each in element]}


def _track(item: Element) -> dict[str, Any]:
    said = {each.attrib["of"]: each.attrib["is"] for each in item.findall("says")}
    pulse = item.find("pulse")
    steps = [] if pulse is None else [_beat(each.attrib) for each in pulse.findall("from")]
    return {
        "path": _path(item.attrib["file"]),
        "words": {WORDS.get(name, name): text for name, text in sorted(said.items())},
        "steps": steps,
        "beats_per_bar": 4 if pulse is None else int(pulse.attrib["bar"]),
        "settled": pulse is not None and pulse.attrib.get("settled") == "yes",
        "points": [_peg(each.attrib) for each in item.findall("peg") if 1 <= int(each.attrib["no"]) <= PEGS],
        "tags": [],
    }


def _beat(said: dict[str, str]) -> list[float]:
    whole, _, part = said["ms"].partition(".")
    microseconds = int((whole + part.ljust(3, "0")[:3]) or 0)
    return [microseconds, float(said["beat"]), float(said["rate"])]


def _peg(said: dict[str, str]) -> list[Any]:
    start = int(said["ms"])
    length = int(said["end"]) - start if "end" in said else None
    return ["peg", int(said["no"]), start, length, said.get("name", ""), said.get("tint", ""), False]


def _path(address: str) -> str:
    parts = urlsplit(address)
    path = unquote(parts.path)
    if parts.netloc not in ("", "localhost"):
        return f"//{parts.netloc}{path}"
    return path[1:] if path[2:3] == ":" else path
