"""What the library refuses, in words."""

from vinyl.core.errors import VinylError


class LibraryError(VinylError):
    """A request that the library cannot carry out."""


class NotFoundError(LibraryError):
    """Something asked for is not there (any more)."""


class LockedError(LibraryError):
    """An edit of a part that is locked."""


class LibraryBusyError(LibraryError):
    """Others write, or hold the file: the same may well work in a moment."""


class StorageError(LibraryError):
    """The disk or its permissions do not let the library be opened."""


class DamagedLibraryError(LibraryError):
    """The database file cannot be opened."""


class NewerLibraryError(LibraryError):
    """The database file is of a newer Vinyl."""
