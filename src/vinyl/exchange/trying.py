"""One track first: written to a place aside, and read back by the other side's own reader."""

from __future__ import annotations

import tempfile
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.core.carrying.bring import bring
from vinyl.core.carrying.card import Card, card_of
from vinyl.core.carrying.carry import carry
from vinyl.core.carrying.collection import Track
from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.traits import PLAYLISTS, TARGETS, Name
from vinyl.exchange.checking import compare, flat, told_by
from vinyl.exchange.desk import Finding
from vinyl.exchange.errors import LibraryFormatError
from vinyl.exchange.libraries.model import Place
from vinyl.exchange.libraries.reedbank import write_reedbank
from vinyl.exchange.libraries.saltmarsh import write_saltmarsh
from vinyl.exchange.libraries.tidewrack import pack_record
from vinyl.exchange.order import Order
from vinyl.exchange.weighing import way_of
from vinyl.standin_libraries import tidewrack


@dataclass(frozen=True, slots=True)
class Tried:
    """Both sides of a track: ours, theirs as it comes back, what became of its values, what differs."""

    ours: Track
    theirs: Track
    told: Mapping[str, Any]
    outcomes: tuple[Outcome, ...]
    values: int
    findings: tuple[Finding, ...]


def try_one(track: Track, order: Order) -> Tried:
    """Carry one track to a place aside and back.

    Raises:
        LibraryFormatError: for a playlist or a table, which hold no more than a line of a track.
    """
    if order.target in PLAYLISTS:
        raise LibraryFormatError(
            "A playlist holds a line of each track: there is nothing to try with one alone."
        )
    traits = TARGETS[order.target]
    carried = carry(track, traits, order.options, way_of(order))
    told = _there_and_back(carried.card, order.target)
    theirs, _ = bring(card_of(told), traits, track.key, track.padding_s, track.duration_s)
    promised = carried.card.told()
    return Tried(track, theirs, told, carried.outcomes, len(flat(promised)), tuple(compare(promised, told)))


def _there_and_back(card: Card, target: Name) -> Mapping[str, Any]:
    if target == "tidewrack":
        return {"path": card.path, **tidewrack.unpacked(pack_record(card))}
    with tempfile.TemporaryDirectory(prefix="vinyl-one-") as folder:
        file = Path(folder) / "one"
        write = write_reedbank if target == "reedbank" else write_saltmarsh
        write(file, [("1", card)], ())
        return next(told_by(target, Place(file, file.parent)))
