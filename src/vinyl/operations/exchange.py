"""What is done in Exchange beside the jobs that carry: destinations, and answers to differences."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from contextlib import closing
from pathlib import Path
from typing import Any

from vinyl.core.carrying.traits import Name
from vinyl.exchange.coming import Way
from vinyl.exchange.review import Review, came_of
from vinyl.library import destinations
from vinyl.library.database import Database
from vinyl.library.destinations import Destination
from vinyl.library.errors import LibraryError
from vinyl.library.jobs import Job
from vinyl.operations.services import Services

MOST_CAME = 500


def save_destination(
    database: Database, name: str, target: Name, told: Mapping[str, Any], destination_id: int | None = None
) -> Destination:
    """Keep a way to another library under a name, a new one or one that is changed.

    How it is done is chosen again and again, and each choice shows; only a new one is a step to undo.
    """
    step = f"Make the destination “{name}”" if destination_id is None else None
    with database.write(step) as connection:
        saved = destinations.save_destination(connection, name, target, told, destination_id)
        return destinations.get_destination(connection, saved)


def delete_destination(database: Database, destination_id: int) -> None:
    """Forget a way; what lies there stays."""
    name = destinations.get_destination(database.read(), destination_id).name
    with database.write(f"Forget the destination “{name}”") as connection:
        destinations.delete_destination(connection, destination_id)


def answer(
    services: Services, look_id: int, choice: Way, kind: str | None, ids: Sequence[int] | None
) -> None:
    """Answer for differences: by the rules, theirs, ours, or add what is missing."""
    with closing(Review(services.comer.review_of(look_id))) as review:
        review.choose(choice, kind, ids)
    services.changed("exchange")


def import_found(services: Services, look_id: int) -> Job:
    """Import the files of a library that lie on the disk and are not in this one yet.

    Raises:
        LibraryError: if there are none.
    """
    path, files, offset = services.comer.review_of(look_id), list[Path](), 0
    while found := came_of(path, "on disk", offset, MOST_CAME):
        files += [services.roots.check(Path(each.file)) for each in found if each.file]
        offset += MOST_CAME
    if not files:
        raise LibraryError("There is no file on the disk that is not in the library.")
    return services.importer.add(files)
