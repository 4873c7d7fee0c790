"""What is done with sets: made, filled, ordered, carried on to lists, and said on paper."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from datetime import datetime, timedelta
from typing import Any

from vinyl.core.planning.arc import Point
from vinyl.exchange.night_files import Form, NightFile, NightTrack, write_night
from vinyl.jobs.night_export import file_facts
from vinyl.library import chains, crates, plays, set_planning, sets, tracks, venues, wanted
from vinyl.library.clock import today
from vinyl.library.database import Database
from vinyl.library.errors import LibraryError
from vinyl.library.named import Names
from vinyl.library.set_planning import Joint, Plan, Planned
from vinyl.library.sets import Entry, Said
from vinyl.library.wanted import Placed, WantedEntry
from vinyl.operations.words import many


def make(
    database: Database,
    facts: Mapping[str, Any],
    venue: str = "",
    crate_id: int | None = None,
    gig_id: int | None = None,
) -> int:
    """Make a set; its tray is filled from a list, or from a night that was played, if one is said."""
    with database.write(f"Make the set “{facts['name']}”") as connection:
        set_id = sets.make_set(connection, _with_venue(connection, facts, venue))
        if crate_id is not None:
            sets.add_tracks(connection, set_id, crates.crate_tracks(connection, crate_id))
        if gig_id is not None:
            played = [play.track_id for play in plays.list_plays(connection, gig_id)]
            sets.add_tracks(connection, set_id, [each for each in played if each is not None])
    return set_id


def _with_venue(connection: Any, facts: Mapping[str, Any], venue: str) -> Mapping[str, Any]:
    """Facts with a venue by its name, which is made if there is none."""
    return {**facts, "venue_id": venues.named(connection, venue)} if venue.strip() else facts


def change(database: Database, set_id: int, changes: Mapping[str, Any], venue: str | None = None) -> None:
    """Change what is known of a set; an empty venue is none."""
    with database.write(f"Change the set “{_name(database, set_id)}”") as connection:
        if venue is not None:
            changes = _with_venue(connection, {**changes, "venue_id": None}, venue)
        sets.change_set(connection, set_id, changes)


def set_arc(database: Database, set_id: int, points: Sequence[Point]) -> None:
    """Draw the arc that is wanted."""
    with database.write(f"Draw the arc of “{_name(database, set_id)}”") as connection:
        sets.set_arc(connection, set_id, points)


def delete(database: Database, set_id: int) -> None:
    """Delete a set."""
    with database.write(f"Delete the set “{_name(database, set_id)}”") as connection:
        sets.delete_set(connection, set_id)


def copy(database: Database, set_id: int, facts: Mapping[str, Any]) -> int:
    """Make a set for another date from one."""
    with database.write(f"Copy the set “{_name(database, set_id)}”") as connection:
        return sets.copy_set(connection, set_id, facts)


def add(database: Database, set_id: int, track_ids: Sequence[int], placed: bool, before: int | None) -> int:
    """Put tracks into a set; returns how many came."""
    track_ids = tracks.existing(database.read(), track_ids)
    if not track_ids:
        raise LibraryError("None of these tracks is on the Shelf.")
    where = "Place" if placed else "Put into the tray of"
    name = _name(database, set_id)
    what = f"Place {many(track_ids)} in “{name}”" if placed else f"{where} “{name}”: {many(track_ids)}"
    with database.write(what) as connection:
        return sets.add_tracks(connection, set_id, track_ids, placed, before)


def want(database: Database, set_id: int, artist: str, title: str, placed: bool, before: int | None) -> bool:
    """Put a track that is not owned yet into a set; one that is on the Shelf comes itself. Returns whether it
    is.
    """
    owned = Names(database.read()).find(artist, title)
    with database.write(f"Want “{title}” in “{_name(database, set_id)}”") as connection:
        if owned is None:
            sets.want(connection, set_id, artist, title, placed, before)
        else:
            sets.add_tracks(connection, set_id, [owned], placed, before)
    return owned is not None


def move(database: Database, set_id: int, entry_ids: Sequence[int], placed: bool, before: int | None) -> None:
    """Move entries within the running order, into it, or back into the tray."""
    where = "within" if placed else "into the tray of"
    with database.write(f"Move {many(entry_ids)} {where} “{_name(database, set_id)}”") as connection:
        sets.move(connection, set_id, entry_ids, placed, before)


def remove(database: Database, set_id: int, entry_ids: Sequence[int]) -> int:
    """Take entries out of a set; returns how many."""
    with database.write(f"Take {many(entry_ids)} out of “{_name(database, set_id)}”") as connection:
        return sets.remove(connection, set_id, entry_ids)


def reorder(database: Database, set_id: int, entry_ids: Sequence[int]) -> None:
    """Take over an order that was proposed."""
    with database.write(f"Order “{_name(database, set_id)}”") as connection:
        sets.reorder(connection, set_id, entry_ids)


def change_entry(database: Database, set_id: int, entry_id: int, changes: Mapping[str, Any]) -> None:
    """Change an entry's note or pin."""
    with database.write(f"Change a track of “{_name(database, set_id)}”") as connection:
        sets.change_entry(connection, set_id, entry_id, changes)


