"""Tracks that sound alike, and recordings that are the same."""

from __future__ import annotations

import json
import sqlite3
import threading
import zlib
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from vinyl.core.errors import VinylError
from vinyl.core.likeness.compare import Match, compare
from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.likeness.fingerprint import Fingerprint
from vinyl.core.likeness.index import DescriptorIndex, Question
from vinyl.core.likeness.offset import settle_offset
from vinyl.library.errors import NotFoundError
from vinyl.library.waveforms import WaveformStore

FRAMES_PER_S = 44100 / 4 / 1024


@dataclass(frozen=True, slots=True)
class Alike:
    """A track that is like another, from -1 to 1."""

    track_id: int
    likeness: float


class AlikeFinder:
    """Finds tracks that sound alike; keeps the descriptors between questions until analysis adds to them."""

    def __init__(self) -> None:
        self._index: DescriptorIndex | None = None
        self._state: tuple[int, str | None] = (0, None)
        self._lock = threading.Lock()

    def find(
        self, connection: sqlite3.Connection, track_id: int, count: int, question: Question
    ) -> list[Alike]:
        """The tracks most like one, without itself.

        Raises:
            NotFoundError: if it was not analysed yet.
        """
        wanted = np.frombuffer(_blob(connection, "descriptor", track_id), "<f4")
        nearest = self._current(connection).nearest(wanted, count + 1, question)
        return [Alike(i, likeness) for i, likeness in nearest if i != track_id][:count]

    def _current(self, connection: sqlite3.Connection) -> DescriptorIndex:
        row = connection.execute(
            "SELECT count(*), max(analysed_at) FROM track_analysis "
            "WHERE track_id NOT IN (SELECT track_id FROM off_shelf)"
        ).fetchone()
        with self._lock:
            if self._index is None or self._state != tuple(row):
                self._index, self._state = _load(connection), tuple(row)
            return self._index


def likeness_to(connection: sqlite3.Connection, track_id: int, others: Sequence[int]) -> dict[int, float]:
    """How much others are like a track, of those that were analysed; nothing if it was not."""
    try:
        wanted = np.frombuffer(_blob(connection, "descriptor", track_id), "<f4")
    except NotFoundError:
        return {}
    rows = connection.execute(
        "SELECT track_id, descriptor FROM track_likeness WHERE track_id IN (SELECT value FROM json_each(?))",
        (json.dumps(list(others)),),
    )
    return _index(rows, len(others)).likeness(wanted)


def _load(connection: sqlite3.Connection) -> DescriptorIndex:
    count = connection.execute("SELECT count(*) FROM track_likeness").fetchone()[0]
    rows = connection.execute(
        "SELECT track_id, descriptor FROM track_likeness "
        "WHERE track_id NOT IN (SELECT track_id FROM off_shelf) ORDER BY track_id"
    )
    return _index(rows, count)


def _index(rows: Iterable[sqlite3.Row], most: int) -> DescriptorIndex:
    """Descriptors as they come, each put into its place, so that they are in memory once."""
    ids, descriptors, count = np.zeros(most, np.int64), np.zeros((most, SIZE), np.float32), 0
    for count, (track_id, blob) in enumerate(rows, 1):
        ids[count - 1], descriptors[count - 1] = track_id, np.frombuffer(blob, "<f4")
    return DescriptorIndex(ids[:count], descriptors[:count])


def compare_tracks(connection: sqlite3.Connection, first: int, second: int) -> Match:
    """Whether two tracks are one recording.

    Raises:
        NotFoundError: if one of them was not analysed yet.
    """
    return compare(fingerprint_of(connection, first), fingerprint_of(connection, second), FRAMES_PER_S)


def later_s(waveforms: WaveformStore, first: int, second: int, match: Match) -> float | None:
    """How much later the same recording begins in another track; by its attacks, where they are at hand."""
    if match.relation != "same":
        return None
    try:
        attacks = [waveforms.onsets(track_id).onset_times.times_s for track_id in (first, second)]
    except (VinylError, OSError, EOFError, zlib.error):  # one that is damaged comes with a new analysis
        return match.offset_s
    return settle_offset(attacks[0], attacks[1], match.offset_s)


def fingerprint_of(connection: sqlite3.Connection, track_id: int) -> Fingerprint:
    """The fingerprint of a track.

    Raises:
        NotFoundError: if it was not analysed yet.
    """
    return np.frombuffer(_blob(connection, "fingerprint", track_id), "<u4")


def _blob(connection: sqlite3.Connection, column: str, track_id: int) -> bytes:
    row = connection.execute(
        f"SELECT {column} FROM track_likeness WHERE track_id = ?", (track_id,)
    ).fetchone()
    if row is None:
        raise NotFoundError("This track was not analysed yet, so nothing can be compared with it.")
    blob: bytes = row[0]
    return blob
