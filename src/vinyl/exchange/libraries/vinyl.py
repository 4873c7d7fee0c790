"""Vinyl's own document as a library that is looked at (vinyl.library.documents)."""

from __future__ import annotations

import json
from collections.abc import Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.carry import carry
from vinyl.core.carrying.collection import Cue, Node, NodeKind, Play, Track
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.traits import VINYL
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Branch, Told, nest
from vinyl.library.documents import SUFFIX, read_document
from vinyl.library.errors import LibraryError
from vinyl.library.values import HEARD, SOURCES, WRITTEN

__all__ = ["SUFFIX", "VinylReader"]
NOT_TEXTS = frozenset({"grid", "tempo", "structure", "chapters", "quality", "gain"})


class VinylReader:
    """A document; keys are the ids of its tracks."""

    def __init__(self, path: Path) -> None:
        self.told = Told()
        self._path = path
        self._tags: dict[int, str] = {}

    def cards(self) -> Iterator[tuple[str, Card]]:
        """All tracks.

        Raises:
            LibraryFormatError: if it is no such document.
        """
        kept: dict[str, list[dict[str, Any]]] = {}
        try:
            with self._path.open(encoding="utf-8") as lines:
                for name, record in read_document(lines):
                    if name == "tracks" and "off_shelf" not in record:
                        yield str(record["id"]), self._card(record, kept)
                    elif name in ("families", "tags", "lists", "places", "gigs", "plays"):
                        kept.setdefault(name, []).append(record)
        except (LibraryError, OSError, UnicodeDecodeError, KeyError, TypeError) as error:
            if isinstance(error, LibraryError):
                raise LibraryFormatError(str(error)) from error
            raise LibraryFormatError(f"{self._path.name} cannot be read ({error}).") from error
        self.told.lists = nest(_lists(kept.get("lists", ()), kept.get("places", ())), self.told.problems)
        names = {gig["id"]: gig.get("name", "") for gig in kept.get("gigs", ()) if not gig.get("practice")}
        self.told.plays = tuple(
            Play(str(play["track_id"]), play["played_at"], names[play["gig_id"]])
            for play in kept.get("plays", ())
            if play.get("track_id") and play.get("gig_id") in names
        )

    def _card(self, record: Mapping[str, Any], kept: Mapping[str, Sequence[Mapping[str, Any]]]) -> Card:
        if not self._tags:
            families = {each["id"]: each["name"] for each in kept.get("families", ())}
            self._tags = {
                each["id"]: f"{families[each['family_id']]}: {each['name']}" for each in kept.get("tags", ())
            }
        values = {name: text for name, text in _winners(record).items() if text is not None}
        grid = json.loads(values["grid"]) if values.get("grid") else None
        track = Track(
            str(record["id"]),
            record["path"],
            record["duration_s"],
            values={name: text for name, text in values.items() if name not in NOT_TEXTS and text},
            grid=TempoMap(anchors_from(grid["anchors"]), grid["beats_per_bar"]) if grid else None,
            cues=tuple(_cue(each) for each in sorted(record.get("cues", ()), key=lambda e: e["position_s"])),
            tags=tuple(self._tags[each["tag_id"]] for each in record.get("tags", ())),
        )
        return carry(track, VINYL, Options()).card


def _winners(record: Mapping[str, Any]) -> dict[str, str | None]:
    """The value of each field whose source comes first by the usual rules."""
    best: dict[str, tuple[int, str | None]] = {}
    for each in record.get("values", ()):
        order = SOURCES if each["field"] in HEARD else WRITTEN
        rank = order.index(each["source"])
        if each["field"] not in best or rank < best[each["field"]][0]:
            best[each["field"]] = rank, each.get("value")
    return {name: text for name, (_, text) in best.items()}


def _cue(each: Mapping[str, Any]) -> Cue:
    return Cue(
        each["position_s"], each.get("length_s"), each["label"], each.get("role"), each["colour"],
        each.get("pad"), bool(each["engages"]),
    )  # fmt: skip


def _lists(lists: Sequence[Mapping[str, Any]], places: Sequence[Mapping[str, Any]]) -> Iterator[Branch]:
    held: dict[int, list[str]] = {}
    for place in sorted(places, key=lambda each: each["position"]):
        if place.get("track_id"):
            held.setdefault(place["crate_id"], []).append(str(place["track_id"]))
    for each in sorted(lists, key=lambda each: each["position"]):
        kind: NodeKind = "folder" if each["is_folder"] else "list"
        yield Branch(
            each["id"], each.get("folder_id"), Node(each["name"], kind, tuple(held.get(each["id"], ())))
        )
