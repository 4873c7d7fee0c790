"""Transitions between two tracks of a set: what speaks against one, what would help, and what it costs."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from vinyl.core.planning.fitting import change_of_tempo, key_relations
from vinyl.core.text import fold
from vinyl.core.tonal.key import Key, after_tempo_change, parse_key

Kind = Literal[
    "tempo", "key", "energy", "artist", "again", "here", "never", "grid", "away", "missing", "cleared"
]
# What is weighed in a running order: each cost is about 1 where a DJ would begin to mind.
Weight = Literal["tempo", "rise", "keys", "arc"]
# Energy that may be lost at once, doubt in a grid that is no longer small, and in how many tracks an artist
# should not come twice.
ENERGY_FALL, DOUBT, ARTIST_APART = 15, 0.4, 3
# How well keys go together (0 to 1) from which nobody minds; what it costs if they clash or are not known.
KEYS_GO, CLASH, UNKNOWN = 0.5, 1.5, 0.4
UNKNOWN_TEMPO = 0.5


@dataclass(frozen=True, slots=True)
class Stop:
    """A track at its place in a set; None where something is not known.

    ``lately`` is on which day it was played at the venue, if that is not long ago, ``never`` why it shall not
    be played there, ``uncleared`` what speaks against it in a recording.
    """

    bpm: float | None
    key: str | None
    energy: int | None
    duration_s: float = 0.0
    artist: str = ""
    doubt: float | None = None
    away: bool = False
    owned: bool = True
    lately: str = ""
    never: str = ""
    uncleared: str = ""


@dataclass(frozen=True, slots=True)
class Rules:
    """What a DJ allows: the change of tempo in percent, and whether players hold the key while it changes."""

    tempo_percent: float = 6.0
    key_held: bool = True


@dataclass(frozen=True, slots=True)
class Caution:
    """What speaks against a transition or a track, and what would help, in words."""

    kind: Kind
    words: str
    help: str = ""


@dataclass(frozen=True, slots=True)
class Transition:
    """One track into the next: percent by which the second must be faster (None where not known), how it is
    counted then, the relation of keys, and the step in energy.
    """

    change_percent: float | None
    counted: str
    relation: str
    key_goes: float | None
    energy_step: int | None

    @property
    def words(self) -> tuple[str, ...]:
        """What it is, for people."""
        return tuple(self._told())

    def _told(self) -> Iterator[str]:
        if self.change_percent is None:
            yield "tempo not known"
        else:
            sign = "−" if self.change_percent > 0 else "+"
            yield f"{sign}{abs(self.change_percent):.1f} %{self.counted}"
        yield self.relation
        if self.energy_step is not None:
            yield f"energy {'+' if self.energy_step >= 0 else '−'}{abs(self.energy_step)}"


def transition(out: Stop, into: Stop, rules: Rules) -> Transition:
    """How one track goes over into another."""
    change, counted = change_of_tempo(out.bpm, into.bpm)
    relation, goes = _keys(out.key, into.key, change, rules)
    step = None if out.energy is None or into.energy is None else into.energy - out.energy
    return Transition(change, counted, relation, goes, step)


def _keys(
    first: str | None, second: str | None, change: float | None, rules: Rules
) -> tuple[str, float | None]:
    """How keys are related, the second's as it sounds once it is slowed or hastened to the first's tempo."""
    if not first or not second:
        return "key not known", None
    key, heard = parse_key(first), parse_key(second)
    if not rules.key_held and change:
        heard, _ = after_tempo_change(heard, change)
    found = key_relations(key, "wide").get(heard)
    return found if found is not None else (_far(key, heard), 0.0)


def _far(key: Key, other: Key) -> str:
    steps = (other.tonic - key.tonic) % 12
    return "a tritone away" if steps == 6 else f"{min(steps, 12 - steps)} semitones away"


def cautions_between(out: Stop, into: Stop, rules: Rules, again: bool = False) -> list[Caution]:
    """What speaks against a transition.

    Args:
        again: whether the two followed each other the last time at this venue too.
    """
    return [*_tempo_cautions(out, into, rules), *_other_cautions(out, into, rules, again)]


def _tempo_cautions(out: Stop, into: Stop, rules: Rules) -> Iterator[Caution]:
    change = transition(out, into, rules).change_percent
    if change is not None and abs(change) > rules.tempo_percent:
        assert out.bpm and into.bpm
        between = (out.bpm * into.bpm) ** 0.5
        yield Caution(
            "tempo",
            f"{'−' if change > 0 else '+'}{abs(change):.0f} % is a jump",
            f"something near {between:.0f} bpm between them, a break, or another place",
        )


def _other_cautions(out: Stop, into: Stop, rules: Rules, again: bool) -> Iterator[Caution]:
    found = transition(out, into, rules)
    if found.key_goes is not None and found.key_goes < KEYS_GO:
        yield Caution(
            "key", f"keys clash: {found.relation}", "a short joint, drums only, or a key between them"
        )
    if found.energy_step is not None and -found.energy_step > ENERGY_FALL:
        yield Caution(
            "energy", f"energy falls by {-found.energy_step}", "wanted as a breath, or to be placed later"
        )
    if again:
        yield Caution("again", "these two followed each other here last time", "another track between them")


def cautions_at(stops: Sequence[Stop], place: int) -> list[Caution]:
    """What speaks against a track at its place."""
    stop = stops[place]
    found = []
    if stop.never:
        found.append(Caution("never", stop.never, "take it out, or put it back into the tray"))
    if stop.lately:
        found.append(Caution("here", f"played here {stop.lately}", "something else for this time"))
    if not stop.owned:
        found.append(Caution("missing", "not on the Shelf", "get it, or take it out"))
    if stop.away:
        found.append(Caution("away", "its file is away", "plug its drive in before it goes to a stick"))
    if stop.doubt is not None and stop.doubt >= DOUBT:
        found.append(Caution("grid", "its grid is in doubt", "look at it at the Workbench"))
    if stop.uncleared:
        found.append(Caution("cleared", stop.uncleared, "another track if it is recorded, or see Clearance"))
    near = [fold(other.artist) for other in stops[max(0, place - ARTIST_APART + 1) : place]]
    if stop.artist and fold(stop.artist) in near:
        found.append(Caution("artist", f"{stop.artist} again so soon", "place them further apart"))
    return found


def cost(out: Stop, into: Stop, rules: Rules, weights: Mapping[Weight, float]) -> float:
    """What a transition costs in a running order: 0 where nothing changes."""
    found = transition(out, into, rules)
    tempo = (
        UNKNOWN_TEMPO if found.change_percent is None else (found.change_percent / rules.tempo_percent) ** 2
    )
    keys = UNKNOWN if found.key_goes is None else (1.0 - found.key_goes) * CLASH
    fall = max(0, -(found.energy_step or 0)) / ENERGY_FALL
    slower = 0.0
    if out.bpm and into.bpm:
        slower = max(0.0, out.bpm / into.bpm - 1.0) * 100.0 / rules.tempo_percent
    return (
        weights.get("tempo", 0.0) * tempo
        + weights.get("rise", 0.0) * slower
        + weights.get("keys", 0.0) * keys
        + weights.get("arc", 0.0) * 0.3 * fall
    )


@dataclass(frozen=True, slots=True)
class Handover:
    """Where one track of a set goes over into the next: for how long both sound, and at which time of either
    that begins, where it was said.
    """

    over_s: float
    out_s: float | None = None
    in_s: float | None = None


def begins_s(durations_s: Sequence[float], handovers: Sequence[Handover]) -> list[float]:
    """When each track of a set begins to be heard, from its start on, and when the last ends: (n + 1).

    Args:
        handovers: of each but the last to the next. Where nothing was said of times, the next begins so long
            before the end as both sound, at most the half of either.
    """
    at, from_s, times = 0.0, 0.0, []
    for place, duration_s in enumerate(durations_s):
        times.append(at)
        to_s, next_s = duration_s, 0.0
        if place < len(handovers):
            hand = handovers[place]
            shortest = min(duration_s, durations_s[place + 1])
            to_s = duration_s - min(hand.over_s, shortest / 2) if hand.out_s is None else hand.out_s
            next_s = hand.in_s or 0.0
        at += max(0.0, to_s - from_s)
        from_s = next_s
    return [*times, at]
