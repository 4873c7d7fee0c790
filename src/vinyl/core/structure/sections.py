"""Sections of a track on bar starts, where its phrases begin, and what each section is."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from vinyl.core.rhythm.tempo_map import TempoMap
from vinyl.core.structure.bars import Bars

# Fitted by hand on the development set and on made-up pieces (docs/accuracy.md), where no source is named.

PHRASE_BARS = 8
# Music of fewer bars has no sections; a section has no more than this.
LEAST_BARS = 8
LONGEST_BARS = 64
# Music changes where means over so many bars before and after differ.
SPANS_BARS = (2, 4, 8)
# What a section costs, in squared errors of that many bars; more by such shares if it is whole half phrases
# long, or not even that. The first and the last are not asked: files are cut anywhere.
SECTION_COST = 2.0
OFF_PHRASE_COST = 0.09
OFF_HALF_COST = 0.2
# Sections shorter than this cost so many times more, but for the first, which may be the end of one that the
# file has not.
SHORT_BARS, SHORT_COST = 4, 2.0
# Bars before the music and after it are quieter than this share of the usual level.
SILENT_LEVEL = 0.03
# What onsets and harmony have to say beside the sound (1).
ONSETS_SAY = 0.5
PITCH_SAY = 0.5
# A main part has these shares of the low end and of the bass drum that the fullest third of the track has.
FULL_LOW = 0.55
FULL_KICK = 0.5
# A build has so many times the onsets of what comes before.
RISE = 1.25
# Shares of the usual level: of the first and last full section at least, and of a main part that is a break
# after all.
BREAK_LEVEL = 0.73
FAINT_LEVEL = 0.6
# The share of the usual tones that the first full section has.
FULL_TONES = 0.7
# Mains whose mean features (of length 1 or so) lie closer than this sound the same.
ALIKE = 0.75

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Section:
    """Bars from ``first_bar`` up to ``end_bar``, in seconds too, and what they are."""

    start_s: float
    end_s: float
    first_bar: int
    end_bar: int
    label: str


@dataclass(frozen=True, slots=True)
class Structure:
    """Sections in order, a time on which a phrase of 8 bars begins, and where the low end returns after a
    break.
    """

    sections: tuple[Section, ...] = ()
    phrase_s: float | None = None
    drops_s: tuple[float, ...] = ()


def find_structure(bars: Bars) -> Structure:
    """Sections by optimal partitioning of the bars' features, those that are no whole phrases paying more."""
    if len(bars) < LEAST_BARS:
        return Structure()
    features = _features(bars)
    cuts = _whole_phrases(_cuts(features))
    spans = list(pairwise(cuts))
    sections = _joined(bars, spans, _labels(bars, features, spans))
    return Structure(sections, float(bars.starts_s[_offset(features, cuts)]), _drops(sections))


def phrase_starts(tempo_map: TempoMap, phrase_s: float, duration_s: float) -> list[float]:
    """Times in seconds of all phrase starts within a track, given one of them."""
    length = tempo_map.beats_per_bar * tempo_map.phrase_bars
    beat = round(float(tempo_map.beat_at(phrase_s))) % length
    first, last = (float(b) for b in tempo_map.beat_at([0.0, duration_s]))
    phrases = np.arange(np.ceil((first - beat) / length - 1e-6), np.ceil((last - beat) / length))
    starts: list[float] = tempo_map.time_at(beat + phrases * length).tolist()
    return starts


def _features(bars: Bars) -> FloatArray:
    """Rows (bars, dims) in which distance is difference of sound: bands, onsets, and harmony with less say.
    Silence at either end is as the music beside it.
    """
    sounding = np.flatnonzero(bars.level > SILENT_LEVEL * np.median(bars.level))
    first, end = (int(sounding[0]), int(sounding[-1]) + 1) if len(sounding) else (0, len(bars))
    pitch = bars.pitch / (np.sqrt((bars.pitch**2).sum(axis=1, keepdims=True)) + 1e-9)
    parts = (1.0, bars.sound), (ONSETS_SAY, bars.onsets), (PITCH_SAY, pitch)
    rows = np.hstack([say * _of_one_spread(part[first:end]) for say, part in parts])
    return np.pad(rows, ((first, len(bars) - end), (0, 0)), mode="edge")


