"""What each other library can hold, and how it counts: the ground of the ledger."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

Name = Literal["reedbank", "tidewrack", "saltmarsh", "vinyl", "stick", "m3u8", "pls", "xspf", "cue", "csv"]
Colours = Literal["palette", "hue", "any"]


@dataclass(frozen=True, slots=True)
class Traits:
    """A library's ways.

    ``units_per_second`` and ``grid_units_per_second`` are the whole numbers in which positions are kept, None
    for seconds as they are. ``places`` are the numbered places for cues (for loops ``loop_places``, None
    where both share them), None for any number. ``words`` are the fields it has, each with the longest text,
    None for any length. ``stars`` is what one star counts. ``one_line``: texts have no
    line breaks, and without ``quotes`` no quotation marks.
    """

    name: Name
    label: str
    says: str
    units_per_second: int | None
    grid_units_per_second: int | None
    counts_padding: bool
    places: int | None
    loop_places: int | None
    quick_places: int
    keeps_elastic: bool
    keeps_engages: bool
    keeps_settled: bool
    keeps_folders: bool
    keeps_tags: bool
    keeps_plays: bool
    rules: Literal["none", "part"]
    colours: Colours
    key: Literal["text", "number"]
    energy: Literal["field", "comment"]
    stars: int
    relative_paths: bool
    words: Mapping[str, int | None]
    keeps_grid: bool = True
    one_line: bool = False
    quotes: bool = True


_COMMON = (
    "title", "artist", "album", "genre", "label", "remixer", "comment", "year", "key", "stars", "plays",
    "colour",
)  # fmt: skip
_MORE = (
    "composer",
    "grouping",
    "catalogue",
    "language",
    "isrc",
    "energy",
    "marks",
    "explicit",
    "never again",
)

REEDBANK = Traits(
    name="reedbank",
    label="Reedbank",
    says="one XML document · 8 pegs a track, for cues and loops alike · positions in ms, padding counted",
    units_per_second=1000,
    grid_units_per_second=1_000_000,
    counts_padding=True,
    places=8,
    loop_places=None,
    quick_places=0,
    keeps_elastic=False,
    keeps_engages=False,
    keeps_settled=True,
    keeps_folders=True,
    keeps_tags=False,
    keeps_plays=False,
    rules="none",
    colours="palette",
    key="text",
    energy="comment",
    stars=1,
    relative_paths=False,
    words=dict.fromkeys((*_COMMON, "composer")),
)
TIDEWRACK = Traits(
    name="tidewrack",
    label="Tidewrack",
    says="text lists beside the music, the rest in the files’ own tags · 5 cues and 4 loops a track · "
    "positions in samples at 44.1 kHz",
    units_per_second=44100,
    grid_units_per_second=44100,
    counts_padding=False,
    places=5,
    loop_places=4,
    quick_places=0,
    keeps_elastic=False,
    keeps_engages=False,
    keeps_settled=True,
    keeps_folders=False,
    keeps_tags=False,
    keeps_plays=False,
    rules="none",
    colours="hue",
    key="text",
    energy="comment",
    stars=20,
    relative_paths=True,
    words=dict.fromkeys((*_COMMON, "grouping"), 250),
)
SALTMARSH = Traits(
    name="saltmarsh",
    label="Saltmarsh",
    says="a database beside the music · any number of points in order, 8 quick places · elastic grids, "
    "loops that engage, plays",
    units_per_second=None,
    grid_units_per_second=None,
    counts_padding=False,
    places=None,
    loop_places=None,
    quick_places=8,
    keeps_elastic=True,
    keeps_engages=True,
    keeps_settled=True,
    keeps_folders=True,
    keeps_tags=True,
    keeps_plays=True,
    rules="part",
    colours="any",
    key="number",
    energy="field",
    stars=2,
    relative_paths=True,
    words=dict.fromkeys((*_COMMON, *_MORE)),
)
# Vinyl's own document, where it is looked at as another library; as a whole it is written without a ledger.
VINYL = replace(SALTMARSH, name="vinyl", label="Vinyl", says="a document of Vinyl’s own", key="text", stars=1)
# A stick that another Vinyl packed: looked at, and never written as a library.
STICK = replace(
    VINYL,
    name="stick",
    label="Stick",
    says="a stick that another Vinyl packed",
    keeps_tags=False,
    keeps_plays=False,
    words=dict.fromkeys(("title", "artist", "album", "key", "stars")),
)
# Playlists know files in an order, and little more.
M3U8 = replace(
    REEDBANK,
    name="m3u8",
    label="M3U8",
    says="a playlist file a list, with artist and title; players and programs open it",
    places=0,
    keeps_settled=False,
    keeps_folders=False,
    keeps_grid=False,
    one_line=True,
    words=dict.fromkeys(("title", "artist", "length")),
)
PLS = replace(M3U8, name="pls", label="PLS", says="a playlist file a list, with numbered entries")
XSPF = replace(M3U8, name="xspf", label="XSPF", says="an XML playlist a list, of the Xiph.Org Foundation")
CUE = replace(
    M3U8,
    name="cue",
    label="Cue sheets",
    says="a cue sheet a list, of a file a track; 99 tracks each, longer lists go on in a second",
    quotes=False,
)
CSV = replace(
    M3U8,
    name="csv",
    label="Table (CSV)",
    says="a table a list, with the columns that you choose; spreadsheets open it",
    energy="field",
    words=dict.fromkeys((*_COMMON, *_MORE, "length", "tempo")),
)
PLAYLISTS: Mapping[Name, Traits] = {each.name: each for each in (M3U8, PLS, XSPF, CUE, CSV)}
TARGETS: Mapping[Name, Traits] = {
    **{each.name: each for each in (REEDBANK, TIDEWRACK, SALTMARSH)},
    **PLAYLISTS,
}
SOURCES: Mapping[Name, Traits] = {**TARGETS, "vinyl": VINYL, "stick": STICK}


def units(seconds: float, per_second: int | None) -> float:
    """A time in a library's units; whole numbers where it counts in them."""
    return seconds if per_second is None else round(seconds * per_second)


def seconds(at: float, per_second: int | None) -> float:
    """The time of a number of units."""
    return at if per_second is None else at / per_second
