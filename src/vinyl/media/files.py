"""Files and folders on disk: which may be looked at, walking them, and writing so that nothing is ever half
there.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from vinyl.core.errors import VinylError
from vinyl.media.probe import AUDIO_SUFFIXES

# Of one folder no more files are looked at.
MOST_FILES = 100_000


class FolderError(VinylError):
    """A folder that cannot or may not be used."""


@dataclass(frozen=True, slots=True)
class FolderEntry:
    """A folder inside another, with the number of audio files directly in it."""

    name: str
    path: Path


@dataclass(frozen=True, slots=True)
class AllowedRoots:
    """The folders below which Vinyl may read."""

    roots: tuple[Path, ...]

    def check(self, path: Path) -> Path:
        """The real path (links followed) of a file or folder.

        Raises:
            FolderError: if it lies outside all roots.
        """
        try:
            real = path.expanduser().resolve()
        except (OSError, RuntimeError, ValueError) as error:
            raise FolderError(f"{path} cannot be reached ({error}).") from error
        if not any(real.is_relative_to(root) for root in self.roots):
            raise FolderError(
                f"{path} lies outside the folders that Vinyl may read ({', '.join(map(str, self.roots))}). "
                "Start Vinyl with --allow FOLDER to add one."
            )
        return real

    def is_allowed(self, path: Path) -> bool:
        """Whether a file or folder may be looked at."""
        try:
            self.check(path)
        except FolderError:
            return False
        return True

    def check_file_or_folder(self, path: Path) -> Path:
        """Like check, for something that must be there."""
        real = self.check(path)
        if not real.exists():
            raise FolderError(f"There is nothing at {real}.")
        return real if real.is_file() else self.check_folder(real)

    def check_folder(self, path: Path) -> Path:
        """Like check, for a folder that must be there and readable."""
        real = self.check(path)
        if not real.is_dir():
            raise FolderError(
                f"There is no folder {real}." if not real.exists() else f"{real} is a file, not a folder."
            )
        if not os.access(real, os.R_OK | os.X_OK):
            raise FolderError(f"Vinyl may not read {real}: check its permissions.")
        return real


def make_private(folder: Path) -> Path:
    """A folder that only its owner can look into, made where it is not there."""
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    return folder


def allowed_roots(extra: Iterable[Path]) -> AllowedRoots:
    """Home, where drives are mounted, and what the user gave."""
    roots = [Path.home(), Path("/media"), Path("/mnt"), *extra]
    return AllowedRoots(tuple(dict.fromkeys(root.resolve() for root in roots if root.exists())))


def list_folders(folder: Path) -> list[FolderEntry]:
    """The visible folders in a folder, by name; those that cannot be read are left out."""
    with os.scandir(folder) as entries:
        folders = [e for e in entries if not e.name.startswith(".") and e.is_dir()]
    return [FolderEntry(e.name, Path(e.path)) for e in sorted(folders, key=lambda e: e.name.casefold())]


def list_files(folder: Path, suffixes: Collection[str], most: int) -> list[Path]:
    """The visible files of some suffixes in a folder, by name."""
    with os.scandir(folder) as entries:
        names = [e.name for e in entries if not e.name.startswith(".") and e.is_file()]
    chosen = (name for name in names if Path(name).suffix.lower() in suffixes and _is_text(Path(name)))
    return [folder / name for name in sorted(chosen, key=str.casefold)[:most]]


def folders_there(paths: Iterable[str], roots: AllowedRoots) -> set[str]:
    """Those of some folders that are there and may be looked at."""
    return {path for path in paths if roots.is_allowed(Path(path)) and Path(path).is_dir()}


def look_into(path: str, roots: AllowedRoots) -> tuple[list[str], list[str]]:
    """The names of the visible folders and of the audio files in a folder.

    Raises:
        FolderError: if it may not be looked at, or cannot be read.
    """
    folder = roots.check(Path(path))
    if str(folder) != path:
        raise FolderError(f"{path} is a way to {folder}: look there.")
    try:
        found = [entry.name for entry in list_folders(folder)]
        return [name for name in found if _is_text(Path(name))], [
            path.name for path in list_files(folder, AUDIO_SUFFIXES, MOST_FILES)
        ]
    except FileNotFoundError as error:
        raise FolderError(f"{folder} cannot be found now. Plug its drive in, and look again.") from error
    except OSError as error:
        raise FolderError(f"{folder} cannot be read ({error.strerror}).") from error


def count_audio(folder: Path) -> int:
    """How many files directly in a folder have an audio suffix."""
    with os.scandir(folder) as entries:
        return sum(
            Path(e.name).suffix.lower() in AUDIO_SUFFIXES for e in entries if not e.name.startswith(".")
        )


def walk_files(folder: Path, on_error: Callable[[OSError], None] = lambda error: None) -> Iterator[Path]:
    """All visible files below a folder, in a stable order, not following links to folders.

    Args:
        on_error: is told of each folder that cannot be read; the walk goes on.
    """
    for parent, folders, names in os.walk(folder, onerror=on_error):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in sorted(names, key=lambda name: Path(name).stem):
            path = Path(parent) / name
            if not name.startswith(".") and _is_text(path):
                yield path


def _is_text(path: Path) -> bool:
    """Whether a name can be stored; some drives hold names that are no text at all."""
    try:
        str(path).encode()
    except UnicodeEncodeError:
        return False
    return True


def part_of(path: Path) -> Path:
    """Where a file is written until it is whole."""
    return path.with_name(f".{path.name[:80]}.part")


def new_file(path: Path, mode: int = 0o666) -> Path:
    """Make a file anew, empty: what is written to its path then goes to no other file, as it would by a link
    that somebody has laid there.
    """
    path.unlink(missing_ok=True)
    os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_NOFOLLOW, mode))
    return path


@contextmanager
def replacing(path: Path, suffix: str = "") -> Iterator[Path]:
    """A temporary path beside ``path``; on success its file takes the place of the old one, at once and on
    disk.

    Args:
        suffix: what the temporary path ends in, where that tells what kind of file it is.
    """
    part = part_of(path).with_suffix(f".part{suffix}")
    path.parent.mkdir(parents=True, exist_ok=True)
    try:
        yield new_file(part)
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        part.replace(path)
    except BaseException:
        part.unlink(missing_ok=True)
        raise
