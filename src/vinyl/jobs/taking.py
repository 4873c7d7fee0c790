"""Taking in what was chosen of another library: values, grids, cues, tags, lists and plays, as one step."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator, Mapping
from dataclasses import fields
from datetime import datetime
from typing import Any

from vinyl.core.carrying.collection import Node, Play
from vinyl.core.carrying.lists import rule_here
from vinyl.core.cues.bounds import LONGEST_LABEL
from vinyl.core.cues.cue import Cue
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import TempoMap, anchors_from
from vinyl.core.rules.notation import rule_from_json
from vinyl.exchange.coming import SAME_CUE_S, plain
from vinyl.exchange.review import Review
from vinyl.exchange.writing import nodes_of
from vinyl.jobs.runner import Task
from vinyl.library import cues, flat, tags, taking_in, undo, values, wanted
from vinyl.library.clock import stored
from vinyl.library.crates import free_name, make_crate, make_rule_crate
from vinyl.library.database import Database
from vinyl.library.grids import grid_value
from vinyl.library.locks import locks_of
from vinyl.library.plays import Coming
from vinyl.library.taking_in import Told as ToldPlay
from vinyl.library.values import Source, Value
from vinyl.library.wanted import Placed, WantedEntry

BATCH = 100
CUE_FIELDS = {field.name for field in fields(Cue)} - {"id"}
USUAL_COLOUR = "ink"
FAMILY = "From elsewhere"
FAMILY_COLOUR = "blue"

# What could not be taken, and why.
Failed = tuple[str, str]
# What strangers' values may raise when they are taken for ours.
NOT_UNDERSTOOD = (
    VinylError, ValueError, KeyError, TypeError, AttributeError, OverflowError, RecursionError,
    sqlite3.IntegrityError,
)  # fmt: skip


def said_of(error: Exception) -> str:
    """What was wrong, in words."""
    return str(error) if isinstance(error, VinylError) else f"It is damaged ({type(error).__name__})."


class Taker:
    """Takes chosen differences in, tracks in batches that are one step to undo."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def take(self, task: Task, review: Review, lists: bool, plays: bool) -> None:
        """Take everything in; a track that cannot be is said, and the others go on."""
        name, step = f"Take in from {task.job.subject}", None
        ids = [
            row[0] for row in review.db.execute("SELECT DISTINCT track_id FROM diff WHERE choice <> 'ours'")
        ]
        taken = 0
        for start in range(0, len(ids), BATCH):
            task.check()
            task.progress(start, len(ids))
            part = ids[start : start + BATCH]
            with self._database.write(name, onto=step) as connection:
                failed = [
                    (track_id, why)
                    for track_id in part
                    if (why := _take_track(connection, review, track_id)) is not None
                ]
                step = undo.recorded_step(connection)
            taken += len(part) - len(failed)
            for track_id, why in failed:
                task.fail_item(_title(review, track_id), why, track_id)
        made, nights = 0, 0
        failed_lists: list[Failed] = []
        with self._database.write(name, onto=step) as connection:
            if lists:
                made = _make_lists(connection, review, task.job.subject, failed_lists)
            if plays:
                nights = _take_plays(connection, review, task.job.subject, failed_lists)
        for item, why in failed_lists:
            task.fail_item(item, why)
        task.progress(len(ids), len(ids))
        review.put("taken", True)
        task.keep_result({"tracks": taken, "lists": made, "nights": nights})


def _title(review: Review, track_id: int) -> str:
    row = review.db.execute("SELECT track FROM diff WHERE track_id = ? LIMIT 1", (track_id,)).fetchone()
    return str(row["track"])


def _take_track(connection: sqlite3.Connection, review: Review, track_id: int) -> str | None:
    """Take what was chosen of a track; returns why it could not be, or None."""
    rows = review.db.execute(
        "SELECT * FROM diff WHERE track_id = ? AND choice <> 'ours' ORDER BY id", (track_id,)
    ).fetchall()
    if connection.execute("SELECT 1 FROM shelf WHERE id = ?", (track_id,)).fetchone() is None:
        return "It is not in the library any more."
    connection.execute("SAVEPOINT taking")
    try:
        changed = {part for row in rows for part in _take_row(connection, track_id, row)}
        flat.settle(connection, [track_id], sorted(changed))
    except NOT_UNDERSTOOD as error:
        connection.execute("ROLLBACK TO taking")
        return said_of(error)
    finally:
        connection.execute("RELEASE taking")
    return None


def _take_row(connection: sqlite3.Connection, track_id: int, row: sqlite3.Row) -> Iterator[str]:
    value = plain(row["value"])
    source: Source = "by hand" if row["choice"] == "theirs" else "another library"
    if row["kind"] == "cues":
        _take_cues(connection, track_id, value, row["choice"])
        yield "cue"
    elif row["kind"] == "tags":
        for tag in value:
            tags.give(connection, _tag_id(connection, tag), [track_id], True)
        yield "track_tag"
    elif row["kind"] == "grid":
        _take_grid(connection, track_id, value, source)
        yield from ("grid", "tempo")
    else:
        values.put(connection, [track_id], source, {value["field"]: Value(value["text"])})
        yield value["field"]


def _take_grid(
    connection: sqlite3.Connection, track_id: int, value: Mapping[str, Any], source: Source
) -> None:
    grid = TempoMap(anchors_from(value["anchors"]), value["beats_per_bar"])
    said = {"grid": grid_value(grid, 0.0), "tempo": Value(repr(grid.bpm), None, 0.0)}
    values.put(connection, [track_id], source, said)  # type: ignore[arg-type]


