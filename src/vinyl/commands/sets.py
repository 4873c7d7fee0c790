"""``./vinyl set``: sets from the command line: which there are, how one stands, an order for it, and whether
its recording may be published.
"""

from __future__ import annotations

import sqlite3
import sys
from pathlib import Path

from vinyl.commands.client import open_library
from vinyl.core.planning.proposing import By
from vinyl.exchange.night_files import Form
from vinyl.library import set_planning
from vinyl.library import sets as stored
from vinyl.library.errors import NotFoundError
from vinyl.library.sets import DjSet
from vinyl.operations import clearances
from vinyl.operations.sets import as_file, as_text


def list_sets(home: Path) -> int:
    """Print all sets, the last day first."""
    for each in stored.list_sets(open_library(home).read()):
        where = ", ".join(filter(None, (each.on_day, each.venue)))
        held = f"{each.placed} placed, {each.in_tray} in the tray"
        print(f"{each.id:6}  {each.name}  ({where or 'no date yet'}; {held})")
    return 0


def show_set(home: Path, name: str) -> int:
    """Print a set as it goes to the booth, then what speaks against its tracks."""
    read = open_library(home).read()
    plan = set_planning.read_plan(read, _named(read, name).id)
    print(as_text(plan), end="")
    for each in plan.placed:
        for caution in each.cautions:
            print(f"! {each.entry.title}: {caution.words} ({caution.help})")
    for each in plan.tray:
        print(f"tray  {each.entry.artist} - {each.entry.title}")
    return 0


def export_set(home: Path, name: str, form: Form) -> int:
    """Print a set as a file, and beside it what could not be said in it."""
    read = open_library(home).read()
    made = as_file(read, _named(read, name).id, form)[1]
    print(made.text, end="")
    for each in made.left_out:
        print(f"left out: {each}", file=sys.stderr)
    return 0


def propose_order(home: Path, name: str, by: By) -> int:
    """Print an order that is proposed for a set; nothing is changed."""
    read = open_library(home).read()
    dj_set = _named(read, name)
    ids, found = set_planning.propose_order(read, dj_set.id, by)
    entries = {each.id: each for each in stored.list_entries(read, dj_set.id)}
    for number, entry_id in enumerate(ids, 1):
        entry = entries[entry_id]
        bpm = f"{entry.bpm:6.1f}" if entry.bpm else "     –"
        print(f"{number:3}  {bpm}  {entry.key or '–':9}  {entry.artist} - {entry.title}")
    print(f"cost {found.cost_before:.2f} before, {found.cost_after:.2f} after")
    return 0


def show_clearance(home: Path, name: str) -> int:
    """Print whether a set's recording may be published, and each track's part in that."""
    read = open_library(home).read()
    found = clearances.read_clearance(read, _named(read, name).id)
    print(f"May be published: {'; '.join((found.publication.may, *found.publication.words))}")
    for line in found.lines:
        mark = "!" if line.ruling.is_doubtful else " "
        said = " · ".join(filter(None, (line.ruling.words, line.ruling.source, line.ruling.on_day)))
        print(f"{mark} {line.recording.artist} - {line.recording.title}: {said}")
    return 0


def _named(connection: sqlite3.Connection, name: str) -> DjSet:
    """The set of a name or a number.

    Raises:
        NotFoundError: if there is none.
    """
    for each in stored.list_sets(connection):
        if name in (str(each.id), each.name):
            return each
    raise NotFoundError(f"There is no set “{name}”. ./vinyl set list prints those there are.")
