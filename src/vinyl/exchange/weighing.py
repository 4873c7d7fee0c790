"""The ledger: what becomes of each value of some tracks, put onto what the other library has already."""

from __future__ import annotations

import json
import logging
import sqlite3
from collections import Counter
from collections.abc import Iterable, Mapping, Sequence
from contextlib import closing
from dataclasses import dataclass, field, replace
from pathlib import Path

from vinyl.core.carrying.card import Card, card_of
from vinyl.core.carrying.carry import Carried, carry
from vinyl.core.carrying.collection import Track
from vinyl.core.carrying.merging import Merged, Part, marks_of, merge
from vinyl.core.carrying.outcomes import Kind, Outcome
from vinyl.core.carrying.paths import Way
from vinyl.core.carrying.traits import TARGETS
from vinyl.exchange.libraries import tidewrack
from vinyl.exchange.libraries.opening import place_of
from vinyl.exchange.lists import text
from vinyl.exchange.order import Order
from vinyl.library.carrying import read_tracks
from vinyl.library.connections import connect

log = logging.getLogger(__name__)

TEXT_LISTS = frozenset({"tidewrack", "m3u8", "pls", "cue"})
KINDS_OF: Mapping[Part, frozenset[Kind]] = {
    "texts": frozenset({"texts", "key", "stars", "energy", "comment", "tags", "marks"}),
    "plays": frozenset({"plays"}),
    "grid": frozenset({"grid, steady", "grid, stepped", "grid, elastic"}),
    "cues": frozenset({"cues", "loops", "colours", "routes"}),
}


@dataclass(frozen=True, slots=True)
class Weighed:
    """A track as it is to go: its card, merged with what is there, and what becomes of its values.

    ``told`` is None for a track that cannot go. ``state`` says whether it is new there, changed since the
    last time, or the same; ``marks`` name what was made of it here.
    """

    key: str
    path_key: str
    path: str
    title: str
    told: str | None
    marks: str
    state: str
    theirs_n: int | None
    later: tuple[Part, ...] = ()
    outcomes: tuple[Outcome, ...] = ()
    as_it_is: Mapping[str, int] = field(default_factory=dict)


def weigh_ids(library: Path, track_ids: Sequence[int], order: Order, desk: Path | None) -> list[Weighed]:
    """Weigh tracks of the library; in a worker."""
    with closing(connect(library, read_only=True)) as connection:
        connection.execute("BEGIN")
        tracks = read_tracks(connection, track_ids)
        sent = _sent(connection, order.destination_id, track_ids)
        connection.execute("ROLLBACK")
    return weigh(tracks, order, desk, sent)


def _sent(
    connection: sqlite3.Connection, destination_id: int | None, track_ids: Sequence[int]
) -> dict[str, dict[str, str]]:
    """What was sent last of tracks: the names of their parts."""
    rows = connection.execute(
        "SELECT track_id, marks FROM carried WHERE destination_id = ? "
        "AND track_id IN (SELECT value FROM json_each(?))",
        (destination_id, json.dumps(list(track_ids))),
    )
    return {str(row["track_id"]): json.loads(row["marks"]) for row in rows}


def weigh(
    tracks: Iterable[Track], order: Order, desk: Path | None, sent: Mapping[str, Mapping[str, str]]
) -> list[Weighed]:
    """Weigh tracks, each for itself: what goes wrong with one stays its own."""
    way = way_of(order)
    if desk is None:
        return [_one(track, order, way, None, sent) for track in tracks]
    with closing(sqlite3.connect(f"{desk.as_uri()}?mode=ro", uri=True)) as there:
        there.row_factory = sqlite3.Row
        return [_one(track, order, way, there, sent) for track in tracks]


def way_of(order: Order) -> Way:
    """How paths are written there."""
    base = ""
    if TARGETS[order.target].relative_paths:
        base = str(place_of(order.target, Path(order.place)).base)
    return Way(order.system, order.mappings, base)