def _take_cues(connection: sqlite3.Connection, track_id: int, value: Mapping[str, Any], choice: str) -> None:
    there = cues.list_cues(connection, track_id)
    if choice == "theirs" and there and "cues" not in locks_of(connection, track_id):
        cues.delete_cues(connection, track_id, [cue.id for cue in there])
        there = []
    pads, roles = {cue.pad for cue in there}, {cue.role for cue in there}
    come = [
        Cue(**{
            **{name: each[name] for name in CUE_FIELDS if name in each},
            "pad": None if each["pad"] in pads else each["pad"],
            "role": None if each["role"] in roles else each["role"],
            "colour": each["colour"] or USUAL_COLOUR,
            "label": each["label"][:LONGEST_LABEL],
        })
        for each in value["all" if choice == "theirs" else "new"]
        if not any(_is_there(each, cue) for cue in there)
    ]  # fmt: skip
    cues.add_cues(connection, track_id, come)


def _is_there(coming: Mapping[str, Any], cue: Cue) -> bool:
    """Whether a cue is there already, as when a run that was broken off is taken up again."""
    same_kind = (coming["length_s"] is None) == (cue.length_s is None)
    return same_kind and abs(coming["position_s"] - cue.position_s) <= SAME_CUE_S


def _tag_id(connection: sqlite3.Connection, tag: str) -> int:
    """The tag of a family, made where there is none."""
    family, colon, name = tag.partition(": ")
    if not colon:
        family, name = FAMILY, tag
    row = connection.execute(
        "SELECT g.id FROM tag g JOIN tag_family f ON f.id = g.family_id "
        "WHERE f.name = ? COLLATE NOCASE AND g.name = ? COLLATE NOCASE",
        (family, name),
    ).fetchone()
    if row:
        return int(row[0])
    found = connection.execute(
        "SELECT id FROM tag_family WHERE name = ? COLLATE NOCASE", (family,)
    ).fetchone()
    family_id = found[0] if found else tags.make_family(connection, family, FAMILY_COLOUR)
    return tags.make_tag(connection, family_id, name)


def _make_lists(connection: sqlite3.Connection, review: Review, subject: str, failed: list[Failed]) -> int:
    """Make the lists in a folder of their own; returns how many."""
    nodes = nodes_of(review.get("lists", []))
    if not nodes:
        return 0
    came = {
        row["key"]: row for row in review.db.execute("SELECT key, track_id, artist, title, path FROM came")
    }
    folder = make_crate(connection, free_name(connection, f"From {subject.partition('.')[0]}"), None, True)
    return sum(_make_node(connection, node, folder, came, failed) for node in nodes)


def _make_node(
    connection: sqlite3.Connection,
    node: Node,
    folder: int,
    came: Mapping[str, sqlite3.Row],
    failed: list[Failed],
) -> int:
    """Make a list, or the lists of a folder; returns how many. One that cannot be made is said, and the
    others go on.
    """
    if node.kind == "folder":
        inner = make_crate(connection, free_name(connection, node.name), folder, True)
        return sum(_make_node(connection, each, inner, came, failed) for each in node.inner)
    connection.execute("SAVEPOINT making")
    try:
        if not _make_by_rule(connection, node, folder, failed):
            crate_id = make_crate(connection, free_name(connection, node.name), folder)
            keys = [key for key in node.tracks if key in came]
            wanted.append(connection, crate_id, [_placed(came[key], node) for key in keys])
    except NOT_UNDERSTOOD as error:
        connection.execute("ROLLBACK TO making")
        failed.append((node.name, f"It could not be made: {said_of(error)}"))
        return 0
    finally:
        connection.execute("RELEASE making")
    return 1


def _make_by_rule(connection: sqlite3.Connection, node: Node, folder: int, failed: list[Failed]) -> bool:
    """Make a list that fills itself, if its rule is understood."""
    if not node.rule:
        return False
    connection.execute("SAVEPOINT ruling")
    try:
        rule = rule_here(node.rule)
        if rule is None:
            return False
        make_rule_crate(connection, free_name(connection, node.name), rule_from_json(rule), folder)
    except NOT_UNDERSTOOD as error:
        connection.execute("ROLLBACK TO ruling")
        why = f"It came with the tracks of today, as its rule is not understood: {said_of(error)}"
        failed.append((node.name, why))
        return False
    finally:
        connection.execute("RELEASE ruling")
    return True


def _placed(row: sqlite3.Row, node: Node) -> Placed:
    if row["track_id"] is not None:
        return int(row["track_id"])
    title = row["title"].removeprefix(f"{row['artist']} – ")
    return WantedEntry(row["artist"], title, row["path"], f"the list “{node.name}”")


def _take_plays(connection: sqlite3.Connection, review: Review, subject: str, failed: list[Failed]) -> int:
    """Take plays into the Logbook, each once ever; returns how many nights they make."""
    came = {row["key"]: row for row in review.db.execute("SELECT key, track_id, artist, title FROM came")}
    told, unread = [], 0
    for key, played_at, night in review.get("plays", []):
        row = came.get(Play(key, played_at, night).key)
        if row is None:
            continue
        try:
            at = stored(datetime.fromisoformat(played_at))
        except (ValueError, OverflowError):
            unread += 1
            continue
        title = row["title"].removeprefix(f"{row['artist']} – ")
        coming = Coming(row["track_id"], row["artist"], title, at)
        told.append(ToldPlay(coming, f"{subject} {key} {played_at}"))
    if unread:
        failed.append(("plays", f"{unread} were left out: the times at which they were are not understood."))
    return len(taking_in.take_in_told(connection, told))
