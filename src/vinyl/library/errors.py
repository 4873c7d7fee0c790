"""What the library refuses, in words."""

from vinyl.core.errors import VinylError


class LibraryError(VinylError):
    """A request that the library cannot carry out."""


class NotFoundError(LibraryError):
    """Something asked for is not there (any more)."""


class DamagedLibraryError(LibraryError):
    """The database file cannot be opened."""


class LockedError(LibraryError):
    """An edit of a part that is locked."""
