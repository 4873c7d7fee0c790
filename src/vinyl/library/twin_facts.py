"""What is known of the files of a group, for comparing them and for proposing which to keep."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from vinyl.core.quality.findings import LOSSLESS
from vinyl.core.twins.proposal import REASONS, Candidate, Reason
from vinyl.library.errors import LibraryError

CHOICE = "twins order"
MOST_FOLDERS = 20
# Of what is found in a sound, what makes another file the better one.
DAMAGES = ("lossy before", "clipped", "one side silent", "sides opposed", "ends early")


@dataclass(frozen=True, slots=True)
class Order:
    """Reasons for keeping a file, the first the weightiest, and folders, the best first."""

    reasons: tuple[Reason, ...] = REASONS
    folders: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class TwinFile:
    """A track of a group with all by which it is compared."""

    track_id: int
    title: str
    artist: str
    path: str
    codec: str
    bit_rate: int | None
    size_bytes: int
    duration_s: float
    away: bool
    findings: tuple[str, ...]
    bpm: float | None
    key: str | None
    lufs: float | None
    grid_by_hand: bool
    locks: tuple[str, ...]
    cues: int
    routes: int
    plays: int
    last_played: str | None
    stars: int
    tags: tuple[str, ...]
    lists: tuple[str, ...]
    year: int | None
    label: str
    genre: str
    added_at: str


def get_order(connection: sqlite3.Connection) -> Order:
    """The user's order of reasons."""
    row = connection.execute("SELECT value FROM choice WHERE name = ?", (CHOICE,)).fetchone()
    stored = json.loads(row[0]) if row else {}
    return Order(tuple(stored.get("reasons", REASONS)), tuple(stored.get("folders", ())))


def set_order(connection: sqlite3.Connection, order: Order) -> None:
    """Change it.

    Raises:
        LibraryError: if it does not name each reason once.
    """
    if sorted(order.reasons) != sorted(REASONS):
        raise LibraryError(f"The order names each of {', '.join(REASONS)} once.")
    connection.execute(
        "INSERT INTO choice (name, value) VALUES (?, ?) "
        "ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (CHOICE, json.dumps(asdict(order))),
    )


def list_files(connection: sqlite3.Connection, track_ids: Sequence[int]) -> list[TwinFile]:
    """What is known of tracks on the Shelf, in their order."""
    ids = json.dumps(list(track_ids))
    rows = connection.execute(
        """SELECT s.*, t.path, t.size_bytes AS bytes, (
             SELECT json_group_array(name) FROM (SELECT name FROM track_tag x JOIN tag ON tag.id = x.tag_id
               WHERE x.track_id = s.id ORDER BY name)) AS tag_names, (
             SELECT json_group_array(name) FROM (SELECT c.name FROM crate_place p
               JOIN crate c ON c.id = p.crate_id WHERE p.track_id = s.id ORDER BY c.name)) AS list_names,
             EXISTS (SELECT 1 FROM track_value v WHERE v.track_id = s.id AND v.field = 'grid'
               AND v.value IS NOT NULL AND (v.source = 'by hand' OR v.origin = 'by hand')) AS hand
           FROM json_each(?) i JOIN shelf s ON s.id = i.value JOIN track t ON t.id = s.id ORDER BY i.key""",
        (ids,),
    )
    return [_file(row) for row in rows]


def better_of_twins(connection: sqlite3.Connection, track_ids: Sequence[int]) -> dict[int, str]:
    """Of tracks that have twins which came before them: that, and which has the better sound, in words."""
    ids = json.dumps(list(track_ids))
    rows = connection.execute(
        """SELECT p.second AS come, min(p.first) AS there, s.path FROM twin_pair p
           JOIN shelf a ON a.id = p.first JOIN shelf b ON b.id = p.second
           JOIN track s ON s.id = p.first
           WHERE p.relation = 'same' AND p.second IN (SELECT value FROM json_each(?1))
             AND NOT EXISTS (SELECT 1 FROM twin_not n WHERE n.first = p.first AND n.second = p.second)
           GROUP BY p.second""",
        (ids,),
    ).fetchall()
    every = {row[name] for row in rows for name in ("come", "there")}
    worth = {each.track_id: each.worth("sound") for each in candidates(connection, list(every), Order())}
    return {row["come"]: _beside(row["path"], worth[row["there"]], worth[row["come"]]) for row in rows}


def _beside(path: str, there: tuple[int, ...], come: tuple[int, ...]) -> str:
    name = path.rpartition("/")[2]
    quality = ", in better quality" if there > come else "; this one is better" if come > there else ""
    return f"you have this: {name}{quality}"


def _file(row: sqlite3.Row) -> TwinFile:
    findings: list[Mapping[str, Any]] = json.loads(row["findings"])
    return TwinFile(
        row["id"], row["title"], row["artist"], row["path"], row["codec"], row["bit_rate"], row["bytes"],
        row["duration_s"], bool(row["away"]), tuple(each["words"] for each in findings), row["bpm"],
        row["key"], row["lufs"], bool(row["hand"]), tuple(filter(None, row["locks"].split(","))),
        row["cue_count"], row["route_count"], row["plays"], row["last_played"], row["rating"],
        tuple(json.loads(row["tag_names"])), tuple(json.loads(row["list_names"])), row["year"], row["label"],
        row["genre"], row["added_at"],
    )  # fmt: skip


def candidates(connection: sqlite3.Connection, track_ids: Sequence[int], order: Order) -> list[Candidate]:
    """What speaks for each of some tracks."""
    rows = connection.execute(
        """SELECT s.id, s.away, s.codec, s.bit_rate, s.findings, s.cue_count, s.route_count, s.locks, s.plays,
             s.rating, t.path, (SELECT count(*) FROM crate_place p WHERE p.track_id = s.id) AS lists,
             (SELECT count(*) FROM track_tag x WHERE x.track_id = s.id) AS tags,
             EXISTS (SELECT 1 FROM track_value v WHERE v.track_id = s.id AND v.field = 'grid'
               AND v.source = 'by hand' AND v.value IS NOT NULL) AS hand
           FROM json_each(?) i JOIN shelf s ON s.id = i.value JOIN track t ON t.id = s.id""",
        (json.dumps(list(track_ids)),),
    )
    return [_candidate(row, order) for row in rows]


def _candidate(row: sqlite3.Row, order: Order) -> Candidate:
    kinds = [each["kind"] for each in json.loads(row["findings"])]
    locked = len(list(filter(None, row["locks"].split(","))))
    within = [place for place, folder in enumerate(order.folders) if row["path"].startswith(f"{folder}/")]
    return Candidate(
        track_id=row["id"],
        there=not row["away"],
        lossless=row["codec"] in LOSSLESS or row["codec"].startswith("pcm"),
        damages=sum(kind in DAMAGES for kind in kinds),
        bit_rate=row["bit_rate"] or 0,
        work=row["cue_count"] + 2 * row["route_count"] + 4 * (locked + row["hand"]),
        plays=row["plays"],
        lists=row["lists"],
        tags=row["tags"] + (row["rating"] > 0),
        folder=len(order.folders) - within[0] if within else 0,
    )
