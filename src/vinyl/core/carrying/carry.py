"""A track as another library is to have it, and what becomes of each of its values on the way."""

from __future__ import annotations

from dataclasses import dataclass

from vinyl.core.carrying.card import Card
from vinyl.core.carrying.collection import Track
from vinyl.core.carrying.options import Options
from vinyl.core.carrying.outcomes import Outcome
from vinyl.core.carrying.paths import THIS_WAY, Way, path_there
from vinyl.core.carrying.points import carry_cues
from vinyl.core.carrying.steps import carry_grid
from vinyl.core.carrying.traits import Traits
from vinyl.core.carrying.words import carry_words


@dataclass(frozen=True, slots=True)
class Carried:
    """A track as the other library has it, and what became of its values."""

    card: Card
    outcomes: tuple[Outcome, ...]


def carry(track: Track, traits: Traits, options: Options, way: Way = THIS_WAY) -> Carried:
    """A track as a library is to have it.

    What its outcomes promise is what ``bring`` makes of the card again.
    """
    path, said = path_there(track.path, way)
    found: list[Outcome] = [_file(track), said]
    words: dict[str, str] = {}
    for outcome, kept in carry_words(track, traits, options):
        found.append(outcome)
        words |= kept
    if "length" in traits.words:
        words["length"] = f"{track.duration_s:.3f}"
    if "tempo" in traits.words and track.grid is not None:
        words["tempo"] = f"{track.grid.bpm:.2f}"
    steps, settled, outcomes = carry_grid(track, traits, options)
    found += outcomes
    points, outcomes = carry_cues(track, traits, options)
    found += outcomes
    tags = track.tags if traits.keeps_tags else ()
    beats = track.grid.beats_per_bar if track.grid and steps else 4
    card = Card(path, words, steps, beats, settled, points, tags)
    return Carried(card, tuple(found))


def _file(track: Track) -> Outcome:
    if track.is_away:
        return Outcome("files", "changed", "file", track.path, "", "away: its drive is not plugged in")
    return Outcome("files", "as it is", "file", track.path)
