"""The same music asked again in disguise: whoever answers otherwise was wrong at least once."""

from __future__ import annotations

import tempfile
from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import mir_eval
import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, resample_poly, sosfilt

from vinyl.bench.material import Samples
from vinyl.core.analysis import analyse
from vinyl.core.tonal.key import parse_key
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode_as

RATE_HZ = 44100
CUT_S, FASTER, DULL_HZ, QUIETER_DB = 17.0, 1.03, 8000.0, 12.0
LOW_RATE = replace(ENCODINGS["mp3"], bit_rate=128_000)
# A grid is the same if so many of its beats lie so near, and sections if they begin within a second.
SHARE, NEAR_S, SECTION_S = 0.95, 0.010, 1.0
# Keys are the same if what sounds as their tonics lies so near, in semitones.
SAME_PITCH = 0.35
SURE_DOUBT = 0.1

FloatArray = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Heard:
    """What a finder says of a piece; None where it does not speak of that."""

    beats_s: FloatArray
    bars_s: FloatArray | None = None
    course: str | None = None
    key: str | None = None
    tuning_cents: float = 0.0
    energy: int | None = None
    sections_s: FloatArray | None = None
    doubt: float | None = None


@dataclass(frozen=True, slots=True)
class Disguise:
    """A way to hide a piece. A time t of it becomes (t - ``cut_s``) / ``faster``."""

    name: str
    hide: Callable[[Samples], Samples]
    cut_s: float = 0.0
    faster: float = 1.0

    def moved(self, times_s: FloatArray, duration_s: float) -> FloatArray:
        """Where times of the piece are in its disguise, if they are in it at all."""
        moved = (times_s - self.cut_s) / self.faster
        kept: FloatArray = moved[(moved >= 0.0) & (moved < duration_s)]
        return kept


Finder = Callable[[Samples], Heard]


def ours(samples: Samples) -> Heard:
    """Vinyl's own analysis."""
    result = analyse(samples)
    key, energy = result.key, result.energy.value
    told = (None if key.key is None else str(key.key), key.tuning_cents, energy)
    if result.grid is None:
        return Heard(np.zeros(0), np.zeros(0), "none", *told, np.zeros(0), 1.0)
    tempo_map = result.grid.tempo_map
    return Heard(
        tempo_map.beats_between(0.0, result.duration_s),
        tempo_map.downbeats_between(0.0, result.duration_s),
        tempo_map.kind,
        *told,
        np.array([section.start_s for section in result.structure.sections]),
        result.grid.doubt,
    )


def _faster(samples: Samples) -> Samples:
    return resample_poly(samples, 100, round(100 * FASTER), axis=1).astype(np.float32)


def _as_mp3(samples: Samples) -> Samples:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "again.mp3"
        encode_as([samples], RATE_HZ, path, LOW_RATE)
        return decode(path).samples


def _dull(samples: Samples) -> Samples:
    low = butter(8, DULL_HZ, fs=RATE_HZ, output="sos")
    dull: Samples = (sosfilt(low, samples, axis=1) * 10 ** (-QUIETER_DB / 20)).astype(np.float32)
    return dull


def _mono(samples: Samples) -> Samples:
    return np.repeat(samples.mean(axis=0, keepdims=True), 2, axis=0)


DISGUISES = (
    Disguise("17 s cut off", lambda samples: samples[:, round(CUT_S * RATE_HZ) :], cut_s=CUT_S),
    Disguise("3% faster", _faster, faster=FASTER),
    Disguise("MP3, 128 kbit/s", _as_mp3),
    Disguise("dull and quiet", _dull),
    Disguise("mono", _mono),
)


def measure_agreement(pieces: Iterable[Samples], finders: Mapping[str, Finder]) -> dict[str, Any]:
    """Figures by finder and disguise."""
    rows: dict[tuple[str, str], list[dict[str, Any]]] = defaultdict(list)
    for samples in pieces:
        for name, finder in finders.items():
            plain = finder(samples)
            found = []
            for disguise in DISGUISES:
                hidden = disguise.hide(samples)
                found.append(_compare(plain, finder(hidden), disguise, hidden.shape[1] / RATE_HZ))
                rows[name, disguise.name].append(found[-1])
            rows[name, "all of them"].append(_together(found))
    return {name: {kind: _summary(rows[n, kind]) for n, kind in rows if n == name} for name in finders}