def _of_one_spread(rows: FloatArray) -> FloatArray:
    away = rows - rows.mean(axis=0)
    scaled: FloatArray = away / (np.sqrt((away**2).sum(axis=1).mean()) + 1e-9)
    return scaled


def _offset(features: FloatArray, cuts: list[int]) -> int:
    """The first bar with which a phrase begins: that from which most of the change between sections is whole
    phrases away, or most of all change where there is but one section.
    """
    change = np.sum([_change(features, span) for span in SPANS_BARS], axis=0)
    at = np.array(cuts[1:-1] or range(len(features)), np.int64)
    return int(np.argmax(np.bincount(at % PHRASE_BARS, weights=change[at], minlength=PHRASE_BARS)))


def _change(features: FloatArray, span: int) -> FloatArray:
    """Squared distance between the means of the bars after and before each bar start."""
    total = np.vstack([np.zeros(features.shape[1]), np.cumsum(features, axis=0)])
    index = np.arange(span, len(features) - span + 1)
    change = np.zeros(len(features))
    if len(index):
        difference = (total[index + span] - 2 * total[index] + total[index - span]) / span
        change[index[index < len(features)]] = np.square(difference).sum(axis=1)[index < len(features)]
    return change


def _cuts(features: FloatArray) -> list[int]:
    """Bars at which sections begin, and the end: least squared error within sections plus a
    price for each."""
    count = len(features)
    total = np.vstack([np.zeros(features.shape[1]), np.cumsum(features, axis=0)])
    squares = np.concatenate([[0.0], np.cumsum((features**2).sum(axis=1))])
    price = SECTION_COST * squares[-1] / count
    asked = np.array([_asked(bars) for bars in range(LONGEST_BARS + 1)])
    best, back = np.zeros(count + 1), np.zeros(count + 1, np.int64)
    for end in range(1, count + 1):
        starts = np.arange(max(0, end - LONGEST_BARS), end)
        length = end - starts
        error = squares[end] - squares[starts] - ((total[end] - total[starts]) ** 2).sum(axis=1) / length
        paid = price * np.where((starts > 0) & (end < count), asked[length], 1.0)
        cost = best[starts] + error + paid * np.where((length < SHORT_BARS) & (starts > 0), SHORT_COST, 1.0)
        choice = int(np.argmin(cost))
        best[end], back[end] = cost[choice], starts[choice]
    cuts = [count]
    while cuts[-1] > 0:
        cuts.append(int(back[cuts[-1]]))
    return cuts[::-1]


def _whole_phrases(cuts: list[int]) -> list[int]:
    """The cuts without those in the middle of a phrase whose halves both stand alone, as builds do that rise
    in steps.
    """
    kept = cuts[:1]
    for cut, after in pairwise(cuts[1:]):
        if not cut - kept[-1] == after - cut == PHRASE_BARS // 2:
            kept.append(cut)
    return [*kept, cuts[-1]]


