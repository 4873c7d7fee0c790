"""Libraries made to hurt: what cannot be is left out by name, the rest is read, and nothing holds the
server up.
"""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path

import psutil
import pytest

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.collection import Node
from vinyl.core.carrying.traits import Name
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.opening import place_of
from vinyl.exchange.libraries.reedbank import ReedbankReader, item_text
from vinyl.exchange.libraries.saltmarsh import SaltmarshReader, write_saltmarsh
from vinyl.exchange.xml import parts
from vinyl.jobs import foreign
from vinyl.jobs.foreign import ForeignReader, make_readers
from vinyl.jobs.workers import Workers
from vinyl.media.files import AllowedRoots

CARDS = [(str(n), Card(f"/m/{n}.mp3", {"title": f"T{n}"})) for n in range(1, 4)]
ENDLESS = (
    "WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) "
    "SELECT x AS track, x AS place, 'endless' AS text FROM n"
)


class StopError(Exception):
    """What a cancelled job raises."""


@pytest.fixture
def workers() -> Iterator[Workers]:
    made = make_readers()
    yield made
    made.stop()


def reader(
    workers: Workers, target: Name, folder: Path, check: Callable[[], None] = lambda: None
) -> ForeignReader:
    return ForeignReader(workers, target, place_of(target, folder), AllowedRoots((folder,)), folder, check)


def crafted(folder: Path, *statements: str) -> Path:
    place = folder / "vinyl.saltmarsh.db"
    write_saltmarsh(place, CARDS, [Node("Pier", "list", ("1", "2"))])
    with closing(sqlite3.connect(place, isolation_level=None)) as other:
        for statement in statements:
            other.execute(statement)
    return place


def test_what_is_read_elsewhere_is_what_is_read_here(workers: Workers, tmp_path: Path) -> None:
    place, there = crafted(tmp_path), reader(workers, "saltmarsh", tmp_path)
    here = SaltmarshReader(place)
    assert list(there.cards()) == list(here.cards()) == CARDS
    assert (there.told.lists, there.told.plays) == (here.told.lists, here.told.plays)
    assert not list(tmp_path.glob("library-*")), "nothing is left of what was written down"
    place.write_bytes(b"no database")
    with pytest.raises(LibraryFormatError, match="no Saltmarsh database"):
        list(there.cards())


def test_what_is_too_much_is_left_out_and_the_rest_is_read(workers: Workers, tmp_path: Path) -> None:
    crafted(
        tmp_path,
        "UPDATE word SET text = hex(zeroblob(15000000)) WHERE track = 2",
        "INSERT INTO list (id, parent, place, name, is_folder, rule) "
        "VALUES (9, NULL, 2, 'Bad', 0, '{\"all\": 7')",
        "INSERT INTO point VALUES (3, 1, 1e999, NULL, 'x', '', 0)",
    )
    there = reader(workers, "saltmarsh", tmp_path)
    assert [key for key, _ in there.cards()] == ["1"]
    said = " ".join(there.told.problems)
    assert "Track 2 was passed over: a text in it is longer" in said and "Track 3 was passed over" in said
    assert [(node.name, node.kind) for node in there.told.lists] == [("Pier", "list"), ("Bad", "list")]


def test_folders_that_hold_each_other_come_once(workers: Workers, tmp_path: Path) -> None:
    rows = ", ".join(f"({n}, {n - 1 if n > 1 else 'NULL'}, {n}, 'F{n}', 1, NULL)" for n in range(1, 40))
    crafted(
        tmp_path,
        "DROP TABLE list",
        "CREATE TABLE list (id, parent, place, name, is_folder, rule)",
        f"INSERT INTO list VALUES {rows}, {rows}",
    )
    there = reader(workers, "saltmarsh", tmp_path)
    assert len(list(there.cards())) == 3
    assert len(there.told.problems) == 39 and "is told twice" in there.told.problems[0]


def test_what_never_ends_is_ended(workers: Workers, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A view without end holds up no other library, can be cancelled at once, and ends by itself."""
    crafted(tmp_path, "DROP TABLE label", f"CREATE VIEW label AS {ENDLESS}")
    began_s, stopped = time.monotonic(), reader(workers, "saltmarsh", tmp_path, stop_after(1.0))
    with pytest.raises(StopError):
        list(stopped.cards())
    assert time.monotonic() - began_s < 20
    monkeypatch.setattr(foreign, "STALL_S", 1.0)
    with pytest.raises(LibraryFormatError, match=r"nothing more came of it|cannot be read"):
        list(reader(workers, "saltmarsh", tmp_path).cards())
    other = tmp_path / "other"
    other.mkdir()
    crafted(other)
    assert len(list(reader(workers, "saltmarsh", other).cards())) == 3


def stop_after(seconds: float) -> Callable[[], None]:
    end_s = time.monotonic() + seconds

    def check() -> None:
        if time.monotonic() > end_s:
            raise StopError

    return check


def test_strange_elements_are_not_kept(tmp_path: Path) -> None:
    place = tmp_path / "x.reedbank.xml"
    with place.open("w") as out:
        out.write(
            '<reedbank edition="2"><strange>' + "<a><b c='d'>e</b></a>" * 200_000 + "</strange><holdings>"
        )
        out.write(item_text(1, CARDS[0][1]) + "</holdings></reedbank>")
    before = psutil.Process().memory_info().rss
    with place.open("rb") as file:
        held = max(len(element) for _, element in parts(file, "item") if element.tag != "item")
    assert held < 5_000, "as many as a piece of the file has"
    assert [key for key, _ in ReedbankReader(place).cards()] == ["1"]
    assert psutil.Process().memory_info().rss - before < 40 * 1024**2


def test_a_pipe_among_the_files_of_a_library_is_no_file(workers: Workers, tmp_path: Path) -> None:
    lists = tmp_path / "lists-1"
    lists.mkdir()
    (tmp_path / "tidewrack.txt").write_text("TIDEWRACK LISTS 1\nlists: lists-1\n")
    (lists / "1.tide").write_text("TIDEWRACK LIST 1\nname: Pier\ncount: 1\n--\npipe.mp3\n")
    os.mkfifo(tmp_path / "pipe.mp3")
    os.mkfifo(lists / "2.tide")
    there = reader(workers, "tidewrack", tmp_path)
    assert [key for key, _ in there.cards()] == ["pipe.mp3"]
    assert len(there.told.problems) == 2
