"""What is known of copies carried over to the file that is kept: planned first, to be shown, and done by the
same plan.
"""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from vinyl.core.cues.cue import Cue
from vinyl.core.cues.routes import Jump
from vinyl.core.errors import VinylError
from vinyl.core.planning.clearance import BY_HAND, Ruling
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.rules.finishing import Part
from vinyl.core.twins.merging import (
    Merged,
    Way,
    merge_points,
    moved_grid,
    moved_jumps,
    same_grid,
)
from vinyl.library import (
    chains,
    clearances,
    cues,
    flat,
    grids,
    locks,
    mixes,
    off_shelf,
    routes,
    sets,
    tracks,
    twin_pairs,
    values,
)
from vinyl.library.grids import Grid
from vinyl.library.twins import AttacksOf
from vinyl.library.values import TEXT_FIELDS, Field, Sourced, Value

# Fields whose value is carried where the kept file has none, or only from its file.
DESCRIBING: tuple[Field, ...] = (*TEXT_FIELDS, "year", "energy", "key", "colour")
# Not what is wanted in a better file: the kept one is the better.
FLAGS: tuple[Field, ...] = ("explicit", "never again")
# What is heard is carried only where it was set by hand.
HEARD: frozenset[Field] = frozenset({"energy", "key"})
OWN: frozenset[str] = frozenset({"by hand", "locked"})
MOST_MARKS = 12


@dataclass(frozen=True, slots=True)
class Difference:
    """What a copy says otherwise than the kept file; ``carried`` where the copy's word is taken."""

    field: str
    kept: str
    other: str
    from_id: int
    carried: bool
    by_hand: bool


@dataclass(frozen=True, slots=True)
class Place:
    """A place of a list that a copy has: it goes over to the kept file, or, ``once``, is there already."""

    id: int
    list_id: int
    list_name: str
    note: str
    once: bool


@dataclass(slots=True)
class Plan:
    """All that is carried over, what differs, and what is lost, in words."""

    kept_id: int
    copy_ids: tuple[int, ...]
    offset_s: float = 0.0
    grid: TempoMap | None = None
    merged: Merged = field(default_factory=Merged)
    routes: list[tuple[str, tuple[Jump, ...]]] = field(default_factory=list)
    values: dict[Field, str] = field(default_factory=dict)
    tags: list[tuple[int, str]] = field(default_factory=list)
    locks: list[Part] = field(default_factory=list)
    plays: int = 0
    places: list[Place] = field(default_factory=list)
    left_out: int = 0
    ways: dict[int, Way | None] = field(default_factory=dict)
    clearance: Ruling | None = None
    differs: list[Difference] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)

    @property
    def is_clean(self) -> bool:
        """Whether nobody has to look at it: nothing is lost, and no work by hand contradicts other."""
        return not self.lost and not any(each.by_hand and not each.carried for each in self.differs)


@dataclass(frozen=True, slots=True)
class _Track:
    """A track with what was done on it."""

    id: int
    duration_s: float
    points: list[Cue]
    grid: Grid | None
    routes: list[routes.Route]
    locks: frozenset[str]
    winners: Mapping[str, Sourced]

    def says(self, name: Field) -> str:
        found = self.winners.get(name)
        return (found.value.text or "") if found is not None else ""

    def by_hand(self, name: Field) -> bool:
        found = self.winners.get(name)
        return found is not None and (found.source in OWN or found.origin in OWN)


def plan_carrying(
    connection: sqlite3.Connection,
    attacks_of: AttacksOf,
    kept_id: int,
    copy_ids: Sequence[int],
    choices: Mapping[str, int] | None = None,
) -> Plan:
    """Plan what goes over from copies to the kept file, the first of them before the others.

    Args:
        choices: for what differs, by its field, the track whose word is taken.

    Raises:
        NotFoundError: if a track is not there any more.
    """
    kept = _track(connection, kept_id)
    copies = [_track(connection, each) for each in copy_ids]
    plan = Plan(kept_id, tuple(copy_ids))
    plan.ways = ways = {each.id: _way(connection, attacks_of, each, kept) for each in copies}
    _plan_grid(plan, kept, copies, ways, choices or {})
    _plan_cues(plan, kept, copies, ways)
    _plan_routes(plan, kept, copies, ways)
    _plan_values(plan, kept, copies, choices or {})
    _plan_tags(connection, plan, kept)
    _plan_locks(plan, kept, copies)
    _plan_clearance(connection, plan, choices or {})
    _plan_places(connection, plan)
    first = next((way for way in ways.values() if way is not None), None)
    plan.offset_s = first.alignment.offset_s if first else 0.0
    return plan


