"""Tracks whose files are away, and the files that may be theirs."""

from __future__ import annotations

from vinyl.api.models.arrivals import PathText
from vinyl.api.models.shared import Ids, Model


class AwayOut(Model):
    tracks: int


class FindAgainIn(Model):
    folder: PathText


class FoundOut(Model):
    """A file that is most likely a track's: ``confidence`` from 0 to 1, with what speaks for it."""

    track_id: int
    title: str
    before: str
    after: str
    confidence: float
    evidence: list[str]


class TakeFoundIn(Model):
    ids: Ids


class TakenOut(Model):
    taken: int
