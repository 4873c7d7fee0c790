"""``./vinyl log``: the Logbook from the command line, by the server that runs or without one."""

from __future__ import annotations

import sys
from datetime import date
from pathlib import Path
from typing import Any

from vinyl.api.models.logbook import NightTakenOut
from vinyl.commands.client import open_library, way_to
from vinyl.core.errors import VinylError
from vinyl.exchange.night_files import Form
from vinyl.jobs.night_export import export_night, name_of
from vinyl.jobs.nights import Given, Telling
from vinyl.library import gigs, plays, venues
from vinyl.operations.services import Services


def list_nights(home: Path, venue: str | None) -> int:
    """Print all nights, the newest first, or those of a venue."""
    read = open_library(home).read()
    wanted = venues.by_name(read, venue) if venue else None
    if venue and wanted is None:
        known = ", ".join(name for _, name in venues.names(read)) or "none yet"
        raise VinylError(f"There is no venue called “{venue}”. Venues are: {known}.")
    for gig in gigs.list_gigs(read):
        if wanted in (None, gig.facts.venue_id):
            print(f"{gig.id:6}  {name_of(read, gig)}  ({gig.facts.kind or 'a gig'}, {gig.tracks} tracks)")
    return 0


def show_night(home: Path, number: int) -> int:
    """Print what was played at a night, with times and marks."""
    read = open_library(home).read()
    gig = gigs.get_gig(read, number)
    print(name_of(read, gig))
    for play in plays.list_plays(read, gig.id):
        at = f"{play.began:%H:%M}" if play.timed else "     "
        marks = [f"went {play.went}" if play.went == "well" else "fell flat" if play.went else ""]
        marks += ["asked for" * play.asked, f"never {play.never}" if play.never else ""]
        name = " - ".join(part for part in (play.artist, play.title) if part)
        told = ", ".join(filter(None, (*marks, play.note)))
        print(f"{at}  {name}{f'  ({told})' if told else ''}")
    return 0


def export(home: Path, number: int, form: Form, out: Path | None, times: bool) -> int:
    """Write a night as a file, or to standard output."""
    _, made = export_night(open_library(home).read(), number, form, times)
    for words in made.left_out:
        print(f"left out: {words}", file=sys.stderr)
    if out is None:
        sys.stdout.write(made.text)
        return 0
    try:
        out.write_text(made.text, encoding="utf-8", newline="")
    except OSError as error:
        raise VinylError(f"{out} cannot be written: {error.strerror}.") from error
    return 0


def add(home: Path, file: str, given: Given, venue: str) -> int:
    """Take a file that tells of nights into the Logbook, or lines from standard input ("-")."""
    text = sys.stdin.read() if file == "-" else None
    path = None if file == "-" else Path(file).resolve()
    body = {
        "path": str(path) if path else None, "text": text, "venue": venue, "kind": given.kind,
        "on": str(given.on) if given.on else None, "begins": given.begins, "ends": given.ends,
    }  # fmt: skip

    def take_in(use: Services) -> list[NightTakenOut]:
        taken = use.nights.take_in(Telling(path, text), given, venue)
        return [NightTakenOut.model_validate(each) for each in taken]

    with way_to(home, (path.parent,) if path else ()) as way:
        taken: list[dict[str, Any]] = way.ask("/api/nights", take_in, body)
    return _say([(each["gig_id"], each["was_there"], each["added"], each["shared"]) for each in taken])


def given_of(on: str | None, begins: str | None, ends: str | None, kind: str) -> Given:
    """What is said of a night on the command line.

    Raises:
        VinylError: for a date that is none.
    """
    try:
        day = date.fromisoformat(on) if on else None
    except ValueError as error:
        raise VinylError(f"“{on}” is no date: write 2026-11-25.") from error
    return Given(day, begins, ends, kind=kind)


def _say(taken: list[tuple[int, bool, int, int]]) -> int:
    for gig_id, was_there, added, shared in taken:
        if was_there:
            print(f"{gig_id}: was in the Logbook already; {shared} plays are the same, {added} were added")
        else:
            print(f"{gig_id}: {added} plays")
    if not taken:
        print("There was nothing to take in.")
    return 0
