"""What is done with tracks of lists: stars, locks, repairs, and values that are set by hand."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import UTC, datetime

from vinyl.core.rules.finishing import Part
from vinyl.jobs.editing import Editor
from vinyl.library import backings, choices, clearing, describing, flat, locks, plays, repairs, tracks, values
from vinyl.library.choices import ColourTable, CueColour
from vinyl.library.clearing import KINDS, CueKind, Deleted
from vinyl.library.clock import stored
from vinyl.library.database import Database
from vinyl.library.describing import EditName, TextChange
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.library.repairs import TextRepair
from vinyl.library.values import Field, Source
from vinyl.operations.words import many

COLOURS: Mapping[ColourTable, str] = {
    "cue_colour": "Name the colours of cues",
    "track_colour": "Say what the colours of tracks mean",
}


def rate(database: Database, track_ids: Sequence[int], stars: int) -> int:
    """Give stars by hand; returns how many tracks were left out because their tags are locked."""
    with database.write(_rating(track_ids, stars)) as connection:
        return tracks.rate(connection, track_ids, stars)


def begin_rating(editor: Editor, track_ids: Sequence[int], stars: int) -> Job:
    """The same of very many, in the background."""
    return editor.add(_rating(track_ids, stars), "rate", {"stars": stars}, track_ids)


def repair_texts(database: Database, track_ids: Sequence[int]) -> list[TextRepair]:
    """Set what texts in a wrong encoding were meant to be, by hand; the files stay as they are."""
    with database.write(f"Repair the texts of {many(track_ids)}") as connection:
        found = repairs.find_repairs(connection, track_ids)
        repairs.keep_repairs(connection, found)
    return found


def lock(database: Database, track_ids: Sequence[int], part: Part, locked: bool) -> int:
    """Lock a part of tracks against edits, analysis and imports, or unlock it; returns how many were left out
    because they have no grid to lock.
    """
    with database.write(f"{'Lock' if locked else 'Unlock'} the {part} of {many(track_ids)}") as connection:
        return locks.set_lock(connection, track_ids, part, locked)


def delete_cues(database: Database, track_ids: Sequence[int], kind: CueKind) -> Deleted:
    """Delete all cues of a kind; tracks whose cues are locked keep theirs."""
    with database.write(f"Delete {KINDS[kind]} of {many(track_ids)}") as connection:
        return clearing.delete_cues(connection, track_ids, kind)


def confirm_file(database: Database, track_id: int) -> None:
    """Say of a track whose file was replaced that its grid and cues fit the new sound."""
    with database.write(f"Grid and cues fit the new file: {title_of(database, track_id)}") as connection:
        tracks.confirm_replaced(connection, track_id)


def edit_values(database: Database, track_ids: Sequence[int], given: Mapping[EditName, str | None]) -> int:
    """Give tracks values by hand; returns how many were left out because their tags are locked."""
    with database.write(_editing(track_ids, given)) as connection:
        return describing.edit(connection, track_ids, given)


def begin_editing(editor: Editor, track_ids: Sequence[int], given: Mapping[EditName, str | None]) -> Job:
    """The same of very many, in the background.

    Raises:
        LibraryError: for a value that a field cannot have.
    """
    describing.meant(given)
    return editor.add(_editing(track_ids, given), "values", {"values": dict(given)}, track_ids)


def edit_texts(
    database: Database, track_ids: Sequence[int], name: str, changes: Callable[[], list[TextChange]]
) -> list[TextChange]:
    """Edit texts by hand; files stay as they are.

    Args:
        name: what is done, in words.
        changes: finds what is to be changed, from what is there when it is.
    """
    with database.write(f"{name} of {many(track_ids)}") as connection:
        found = changes()
        describing.keep(connection, found)
    return found


def name_colours(database: Database, colours: Sequence[CueColour], table: ColourTable) -> None:
    """Give the colours of cues or tracks names, signs and shades."""
    with database.write(COLOURS[table]) as connection:
        choices.name_colours(connection, colours, table)


def put_over_backing(database: Database, track_ids: Sequence[int], name: str, backing_id: int | None) -> None:
    """Put tracks into a group over one instrumental."""
    with database.write(f"Put {many(track_ids)} over the backing “{name}”") as connection:
        backings.put_together(connection, track_ids, name, backing_id)


def take_from_backing(database: Database, track_ids: Sequence[int]) -> None:
    """Take tracks out of their groups."""
    with database.write(f"Take {many(track_ids)} out of their backing") as connection:
        backings.take_apart(connection, track_ids)


def note_played(database: Database, track_ids: Sequence[int], at: datetime | None = None) -> None:
    """Note that tracks were played, now or at a time that has passed.

    Raises:
        LibraryError: for a time that is to come.
    """
    at = (at or datetime.now(UTC)).astimezone(UTC)
    if at > datetime.now(UTC):
        raise LibraryError("A play lies in the past: choose another day.")
    with database.write(f"Note {many(track_ids)} as played") as connection:
        plays.note(connection, track_ids, stored(at))


def forget_last_play(database: Database, track_ids: Sequence[int]) -> int:
    """Forget the newest play of each track that was noted by hand; returns how many there were."""
    with database.write(f"Forget the last play of {many(track_ids)}") as connection:
        return plays.take_last(connection, track_ids)


def set_value_rule(database: Database, field: Field, order: Sequence[Source]) -> None:
    """Change which source wins for a field, for all tracks."""
    with database.write(f"Change which source wins for the {field}") as connection:
        flat.settle_all(connection, values.set_rule(connection, field, order))


def _rating(track_ids: Sequence[int], stars: int) -> str:
    return f"Rate {many(track_ids)} {stars} stars"


def _editing(track_ids: Sequence[int], given: Mapping[EditName, str | None]) -> str:
    return f"Edit {', '.join(given)} of {many(track_ids)}"


def title_of(database: Database, track_id: int) -> str:
    """A track's title.

    Raises:
        NotFoundError: if it is gone.
    """
    return str(tracks.get_track(database.read(), track_id)["title"])
