"""What is done with whole lists: dividers, order, merging, copies, series, and bringing deleted ones back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from vinyl.library import combining, crates, dividers, list_documents, series
from vinyl.library.crates import Crate
from vinyl.library.database import Database
from vinyl.library.list_documents import Made
from vinyl.library.sorts import SortName
from vinyl.operations.crates import name_of

COMBINED = {"merge": "Put “{other}” into “{name}”", "subtract": "Take “{other}” out of “{name}”",
            "intersect": "Leave of “{name}” what is in “{other}” too"}  # fmt: skip
ARRANGED = {"shuffle": "Shuffle “{}”", "reverse": "Turn “{}” round", "as sorted": "Keep “{}” as it is sorted"}

Sorts = tuple[tuple[SortName, bool], ...]


def divide_by(database: Database, crate_id: int, by: str) -> None:
    """Let a list stand under dividers by a value, or under those by hand."""
    name = name_of(database, crate_id)
    with database.write(f"Divide “{name}” by {by}" if by else f"Divide “{name}” by hand") as connection:
        dividers.divide_by(connection, crate_id, by)


def keep_dividers(database: Database, crate_id: int) -> None:
    """Make dividers by hand of those that a list has by a value."""
    with database.write(f"Keep the dividers of “{name_of(database, crate_id)}”") as connection:
        dividers.keep_dividers(connection, crate_id)


def add_divider(database: Database, crate_id: int, name: str, at: int, sign: str, colour: str) -> None:
    """Set a divider right before a track."""
    with database.write(f"Set the divider “{name}”") as connection:
        dividers.add_divider(connection, crate_id, name, at, sign, colour)


def change_divider(
    database: Database,
    divider_id: int,
    name: str | None,
    sign: str,
    colour: str,
    at: int | None,
) -> None:
    """Say something else on a divider, or move it."""
    with database.write("Change a divider" if name else "Move a divider") as connection:
        if name is not None:
            dividers.change_divider(connection, divider_id, name, sign, colour)
        if at is not None:
            dividers.move_divider(connection, divider_id, at)


def remove_divider(database: Database, divider_id: int) -> None:
    """Take a divider away; the tracks below it stay."""
    with database.write("Take a divider away") as connection:
        dividers.remove_divider(connection, divider_id)


def combine(database: Database, crate_id: int, other_id: int, how: combining.How) -> int:
    """Put another list into one, take it out of it, or leave only what is in both; returns how many tracks
    moved.
    """
    name, other = name_of(database, crate_id), name_of(database, other_id)
    with database.write(COMBINED[how].format(name=name, other=other)) as connection:
        return combining.combine(connection, crate_id, other_id, how)


def arrange(database: Database, crate_id: int, how: combining.Arrangement, sorts: Sorts) -> None:
    """Shuffle a list, turn it round, or keep it as it is sorted."""
    with database.write(ARRANGED[how].format(name_of(database, crate_id))) as connection:
        combining.arrange(connection, crate_id, how, sorts)


def copy(database: Database, crate_id: int, name: str) -> Crate:
    """Make a copy of a list or folder, with all that is in it, beside it."""
    with database.write(f"Copy “{name_of(database, crate_id)}”") as connection:
        folder_id = crates.get_crate(connection, crate_id).folder_id
        document = list_documents.document_of(connection, crate_id)
        made = list_documents.make_of(connection, document, folder_id, name)
        return crates.get_crate(connection, made.crate_id)


def change_looks(
    database: Database, crate_id: int, colour: str | None, sign: str | None, note: str | None
) -> None:
    """Give a list or folder a colour, a sign or a note."""
    with database.write(f"Change how “{name_of(database, crate_id)}” looks") as connection:
        crates.change_looks(connection, crate_id, colour, sign, note)


def order_by_name(database: Database, folder_id: int | None) -> None:
    """Put the lists of a folder, or those in none, in the order of their names."""
    with database.write("Order lists by name") as connection:
        crates.order_by_name(connection, folder_id)


def make_series(database: Database, name: str, by: str, folder_id: int | None = None) -> Crate:
    """Make a folder with a list that fills itself for each value, kept up as new values appear."""
    with database.write(f"Make the lists of “{name}”") as connection:
        return crates.get_crate(connection, series.make_series(connection, name, by, folder_id))


def import_document(database: Database, document: Mapping[str, Any]) -> Made:
    """Make the list or folder that a document holds; tracks that are not here are wanted."""
    with database.write("Bring a list in") as connection:
        return list_documents.make_of(connection, document)


def bring_back(database: Database, deleted_id: int) -> Made:
    """Make a deleted list or folder again."""
    with database.write("Bring a deleted list back") as connection:
        return list_documents.bring_back(connection, deleted_id)
