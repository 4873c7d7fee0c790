"""Tracks and lists of another library as they are carried on, without the own collection."""

from __future__ import annotations

import posixpath
import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

from vinyl.core.carrying.bring import bring
from vinyl.core.carrying.collection import Node, NodeKind, Track
from vinyl.core.carrying.traits import SOURCES
from vinyl.core.foreign_paths import map_path, parse_path
from vinyl.exchange.libraries.model import Told
from vinyl.exchange.libraries.opening import place_of
from vinyl.exchange.order import Source
from vinyl.jobs.foreign import OpenThere
from vinyl.media.errors import MediaError
from vinyl.media.files import AllowedRoots
from vinyl.media.probe import probe


class StraightSource:
    """Another library as a source. ``told`` is whole once all tracks were taken."""

    def __init__(
        self,
        source: Source,
        read: sqlite3.Connection,
        roots: AllowedRoots,
        open_there: OpenThere,
        check: Callable[[], None],
    ) -> None:
        self._source, self._read, self._roots = source, read, roots
        self._place = place_of(source.target, roots.check(Path(source.place)))
        self._reader = open_there(source.target, self._place, check)
        self.unknown = 0

    @property
    def told(self) -> Told:
        return self._reader.told

    def tracks(self) -> Iterator[Track]:
        """Its tracks, with the padding of their files where those are here."""
        traits = SOURCES[self._source.target]
        for key, card in self._reader.cards():
            path = self._path(card.path)
            padding_s, duration_s = self._facts(path)
            if padding_s is None and traits.counts_padding:
                self.unknown += 1
            track, problems = bring(card, traits, key, padding_s or 0.0, duration_s)
            title = card.words.get("title", card.path)
            self.told.problems += [f"{title}: {problem}" for problem in problems]
            yield replace(track, path=path, is_away=padding_s is None)

    def lists(self) -> tuple[Node, ...]:
        """Its lists, once all tracks were taken. Rules go as the tracks that are in them."""
        if self.unknown:
            self.told.problems.append(
                f"{self.unknown} files are not here, so their padding is not known: their positions may be "
                "some 25 ms late."
            )
        return tuple(_by_hand(node) for node in self.told.lists)

    def _path(self, path: str) -> str:
        parsed = parse_path(path)
        if parsed is not None and not parsed.root:
            return posixpath.normpath(posixpath.join(str(self._place.base), path))
        found = map_path(parsed, self._source.mappings) if parsed is not None else []
        return found[0] if found else path

    def _facts(self, path: str) -> tuple[float | None, float]:
        """The padding of a file, None where it is not known, and its length in seconds."""
        row = self._read.execute(
            "SELECT trimmed_samples, rate_hz, duration_s FROM track WHERE path = ?", (path,)
        ).fetchone()
        if row:
            return row["trimmed_samples"] / row["rate_hz"], row["duration_s"]
        try:
            if not self._roots.is_allowed(Path(path)) or not Path(path).is_file():
                return None, 0.0
            facts = probe(Path(path))
        except (MediaError, OSError):
            return None, 0.0
        return facts.trimmed_samples / facts.rate_hz, facts.duration_s


def _by_hand(node: Node) -> Node:
    kind: NodeKind = "folder" if node.kind == "folder" else "list"
    return Node(node.name, kind, node.tracks, tuple(_by_hand(each) for each in node.inner))
