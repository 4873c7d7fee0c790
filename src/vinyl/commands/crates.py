"""``./vinyl crate``: lists from the command line, shown, written to files and brought in from them."""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from vinyl.api.models.lists import MadeOut
from vinyl.commands.client import open_library, way_to
from vinyl.core.errors import VinylError
from vinyl.library import crates, find, list_documents, rule_lists
from vinyl.library.crates import Crate
from vinyl.library.database import Database
from vinyl.operations import lists

MARKS = {"track": "", "wanted": "wanted: ", "divider": "-- "}


def list_crates(home: Path) -> int:
    """Print all lists and folders, those within folders further in, with how much they hold."""
    read = open_library(home).read()
    counts = rule_lists.count_lists(read)
    there = crates.list_crates(read)

    def tell(folder_id: int | None, depth: int) -> None:
        for crate in there:
            if crate.folder_id == folder_id:
                tracks = counts[crate.id][0] if crate.id in counts else crate.tracks
                kind = "folder" if crate.is_folder else "fills itself" if crate.fills_itself else "by hand"
                print(f"{crate.id:6}  {'  ' * depth}{crate.name}  ({kind}, {tracks} tracks)")
                tell(crate.id, depth + 1)

    tell(None, 0)
    return 0


def show_crate(home: Path, name: str) -> int:
    """Print what stands in a list, in its order; of one that fills itself, its rule first."""
    database = open_library(home)
    read = database.read()
    crate = _named(database, name)
    if rule := rule_lists.get_rule(read, crate.id):
        print(rule_lists.said(read, rule_lists.condition_of(rule)))
    if rule or crate.is_folder:
        for row in find.get_rows(read, crates.crate_tracks(read, crate.id)):
            print(_said(row["artist"], row["title"]))
        return 0
    for place in list_documents.document_of(read, crate.id)["places"]:
        said = _said(place.get("artist"), place.get("title"))
        print(f"{MARKS[place['kind']]}{said or place.get('path', '')}")
    return 0


def _said(artist: str | None, title: str | None) -> str:
    return " - ".join(part for part in (artist, title) if part)


def export_crate(home: Path, name: str, out: Path | None) -> int:
    """Write a list or folder as a document to a file, or to standard output."""
    database = open_library(home)
    document = list_documents.document_of(database.read(), _named(database, name).id)
    text = json.dumps(document, ensure_ascii=False, indent=1) + "\n"
    if out is None:
        sys.stdout.write(text)
        return 0
    try:
        out.write_text(text, encoding="utf-8")
    except OSError as error:
        raise VinylError(f"{out} cannot be written: {error.strerror}.") from error
    return 0


def import_crate(home: Path, file: Path) -> int:
    """Make the list or folder that a file holds, by the server that runs or without one."""
    try:
        document = json.loads(file.read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError) as error:
        raise VinylError(f"{file} is no list that Vinyl wrote: {error}.") from error
    if not isinstance(document, dict):
        raise VinylError(f"{file} is no list that Vinyl wrote.")
    with way_to(home) as way:
        made: dict[str, Any] = way.ask(
            "/api/lists/import",
            lambda use: MadeOut.model_validate(lists.import_document(use.database, document)),
            {"document": document},
        )
    return _say(made["tracks"], made["wanted"], made["problems"])


def _say(tracks: int, wanted: int, problems: list[str]) -> int:
    print(f"{tracks} tracks found, {wanted} wanted")
    for problem in problems:
        print(problem, file=sys.stderr)
    return 1 if problems else 0


def _named(database: Database, name: str) -> Crate:
    """The list of a name, or of a number as the listing prints it."""
    for crate in crates.list_crates(database.read()):
        if crate.name.casefold() == name.casefold() or str(crate.id) == name:
            return crate
    raise VinylError(f"There is no crate called “{name}”. `vinyl crate list` shows all.")
