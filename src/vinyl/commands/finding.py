"""``./vinyl find``: the tracks that some words mean, as the Shelf's search has them."""

from __future__ import annotations

from pathlib import Path

from vinyl.commands.client import open_library
from vinyl.core.rules.reading import read
from vinyl.library import find, rule_lists
from vinyl.library.find import Order
from vinyl.library.knowing import known


def find_tracks(home: Path, text: str) -> int:
    """Print how a text was understood, and the tracks that it finds, a line each."""
    connection = open_library(home).read()
    reading = read(text, known(connection))
    (sort, down), *then = reading.order or (("title", False),)
    order = Order(sort, down, then=tuple(then))  # type: ignore[arg-type]
    found = find.find_ids(connection, reading.condition, order)
    print(f"{rule_lists.said(connection, reading.condition)}: {len(found):,} tracks")
    for row in find.get_rows(connection, found):
        print(f"{row['bpm'] or 0:6.1f}  {row['key'] or '':9} {row['artist']} - {row['title']}")
    return 0 if found else 1
