"""A card put onto what the other library has: its own later work stays unless it is chosen otherwise."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal, get_args

from vinyl.core.carrying.card import Card, Point
from vinyl.core.carrying.collection import Node
from vinyl.core.carrying.steps import grid_of
from vinyl.core.carrying.traits import Traits, seconds, units
from vinyl.core.errors import TempoMapError

Part = Literal["texts", "plays", "grid", "cues"]
PARTS: tuple[Part, ...] = get_args(Part)
Policy = Literal["leave", "add", "replace"]
POLICIES: tuple[Policy, ...] = get_args(Policy)
# Points this near to each other are one.
SAME_POINT_S = 0.002


@dataclass(frozen=True, slots=True)
class Merged:
    """A card as it will be there, and which parts hold later work of the other side; how many
    cues were put onto its beats."""

    card: Card
    later: tuple[Part, ...]
    moved: int = 0


def marks_of(card: Card) -> dict[Part, str]:
    """A short name of each part of a card: the same name, the same content."""
    told = card.told()
    plays = told["words"].pop("plays", None)
    parts: Mapping[Part, object] = {
        "texts": [told["words"], told["tags"]],
        "plays": plays,
        "grid": [told["steps"], told["beats_per_bar"], told["settled"]],
        "cues": told["points"],
    }
    return {name: _mark(value) for name, value in parts.items()}


def _mark(value: object) -> str:
    text = json.dumps(value, ensure_ascii=False, sort_keys=True)
    return hashlib.blake2b(text.encode("utf-8", "surrogatepass"), digest_size=8).hexdigest()


def merge(
    ours: Card,
    theirs: Card,
    sent: Mapping[str, str] | None,
    policies: Mapping[str, Policy],
    traits: Traits,
    onto_ms: float | None = None,
) -> Merged:
    """A card put onto the one that is there.

    A part that is there as it was sent, or as it is to be, gives way. What else is there is the other side's
    own work, and goes by the policy of its part.

    Args:
        sent: the names (``marks_of``) of what was sent last, or None.
        onto_ms: where the other side's grid stays, cues go onto its nearest beat within so many milliseconds.
    """
    here, there = marks_of(ours), marks_of(theirs)
    empty = marks_of(Card(""))
    later = tuple(
        part
        for part in PARTS
        if there[part] not in (here[part], empty[part], (sent or {}).get(part, empty[part]))
    )
    kept = {part: policies.get(part, "leave") for part in later}
    card = replace(ours, path=theirs.path)
    if "texts" in kept or "plays" in kept:
        card = replace(card, words=_words(ours, theirs, kept))
    if kept.get("texts", "replace") != "replace":
        card = replace(card, tags=_tags(ours, theirs, kept["texts"]))
    if kept.get("grid") == "leave" or (kept.get("grid") == "add" and not ours.steps):
        card = replace(card, steps=theirs.steps, beats_per_bar=theirs.beats_per_bar, settled=theirs.settled)
    moved = 0
    if onto_ms is not None and card.steps == theirs.steps and theirs.steps != ours.steps:
        card, moved = _onto(card, traits, onto_ms)
    if kept.get("cues") == "leave":
        card = replace(card, points=theirs.points)
    elif kept.get("cues") == "add":
        card = replace(card, points=_points(card, theirs, traits))
    return Merged(card, later, moved)


def _words(ours: Card, theirs: Card, kept: Mapping[Part, Policy]) -> dict[str, str]:
    words = dict(ours.words)
    if kept.get("texts") == "leave":
        words = {**ours.words, **theirs.words}
    elif kept.get("texts") == "add":
        words = {**theirs.words, **ours.words}
    for card in (theirs,) if kept.get("plays", "replace") != "replace" else (ours,):
        words.pop("plays", None)
        if "plays" in card.words:
            words["plays"] = card.words["plays"]
    return words


def _tags(ours: Card, theirs: Card, policy: Policy) -> tuple[str, ...]:
    return theirs.tags if policy == "leave" else tuple(dict.fromkeys((*ours.tags, *theirs.tags)))


def _points(card: Card, theirs: Card, traits: Traits) -> tuple[Point, ...]:
    """Our points, and those of theirs that stand elsewhere, as far as there are places."""
    points = list(card.points)
    near = units(SAME_POINT_S, traits.units_per_second) if traits.units_per_second else SAME_POINT_S
    limits = {"peg": traits.places, "cue": traits.places, "loop": traits.loop_places,
              "quick": traits.quick_places, "list": None}  # fmt: skip
    for point in theirs.points:
        same_bank = [each for each in points if each.bank == point.bank]
        if any(
            abs(each.at - point.at) <= near and bool(each.length) == bool(point.length) for each in same_bank
        ):
            continue
        taken, limit = {each.place for each in same_bank}, limits[point.bank]
        free = point.place if point.place not in taken else min(set(range(1, len(taken) + 2)) - taken)
        if limit is None or free <= limit:
            points.append(replace(point, place=free))
    ordered = sorted(points, key=lambda each: (each.at, each.length or 0.0, each.bank, each.place))
    return _numbered(ordered)


def _numbered(points: list[Point]) -> tuple[Point, ...]:
    """Points whose ordered list is numbered through again."""
    number, found = 0, []
    for point in points:
        number += point.bank == "list"
        found.append(replace(point, place=number) if point.bank == "list" else point)
    return tuple(found)


def _onto(card: Card, traits: Traits, limit_ms: float) -> tuple[Card, int]:
    """Points put onto the nearest beats of the card's grid, and how many were moved."""
    try:
        grid = grid_of(card.steps, card.beats_per_bar, traits, 0.0)
    except TempoMapError:
        return card, 0
    moved, points = 0, []
    for point in card.points:
        at_s = seconds(point.at, traits.units_per_second)
        beat_s = grid.snap(at_s, "beat")
        if (
            abs(beat_s - at_s) * 1000 <= limit_ms
            and (at := units(beat_s, traits.units_per_second)) != point.at
        ):
            point, moved = replace(point, at=at), moved + 1
        points.append(point)
    return replace(card, points=tuple(points)), moved


def merge_lists(
    ours: tuple[Node, ...], theirs: tuple[Node, ...], mirror: bool
) -> tuple[tuple[Node, ...], list[str]]:
    """Our lists with theirs of other names behind them, and the names of those that vanish.

    Adding keeps tracks that the other side has put into a list of the same name; mirroring does not.
    """
    vanish: list[str] = []
    left = {(each.name.casefold(), each.kind == "folder"): each for each in theirs}
    made = []
    for node in ours:
        there = left.pop((node.name.casefold(), node.kind == "folder"), None)
        if there is None:
            made.append(node)
        elif node.kind == "folder":
            inner, gone = merge_lists(node.inner, there.inner, mirror)
            vanish += [f"{node.name} / {name}" for name in gone]
            made.append(replace(node, inner=inner))
        else:
            own = set(there.tracks if mirror else node.tracks)
            more = tuple(key for key in there.tracks if key not in own)
            made.append(replace(node, tracks=(*node.tracks, *more)))
    if mirror:
        return tuple(made), vanish + [each.name for each in left.values()]
    return (*made, *left.values()), vanish
