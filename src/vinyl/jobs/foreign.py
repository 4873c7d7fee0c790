"""Libraries of strangers: read in a process of their own, which writes down line by line what it has read,
under limits of size, time and memory. What the server holds of a library is never more than a few lines.
"""

from __future__ import annotations

import json
import os
import tempfile
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future
from dataclasses import asdict
from pathlib import Path
from typing import IO, Any

from vinyl.core.carrying.card import Card, card_of
from vinyl.core.carrying.collection import Node, Play, walk
from vinyl.core.carrying.traits import Name
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Place, Reader, Told
from vinyl.exchange.libraries.opening import open_library
from vinyl.exchange.writing import nodes_of
from vinyl.jobs.stick_library import StickReader
from vinyl.jobs.workers import WorkerError, Workers, result_of, wait_for_a_while
from vinyl.media.files import AllowedRoots

READERS, READERS_NICE = 2, 5
MEMORY_BYTES = 2 * 1024**3
# A library may be read for so long in all, and without a line for so long.
LIMIT_S, STALL_S = 4 * 3600.0, 90.0
LARGEST_BYTES = 4 * 1024**3
MOST_TRACKS, MOST_PLAYS = 1_000_000, 2_000_000
MOST_LISTS, MOST_LISTED = 50_000, 10_000_000
MOST_PROBLEMS = 500
LONGEST_NAME = 300
PIECE = 1 << 20
# What was read is on the disk at least so often.
FLUSH_S = 0.2


# Opens a library of a kind at a place; what the last raises ends the reading.
OpenThere = Callable[[Name, Place, Callable[[], None]], Reader]


def make_readers() -> Workers:
    """The processes that libraries are read in."""
    return Workers(READERS, MEMORY_BYTES, READERS_NICE)


def opener(workers: Workers, roots: AllowedRoots, folder: Path) -> OpenThere:
    """What opens libraries to be read in these workers, written down meanwhile in this folder."""
    return lambda target, place, check: ForeignReader(workers, target, place, roots, folder, check)


class ForeignReader:
    """A library that is read in a worker; keys name its cards in its lists and plays.

    Args:
        folder: where what is read is written down meanwhile.
        check: asked again and again; what it raises ends the reading.
    """

    def __init__(
        self,
        workers: Workers,
        target: Name,
        place: Place,
        roots: AllowedRoots,
        folder: Path,
        check: Callable[[], None],
    ) -> None:
        self.told = Told()
        self._workers, self._target, self._place, self._roots = workers, target, place, roots
        self._folder, self._check = folder, check

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All cards, as they are read.

        Raises:
            LibraryFormatError: if it is no such library, or reading it takes too much.
        """
        handle, name = tempfile.mkstemp(".jsonl", "library-", self._folder)
        os.close(handle)
        spool, given = Path(name), (self._target, self._place, self._roots, Path(name))
        future = self._workers.submit(spool_library, *given, timeout_s=LIMIT_S)
        try:
            for line in self._lines(spool, future):
                if line[0] == "card":
                    yield line[1], card_of(line[2])
                elif line[0] == "rest":
                    self.told.lists = nodes_of(line[1])
                    self.told.problems[:0] = line[2]
                elif line[0] == "plays":
                    self.told.plays += tuple(Play(*each) for each in line[1])
            result_of(future)
        except WorkerError as error:
            raise LibraryFormatError(f"{self._place.opened.name} cannot be read. {error}") from error
        finally:
            future.cancel()
            spool.unlink(missing_ok=True)

    def _lines(self, spool: Path, future: Future[None]) -> Iterator[Any]:
        """The lines of a spool as they come, to its end."""
        rest, grew_s, begun = b"", time.monotonic(), False
        with spool.open("rb") as file:
            while True:
                self._check()
                ended = future.done()
                if data := file.read(PIECE):
                    *whole, rest = (rest + data).split(b"\n")
                    yield from map(json.loads, whole)
                    grew_s, begun = time.monotonic(), True
                elif ended:
                    return
                elif begun and time.monotonic() - grew_s > STALL_S:
                    raise LibraryFormatError(
                        f"{self._place.opened.name}: nothing more came of it for {STALL_S:.0f} s, so reading "
                        "it was ended. It may be damaged, or its disk very slow."
                    )
                else:
                    wait_for_a_while(future)


def spool_library(target: Name, place: Place, roots: AllowedRoots, spool: Path) -> None:
    """Read a library and write down what it holds, a line each; in a worker.

    Raises:
        LibraryFormatError: if it is no such library, or too much of one.
    """
    reader: Reader = (
        StickReader(place.base) if target == "stick" else open_library(target, place, roots.is_allowed)
    )
    with spool.open("w", encoding="ascii") as out:
        put = _Putter(out, place.opened.name)
        put("begun")
        for number, (key, card) in enumerate(reader.cards(), 1):
            if number > MOST_TRACKS:
                raise LibraryFormatError(f"{place.opened.name} has more than {MOST_TRACKS:,} tracks.")
            put("card", key, card.told())
        _check_lists(reader.told.lists)
        put("rest", [asdict(node) for node in reader.told.lists], _few(reader.told.problems))
        for start in range(0, min(len(reader.told.plays), MOST_PLAYS), 1000):
            plays = reader.told.plays[start : start + 1000]
            put("plays", [(each.key, each.played_at, each.night) for each in plays])


class _Putter:
    """Writes lines, and sees to it that they are on the disk before long."""

    def __init__(self, out: IO[str], name: str) -> None:
        self._out, self._name = out, name
        self._flushed_s = 0.0

    def __call__(self, *line: object) -> None:
        self._out.write(json.dumps(line) + "\n")
        if time.monotonic() - self._flushed_s > FLUSH_S:
            self._out.flush()
            self._flushed_s = time.monotonic()
            if self._out.tell() > LARGEST_BYTES:
                raise LibraryFormatError(f"{self._name} holds more than {LARGEST_BYTES // 1024**3} GB.")


def _check_lists(nodes: tuple[Node, ...]) -> None:
    lists = listed = 0
    for _, node in walk(nodes):
        lists, listed = lists + 1, listed + len(node.tracks)
        if lists > MOST_LISTS or listed > MOST_LISTED or len(node.name) > LONGEST_NAME:
            raise LibraryFormatError(
                f"Its lists are too many or too long: {MOST_LISTS:,} of {MOST_LISTED:,} entries in all can "
                f"be read, with names of {LONGEST_NAME} letters."
            )


def _few(problems: list[str]) -> list[str]:
    more = len(problems) - MOST_PROBLEMS
    few = [each[:LONGEST_NAME] for each in problems[:MOST_PROBLEMS]]
    return [*few, f"{more} more."] if more > 0 else few