def _track(connection: sqlite3.Connection, track_id: int) -> _Track:
    found = values.sources_of(connection, track_id)
    return _Track(
        track_id,
        tracks.get_track(connection, track_id)["duration_s"],
        cues.list_cues(connection, track_id),
        grids.get_grid(connection, track_id),
        routes.list_routes(connection, track_id),
        locks.locks_of(connection, track_id),
        {each.field: each for each in found if each.wins},
    )


def _way(connection: sqlite3.Connection, attacks_of: AttacksOf, copy: _Track, kept: _Track) -> Way | None:
    """How times of a copy become those of the kept file; None where that is not known for sure."""
    pair = twin_pairs.pair_of(connection, attacks_of, copy.id, kept.id)
    if pair is None or pair.relation != "same" or pair.alignment is None:
        return None
    line = pair.alignment if pair.first == copy.id else pair.alignment.back
    return Way(line, kept.duration_s, attacks_of(copy.id), attacks_of(kept.id))


def _plan_grid(
    plan: Plan,
    kept: _Track,
    copies: Sequence[_Track],
    ways: Mapping[int, Way | None],
    choices: Mapping[str, int],
) -> None:
    """A grid by hand beats one of the analysis; of two by hand the kept file's stays, unless it is chosen."""
    own = kept.by_hand("grid")
    for copy in copies:
        if copy.grid is None or not copy.by_hand("grid"):
            continue
        way = ways[copy.id]
        moved = _moved_grid(copy.grid.tempo_map, way) if way is not None else None
        if moved is None:
            plan.lost.append("a grid made by hand: its times are not known in the kept file")
            continue
        there = plan.grid or (kept.grid.tempo_map if own and kept.grid else None)
        if there is not None and same_grid(there, moved, kept.duration_s):
            continue
        chosen = choices.get("grid") == copy.id
        takes = "grid" not in kept.locks and (chosen or (there is None and choices.get("grid") != kept.id))
        if there is not None or not takes:
            told = kept.grid.tempo_map.bpm if kept.grid else 0.0
            plan.differs.append(
                Difference("grid", f"{told:.2f} bpm", f"{moved.bpm:.2f} bpm", copy.id, takes, True)
            )
        if takes:
            plan.grid = moved


def _moved_grid(grid: TempoMap, way: Way) -> TempoMap | None:
    try:
        return moved_grid(grid, way)
    except VinylError:
        return None


def _plan_cues(plan: Plan, kept: _Track, copies: Sequence[_Track], ways: Mapping[int, Way | None]) -> None:
    with_cues = [copy for copy in copies if copy.points]
    for copy in with_cues:
        if ways[copy.id] is None:
            plan.lost.append(f"{_many(copy.points, 'cue')}: their sound has no known place in the kept file")
    coming = [(copy.points, way) for copy in with_cues if (way := ways[copy.id]) is not None]
    merged = merge_points(kept.points, coming)
    if merged.lost:
        plan.lost.append(f"{_many(merged.lost, 'cue')} outside the kept file")
    if "cues" in kept.locks and (merged.added or merged.changed):
        plan.lost.append(f"{_many(merged.added + merged.changed, 'cue')}: the kept file’s cues are locked")
        merged = Merged(lost=merged.lost)
    plan.merged = merged


def _plan_routes(plan: Plan, kept: _Track, copies: Sequence[_Track], ways: Mapping[int, Way | None]) -> None:
    there = {(route.name, _rounded(route.jumps)) for route in kept.routes}
    for copy in copies:
        for route in copy.routes:
            way = ways[copy.id]
            jumps = moved_jumps(route.jumps, way) if way is not None else None
            if jumps is None:
                plan.lost.append(f"the route “{route.name}”: it does not lead through the kept file")
            elif (route.name, _rounded(jumps)) not in there:
                there.add((route.name, _rounded(jumps)))
                plan.routes.append((route.name, jumps))


