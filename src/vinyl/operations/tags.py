"""Tags in families: making and changing them, and giving them to tracks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from vinyl.jobs.editing import Editor
from vinyl.library import styles, tags
from vinyl.library.database import Database
from vinyl.library.jobs import Job
from vinyl.operations.words import many

Changes = Mapping[str, str | bool | int | None]


def make_family(database: Database, name: str, colour: str, sign: str = "") -> int:
    """Make a family; returns its id."""
    with database.write(f"Make the tag family “{name}”") as connection:
        return tags.make_family(connection, name, colour, sign)


def change_family(database: Database, family_id: int, changes: Mapping[str, str | bool | int]) -> None:
    """Rename, colour, order or retire a family."""
    with database.write("Change a tag family") as connection:
        tags.change_family(connection, family_id, changes)


def delete_family(database: Database, family_id: int) -> None:
    """Forget a family and take its tags from all tracks."""
    with database.write("Delete a tag family") as connection:
        tags.delete_family(connection, family_id)


def make_tag(database: Database, family_id: int, name: str) -> int:
    """Make a tag, or take one of that name up again; returns its id."""
    with database.write(f"Make the tag “{name}”") as connection:
        return tags.make_tag(connection, family_id, name)


def change_tag(database: Database, tag_id: int, changes: Changes) -> None:
    """Rename, colour, order, retire a tag, give it a letter, or move it to another family."""
    with database.write(f"Change the tag “{tags.name_of(database.read(), tag_id)}”") as connection:
        tags.change_tag(connection, tag_id, changes)


def merge(database: Database, tag_id: int, into: int) -> None:
    """Give all tracks of a tag another instead; rules that ask for it ask for the other then."""
    name, other = (tags.name_of(database.read(), each) for each in (tag_id, into))
    with database.write(f"Merge the tag “{name}” into “{other}”") as connection:
        tags.merge(connection, tag_id, into)


def delete_tag(database: Database, tag_id: int) -> None:
    """Take a tag from all its tracks and forget it."""
    with database.write(f"Delete the tag “{tags.name_of(database.read(), tag_id)}”") as connection:
        tags.delete_tag(connection, tag_id)


def give(database: Database, tag_id: int, track_ids: Sequence[int], given: bool | None) -> int:
    """Give a tag to tracks or take it, or the other of both than most have; returns how many were left out
    because their tags are locked.
    """
    what, given = _giving(database, tag_id, track_ids, given)
    with database.write(what) as connection:
        return tags.give(connection, tag_id, track_ids, given)


def begin_giving(
    database: Database, editor: Editor, tag_id: int, track_ids: Sequence[int], given: bool | None
) -> Job:
    """The same to very many, in the background."""
    what, given = _giving(database, tag_id, track_ids, given)
    return editor.add(what, "tag", {"tag_id": tag_id, "given": given}, track_ids)


def _giving(
    database: Database, tag_id: int, track_ids: Sequence[int], given: bool | None
) -> tuple[str, bool]:
    """The name of the step, and whether the tag is given or taken."""
    read = database.read()
    name = tags.name_of(read, tag_id)
    if given is None:
        given = tags.count_among(read, track_ids).get(tag_id, 0) < len(track_ids)
    return f"Tag {many(track_ids)} “{name}”" if given else f"Take “{name}” from {many(track_ids)}", given


def give_new(database: Database, family_id: int, name: str, track_ids: Sequence[int]) -> int:
    """Make a tag, or take one of that name up again, and give it to tracks, in one step; returns how many
    were left out because their tags are locked.
    """
    with database.write(f"Tag {many(track_ids)} “{name}”, a new tag") as connection:
        return tags.give(connection, tags.make_tag(connection, family_id, name), track_ids, True)


def take_styles(database: Database, family_id: int, mapping: Mapping[str, str]) -> int:
    """Give tracks the tags that their genre words stand for; returns how many got one."""
    with database.write("Take styles from the files’ genre words") as connection:
        return styles.take(connection, family_id, mapping)
