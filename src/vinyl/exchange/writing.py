"""Writing what a desk has in hand as a library: to a new place, then swapped in whole."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator
from datetime import datetime
from pathlib import Path

from vinyl.core.carrying.card import Card, card_of
from vinyl.core.carrying.collection import Node, Play
from vinyl.exchange.desk import Desk
from vinyl.exchange.libraries import tidewrack
from vinyl.exchange.libraries.model import Place
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.exchange.libraries.saltmarsh import write_saltmarsh
from vinyl.exchange.order import Order
from vinyl.exchange.swapping import free_beside, swap_in
from vinyl.media.files import replacing

Tell = Callable[[int, str], None]


def write_library(desk: Desk, order: Order, place: Place, at: datetime, tell: Tell) -> Path | None:
    """Write all cards and lists; returns where what was there before is kept.

    Args:
        tell: is told how many cards are written, and may raise to end the work.

    Raises:
        OSError, sqlite3.Error: if the disk does not do it; what was there is as it was.
    """
    lists, plays = nodes_of(desk.get("lists", [])), [Play(*each) for each in desk.get("plays", [])]
    if order.target == "tidewrack":
        return _write_lists(desk, place, lists, at)
    part = place.opened.with_name(f".{place.opened.name}.part")
    part.unlink(missing_ok=True)
    try:
        if order.target == "reedbank":
            write_reedbank(part, _cards(desk, tell), lists)
        else:
            write_saltmarsh(part, _cards(desk, tell), lists, plays)
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
    return before


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