def _rounded(jumps: Sequence[Jump]) -> tuple[tuple[float, float], ...]:
    return tuple((round(jump.from_s, 1), round(jump.to_s, 1)) for jump in jumps)


def _plan_values(plan: Plan, kept: _Track, copies: Sequence[_Track], choices: Mapping[str, int]) -> None:
    for name in DESCRIBING:
        _plan_value(plan, name, kept, copies, choices.get(name))
    coming: dict[Field, str] = {}
    stars = max((_number(copy.says("stars")) for copy in copies), default=0)
    if stars > _number(kept.says("stars")):
        coming["stars"] = str(stars)
    plays = sum(_number(copy.says("plays")) for copy in copies)
    if plays:
        coming["plays"] = str(plays + _number(kept.says("plays")))
    marks = "".join(dict.fromkeys("".join(each.says("marks") for each in (kept, *copies))))[:MOST_MARKS]
    if marks != kept.says("marks"):
        coming["marks"] = marks
    for flag in FLAGS:
        if kept.says(flag) != "yes" and any(copy.says(flag) == "yes" for copy in copies):
            coming[flag] = "yes"
    if "tags" in kept.locks and coming.keys() - {"plays"}:
        plan.lost.append(f"{', '.join(sorted(coming.keys() - {'plays'}))}: the kept file’s tags are locked")
        coming = {name: text for name, text in coming.items() if name == "plays"}
    plan.values.update(coming)


def _plan_value(plan: Plan, name: Field, kept: _Track, copies: Sequence[_Track], choice: int | None) -> None:
    """The kept file's word stays, unless it has none, or only a copy's was said by hand, or it is chosen."""
    locked = ("key" if name == "key" else "tags") in kept.locks
    taken = False
    for copy in copies:
        said, here = copy.says(name), kept.says(name)
        if not said or said == here or (name in HEARD and not copy.by_hand(name)):
            continue
        better = not here or (copy.by_hand(name) and not kept.by_hand(name))
        takes = not locked and not taken and (choice == copy.id if choice is not None else better)
        if takes:
            plan.values[name] = said
            taken = True
        if here or not takes:
            both = copy.by_hand(name) and (kept.by_hand(name) or locked or not takes)
            plan.differs.append(Difference(name, here, said, copy.id, takes, both))


def _number(text: str) -> int:
    return int(text) if text.isdecimal() else 0


def _plan_tags(connection: sqlite3.Connection, plan: Plan, kept: _Track) -> None:
    rows = connection.execute(
        """SELECT DISTINCT t.id, t.name FROM track_tag x JOIN tag t ON t.id = x.tag_id
           WHERE x.track_id IN (SELECT value FROM json_each(?1)) AND t.id NOT IN (
             SELECT tag_id FROM track_tag WHERE track_id = ?2) ORDER BY t.name""",
        (json.dumps(plan.copy_ids), plan.kept_id),
    )
    found = [(row[0], row[1]) for row in rows]
    if found and "tags" in kept.locks:
        names = ", ".join(name for _, name in found)
        plan.lost.append(f"the tags {names}: the kept file’s tags are locked")
        return
    plan.tags = found


def _plan_locks(plan: Plan, kept: _Track, copies: Sequence[_Track]) -> None:
    """Locks go over with what they lock: a grid's, if that grid is the kept file's then."""
    held = {part for copy in copies for part in copy.locks} - kept.locks
    refused = {each.field for each in plan.differs if not each.carried}
    if "grid" in held and ("grid" in refused or not (plan.grid or kept.grid)):
        held.discard("grid")
    plan.locks = [part for part in ("grid", "key", "cues", "tags") if part in held]


