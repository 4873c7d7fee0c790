"""Exchange: other libraries, what is to be carried there, the ledger, and what comes back."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from vinyl.api.models.arrivals import FolderOut
from vinyl.api.models.shared import Id, Model, Name, Words

Target = Literal["reedbank", "tidewrack", "saltmarsh", "m3u8", "pls", "xspf", "cue", "csv"]
Kept = Literal["reedbank", "tidewrack", "saltmarsh", "vinyl", "stick"]
PlaceText = Annotated[Words, Field(max_length=4096)]
Policy = Literal["leave", "add", "replace"]
CarriedPart = Literal["texts", "plays", "grid", "cues"]
Fate = Literal["as it is", "changed", "left here"]
Millis = Annotated[float, Field(gt=0, le=500, allow_inf_nan=False)]


class AnswerOut(Model):
    """An answer to a choice, in words."""

    value: str
    words: str


class ChoiceOut(Model):
    """A choice about how values are written, and of which kind of the ledger it decides."""

    name: str
    kind: str
    why: str
    answers: list[AnswerOut]
    usual: str


class TargetOut(Model):
    """Another library and its ways. ``place`` is what is chosen: a folder, or a file by its usual name."""

    name: Target
    label: str
    says: str
    file_name: str
    in_files: bool
    choices: list[ChoiceOut]


class PathPair(Model):
    """A beginning of paths here and what stands for it there."""

    here: PlaceText
    there: PlaceText


class SourceIn(Model):
    """Another library that tracks come from, in place of the own one."""

    target: Kept
    place: PlaceText
    mappings: Annotated[list[PathPair], Field(max_length=50, default_factory=list)]


class OrderBody(Model):
    """What is to be carried, where to, and how."""

    target: Target
    place: PlaceText
    system: Literal["this one", "windows", "other"] = "this one"
    mappings: Annotated[list[PathPair], Field(max_length=50, default_factory=list)]
    options: dict[str, str | int] = Field(default_factory=dict)
    lists: Annotated[list[Id], Field(max_length=100_000)] | None = None
    tracks: Annotated[list[Id], Field(max_length=200_000, default_factory=list)]
    changed_only: bool = False
    mirror: bool = False
    policies: dict[CarriedPart, Policy] = Field(default_factory=dict)
    onto_ms: Millis | None = None
    destination_id: Id | None = None
    source: SourceIn | None = None


class CountOut(Model):
    """How many values of a kind have a fate."""

    kind: str
    fate: Fate
    count: int


class VanishOut(Model):
    """What would be there no more: names of lists, and paths of tracks of which there are ``count``."""

    lists: list[str]
    tracks: list[str]
    count: int


class LedgerOut(Model):
    """The ledger of an order: values by kind and fate, and how tracks stand to what is there.

    ``off_ms`` has for kinds of grids how far they are off at most, ``later`` how many tracks the other side
    has changed itself by part, ``mapped`` how many tracks each beginning of paths is found by;
    ``without_in_point`` counts where cues go at all.
    """

    job_id: int
    tracks: int
    lists: int
    counts: list[CountOut]
    off_ms: dict[str, float]
    states: dict[str, int]
    later: dict[str, int]
    mapped: dict[str, int]
    vanish: VanishOut
    without_in_point: int
    problems: list[str]


class SaidOut(Model):
    """What becomes of one value of a track."""

    track: str
    kind: str
    fate: Fate
    what: str
    here: str
    there: str
    why: str
    option: str


class SaidPage(Model):
    """Some rows of the ledger, and how many there are."""

    count: int
    rows: list[SaidOut]


class LaidCue(Model):
    """A cue as it stands on one side, on our time; ``mark`` is what is written on its flag."""

    position_s: float
    length_s: float | None
    mark: str
    name: str
    stays: bool


class DifferenceFound(Model):
    """A value that was read back and is not what was promised."""

    track: str
    what: str
    promised: str
    found: str


class TriedOut(Model):
    """One track, both sides: cues and bar starts on our time, what became of its values, what differs."""

    track_id: int
    title: str
    artist: str
    duration_s: float
    padding_ms: float
    counts_padding: bool
    ours: list[LaidCue]
    theirs: list[LaidCue]
    our_bars: list[float]
    their_bars: list[float]
    worst_ms: float
    rows: list[SaidOut]
    values: int
    findings: list[DifferenceFound]


class ReportOut(Model):
    """What was written, read back and compared."""

    job_id: int
    target: Target
    place: str
    kept: str | None
    tracks: int
    lists: int
    values: int
    equal: int
    made_at: str
    failures: int
    findings_count: int
    findings: list[DifferenceFound]
    ledger: LedgerOut


class ReportLine(Model):
    """A report in the list of all."""

    job_id: int
    subject: str
    state: str
    error: str | None
    tracks: int
    values: int
    equal: int
    failures: int
    at: str


class DestinationOut(Model):
    """A way to another library that is kept under a name."""

    id: int
    name: str
    target: Target
    order: OrderBody
    carried_at: str | None
    tracks: int


class DestinationIn(Model):
    """A way to be kept, under a name."""

    name: Name
    order: OrderBody


class LibraryLookIn(Model):
    """A library to be looked at, and where its paths lead here."""

    target: Kept
    place: PlaceText
    mappings: Annotated[list[PathPair], Field(max_length=50, default_factory=list)]
    by_names: bool = True


class KindChosen(Model):
    """How many differences of a kind have an answer."""

    kind: str
    choice: str
    values: int
    tracks: int


class ComingListOut(Model):
    """A list of the other library, and how many of its tracks are found here."""

    name: str
    kind: str
    tracks: int
    found: int


class MappingFinds(Model):
    """A beginning of their paths and ours, with how many of the missing tracks that finds."""

    there: str
    here: str
    finds: int


class ReviewOut(Model):
    """What a library holds, compared with what is here."""

    job_id: int
    target: Kept
    place: str
    states: dict[str, int]
    kinds: list[KindChosen]
    lists: list[ComingListOut]
    plays: int
    mappings: list[MappingFinds]
    problems: list[str]
    taken: bool


class ReviewRow(Model):
    """A value there that is not the one here, and what will be."""

    id: int
    track_id: int
    track: str
    kind: str
    what: str
    here: str
    there: str
    rule: str
    note: str
    choice: Literal["rule", "theirs", "ours", "add"]
    ways: list[Literal["rule", "theirs", "ours", "add"]]


class ReviewPage(Model):
    """Some differences, and how many there are."""

    count: int
    rows: list[ReviewRow]


class ChooseIn(Model):
    """An answer for all differences, for those of a kind, or for some."""

    choice: Literal["rule", "theirs", "ours", "add"]
    kind: Annotated[str, Field(max_length=40)] | None = None
    ids: Annotated[list[Id], Field(max_length=200_000)] | None = None


class TakeIn(Model):
    """What is taken in beside the differences that were chosen."""

    lists: bool = True
    plays: bool = True


class CameOut(Model):
    """A track of the other library that is not in this one."""

    title: str
    path: str
    file: str | None
    reason: str


class LibraryFound(Model):
    """A library that is told by its name."""

    name: str
    path: str
    target: Kept
    label: str


class LibraryPlaces(Model):
    """Folders and libraries in a folder."""

    path: str
    parent: str | None
    roots: list[str]
    folders: list[FolderOut]
    libraries: list[LibraryFound]


class DocumentIn(Model):
    """Where Vinyl's own document is written: everything, or some lists."""

    place: PlaceText
    lists: Annotated[list[Id], Field(max_length=100_000)] | None = None


class RestoreIn(Model):
    """A document that an empty library is to become."""

    place: PlaceText
    mappings: Annotated[list[PathPair], Field(max_length=50, default_factory=list)]
