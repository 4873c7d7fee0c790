"""Where a DJ would set cues: in, main and out, breaks and drops, by the rule of whole phrases."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from vinyl.core.cues.bounds import Role
from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.structure.sections import Section, Structure

# The in point lies up to so many phrases before the main part.
LONGEST_LEAD_PHRASES = 4
# A cue so near to a proposal answers it.
ANSWERED_BEATS = 2.0
# The same for a mark of the file itself.
EXACT_S = 0.05
# What must be left after the out point; of a track that ends in its main part, so much of that.
LEAST_OUT_BARS = 8
LAST_BARS = 16
# A bar that begins so little before the sound begins with it.
EARLIEST_S = 0.05


@dataclass(frozen=True, slots=True)
class CueProposal:
    """A point, or a loop of ``length_s``, in seconds, with a role or only a label.

    An ``exact`` one is a mark that the file itself carries: it stays where it is, whatever the grid says.
    """

    time_s: float
    role: Role | None
    label: str
    length_s: float | None = None
    exact: bool = False


def propose_cues(structure: Structure, tempo_map: TempoMap) -> tuple[CueProposal, ...]:
    """In, a whole number of phrases before the first main part; main; breaks and drops; out, where the outro
    begins.
    """
    mains = [section for section in structure.sections if section.label.startswith("main")]
    if not mains:
        return ()
    found = [CueProposal(mains[0].start_s, "main", "main")]
    lead_in = _lead_in(mains[0].start_s, tempo_map)
    if lead_in is not None:
        found.append(CueProposal(lead_in, "in", "in"))
    found.append(CueProposal(_way_out(structure.sections, mains[-1]), "out", "out"))
    found += [
        CueProposal(s.start_s, None, "break")
        for s in structure.sections
        if s.label == "break" and s.start_s > mains[0].start_s
    ]
    found += [CueProposal(time_s, None, "drop") for time_s in structure.drops_s if time_s > mains[0].start_s]
    return tuple(sorted(found, key=lambda cue: cue.time_s))


def still_open(
    proposals: Sequence[CueProposal], cues: Iterable[tuple[float, str | None]], tempo_map: TempoMap | None
) -> list[CueProposal]:
    """Proposals that no cue (seconds, role) answers yet: none stands there, and none has the role.

    Each lies on a bar of the grid; without a grid only exact ones are left.
    """
    there = list(cues)
    left = [proposal for proposal in proposals if proposal.exact and not _is_answered(proposal, there)]
    if tempo_map is not None:
        left += _open_on_grid((p for p in proposals if not p.exact), there, tempo_map)
    return sorted(left, key=lambda proposal: proposal.time_s)


def _is_answered(mark: CueProposal, cues: Iterable[tuple[float, str | None]]) -> bool:
    return any(abs(time_s - mark.time_s) < EXACT_S for time_s, _ in cues)


def _open_on_grid(
    proposals: Iterable[CueProposal], cues: Iterable[tuple[float, str | None]], tempo_map: TempoMap
) -> list[CueProposal]:
    set_cues = [(float(tempo_map.beat_at(time_s)), role) for time_s, role in cues]
    left = []
    for proposal in proposals:
        time_s = tempo_map.snap(proposal.time_s, "bar")
        time_s = 0.0 if -EARLIEST_S < time_s < 0.0 else time_s
        beat = float(tempo_map.beat_at(time_s))
        taken = any(
            abs(beat - other) < ANSWERED_BEATS or (role is not None and role == proposal.role)
            for other, role in set_cues
        )
        if not taken and time_s >= 0.0:
            left.append(replace(proposal, time_s=time_s))
    return left


def _lead_in(main_s: float, tempo_map: TempoMap) -> float | None:
    """The earliest start of a phrase, counted back from the main part, that the track has and that is not too
    far.
    """
    main_beat = float(tempo_map.beat_at(main_s))
    phrase = tempo_map.beats_per_bar * tempo_map.phrase_bars
    for phrases in range(LONGEST_LEAD_PHRASES, 0, -1):
        time_s = float(tempo_map.time_at(main_beat - phrases * phrase))
        if time_s > -0.005:
            return max(time_s, 0.0)
    return None


def _way_out(sections: tuple[Section, ...], last_main: Section) -> float:
    """The start of the outro, or the end of the last main part, if a phrase at least is left; else the last
    phrases of the main part.
    """
    end = sections[-1].end_bar
    for section in sections:
        if (
            section.label == "outro"
            and section.start_s >= last_main.start_s
            and end - section.first_bar >= LEAST_OUT_BARS
        ):
            return section.start_s
    if end - last_main.end_bar >= LEAST_OUT_BARS:
        return last_main.end_s
    bars = last_main.end_bar - last_main.first_bar
    return (
        last_main.start_s + (last_main.end_s - last_main.start_s) * max(0, (bars - LAST_BARS) // 8 * 8) / bars
    )
