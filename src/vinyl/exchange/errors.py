"""What can be wrong with a file of another program, in words for the user."""

from __future__ import annotations

from vinyl.core.errors import VinylError


class ListError(VinylError):
    """A playlist that cannot be read."""


class LibraryFormatError(VinylError):
    """Another program's library that cannot be read or written."""
