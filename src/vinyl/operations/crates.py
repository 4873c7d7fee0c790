"""What is done with single crates and folders, and with what stands in them."""

from __future__ import annotations

from collections.abc import Sequence

from vinyl.core.rules.conditions import Condition
from vinyl.core.rules.notation import Rule
from vinyl.library import crates, list_documents, logbook, places, shared_lines, wanted
from vinyl.library.crates import Crate
from vinyl.library.database import Database
from vinyl.operations.words import many


def make(database: Database, name: str, folder_id: int | None = None, is_folder: bool = False) -> Crate:
    """Make an empty crate, or a folder."""
    with database.write(f"Make the {'folder' if is_folder else 'crate'} “{name}”") as connection:
        return crates.get_crate(connection, crates.make_crate(connection, name, folder_id, is_folder))


def change(
    database: Database,
    crate_id: int,
    name: str | None = None,
    repeats: bool | None = None,
    position: int | None = None,
) -> Crate:
    """Rename a crate, move it among the crates, or let tracks stand in it more than once."""
    old = name_of(database, crate_id)
    what = f"Rename the crate “{old}” to “{name}”" if name else f"Move the crate “{old}”"
    if repeats is not None:
        what = f"Let tracks stand in “{old}” {'more than once' if repeats else 'once only'}"
    with database.write(what) as connection:
        if name is not None:
            crates.rename_crate(connection, crate_id, name)
        if repeats is not None:
            crates.allow_repeats(connection, crate_id, repeats)
        if position is not None:
            crates.move_crate(connection, crate_id, position)
        return crates.get_crate(connection, crate_id)


def put_into_folder(
    database: Database, crate_id: int, folder_id: int | None, before_id: int | None = None
) -> None:
    """Move a crate, or a folder, into a folder or out of all."""
    with database.write(f"Move “{name_of(database, crate_id)}” among the crates") as connection:
        crates.put_into_folder(connection, crate_id, folder_id, before_id)


def delete(database: Database, crate_id: int) -> None:
    """Delete a crate, or a folder with what is in it; tracks stay in the library."""
    crate = crates.get_crate(database.read(), crate_id)
    with database.write(
        f"Delete the {'folder' if crate.is_folder else 'crate'} “{crate.name}”"
    ) as connection:
        list_documents.delete_list(connection, crate_id)


def add_tracks(
    database: Database,
    crate_id: int,
    track_ids: Sequence[int],
    at: int | None = None,
    out_of: int | None = None,
    places: Sequence[int] | None = None,
) -> tuple[int, dict[int, str]]:
    """Put tracks into a crate, at a place or at its end, and out of another if that is said. Returns how many
    were added, and of which it is warned, each with why.
    """
    with database.write(f"Put {many(track_ids)} into “{name_of(database, crate_id)}”") as connection:
        added = crates.add_tracks(connection, crate_id, track_ids, at)
        if out_of is not None and places is not None:
            crates.take_out(connection, out_of, places)
        elif out_of is not None:
            crates.remove_tracks(connection, out_of, track_ids)
    read = database.read()
    return added, logbook.never_at(read, crates.venue_of(read, crate_id), track_ids)


def take_out(database: Database, crate_id: int, held: Sequence[int]) -> None:
    """Take places out of a crate; the tracks stay in the library."""
    with database.write(f"Take {many(held)} out of “{name_of(database, crate_id)}”") as connection:
        crates.take_out(connection, crate_id, held)


def move_tracks(
    database: Database, crate_id: int, held: Sequence[int], at: int, behind: bool = False
) -> None:
    """Move tracks to a place among the others of a crate."""
    with database.write(f"Reorder “{name_of(database, crate_id)}”") as connection:
        crates.move_tracks(connection, crate_id, held, at, behind)


def put_note(database: Database, crate_id: int, held: Sequence[int], note: str) -> None:
    """Note something on places of a crate by hand, or nothing."""
    with database.write(f"Note on {many(held)} in “{name_of(database, crate_id)}”") as connection:
        places.put_note(connection, crate_id, held, note)


def want_no_more(database: Database, crate_id: int, wanted_ids: Sequence[int]) -> None:
    """Want entries of a crate no more."""
    count = many(wanted_ids, "an entry", "entries")
    with database.write(f"Want {count} of “{name_of(database, crate_id)}” no more") as connection:
        wanted.remove(connection, wanted_ids)


def make_rule_crate(database: Database, name: str, rule: Rule, folder_id: int | None = None) -> Crate:
    """Make a crate that fills itself."""
    with database.write(f"Make the rule crate “{name}”") as connection:
        return crates.get_crate(connection, crates.make_rule_crate(connection, name, rule, folder_id))


def change_rule(database: Database, crate_id: int, rule: Rule) -> None:
    """Give a crate that fills itself another rule."""
    with database.write(f"Change the rule of “{name_of(database, crate_id)}”") as connection:
        crates.change_rule(connection, crate_id, rule)


def change_lines(
    database: Database, crate_ids: Sequence[int], old: Condition | None, new: Condition | None
) -> int:
    """Add a line to many rules, change it or take it away, in one step; returns how many are others now."""
    what = "Add a line to" if old is None else "Take a line out of" if new is None else "Change a line of"
    with database.write(f"{what} {many(crate_ids, 'a rule', 'rules')}") as connection:
        return shared_lines.change_lines(connection, crate_ids, old, new)


def freeze(database: Database, crate_id: int, name: str) -> Crate:
    """Make a crate by hand of what is in one that fills itself now."""
    with database.write(f"Freeze “{name_of(database, crate_id)}”") as connection:
        return crates.get_crate(connection, crates.freeze(connection, crate_id, name))


def name_of(database: Database, crate_id: int) -> str:
    """What a crate is called.

    Raises:
        NotFoundError: if it is gone.
    """
    return crates.get_crate(database.read(), crate_id).name