def path_key(path: str, order: Order) -> str:
    """What makes two paths the same file there."""
    return path if order.system == "this one" else path.casefold()


def _one(
    track: Track,
    order: Order,
    way: Way,
    there: sqlite3.Connection | None,
    sent: Mapping[str, Mapping[str, str]],
) -> Weighed:
    title = " – ".join(filter(None, (track.values.get("artist"), track.values.get("title")))) or track.path
    try:
        return _weighed(track, title, order, way, there, sent.get(track.key))
    except Exception as error:  # values of a library may be anything; the others go on
        log.exception("weighing %s", track.path)
        outcome = Outcome(
            "files", "left here", "track", track.path, "", f"it cannot go ({type(error).__name__})"
        )
        return Weighed(track.key, "", track.path, title, None, "", "failed", None, (), (outcome,))


def _weighed(
    track: Track,
    title: str,
    order: Order,
    way: Way,
    there: sqlite3.Connection | None,
    sent: Mapping[str, str] | None,
) -> Weighed:
    traits = TARGETS[order.target]
    carried = carry(track, traits, order.options, way)
    key = path_key(carried.card.path, order)
    if order.target in TEXT_LISTS and not can_stand(carried.card.path, order.target):
        outcome = Outcome(
            "files", "left here", "file", track.path, "", "its name cannot stand in a text list"
        )
        return Weighed(track.key, key, track.path, title, None, "", "failed", None, (), (outcome,))
    marks = marks_of(carried.card)
    row = (
        there
        and there.execute(
            "SELECT n, told FROM theirs WHERE path_key = ? ORDER BY n LIMIT 1", (key,)
        ).fetchone()
    )
    theirs = card_of(json.loads(row["told"])) if row else None
    state = "new" if theirs is None else "same" if sent == marks else "changed"
    card = carried.card
    later: tuple[Part, ...] = ()
    if theirs is not None:
        merged = _merged(carried.card, theirs, sent, state, order)
        card, later = merged.card, merged.later
        carried = replace(carried, outcomes=_with_theirs(carried, merged, order))
    as_it_is = Counter[str](each.kind for each in carried.outcomes if each.fate == "as it is")
    return Weighed(
        track.key,
        key,
        track.path,
        title,
        json.dumps(card.told(), ensure_ascii=False),
        json.dumps(marks),
        state,
        row["n"] if row else None,
        later,
        tuple(each for each in carried.outcomes if each.fate != "as it is" or each.why),
        as_it_is,
    )


def can_stand(path: str, target: str) -> bool:
    """Whether a path can be a line of a list of text."""
    if target == "tidewrack":
        return tidewrack.can_stand(path)
    return text.can_stand(path) and not (target == "cue" and '"' in path)


def _merged(card: Card, theirs: Card, sent: Mapping[str, str] | None, state: str, order: Order) -> Merged:
    if order.changed_only and state == "same":
        return Merged(theirs, ())
    return merge(card, theirs, sent, order.policies or {}, TARGETS[order.target], order.onto_ms)


def _with_theirs(carried: Carried, merged: Merged, order: Order) -> tuple[Outcome, ...]:
    """What becomes of values where the other side's own stay."""
    outcomes = list(carried.outcomes)
    for part in merged.later:
        if (order.policies or {}).get(part, "leave") != "leave":
            continue
        mine = [each for each in outcomes if each.kind in KINDS_OF[part]]
        outcomes = [each for each in outcomes if each.kind not in KINDS_OF[part]]
        kinds = dict.fromkeys(each.kind for each in mine) or dict.fromkeys(sorted(KINDS_OF[part])[:1])
        why = "the other side has changed it since; its own stays"
        outcomes += [Outcome(kind, "left here", part, "", "its own", why) for kind in kinds]
    if merged.moved:
        there = f"{merged.moved} cues put onto its own beats"
        outcomes.append(Outcome("cues", "changed", "cues", "", there, f"within {order.onto_ms:g} ms"))
    return tuple(outcomes)
