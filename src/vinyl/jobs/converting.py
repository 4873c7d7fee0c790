"""Files made for players, each once, and kept at home; the longest unused are given up if there are many."""

from __future__ import annotations

import hashlib
import os
import shutil
from collections.abc import Callable
from pathlib import Path

import mutagen

from vinyl.jobs.listening_again import write_route
from vinyl.jobs.workers import Workers
from vinyl.media.encode import ENCODINGS, convert
from vinyl.media.errors import MediaError
from vinyl.media.files import replacing
from vinyl.media.probe import probe
from vinyl.media.tags import read_tags
from vinyl.media.tags.editing import write_gain
from vinyl.sticks.making import Making
from vinyl.sticks.writing import Converted

LIMIT_S = 3600.0
MOST_BYTES = 8_000_000_000


def make_file(source: Path, target: Path, making: Making) -> None:
    """Make a file for players, in a worker. One that holds no tags goes without.

    Raises:
        MediaError: if the source is damaged.
        OSError: if there is no room for it.
    """
    if making.played:
        told = target.with_suffix(".progress")
        try:
            write_route(
                str(source), str(told), str(target.parent), list(making.played), str(target), making.form,
                making.gain_db,
            )  # fmt: skip
        finally:
            told.unlink(missing_ok=True)
    elif making.form:
        convert(source, target, making.form, making.gain_db)
    else:
        shutil.copyfile(source, target)
    if making.tag_gain_db is not None:
        try:
            write_gain(target, making.tag_gain_db)
        except (MediaError, mutagen.MutagenError):
            return


class Conversions:
    """A folder of converted files."""

    def __init__(self, folder: Path, workers: Workers) -> None:
        self._folder, self._workers = folder, workers

    def get(self, source: Path, made_from: str, making: Making, check: Callable[[], None]) -> Converted:
        """The file that is made of a source, if it is not there already.

        Args:
            made_from: names the source and the making; another has another name.
            check: is called while one waits, and raises to give up.

        Raises:
            MediaError: if the source is damaged.
            OSError: if there is no room for it.
        """
        name = hashlib.sha256(made_from.encode()).hexdigest()[:32]
        suffix = ENCODINGS[making.form].suffix if making.form else source.suffix.lower()
        path = self._folder / f"{name}{suffix}"
        if path.is_file():
            os.utime(path)
        else:
            self._make_room()
            with replacing(path, suffix) as part:
                self._workers.run(make_file, source, part, making, timeout_s=LIMIT_S, check=check)
        facts = probe(path)
        gain_db = read_tags(path).gain_db if making.tag_gain_db is not None else None
        return Converted(path, facts.trimmed_samples, facts.rate_hz, gain_db)

    def _make_room(self) -> None:
        files = sorted((each.stat().st_atime, each.stat().st_size, each) for each in self._folder.glob("*.*"))
        over = sum(size for _, size, _ in files) - MOST_BYTES
        for _, size, file in files:
            if over <= 0:
                return
            file.unlink(missing_ok=True)
            over -= size
