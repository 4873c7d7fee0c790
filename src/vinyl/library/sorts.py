"""What tracks can be sorted by, and the SQL that each goes by."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

SortName = Literal[
    "title", "artist", "album", "genre", "bpm", "key", "lufs", "energy", "duration_s",
    "added_at", "rating", "doubt",
    "year", "label", "bit_rate", "codec", "plays", "last_played", "went_well", "last_at", "cue_count",
    "colour", "backing", "remixer",
    "composer", "grouping", "catalogue", "language", "comment", "away", "wanted", "locks", "crate",
]  # fmt: skip
# Texts that few tracks have: those without come last.
_SPARSE = ("remixer", "composer", "grouping", "catalogue", "language")
# What each sort goes by. Ties go by title where the index has it, which for those in DOWN runs from the
# highest; else by id.
SORTS: Mapping[str, str] = {
    "title": "shelf.title COLLATE NOCASE",
    "artist": "shelf.artist COLLATE NOCASE",
    "album": "shelf.album COLLATE NOCASE",
    "genre": "shelf.genre COLLATE NOCASE",
    "bpm": "shelf.bpm",
    "key": "shelf.key_place",
    "lufs": "shelf.lufs",
    "energy": "shelf.energy",
    "duration_s": "shelf.duration_s",
    "added_at": "shelf.added_at",
    "rating": "shelf.rating",
    "doubt": "shelf.doubt",
    "year": "shelf.year",
    "label": "shelf.label COLLATE NOCASE",
    "bit_rate": "shelf.bit_rate",
    "codec": "shelf.codec",
    "plays": "shelf.plays",
    "last_played": "shelf.last_played",
    "went_well": "shelf.went_well",
    "cue_count": "shelf.cue_count",
    "colour": "nullif(shelf.colour, '')",
    "backing": "shelf.backing_id",
    **{name: f"nullif(shelf.{name}, '') COLLATE NOCASE" for name in _SPARSE},
    "comment": "nullif(substr(shelf.comment, 1, 60), '') COLLATE NOCASE",
    "away": "shelf.away",
    "wanted": "shelf.wanted",
    "locks": "nullif(shelf.locks, '')",
}
