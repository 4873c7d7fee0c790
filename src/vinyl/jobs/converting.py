"""Files made for players, each once, and kept at home; the longest unused are given up if there are many."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable
from pathlib import Path

from vinyl.jobs.workers import Workers
from vinyl.media.encode import ENCODINGS, convert
from vinyl.media.files import replacing
from vinyl.media.probe import probe
from vinyl.sticks.writing import Converted

LIMIT_S = 3600.0
MOST_BYTES = 8_000_000_000


class Conversions:
    """A folder of converted files."""

    def __init__(self, folder: Path, workers: Workers) -> None:
        self._folder, self._workers = folder, workers

    def get(
        self, source: Path, made_from: str, form: str, gain_db: float, check: Callable[[], None]
    ) -> Converted:
        """The file that a source is converted to, made if it is not there.

        Args:
            made_from: names the source and the form; another source has another name.
            check: is called while one waits, and raises to give up.

        Raises:
            MediaError: if the source is damaged.
            OSError: if there is no room for it.
        """
        name = hashlib.sha256(made_from.encode()).hexdigest()[:32]
        path = self._folder / f"{name}{ENCODINGS[form].suffix}"
        if path.is_file():
            os.utime(path)
        else:
            self._make_room()
            with replacing(path, ENCODINGS[form].suffix) as part:
                self._workers.run(convert, source, part, form, gain_db, timeout_s=LIMIT_S, check=check)
        facts = probe(path)
        return Converted(path, facts.trimmed_samples, facts.rate_hz)

    def _make_room(self) -> None:
        files = sorted((each.stat().st_atime, each.stat().st_size, each) for each in self._folder.glob("*.*"))
        over = sum(size for _, size, _ in files) - MOST_BYTES
        for _, size, file in files:
            if over <= 0:
                return
            file.unlink(missing_ok=True)
            over -= size