def put_joint(database: Database, set_id: int, out_id: int, in_id: int, said: Said) -> None:
    """Say how two entries are joined."""
    with database.write(f"Change a joint of “{_name(database, set_id)}”") as connection:
        sets.put_transition(connection, set_id, out_id, in_id, said)


def go_on(database: Database, set_id: int, track_id: int, from_id: int | None) -> int:
    """Go on to a track from a step of the chain, or begin one with it; returns the step."""
    with database.write(f"Go on in the chain of “{_name(database, set_id)}”") as connection:
        return chains.go_on(connection, set_id, track_id, from_id)


def take_back(database: Database, set_id: int, step_id: int) -> int:
    """Take a step of the chain back, with all after it; returns how many."""
    with database.write(f"Take steps of the chain of “{_name(database, set_id)}” back") as connection:
        return chains.take_back(connection, set_id, step_id)


def to_crate(database: Database, set_id: int) -> int:
    """Make a crate of the running order, where what is not owned yet is wanted; returns its id.

    Raises:
        LibraryError: if nothing of it is on the Shelf or wanted.
    """
    plan = set_planning.read_plan(database.read(), set_id)
    places = [place for each in plan.placed if (place := _place_of(each.entry, plan.set.name)) is not None]
    if not places:
        raise LibraryError("Nothing of the running order is on the Shelf.")
    with database.write(f"Make a crate of the set “{plan.set.name}”") as connection:
        crate_id = crates.make_crate(connection, crates.free_name(connection, plan.set.name))
        wanted.append(connection, crate_id, places)
    return crate_id


def _place_of(entry: Entry, set_name: str) -> Placed | None:
    """An entry as a place of a list; None for what was taken off the Shelf."""
    if entry.track_id is not None:
        return entry.track_id if entry.on_shelf else None
    return WantedEntry(entry.artist, entry.title, "", set_name)


def _name(database: Database, set_id: int) -> str:
    return sets.get_set(database.read(), set_id).name


def as_text(plan: Plan) -> str:
    """A set as lines for a message or a file: when, what, and what to do at each joint."""
    head = " · ".join(filter(None, (plan.set.name, plan.set.venue, plan.set.on_day, _slot(plan))))
    joints = {joint.out_id: joint for joint in plan.joints}
    lines = [head, ""]
    for number, each in enumerate(plan.placed, 1):
        lines.append(f"{number:3}  {at_clock(plan, each.begins_s)}  {_said(each)}")
        joint = joints.get(each.entry.id)
        if joint is not None:
            lines.append(f"       {_joint(joint)}")
    return "\n".join(lines) + "\n"


def as_file(connection: sqlite3.Connection, set_id: int, form: Form) -> tuple[str, NightFile]:
    """What a set is called, and its file in one of the forms: a cue sheet has the times that are planned.

    Raises:
        ListError: if the form needs what is not known.
    """
    plan = set_planning.read_plan(connection, set_id)
    name = ", ".join(filter(None, (plan.set.name, plan.set.on_day)))
    if form == "text":
        return name, NightFile(as_text(plan))
    facts = file_facts(connection, [each.entry.track_id for each in plan.placed if each.entry.track_id])
    began = datetime.fromisoformat(f"{plan.set.on_day or today()}T{plan.set.begins or '00:00'}")
    ends = [each.begins_s for each in plan.placed[1:]] + [plan.lasts_s]
    tracks = [
        NightTrack(
            each.entry.artist,
            each.entry.title,
            duration_s=each.entry.duration_s,
            began=began + timedelta(seconds=each.begins_s),
            ended=began + timedelta(seconds=end_s),
            **_of_file(facts.get(each.entry.track_id or 0)),
        )
        for each, end_s in zip(plan.placed, ends, strict=True)
    ]
    return name, write_night(form, name, tracks)


def _of_file(row: sqlite3.Row | None) -> dict[str, str]:
    return {name: row[name] for name in ("label", "isrc", "composer", "path")} if row else {}


def at_clock(plan: Plan, at_s: float) -> str:
    """A time of a set by the clock on the wall, or from its start on where that is not known."""
    minutes = round(at_s / 60)
    if plan.set.begins:
        hours, rest = plan.set.begins.split(":")
        minutes += int(hours) * 60 + int(rest)
    return (
        f"{minutes // 60 % 24:02}:{minutes % 60:02}"
        if plan.set.begins
        else f"{minutes // 60}:{minutes % 60:02}"
    )


def _slot(plan: Plan) -> str:
    return f"{plan.set.begins} to {plan.set.ends}" if plan.set.begins and plan.set.ends else plan.set.begins


def _said(each: Planned) -> str:
    entry = each.entry
    name = " – ".join(filter(None, (entry.artist, entry.title))) or "without a title"
    here = "" if entry.on_shelf else "not on the Shelf"
    measures = [f"{entry.bpm:.1f} bpm" if entry.bpm else "", entry.key or "", here, entry.note]
    return " · ".join(filter(None, (name, *measures)))


def _joint(joint: Joint) -> str:
    cautions = [each.words for each in joint.cautions]
    return " · ".join(
        (f"{joint.settings.over_bars} bars over", *joint.words, *cautions, *filter(None, [joint.note]))
    )
