"""What can go wrong with a stick."""

from vinyl.core.errors import VinylError


class StickError(VinylError):
    """A stick that cannot be used as asked."""


class StickGoneError(StickError):
    """The stick is not in the computer (any more)."""


class StickFullError(StickError):
    """There is no room left on the stick."""


class PackCancelledError(StickError):
    """Packing was stopped by the user."""


class StickReadOnlyError(StickError):
    """The stick lets nothing be written."""
