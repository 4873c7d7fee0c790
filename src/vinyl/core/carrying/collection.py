"""A library as it is carried: tracks with what is known of them, lists in folders, and plays."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from vinyl.core.rhythm.tempo_map import TempoMap

NodeKind = Literal["folder", "list", "rule list"]


@dataclass(frozen=True, slots=True)
class Cue:
    """A point, or a loop where ``length_s`` is given. ``colour`` is one of Vinyl's, or empty."""

    position_s: float
    length_s: float | None = None
    label: str = ""
    role: str | None = None
    colour: str = ""
    pad: int | None = None
    engages: bool = False

    @property
    def is_loop(self) -> bool:
        return self.length_s is not None


@dataclass(frozen=True, slots=True)
class Route:
    """A way through a track: pairs of a time that is left and a time where it goes on, in seconds."""

    name: str
    jumps: tuple[tuple[float, float], ...]


@dataclass(frozen=True, slots=True)
class Track:
    """A track with what is known of it.

    ``padding_s`` is the codec's padding before the first sample, which some programs count. ``values`` are
    texts by the names of fields (title, artist, year, stars, energy, key, plays, colour, marks, ...); what is
    not known is left out. ``tags`` are "family: name".
    """

    key: str
    path: str
    duration_s: float = 0.0
    padding_s: float = 0.0
    is_away: bool = False
    values: Mapping[str, str] = field(default_factory=dict)
    grid: TempoMap | None = None
    cues: tuple[Cue, ...] = ()
    routes: tuple[Route, ...] = ()
    tags: tuple[str, ...] = ()
    locks: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Node:
    """A list with the keys of its tracks in order, or a folder with what is in it.

    A rule list has its rule as JSON (vinyl.core.rules.notation) beside the tracks that are in it today.
    ``left_out`` counts what stands in it and is no track: dividers, and what is wanted.
    """

    name: str
    kind: NodeKind = "list"
    tracks: tuple[str, ...] = ()
    inner: tuple[Node, ...] = ()
    rule: Mapping[str, Any] | None = None
    dividers: int = 0
    wanted: int = 0


@dataclass(frozen=True, slots=True)
class Play:
    """A time at which a track was played: its key, when (ISO, with zone), and what the night was called."""

    key: str
    played_at: str
    night: str = ""


def walk(nodes: tuple[Node, ...], within: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], Node]]:
    """All lists and folders, each with the names of the folders it stands in; a folder before its lists."""
    for node in nodes:
        yield within, node
        yield from walk(node.inner, (*within, node.name))
