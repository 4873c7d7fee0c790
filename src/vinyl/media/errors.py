"""What can be wrong with a file, in words for the person who owns it."""

from vinyl.core.errors import VinylError


class MediaError(VinylError):
    """A file that cannot be used."""


class NotAudioError(MediaError):
    """The file holds no audio that can be decoded."""


class BrokenAudioError(MediaError):
    """The file is audio, but damaged or incomplete."""
