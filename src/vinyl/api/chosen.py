"""The tracks that a request is about, however they were chosen."""

from __future__ import annotations

from vinyl.api.models.conditions import to_core
from vinyl.api.models.tracks import Chosen, FoundIn
from vinyl.api.services import Use
from vinyl.library import tracks
from vinyl.library.chosen import Stretch, ids_of
from vinyl.library.errors import LibraryError
from vinyl.library.find import Order


def order_of(found: FoundIn) -> Order:
    """The order that was asked for."""
    then = tuple((each.sort, each.descending) for each in found.then)
    return Order(found.sort, found.descending, found.crate_id, found.venue_id, then)


def chosen_ids(use: Use, wanted: Chosen) -> list[int]:
    """Ids of the chosen tracks that are there, in their order.

    Raises:
        LibraryError: if there are none.
    """
    connection = use.database.read()
    if wanted.found is not None:
        found = wanted.found
        stretch = Stretch(
            to_core(found.where), order_of(found), found.first, found.last, frozenset(found.without)
        )
        ids = ids_of(connection, stretch)
    else:
        ids = tracks.existing(connection, wanted.ids)
    if not ids:
        raise LibraryError("None of the chosen tracks is in the library (any more).")
    return ids
