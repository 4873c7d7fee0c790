"""What is known of names in a library, for reading what people type."""

from __future__ import annotations

import sqlite3

from vinyl.core.rules.phrases import Known
from vinyl.library import backings, crates, describing, tags, venues
from vinyl.library.clock import today


def known(connection: sqlite3.Connection) -> Known:
    """Names of tags, lists, shared backings and venues, and how texts of tracks are found."""
    return Known(
        tags=tags.names(connection),
        lists=crates.names(connection),
        backings=list(backings.names(connection).items()),
        texts=lambda field, begun: describing.completions(connection, field, begun),
        exact=lambda field, texts: describing.exact(connection, field, texts),
        today=today(),
        venues=venues.names(connection),
    )
