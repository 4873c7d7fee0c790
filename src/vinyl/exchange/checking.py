"""Reading back what was written, by the other side's own reader, and comparing value by value."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from itertools import zip_longest
from typing import Any
from xml.etree.ElementTree import ParseError

from vinyl.core.carrying.card import card_of
from vinyl.core.carrying.collection import Node
from vinyl.core.carrying.traits import PLAYLISTS, Name
from vinyl.exchange.desk import Desk, Finding
from vinyl.exchange.errors import LibraryFormatError, ListError
from vinyl.exchange.libraries.model import Place
from vinyl.exchange.libraries.reedbank import path_of
from vinyl.exchange.lists import read_playlist
from vinyl.exchange.lists.cue_sheet import quoted
from vinyl.exchange.lists.writing import said
from vinyl.exchange.order import Order
from vinyl.exchange.writing import playlist_files
from vinyl.standin_libraries import reedbank, saltmarsh, tidewrack

UNREADABLE = (OSError, ValueError, KeyError, TypeError, sqlite3.Error, ParseError)


@dataclass
class Checked:
    """How many tracks, lists and values were read back, and how many of the values are as promised."""

    tracks: int = 0
    lists: int = 0
    values: int = 0
    equal: int = 0


def told_by(target: Name, place: Place) -> Iterator[Mapping[str, Any]]:
    """The tracks of a library as the other side's own reader tells them."""
    readers: Mapping[Name, Callable[[], Iterator[Mapping[str, Any]]]] = {
        "reedbank": lambda: reedbank.tracks(place.opened),
        "saltmarsh": lambda: saltmarsh.tracks(place.opened),
        "tidewrack": lambda: tidewrack.tracks(place.base),
    }
    return readers[target]()


def lists_by(target: Name, place: Place) -> list[dict[str, Any]]:
    """The lists of a library as the other side's own reader tells them."""
    if target == "reedbank":
        return reedbank.lists(place.opened)
    return saltmarsh.lists(place.opened) if target == "saltmarsh" else tidewrack.lists(place.base)


def check(
    desk: Desk, order: Order, place: Place, lists: tuple[Node, ...], tell: Callable[[int], None]
) -> Checked:
    """Compare what is read back with what is on the desk; differences are kept there.

    Raises:
        LibraryFormatError: if the other side cannot read it at all.
    """
    checked = Checked()
    if order.target in PLAYLISTS:
        _check_playlists(desk, order, place, lists, checked)
        return checked
    target = order.target
    try:
        _check_cards(desk, told_by(target, place), checked, tell)
        numbers = {row["key"]: str(n) for n, row in enumerate(desk.cards(), 1)}
        if target == "tidewrack":
            numbers = {row["key"]: json.loads(row["told"])["path"] for row in desk.cards()}
        _check_lists(desk, _plain(lists, numbers), lists_by(target, place), checked)
    except UNREADABLE as error:
        raise LibraryFormatError(
            f"What was written cannot be read back ({error}). What was there before is kept beside it."
        ) from error
    return checked


def _check_playlists(
    desk: Desk, order: Order, place: Place, lists: tuple[Node, ...], checked: Checked
) -> None:
    """Read playlists back; where one cannot be, it is said of its file."""
    cards = {row["key"]: card_of(json.loads(row["told"])) for row in desk.cards()}
    checked.tracks = len(cards)
    for node, file in playlist_files(order, place, lists, list(cards)):
        held = [cards[key] for key in node.tracks if key in cards]
        name = (lambda card: quoted(said(card))) if order.target == "cue" else said
        promised = [(card.path, name(card)) for card in held]
        try:
            entries = read_playlist(file).entries if held else ()
        except ListError as error:
            desk.put_findings([Finding(node.name, "list", file.name, str(error))])
            entries = ()
        found = [(_path(each.path), " - ".join(filter(None, (each.artist, each.title)))) for each in entries]
        checked.lists += 1
        checked.values += 2 * len(promised)
        for one, other in zip_longest(promised, found, fillvalue=("", "")):
            for what, here, there in zip(("path", "name"), one, other, strict=True):
                checked.equal += here == there
                if here != there:
                    desk.put_findings([Finding(node.name, what, here, there)])


def _path(text: str) -> str:
    return path_of(text) if text.startswith("file:") else text.removeprefix("./")


def _check_cards(
    desk: Desk, told: Iterator[Mapping[str, Any]], checked: Checked, tell: Callable[[int], None]
) -> None:
    for number, (row, found) in enumerate(zip_longest(desk.cards(), told)):
        tell(number)
        if row is None:
            desk.put_findings([Finding(str(found["path"]), "track", "not there", "there")])
            continue
        if row["done"] < 0:  # it could not be written, which was said
            continue
        promised = json.loads(row["told"])
        checked.tracks += 1
        differences = compare(promised, found or {})
        checked.values += len(flat(promised))
        checked.equal += len(flat(promised)) - sum(each.promised != "" for each in differences)
        title = row["title"] or promised["path"]
        desk.put_findings(Finding(title, each.what, each.promised, each.found) for each in differences)


def compare(promised: Mapping[str, Any], found: Mapping[str, Any]) -> list[Finding]:
    """The values of a card that are not the same."""
    one, other = flat(promised), flat(found) if found else {}
    return [
        Finding("", what, one.get(what, ""), other.get(what, ""))
        for what in dict.fromkeys((*one, *other))
        if one.get(what) != other.get(what)
    ]


def flat(told: Mapping[str, Any]) -> dict[str, str]:
    """The values of a card, each under a name of its own, as text."""
    found = {"path": str(told["path"]), **{name: str(text) for name, text in told["words"].items()}}
    if told["steps"]:
        found["grid"] = json.dumps([[float(part) for part in step] for step in told["steps"]])
        found["beats per bar"] = str(told["beats_per_bar"])
        found["not to analyse again"] = str(told["settled"])
    for bank, place, at, length, name, colour, engages in told["points"]:
        span = None if length is None else float(length)
        found[f"{bank} {place}"] = json.dumps(
            [float(at), span, name, colour, bool(engages)], ensure_ascii=False
        )
    if told["tags"]:
        found["tags"] = ", ".join(told["tags"])
    return found


def _plain(nodes: tuple[Node, ...], numbers: Mapping[str, str]) -> list[dict[str, Any]]:
    return [
        {"name": node.name, "lists": _plain(node.inner, numbers)}
        if node.kind == "folder"
        else {"name": node.name, "tracks": [numbers[key] for key in node.tracks if key in numbers]}
        for node in nodes
    ]


def _check_lists(
    desk: Desk, promised: list[dict[str, Any]], found: list[dict[str, Any]], checked: Checked
) -> None:
    for one, other in zip_longest(promised, found):
        if one and other and one["name"] == other["name"] and "lists" in one and "lists" in other:
            _check_lists(desk, one["lists"], other["lists"], checked)
            continue
        checked.lists += 1
        checked.values += 1
        if one == other:
            checked.equal += 1
        else:
            desk.put_findings([Finding((one or other)["name"], "list", _said(one), _said(other))])


def _said(told: dict[str, Any] | None) -> str:
    if told is None:
        return ""
    held = told.get("tracks", told.get("lists", ()))
    return f"{told['name']}: {len(held)}"
