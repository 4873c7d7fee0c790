"""Sections, phrases and proposals for cues, on a track put together from loops."""

from __future__ import annotations

import numpy as np
import pytest
from numpy.typing import NDArray

from tests.signals import RATE_HZ, chord_tone, drums_on
from vinyl.core.analysis import Analysis, analyse
from vinyl.core.rhythm.onset import onsets
from vinyl.core.structure.bars import Bars
from vinyl.core.structure.phrases import phrase_places
from vinyl.core.structure.sections import find_structure

BAR_S = 2.0
PLAN = (("intro", 16), ("main", 24), ("break", 16), ("main", 24), ("outro", 16))


def _track(pick_up_bars: int = 0) -> NDArray[np.float32]:
    """At 120: drums alone, then with bass and chords, chords alone, all again, drums alone."""
    parts = []
    for label, bars in (("intro", pick_up_bars), *PLAN):
        if not bars:
            continue
        beats = drums_on(np.arange(bars * 4) * 0.5, bars * BAR_S, chords=False)[0]
        chord = np.concatenate(
            [chord_tone((57, 60, 64) if bar % 2 else (53, 57, 60), BAR_S) for bar in range(bars)]
        )
        bass = np.concatenate([chord_tone((33,) if bar % 2 else (29,), BAR_S) for bar in range(bars)])
        mix = {
            "intro": 0.6 * beats,
            "outro": 0.6 * beats,
            "break": 0.15 * chord,
            "main": beats + 0.15 * chord + 0.3 * bass,
        }[label]
        parts.append(mix)
    mono = np.concatenate(parts).astype(np.float32)
    return np.stack([mono, mono])


def _analysed(pick_up_bars: int = 0) -> Analysis:
    result = analyse(_track(pick_up_bars), (90, 160))
    assert result.grid is not None and result.grid.tempo_map.bpm == pytest.approx(120, abs=0.02)
    return result


def _starts(result: Analysis, label: str) -> list[float]:
    return [section.start_s for section in result.structure.sections if section.label.startswith(label)]


def test_sections_begin_on_their_bars_and_bear_their_names() -> None:
    result = _analysed()
    expected = np.concatenate([[0], np.cumsum([bars for _, bars in PLAN])]) * BAR_S
    assert _starts(result, "main")[0] == pytest.approx(expected[1], abs=0.02)
    assert _starts(result, "break")[0] == pytest.approx(expected[2], abs=0.02)
    assert _starts(result, "outro")[0] == pytest.approx(expected[4], abs=0.02)
    assert result.structure.drops_s == pytest.approx([expected[3]], abs=0.02)
    ends = [section.end_s for section in result.structure.sections]
    assert ends[:-1] == [section.start_s for section in result.structure.sections[1:]], "no gaps, no overlaps"


def test_phrases_are_counted_from_where_the_music_changes() -> None:
    result = _analysed(pick_up_bars=3)
    assert result.structure.phrase_s is not None
    phrases = (result.structure.phrase_s - 3 * BAR_S) / (8 * BAR_S)
    assert phrases == pytest.approx(round(phrases), abs=0.01)


def test_cues_are_proposed_in_whole_phrases() -> None:
    cues = {cue.label: cue for cue in _analysed().cues}
    assert {"in", "main", "break", "drop", "out"} <= set(cues)
    phrases = (cues["main"].time_s - cues["in"].time_s) / (8 * BAR_S)
    assert phrases >= 1 and phrases == pytest.approx(round(phrases), abs=1e-3)
    assert cues["in"].time_s >= 0
    assert (cues["out"].role, cues["break"].role) == ("out", None)


def _bars(*parts: tuple[int, float]) -> Bars:
    """Bars of parts that sound alike in themselves, so many of each, at such a level."""
    counts = [count for count, _ in parts]
    random = np.random.default_rng(3)
    sound, pitch, onsets = (
        np.repeat(random.random((len(parts), size)), counts, axis=0) for size in (30, 24, 2)
    )
    level = np.repeat([level for _, level in parts], counts)
    starts_s = np.arange(sum(counts) + 1) * BAR_S
    return Bars(starts_s, sound * level[:, None], pitch, level, level, onsets)


@pytest.mark.parametrize(
    ("parts", "starts"),
    [
        ([(16, 1.0), (4, 0.4), (4, 0.7), (16, 1.0)], [0, 16, 24]),  # a build that rises in two steps
        ([(16, 1.0), (4, 0.2), (12, 0.9), (8, 0.2)], [0, 16, 20, 32]),  # half a phrase that is no part of one
        ([(6, 0.001), (16, 0.7), (16, 1.0), (3, 0.001)], [0, 22]),  # silence before the music and after
        ([(2, 0.3), (16, 0.7), (16, 1.0)], [0, 2, 18]),  # a file that was cut in the middle of a phrase
    ],
)
def test_sections_are_phrases_wherever_a_file_begins(
    parts: list[tuple[int, float]], starts: list[int]
) -> None:
    assert [section.first_bar for section in find_structure(_bars(*parts)).sections] == starts


@pytest.mark.parametrize(("changes_at", "place"), [(None, 0), (3, 3)])
def test_phrases_begin_with_the_music_unless_all_changes_say_other(
    changes_at: int | None, place: int
) -> None:
    bars = _bars(*[(8, 1.0)] * 6) if changes_at is None else _bars((changes_at, 1.0), *[(8, 1.0)] * 6)
    if changes_at is None:
        bars.sound[:] = np.random.default_rng(1).random(bars.sound.shape)
        bars.onsets[:] = np.random.default_rng(2).random(bars.onsets.shape)
    silent = onsets(np.zeros(RATE_HZ, np.float32), RATE_HZ)
    assert int(phrase_places(silent, bars).argmax()) == place


def test_a_track_without_a_beat_has_no_sections() -> None:
    hum = 0.2 * np.stack([chord_tone((45, 52, 57), 20.0)] * 2).astype(np.float32)
    result = analyse(hum + 1e-4 * np.random.default_rng(0).standard_normal(hum.shape).astype(np.float32))
    if result.grid is None:
        assert result.structure.sections == () and result.cues == ()
    assert RATE_HZ * result.duration_s == hum.shape[1]
