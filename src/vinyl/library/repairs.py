"""Texts of tracks that were read in a wrong encoding: finding them, and keeping what was meant."""

from __future__ import annotations

import json
import sqlite3
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass

from vinyl.core.encodings import Encoding, repaired
from vinyl.library import flat, locks, values
from vinyl.library.values import TEXT_FIELDS, Field, Value


@dataclass(frozen=True, slots=True)
class TextRepair:
    """A text of a track as it is and as it was meant."""

    track_id: int
    title: str
    field: Field
    before: str
    after: str
    encoding: Encoding


def find_repairs(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[TextRepair]:
    """What could be repaired of tracks whose tags are not locked; what was set by hand is left alone."""
    open_ids = locks.without_locked(connection, track_ids, "tags")
    rows = connection.execute(
        """SELECT v.track_id, s.title, v.field, v.value FROM json_each(?) i
           JOIN track_value v ON v.track_id = i.value AND v.field IN (SELECT value FROM json_each(?))
           JOIN shelf s ON s.id = v.track_id
           WHERE v.source IN ('file tag', 'file name') AND v.value GLOB ? AND NOT EXISTS (
             SELECT 1 FROM track_value h
             WHERE h.field = v.field AND h.track_id = v.track_id AND h.source = 'by hand')
           ORDER BY i.key, v.field""",
        (json.dumps(open_ids), json.dumps(TEXT_FIELDS), "*[^ -~]*"),
    )
    found = ((row, repaired(row["value"])) for row in rows)
    return [
        TextRepair(row["track_id"], row["title"], row["field"], row["value"], repair.text, repair.encoding)
        for row, repair in found
        if repair
    ]


def keep_repairs(connection: sqlite3.Connection, repairs: Sequence[TextRepair]) -> None:
    """Set repaired texts by hand; what the files say is kept beside them."""
    alike: dict[tuple[Field, str], list[int]] = defaultdict(list)
    for repair in repairs:
        alike[repair.field, repair.after].append(repair.track_id)
    for (field, text), track_ids in alike.items():
        values.put(connection, track_ids, "by hand", {field: Value(text)})
    flat.settle(connection, {repair.track_id for repair in repairs}, {repair.field for repair in repairs})