def _plan_clearance(connection: sqlite3.Connection, plan: Plan, choices: Mapping[str, int]) -> None:
    """What was said by hand beats what a register says; of two by hand the kept file's stays, unless the
    other is chosen.
    """
    chosen = choices.get("clearance")
    said = clearances.clearances(connection, [plan.kept_id, *plan.copy_ids])
    taken = said.get(plan.kept_id, Ruling())
    for copy_id in plan.copy_ids:
        other = said.get(copy_id, taken)
        if other.words == taken.words:
            continue
        by_hand = other.source == BY_HAND
        outdoes = taken.state == "unknown" or (by_hand and taken.source != BY_HAND)
        takes = chosen == copy_id or (outdoes and (chosen is None or taken.state == "unknown"))
        if taken.state != "unknown":
            plan.differs.append(
                Difference("clearance", taken.words, other.words, copy_id, takes, by_hand and not outdoes)
            )
        if takes:
            plan.clearance = taken = other


def _plan_places(connection: sqlite3.Connection, plan: Plan) -> None:
    ids = json.dumps(plan.copy_ids)
    among = "IN (SELECT value FROM json_each(?1))"
    plan.plays = connection.execute(f"SELECT count(*) FROM play WHERE track_id {among}", (ids,)).fetchone()[0]
    rows = connection.execute(
        f"""SELECT p.id, p.crate_id, c.name, p.note, c.repeats, EXISTS (
              SELECT 1 FROM crate_place k WHERE k.crate_id = p.crate_id AND k.track_id = ?2) AS has_it
            FROM crate_place p JOIN crate c ON c.id = p.crate_id
            WHERE p.track_id {among} ORDER BY c.name, p.crate_id, p.position, p.id""",
        (ids, plan.kept_id),
    )
    held: set[int] = set()
    for row in rows:
        once = not row["repeats"] and (bool(row["has_it"]) or row["crate_id"] in held)
        held.add(row["crate_id"])
        plan.places.append(Place(row["id"], row["crate_id"], row["name"], row["note"], once))
    own = connection.execute("SELECT 1 FROM crate_place WHERE track_id = ?", (plan.kept_id,)).fetchone()
    if own is None:
        plan.left_out = connection.execute(
            f"SELECT count(DISTINCT stick_id) FROM stick_left_out WHERE track_id {among}", (ids,)
        ).fetchone()[0]


def carry_over(connection: sqlite3.Connection, plan: Plan, aside: bool) -> None:
    """Do what was planned, and take the copies off the Shelf.

    Args:
        aside: whether their files are to be put aside.
    """
    kept = plan.kept_id
    if plan.grid is not None:
        grids.set_grid(connection, kept, plan.grid)
    if plan.merged.added:
        cues.add_cues(connection, kept, plan.merged.added)
    for point in plan.merged.changed:
        cues.change_cue(connection, kept, point)
    for name, jumps in plan.routes:
        routes.save_route(connection, kept, name, jumps)
    values.put(connection, [kept], "by hand", {name: Value(text) for name, text in plan.values.items()})
    connection.executemany(
        "INSERT OR IGNORE INTO track_tag (tag_id, track_id) VALUES (?, ?)",
        [(tag_id, kept) for tag_id, _ in plan.tags],
    )
    _carry_places(connection, plan)
    _carry_memberships(connection, plan)
    flat.settle(connection, [kept])
    for part in plan.locks:
        locks.set_lock(connection, [kept], part, True)
    why = f"a copy of {_name(connection, kept)}"
    off_shelf.take_off(connection, plan.copy_ids, aside, why, twin_of=kept)
    # What gave way to one of the copies means the kept file from now on.
    connection.execute(
        "UPDATE off_shelf SET twin_of = ? WHERE twin_of IN (SELECT value FROM json_each(?))",
        (kept, json.dumps(plan.copy_ids)),
    )
    flat.settle(connection, [kept, *plan.copy_ids], ["play"])