def _compare(plain: Heard, again: Heard, disguise: Disguise, duration_s: float) -> dict[str, Any]:
    return {
        "grid": _is_same(disguise.moved(plain.beats_s, duration_s), again.beats_s),
        "bars": _both(plain.bars_s, again.bars_s, lambda a, b: _is_same(disguise.moved(a, duration_s), b)),
        "course": None if plain.course is None else plain.course == again.course,
        "key": _same_key(plain, again, 12 * np.log2(disguise.faster)),
        "energy": _both(plain.energy, again.energy, lambda a, b: abs(a - b)),
        "sections": _both(
            plain.sections_s,
            again.sections_s,
            lambda a, b: _section_f(disguise.moved(a[1:], duration_s), b),
        ),
        "doubt": plain.doubt,
    }


def _both(plain: Any, again: Any, compare: Callable[[Any, Any], Any]) -> Any:
    return None if plain is None or again is None else compare(plain, again)


def _is_same(wanted: FloatArray, found: FloatArray) -> bool:
    """Whether nearly all of either lie near one of the other."""
    if not len(wanted) or not len(found):
        return len(wanted) == len(found)
    apart = np.abs(wanted[:, None] - found[None, :])
    near = [float((apart.min(axis=axis) < NEAR_S).mean()) for axis in (0, 1)]
    return min(near) >= SHARE


def _same_key(plain: Heard, again: Heard, semitones: float) -> bool | None:
    if plain.key is None or again.key is None:
        return plain.key == again.key
    one, other = parse_key(plain.key), parse_key(again.key)
    away = (
        other.tonic + again.tuning_cents / 100 - one.tonic - plain.tuning_cents / 100 - semitones + 6
    ) % 12 - 6
    return one.mode == other.mode and abs(away) < SAME_PITCH


def _section_f(wanted: FloatArray, starts_s: FloatArray) -> float | None:
    """How well sections are found again. The first begins with the first bar: what would begin before that,
    or with it, is not asked for.
    """
    found = starts_s[1:]
    wanted = wanted[wanted > starts_s[0] + SECTION_S] if len(starts_s) else wanted
    if not len(wanted) or not len(found):
        return None if len(wanted) == len(found) else 0.0
    matched = len(mir_eval.util.match_events(wanted, found, SECTION_S))
    return float(2 * matched / (len(wanted) + len(found)))


def _together(found: list[dict[str, Any]]) -> dict[str, Any]:
    """What holds in all disguises of a piece."""
    told = {name: [row[name] for row in found if row[name] is not None] for name in found[0]}
    return {
        name: (max if name == "energy" else min)(values) if values else None for name, values in told.items()
    }


def _summary(rows: list[dict[str, Any]]) -> dict[str, Any]:
    sure = [row for row in rows if row["doubt"] is not None and row["doubt"] < SURE_DOUBT]
    energy = [row["energy"] for row in rows if row["energy"] is not None]
    return {
        "pieces": len(rows),
        "same grid": _mean(rows, "grid"),
        "same grid where doubt < 0.1": _mean(sure, "grid") if sure else None,
        "doubt < 0.1": round(len(sure) / len(rows), 3) if rows[0]["doubt"] is not None else None,
        "same bars": _mean(rows, "bars"),
        "same course": _mean(rows, "course"),
        "same key": _mean(rows, "key"),
        "section F": _mean(rows, "sections"),
        "energy differs, median": float(np.median(energy)) if energy else None,
        "energy differs, 95%": round(float(np.quantile(energy, 0.95)), 1) if energy else None,
    }


def _mean(rows: list[dict[str, Any]], name: str) -> float | None:
    values = [float(row[name]) for row in rows if row[name] is not None]
    return round(float(np.mean(values)), 3) if values else None
