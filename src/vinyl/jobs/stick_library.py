"""A stick that another Vinyl packed, as a library that is looked at: what it says is compared with what is
here, and taken in only as it is chosen.
"""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.carry import carry
from vinyl.core.carrying.collection import Cue, Node, Track
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.traits import STICK, Name
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Place, Told
from vinyl.exchange.libraries.opening import kind_of, place_of
from vinyl.sticks.index import INDEX_FILE, PlayerEntry, StickIndex, TrackEntry, read_index, track_of


class StickReader:
    """A stick's index; keys are the ids of its tracks, which are the names of their sounds. What the first
    player has of a track counts.
    """

    def __init__(self, folder: Path) -> None:
        self.told = Told()
        self._folder = folder

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All tracks, routes left out.

        Raises:
            LibraryFormatError: if there is no index that can be believed.
        """
        index, left_out = read_index(self._folder)
        if index is None:
            raise LibraryFormatError(f"{INDEX_FILE} is damaged, or of a kind that this Vinyl does not know.")
        self.told.problems += left_out
        for entry in _first_of_each(index):
            track = self._track(entry, str(self._folder / entry.file))
            yield entry.id, carry(track, STICK, Options()).card
        lists = index.players[0].lists if index.players else []
        self.told.lists = tuple(
            Node(each.name, "list", tuple(i for i in each.tracks if track_of(i) == i)) for each in lists
        )

    def _track(self, entry: TrackEntry, path: str) -> Track:
        texts = {"title": entry.title, "artist": entry.artist, "album": entry.album, "key": entry.key or ""}
        if entry.stars:
            texts["stars"] = str(entry.stars)
        return Track(
            entry.id,
            path,
            entry.duration_s,
            values={name: text for name, text in texts.items() if text},
            grid=self._grid(entry),
            cues=tuple(
                Cue(cue.position_s, cue.length_s, cue.label, cue.role, cue.colour, cue.pad, cue.engages)
                for cue in sorted(entry.cues, key=lambda cue: cue.position_s)
                if cue.position_s >= 0 and (cue.length_s is None or cue.length_s > 0)
            ),
        )

    def _grid(self, entry: TrackEntry) -> TempoMap | None:
        if not entry.anchors:
            return None
        try:
            rows = [anchor.model_dump() for anchor in entry.anchors]
            return TempoMap(anchors_from(rows), entry.beats_per_bar or 4)
        except VinylError as error:
            self.told.problems.append(f"The grid of “{entry.title}” cannot be used: {error}")
            return None


def _first_of_each(index: StickIndex) -> Iterator[TrackEntry]:
    players: list[PlayerEntry] = index.players
    seen = set[str]()
    for entry in (track for player in players for track in player.tracks):
        if entry.id not in seen and track_of(entry.id) == entry.id:
            seen.add(entry.id)
            yield entry


def source_of(path: Path) -> Name | None:
    """Which kind of library a path holds, a stick among them."""
    return "stick" if path.name == INDEX_FILE or (path / INDEX_FILE).is_file() else kind_of(path)


def source_place(target: Name, path: Path) -> Place:
    """Where a library lies that is said to be at a path."""
    if target != "stick":
        return place_of(target, path)
    folder = path.parent if path.name == INDEX_FILE else path
    return Place(folder / INDEX_FILE, folder)