def _asked(bars: int) -> float:
    """What a section of so many bars costs, in prices of one of whole phrases."""
    if bars % PHRASE_BARS == 0:
        return 1.0
    return 1.0 + (OFF_PHRASE_COST if bars % (PHRASE_BARS // 2) == 0 else OFF_HALF_COST)


def _labels(bars: Bars, features: FloatArray, spans: list[tuple[int, int]]) -> list[str]:
    low = np.array([bars.low[a:b].mean() for a, b in spans])
    level = np.array([bars.level[a:b].mean() for a, b in spans])
    onsets = np.array([bars.onsets[a:b].sum(axis=1).mean() for a, b in spans])
    lengths = np.array([b - a for a, b in spans], dtype=np.float64)
    kick = np.array([bars.onsets[a:b, 0].mean() for a, b in spans])
    full_level = _usual_high(level, lengths)
    has_low = (low > FULL_LOW * _usual_high(low, lengths)) & (kick > FULL_KICK * _usual_high(kick, lengths))
    labels = ["main" if has else "break" for has in has_low]
    for index in range(len(spans)):
        if labels[index] == "break" and index + 1 < len(spans) and has_low[index + 1]:
            labels[index] = _break_or_build(bars, spans[index], onsets, index)
    tones = np.array([bars.pitch[a:b, 12:].sum(axis=1).mean() for a, b in spans])
    _edges(labels, level / full_level, has_low, tones / _usual_high(tones, lengths))
    return _lettered(labels, features, spans)


def _usual_high(values: FloatArray, lengths: FloatArray) -> float:
    """The value that the louder third of the bars has."""
    order = np.argsort(values)[::-1]
    reached = np.searchsorted(np.cumsum(lengths[order]), lengths.sum() / 3)
    return float(values[order[min(int(reached), len(order) - 1)]]) + 1e-12


def _break_or_build(bars: Bars, span: tuple[int, int], onsets: FloatArray, index: int) -> str:
    """A build rises in onsets or brightness towards its end, and comes after a break or is dense itself."""
    first, last = span
    rise = bars.onsets[first:last].sum(axis=1)
    half = max(1, (last - first) // 2)
    rising = rise[half:].mean() > RISE * rise[:half].mean() if last - first >= 4 else False
    follows_break = index > 0 and onsets[index] > RISE * onsets[index - 1]
    return "build" if rising or follows_break else "break"


def _edges(labels: list[str], level: FloatArray, has_low: NDArray[np.bool_], tones: FloatArray) -> None:
    """Name the sections before the first full one intro, and those after the last outro, in place."""
    for whole in (
        has_low & (level > BREAK_LEVEL) & (tones > FULL_TONES),
        has_low & (level > BREAK_LEVEL),
        level >= level.max(),
    ):
        if whole.any():
            break
    first, last = np.flatnonzero(whole)[[0, -1]]
    for index in range(first):
        labels[index] = "build" if labels[index] == "build" and 0 < index == first - 1 else "intro"
    for index in range(last + 1, len(labels)):
        labels[index] = "outro"
    for index in range(first, last + 1):
        if labels[index] == "main" and level[index] < FAINT_LEVEL:
            labels[index] = "break"


def _lettered(labels: list[str], features: FloatArray, spans: list[tuple[int, int]]) -> list[str]:
    """Mains that differ in sound get letters, so that what repeats bears one name."""
    groups: list[FloatArray] = []
    names = list(labels)
    mains = [i for i, label in enumerate(labels) if label == "main"]
    letters = {}
    for index in mains:
        mean = features[slice(*spans[index])].mean(axis=0)
        near = [g for g, other in enumerate(groups) if np.linalg.norm(mean - other) < ALIKE]
        if not near:
            groups.append(mean)
        letters[index] = near[0] if near else len(groups) - 1
    if len(groups) > 1:
        for index, letter in letters.items():
            names[index] = f"main {chr(ord('A') + min(letter, 25))}"
    return names


def _joined(bars: Bars, spans: list[tuple[int, int]], labels: list[str]) -> tuple[Section, ...]:
    """Sections out of spans; an outro that thins out in steps is one."""
    sections: list[Section] = []
    for (first, end), label in zip(spans, labels, strict=True):
        if sections and label == sections[-1].label == "outro":
            first = sections.pop().first_bar
        sections.append(Section(float(bars.starts_s[first]), float(bars.starts_s[end]), first, end, label))
    return tuple(sections)


def _drops(sections: tuple[Section, ...]) -> tuple[float, ...]:
    """Starts of mains that follow a break or a build."""
    return tuple(
        b.start_s
        for a, b in pairwise(sections)
        if a.label in ("break", "build") and b.label.startswith("main")
    )
