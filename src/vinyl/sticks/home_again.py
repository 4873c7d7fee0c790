"""What was changed on players, told as differences to what is here, and taken in as it was chosen."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Literal

from vinyl.core.cues.bounds import CueError, check_cue
from vinyl.core.cues.cue import Cue
from vinyl.core.errors import VinylError
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.library import crates, cues, grids, tracks
from vinyl.library.errors import LibraryError
from vinyl.library.grids import Grid
from vinyl.library.identity import last_change
from vinyl.library.locks import locks_of
from vinyl.library.rule_lists import get_rule
from vinyl.sticks.changes import (
    AnyChange,
    CuesChange,
    GridChange,
    ListChange,
    StarsChange,
    folded,
    subject_of,
)
from vinyl.sticks.fitting import clock
from vinyl.sticks.index import CueEntry, track_of
from vinyl.sticks.papers import Papers
from vinyl.sticks.store import Stick

Choice = Literal["theirs", "ours"]
SAME_S = 0.0005


@dataclass(frozen=True, slots=True)
class CameHome:
    """A value that was changed on a player.

    ``key`` names it; ``here_at`` and ``there_at`` are when it was last changed here and there; ``both`` says
    that it was changed here too since the stick was packed, ``hold`` why it cannot be taken. ``choice`` is
    what is proposed; None where it has to be chosen.
    """

    key: str
    track_id: int | None
    subject: str
    what: str
    here: str
    there: str
    here_at: str | None
    there_at: str
    player: str
    both: bool
    hold: str
    choice: Choice | None


def came_home(connection: sqlite3.Connection, stick: Stick, papers: Papers) -> list[CameHome]:
    """What was changed on players and is not answered yet, in order of time."""
    opened = _open(connection, stick, papers)
    return [row for change, _ in opened for row in _told(connection, stick, papers, change)]


def take_home(
    connection: sqlite3.Connection, stick: Stick, papers: Papers, choices: Mapping[str, Choice]
) -> tuple[int, list[tuple[str, str]]]:
    """Take what was chosen, and note what was answered. A change is answered when all of its values are.

    Returns:
        How many values were taken, and what could not be: its subject, and why.
    """
    taken, failed = 0, list[tuple[str, str]]()
    for change, names in _open(connection, stick, papers):
        rows = _told(connection, stick, papers, change)
        keys = [row.key for row in rows if choices.get(row.key) == "theirs" and not row.hold]
        connection.execute("SAVEPOINT home")
        try:
            _take(connection, stick.id, change, keys)
            taken += len(keys)
        except (VinylError, ValueError, sqlite3.IntegrityError) as error:
            connection.execute("ROLLBACK TO home")
            failed.append((rows[0].subject if rows else subject_of(change), str(error)))
        else:
            if all(row.key in choices or row.hold for row in rows):
                _settle(connection, stick, names)
        finally:
            connection.execute("RELEASE home")
    return taken, failed


def _settle(connection: sqlite3.Connection, stick: Stick, names: Sequence[str]) -> None:
    connection.executemany(
        "INSERT OR IGNORE INTO stick_settled (stick_id, change) VALUES (?, ?)",
        [(stick.id, name) for name in names],
    )


def _open(
    connection: sqlite3.Connection, stick: Stick, papers: Papers
) -> list[tuple[AnyChange, tuple[str, ...]]]:
    rows = connection.execute("SELECT change FROM stick_settled WHERE stick_id = ?", (stick.id,))
    settled = {row[0] for row in rows}
    return folded(each for each in papers.changes if each.change not in settled)


def _told(connection: sqlite3.Connection, stick: Stick, papers: Papers, change: AnyChange) -> list[CameHome]:
    if isinstance(change, ListChange):
        return list(_list_told(connection, stick.id, change))
    track_id = _track_id(connection, change)
    if track_id is None:
        return _homeless(connection, papers, change)
    match change:
        case CuesChange():
            return list(_cues_told(connection, track_id, change))
        case GridChange():
            return list(_grid_told(connection, track_id, change))
        case StarsChange():
            return list(_stars_told(connection, track_id, change))


def _track_id(connection: sqlite3.Connection, change: CuesChange | GridChange | StarsChange) -> int | None:
    """The track on the Shelf that a change is of: stars are also those of the twin it gave way to,
    whose times may be others.
    """
    named = tracks.meant_by if isinstance(change, StarsChange) else tracks.by_audio_hash
    found = tracks.existing(connection, list(named(connection, [change.track]).values()))
    return found[0] if found else None


def _homeless(
    connection: sqlite3.Connection, papers: Papers, change: CuesChange | GridChange | StarsChange
) -> list[CameHome]:
    """A change of what the stick has and the Shelf has not: it is shown, and cannot be taken."""
    if change.track not in papers.names:
        return []
    _, title = papers.names[change.track]
    hold = _why_homeless(connection, change.track)
    return [
        CameHome(
            change.change, None, title, change.what, "–", "changed", None,
            change.at.isoformat(), change.player, False, hold, "ours",
        )
    ]  # fmt: skip


def _why_homeless(connection: sqlite3.Connection, name: str) -> str:
    if track_of(name) != name:
        return "made on a route’s own file: it stays there"
    twin = tracks.existing(connection, list(tracks.meant_by(connection, [name]).values()))
    if not twin:
        return "this track is not on the Shelf"
    kept = Path(tracks.get_file(connection, twin[0])["path"]).name
    return f"this file gave way to {kept}: bring it back in Arrivals to take this"


def _row(
    connection: sqlite3.Connection, track_id: int, change: AnyChange, what: str, values: tuple[str, str],
    here_at: str | None, part: str, name: str = "", hold: str = "",
) -> CameHome:  # fmt: skip
    title = connection.execute("SELECT title FROM shelf WHERE id = ?", (track_id,)).fetchone()[0]
    both = here_at is not None and datetime.fromisoformat(here_at) > change.on
    hold = "locked: stays" if part in locks_of(connection, track_id) else hold
    return CameHome(
        f"{change.change} {name}".strip(), track_id, title, what, *values, here_at, change.at.isoformat(),
        change.player, both, hold, "ours" if hold else None if both else "theirs",
    )  # fmt: skip


@dataclass(frozen=True, slots=True)
class _Moved:
    """A cue before a change on a player and after it; one of both may be missing."""

    before: CueEntry | None
    after: CueEntry | None

    @property
    def name(self) -> str:
        cue = self.before or self.after
        assert cue is not None
        return cue.id or f"{cue.position_s:.4f}"


def _moved(change: CuesChange) -> list[_Moved]:
    """Which cues a change is about; those that come from here are known by their ids."""
    before = {cue.id: cue for cue in change.before if cue.id}
    after = {cue.id: cue for cue in change.cues if cue.id}
    found = [_Moved(cue, after.get(name)) for name, cue in before.items() if after.get(name) != cue]
    old = [cue for cue in change.before if not cue.id]
    return found + [_Moved(None, cue) for cue in change.cues if cue.id not in before and cue not in old]


def _cues_told(connection: sqlite3.Connection, track_id: int, change: CuesChange) -> Iterator[CameHome]:
    here = _cues_here(connection, track_id)
    for moved in _moved(change):
        mine = here.get(moved.before.id) if moved.before else None
        if _is_so(mine, moved.after) or _is_there(here.values(), moved):
            continue
        times = last_change(connection, moved.before.id) if moved.before else {}
        here_at = max((at for name, at in times.items() if name != "made"), default=None)
        said = (_said(mine) if mine else "not there" if moved.before else "–", _said(moved.after))
        hold = _cannot_be(connection, track_id, moved.after)
        yield _row(connection, track_id, change, _what(moved), said, here_at, "cues", moved.name, hold)


def _cannot_be(connection: sqlite3.Connection, track_id: int, cue: CueEntry | None) -> str:
    """Why a cue cannot be in its track, or nothing."""
    if cue is None:
        return ""
    duration_s = tracks.get_file(connection, track_id)["duration_s"]
    try:
        check_cue(cue.position_s, cue.length_s, cue.role, cue.pad, cue.colour, duration_s)
    except CueError as error:
        return str(error)
    return ""


def _is_there(here: Iterable[Cue], moved: _Moved) -> bool:
    """Whether a new cue is here already, as after it was taken once."""
    new = moved.after if moved.before is None else None
    return new is not None and any(
        abs(cue.position_s - new.position_s) <= SAME_S and cue.length_s == new.length_s for cue in here
    )


def _what(moved: _Moved) -> str:
    cue = moved.before or moved.after
    assert cue is not None
    name = "loop" if cue.length_s is not None else "cue"
    name = {"in": "in point", "main": "main point", "out": "out point"}.get(cue.role or "", cue.label or name)
    if moved.before is None:
        return f"new {'loop' if cue.length_s is not None else 'cue'}"
    return name


def _said(cue: CueEntry | Cue | None) -> str:
    if cue is None:
        return "taken away"
    length = f", {cue.length_s:.1f} s long" if cue.length_s is not None else ""
    pad = f", pad {cue.pad}" if cue.pad is not None else ""
    engages = ", engages" if cue.engages else ""
    label = f" {cue.label}" if cue.label and cue.label != cue.role else ""
    return f"{clock(cue.position_s)}.{int(cue.position_s * 10) % 10}{label}{length}{pad}{engages}"


def _cues_here(connection: sqlite3.Connection, track_id: int) -> dict[str, Cue]:
    gids = connection.execute("SELECT id, gid FROM cue WHERE track_id = ?", (track_id,))
    by_id = {row["id"]: row["gid"] for row in gids}
    return {by_id[cue.id]: cue for cue in cues.list_cues(connection, track_id)}


COMPARED = ("position_s", "length_s", "label", "role", "colour", "pad", "engages")


def _is_so(mine: Cue | None, there: CueEntry | None) -> bool:
    if mine is None or there is None:
        return mine is None and there is None
    return all(getattr(mine, name) == getattr(there, name) for name in COMPARED)


def _grid_told(connection: sqlite3.Connection, track_id: int, change: GridChange) -> Iterator[CameHome]:
    mine = grids.get_grid(connection, track_id)
    there = change.grid()
    if mine is not None and mine.tempo_map.anchors == there.anchors:
        return
    here_at = _value_time(connection, track_id, "grid")
    said = (f"{mine.tempo_map.bpm:.2f} bpm" if mine else "–", _grid_said(mine, there))
    yield _row(connection, track_id, change, "grid", said, here_at, "grid")


def _grid_said(mine: Grid | None, there: TempoMap) -> str:
    later_ms = 1000 * (there.anchors[0].time_s - mine.tempo_map.anchors[0].time_s) if mine else 0.0
    moved = f", {abs(later_ms):.0f} ms {'later' if later_ms > 0 else 'earlier'}" if round(later_ms) else ""
    return f"{there.bpm:.2f} bpm{moved}"


def _stars_told(connection: sqlite3.Connection, track_id: int, change: StarsChange) -> Iterator[CameHome]:
    mine = connection.execute("SELECT rating FROM shelf WHERE id = ?", (track_id,)).fetchone()[0]
    if mine != change.stars:
        here_at = _value_time(connection, track_id, "stars")
        said = ("★" * mine or "–", "★" * change.stars or "–")
        yield _row(connection, track_id, change, "stars", said, here_at, "tags")


def _value_time(connection: sqlite3.Connection, track_id: int, field: str) -> str | None:
    row = connection.execute(
        "SELECT max(changed_at) FROM track_value WHERE track_id = ? AND field = ? AND source = 'by hand'",
        (track_id, field),
    ).fetchone()
    return row[0] if row else None


def _list_told(connection: sqlite3.Connection, stick_id: int, change: ListChange) -> Iterator[CameHome]:
    row = connection.execute("SELECT id, name, repeats FROM crate WHERE gid = ?", (change.list,)).fetchone()
    if row is None:
        return
    mine, packed = crates.crate_tracks(connection, row["id"]), _packed(connection, stick_id, change)
    there = _merged(mine, _ids_of(connection, change.tracks), packed)
    if mine == there:
        return
    both = [i for i in mine if i in packed] != packed
    by_rule = get_rule(connection, row["id"]) is not None
    hold = "it fills itself by a rule" if by_rule else "a track stands in it twice" if row["repeats"] else ""
    yield CameHome(
        change.change, None, row["name"], "tracks and their order", f"{len(mine)} tracks",
        _list_said(mine, there), None, change.at.isoformat(), change.player, both, hold,
        "ours" if hold else None if both else "theirs",
    )  # fmt: skip


def _packed(connection: sqlite3.Connection, stick_id: int, change: ListChange) -> list[int]:
    """The tracks of a list as they were packed."""
    row = connection.execute(
        "SELECT told FROM stick_packed WHERE stick_id = ? AND profile = ? AND kind = 'list' AND gid = ?",
        (stick_id, change.player, change.list),
    ).fetchone()
    return _ids_of(connection, json.loads(row["told"])["tracks"]) if row else []


def _merged(mine: Sequence[int], there: Sequence[int], packed: Sequence[int]) -> list[int]:
    """The order of the player. What was not on the stick stays about where it was."""
    merged, known = list(there), {*there, *packed}
    for at, track_id in enumerate(mine):
        if track_id not in known:
            merged.insert(min(at, len(merged)), track_id)
    return merged


def _list_said(mine: Sequence[int], there: Sequence[int]) -> str:
    new, gone = len(set(there) - set(mine)), len(set(mine) - set(there))
    both = set(mine) & set(there)
    moved = sum(
        one != other
        for one, other in zip((i for i in mine if i in both), (i for i in there if i in both), strict=False)
    )
    parts = [f"{new} more"] if new else []
    parts += [f"{gone} less"] if gone else []
    parts += [f"{moved} changed places"] if moved else []
    return ", ".join([f"{len(there)} tracks", *parts])


def _ids_of(connection: sqlite3.Connection, names: Sequence[str]) -> list[int]:
    home = tracks.meant_by(connection, list(names))
    return list(dict.fromkeys(home[name] for name in names if name in home))


def _take(connection: sqlite3.Connection, stick_id: int, change: AnyChange, keys: Sequence[str]) -> None:
    if not keys:
        return
    if isinstance(change, ListChange):
        _take_list(connection, stick_id, change)
        return
    track_id = _track_id(connection, change)
    assert track_id is not None, "what has no place here has no value to take"
    match change:
        case CuesChange():
            _take_cues(connection, track_id, change, keys)
        case GridChange():
            grids.set_grid(connection, track_id, change.grid())
        case StarsChange():
            tracks.rate(connection, [track_id], change.stars)


def _take_cues(
    connection: sqlite3.Connection, track_id: int, change: CuesChange, keys: Sequence[str]
) -> None:
    here = _cues_here(connection, track_id)
    for moved in _moved(change):
        if f"{change.change} {moved.name}" not in keys:
            continue
        mine = here.get(moved.before.id) if moved.before else None
        if moved.after is None:
            if mine is not None:
                cues.delete_cues(connection, track_id, [mine.id])
            continue
        there = Cue(**{name: getattr(moved.after, name) for name in COMPARED})
        if mine is not None:
            cues.change_cue(connection, track_id, replace(there, id=mine.id))
        else:
            cues.add_cue(connection, track_id, there)


def _take_list(connection: sqlite3.Connection, stick_id: int, change: ListChange) -> None:
    row = connection.execute("SELECT id FROM crate WHERE gid = ?", (change.list,)).fetchone()
    if row is None:
        raise LibraryError("This list is no longer here.")
    mine = crates.crate_tracks(connection, row["id"])
    packed = _packed(connection, stick_id, change)
    wanted = _merged(mine, _ids_of(connection, change.tracks), packed)
    crates.remove_tracks(connection, row["id"], [i for i in mine if i not in wanted])
    crates.add_tracks(connection, row["id"], [i for i in wanted if i not in mine])
    places = connection.execute(
        "SELECT track_id, position FROM crate_place WHERE crate_id = ? AND track_id IS NOT NULL "
        "ORDER BY position, id",
        (row["id"],),
    ).fetchall()
    keys = [each["position"] for each in places]
    connection.executemany(
        "UPDATE crate_place SET position = ? WHERE crate_id = ? AND track_id = ?",
        [(key, row["id"], i) for key, i in zip(keys, wanted, strict=True)],
    )
