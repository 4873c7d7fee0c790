"""Folders that are watched for new music."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Sequence

WATCHED = "watched folders"


def get_folders(connection: sqlite3.Connection) -> list[str]:
    """The watched folders, in the order in which they were named."""
    row = connection.execute("SELECT value FROM choice WHERE name = ?", (WATCHED,)).fetchone()
    return list(json.loads(row[0])) if row else []


def set_folders(connection: sqlite3.Connection, folders: Sequence[str]) -> None:
    """Watch these folders and no others."""
    connection.execute(
        "INSERT INTO choice (name, value) VALUES (?, ?) "
        "ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (WATCHED, json.dumps(list(dict.fromkeys(folders)))),
    )
