"""Writing what a desk has in hand as a library: to a new place, then swapped in whole."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import datetime
from itertools import chain
from pathlib import Path

from vinyl.core.carrying.card import Card, card_of
from vinyl.core.carrying.collection import Node, Play
from vinyl.core.carrying.traits import PLAYLISTS
from vinyl.core.tag_form import NOT_IN_NAMES
from vinyl.exchange.desk import Desk
from vinyl.exchange.libraries import tidewrack
from vinyl.exchange.libraries.model import Place
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.exchange.libraries.saltmarsh import settle, write_saltmarsh
from vinyl.exchange.lists.writing import SUFFIXES, write_list
from vinyl.exchange.night_files import MOST_CUE_TRACKS
from vinyl.exchange.order import Order
from vinyl.exchange.swapping import KEPT, free_beside, swap_in
from vinyl.media.files import new_file, part_of, replacing

LONGEST_STEM = 120
LISTS = re.compile(r"lists-\d{8}-\d{6}(-\d+)?")
Tell = Callable[[int, str], None]


def write_library(desk: Desk, order: Order, place: Place, at: datetime, tell: Tell) -> Path | None:
    """Write all cards and lists; returns where what was there before is kept.

    Args:
        tell: is told how many cards are written, and may raise to end the work.

    Raises:
        OSError, sqlite3.Error: if the disk does not do it; what was there is as it was.
    """
    lists, plays = nodes_of(desk.get("lists", [])), [Play(*each) for each in desk.get("plays", [])]
    if order.target in PLAYLISTS:
        return _write_playlists(desk, order, place, lists, at)
    if order.target == "tidewrack":
        return _write_lists(desk, place, lists, at)
    part = new_file(part_of(place.opened))
    try:
        if order.target == "reedbank":
            write_reedbank(part, _cards(desk, tell), lists)
        else:
            write_saltmarsh(part, _cards(desk, tell), lists, plays)
            settle(place.opened, at)
        return swap_in(part, place.opened, at)
    finally:
        part.unlink(missing_ok=True)


def _cards(desk: Desk, tell: Tell) -> Iterator[tuple[str, Card]]:
    for number, row in enumerate(desk.cards()):
        tell(number, row["title"])
        yield row["key"], card_of(json.loads(row["told"]))


def _write_lists(desk: Desk, place: Place, lists: tuple[Node, ...], at: datetime) -> Path | None:
    """Write lists into a folder of their own, then let the head file name it; the old folder stays."""
    paths = {row["key"]: json.loads(row["told"])["path"] for row in desk.cards()}
    folder = free_beside(place.opened, f"lists-{at:%Y%m%d-%H%M%S}")
    before = None
    if place.opened.exists():
        before = tidewrack.current_folder(place.base)
    named = [(node.name, [paths[key] for key in node.tracks if key in paths]) for node in lists]
    tidewrack.write_lists(folder, [(tidewrack.EVERYTHING, list(paths.values())), *named])
    with replacing(place.opened) as part:
        part.write_text(tidewrack.head_text(folder.name), encoding="utf-8")
    _forget_lists(place.base)
    return before


def _forget_lists(base: Path) -> None:
    """Keep the newest folders of lists, which are told by their names."""
    found = sorted(each for each in base.iterdir() if LISTS.fullmatch(each.name) and each.is_dir())
    for old in found[: -KEPT - 1]:
        with suppress(OSError):
            for file in old.glob(f"*{tidewrack.SUFFIX}"):
                file.unlink()
            old.rmdir()


def _write_playlists(
    desk: Desk, order: Order, place: Place, lists: tuple[Node, ...], at: datetime
) -> Path | None:
    """Write each list as a file of its own; returns where the first that was there before is kept."""
    cards = {row["key"]: card_of(json.loads(row["told"])) for row in desk.cards()}
    delimiter = "\t" if order.options.delimiter == "tab" else ","
    kept: list[Path] = []
    for node, file in playlist_files(order, place, lists, list(cards)):
        held = [cards[key] for key in node.tracks if key in cards]
        text = write_list(order.target, node.name, held, order.options.columns, delimiter)  # type: ignore[arg-type]
        part = new_file(part_of(file))
        try:
            part.write_text(text, encoding="utf-8", newline="")
            before = swap_in(part, file, at)
        finally:
            part.unlink(missing_ok=True)
        kept += [before] if before else []
    return kept[0] if kept else None


def playlist_files(
    order: Order, place: Place, lists: tuple[Node, ...], keys: list[str]
) -> Iterator[tuple[Node, Path]]:
    """Lists with the files that they are written to; where no list goes, one of all tracks."""
    suffix = SUFFIXES[order.target]  # type: ignore[index]
    if order.target == "csv" and order.options.delimiter == "tab":
        suffix = ".tsv"
    taken: set[str] = set()
    nodes = lists or (Node("Vinyl", "list", tuple(keys)),)
    for node in chain.from_iterable(_parts(each, order) for each in nodes):
        stem = NOT_IN_NAMES.sub("-", node.name).strip(" .")[:LONGEST_STEM] or "A list"
        number, name = 1, stem
        while name.casefold() in taken:
            number += 1
            name = f"{stem} {number}"
        taken.add(name.casefold())
        yield node, place.base / f"{name}{suffix}"


def _parts(node: Node, order: Order) -> Iterator[Node]:
    """A list, or for cue sheets as many as their number of tracks allows."""
    most = MOST_CUE_TRACKS if order.target == "cue" else max(len(node.tracks), 1)
    for start in range(0, max(len(node.tracks), 1), most):
        name = f"{node.name} {start // most + 1}" if start else node.name
        yield Node(name, "list", node.tracks[start : start + most])


def nodes_of(kept: list[dict[str, object]]) -> tuple[Node, ...]:
    """Lists and folders from their plain form."""
    return tuple(_node(each) for each in kept)


def _node(kept: dict[str, object]) -> Node:
    inner = kept["inner"]
    tracks = kept["tracks"]
    if not isinstance(inner, list) or not isinstance(tracks, list):
        raise TypeError("a list is not kept as one")
    return Node(
        str(kept["name"]),
        kept["kind"],  # type: ignore[arg-type]
        tuple(str(key) for key in tracks),
        nodes_of(inner),
        kept["rule"],  # type: ignore[arg-type]
    )
