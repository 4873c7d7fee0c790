"""Routes as audio files of their own, for libraries that know none: written beside the library, once each."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.paths import Way, path_there
from vinyl.core.cues.routes import Jump, RouteError, stretches
from vinyl.core.tag_form import NOT_IN_NAMES
from vinyl.exchange.desk import Desk
from vinyl.jobs.listening_again import write_route
from vinyl.jobs.runner import Task
from vinyl.jobs.workers import WorkerError, Workers
from vinyl.library.database import Database
from vinyl.media.errors import MediaError
from vinyl.media.files import AllowedRoots, FolderError

FOLDER, SUFFIX, FORM = "Routes", ".flac", "flac"
LIMIT_S = 3600.0
LONGEST_STEM = 150


@dataclass(frozen=True, slots=True)
class RouteFile:
    """A route that goes as a file: its card, its key on the desk, and where the file is."""

    key: str
    path: Path
    title: str
    card: Card


class RouteFiles:
    """Writes the routes of the tracks on a desk into a folder beside a library."""

    def __init__(self, database: Database, roots: AllowedRoots, workers: Workers, scratch: Path) -> None:
        self._database, self._roots, self._workers, self._scratch = database, roots, workers, scratch

    def write(self, task: Task, desk: Desk, base: Path, way: Way) -> list[RouteFile]:
        """Write what is not there yet; a route that cannot be is said, and the others go on."""
        made = []
        for key, told, route in self._routes(desk):
            task.check()
            title = f"{told['words'].get('title', 'A track')} ({route['name']})"
            task.progress(0, None, title)
            path = base / FOLDER / self._name(title, route)
            try:
                if not path.is_file():
                    self._render(route, path)
            except (RouteError, MediaError, FolderError, WorkerError) as error:
                task.fail_item(title, str(error), int(key))
                continue
            words = {**told["words"], "title": title}
            card = Card(path_there(str(path), way)[0], words)
            made.append(RouteFile(f"route {route['id']}", path, title, card))
        return made

    def _routes(self, desk: Desk) -> Iterator[tuple[str, dict[str, Any], Any]]:
        """The routes of the desk's tracks, each with its track's key and card."""
        told = {row["key"]: row["told"] for row in desk.db.execute("SELECT key, told FROM card ORDER BY n")}
        rows = self._database.read().execute(
            """SELECT r.id, r.name, r.jumps, r.track_id, t.path, t.duration_s, t.audio_hash FROM route r
               JOIN track t ON t.id = r.track_id WHERE NOT t.away
                 AND r.track_id IN (SELECT value FROM json_each(?)) ORDER BY r.id""",
            (json.dumps([int(key) for key in told if key.isdecimal()]),),
        )
        for row in rows.fetchall():
            key = str(row["track_id"])
            yield key, json.loads(told[key]), row

    def _name(self, title: str, route: Any) -> str:
        """A name that is another one once the route or its sound is."""
        mark = hashlib.blake2b(f"{route['audio_hash']} {route['jumps']}".encode(), digest_size=4).hexdigest()
        stem = NOT_IN_NAMES.sub("-", title).strip(" .")[:LONGEST_STEM] or "A route"
        return f"{stem} {mark}{SUFFIX}"

    def _render(self, route: Any, path: Path) -> None:
        source = self._roots.check(Path(route["path"]))
        jumps = [Jump(float(leaves), float(comes)) for leaves, comes in json.loads(route["jumps"])]
        told = self._scratch / f"route-{route['id']}.progress"
        try:
            self._workers.run(
                write_route, str(source), str(told), str(self._scratch),
                stretches(jumps, route["duration_s"]), str(path), FORM, timeout_s=LIMIT_S,
            )  # fmt: skip
        finally:
            told.unlink(missing_ok=True)