def _carry_places(connection: sqlite3.Connection, plan: Plan) -> None:
    """Plays and places go over to the kept file; a place that it has already goes, its note does not."""
    connection.execute(
        "UPDATE play SET track_id = ? WHERE track_id IN (SELECT value FROM json_each(?))",
        (plan.kept_id, json.dumps(plan.copy_ids)),
    )
    sets.take_over(connection, plan.kept_id, {each: plan.ways.get(each) for each in plan.copy_ids})
    chains.take_over(connection, plan.kept_id, plan.copy_ids)
    mixes.take_over(connection, plan.kept_id, plan.copy_ids)
    if plan.clearance is not None:
        clearances.put(connection, {plan.kept_id: plan.clearance})
    moved = [place for place in plan.places if not place.once]
    connection.executemany(
        "UPDATE crate_place SET track_id = ? WHERE id = ?", [(plan.kept_id, place.id) for place in moved]
    )
    for place in plan.places:
        if place.once:
            _keep_note(connection, plan.kept_id, place)
            connection.execute("DELETE FROM crate_place WHERE id = ?", (place.id,))


def _keep_note(connection: sqlite3.Connection, kept_id: int, place: Place) -> None:
    if place.note:
        connection.execute(
            """UPDATE crate_place SET note = iif(note = '', ?1, note || ' · ' || ?1) WHERE id = (
                 SELECT id FROM crate_place WHERE crate_id = ?2 AND track_id = ?3 ORDER BY position LIMIT 1)
               AND instr(note, ?1) = 0""",
            (place.note, place.list_id, kept_id),
        )


def _carry_memberships(connection: sqlite3.Connection, plan: Plan) -> None:
    """The shared backing and the work go over where the kept file has none, and what sticks leave out."""
    ids = json.dumps(plan.copy_ids)
    for table, columns in (("track_backing", "backing_id"), ("track_version", "work_id, kind")):
        connection.execute(
            f"""INSERT OR IGNORE INTO {table} (track_id, {columns}) SELECT ?1, {columns} FROM {table}
                WHERE track_id IN (SELECT value FROM json_each(?2)) ORDER BY track_id LIMIT 1""",
            (plan.kept_id, ids),
        )
    if plan.left_out:
        connection.execute(
            """INSERT OR IGNORE INTO stick_left_out (stick_id, track_id) SELECT DISTINCT stick_id, ?1
               FROM stick_left_out WHERE track_id IN (SELECT value FROM json_each(?2))""",
            (plan.kept_id, ids),
        )


def _name(connection: sqlite3.Connection, track_id: int) -> str:
    path: str = connection.execute("SELECT path FROM track WHERE id = ?", (track_id,)).fetchone()[0]
    return path.rpartition("/")[2]


def said(plan: Plan) -> list[str]:
    """What is carried over, in words."""
    merged, words = plan.merged, list[str]()
    shift = f" (moved by {plan.offset_s:+.2f} s)" if abs(plan.offset_s) >= 0.005 else ""
    moved = []
    if plan.grid is not None:
        moved.append("the grid")
    if merged.added or merged.changed:
        moved.append(_many(merged.added + merged.changed, "cue"))
    if plan.routes:
        moved.append(_many(plan.routes, "route"))
    if moved:
        words.append(" and ".join(moved) + shift)
    if merged.given_up:
        words.append(f"{', '.join(dict.fromkeys(merged.given_up))} stay with the cues that have them")
    if plan.clearance is not None:
        words.append(f"the clearance: {plan.clearance.words}")
    if plan.locks:
        words.append(f"locks of {', '.join(plan.locks)}")
    if plan.plays:
        words.append(_many(plan.plays, "play"))
    lists = {place.list_id: place for place in plan.places}
    if lists:
        names = ", ".join(dict.fromkeys(place.list_name for place in list(lists.values())[:3]))
        more = f" and {len(lists) - 3} more" if len(lists) > 3 else ""
        words.append(f"{_many(plan.places, 'place')} in {names}{more}")
    twice = sum(place.once for place in plan.places)
    if twice:
        words.append(f"{twice} of them once, for the kept file is there")
    if plan.tags:
        words.append(
            f"the {'tag' if len(plan.tags) == 1 else 'tags'} {', '.join(name for _, name in plan.tags)}"
        )
    words += [f"{'stars' if name == 'stars' else name} {text}" for name, text in plan.values.items()]
    if plan.left_out:
        words.append(f"left out of {_many(plan.left_out, 'stick')}")
    return words


def _many(things: Sequence[object] | int, one: str) -> str:
    count = things if isinstance(things, int) else len(things)
    return f"{count} {one}" if count == 1 else f"{count:,} {one}s"
