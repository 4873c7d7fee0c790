"""Where files lie, over the wire: folders with the tracks in them, and what is not in Vinyl yet."""

from __future__ import annotations

from vinyl.api.models.shared import Model


class DiskFolder(Model):
    """A folder: ``tracks`` lie in and below it; ``there`` is false for one that cannot be found now."""

    name: str
    path: str
    tracks: int
    there: bool


class DiskFolderContents(Model):
    """A folder, what is in it, and its audio files that are not in Vinyl yet.

    ``tracks`` lie in the folder itself; ``new`` are the names of the first of ``new_count`` files;
    ``problem`` says why the disk could not be looked at.
    """

    path: str
    tracks: int
    folders: list[DiskFolder]
    new: list[str]
    new_count: int
    problem: str | None
