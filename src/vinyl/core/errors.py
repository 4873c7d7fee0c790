"""The base of every error whose message is written for the person who uses Vinyl."""


class VinylError(Exception):
    """Something that went wrong, said in words a DJ can act on."""


class TempoMapError(VinylError):
    """A tempo map or an edit of one that breaks an invariant."""


class AnalysisError(VinylError):
    """Audio that cannot be analysed."""
