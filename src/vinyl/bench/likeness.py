"""Same recording, edit, shared backing or another song: told on sets made for it; and the
speed of the index."""

from __future__ import annotations

import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from vinyl.bench.material import FIRST_SEED, Samples
from vinyl.core.likeness.compare import Relation, compare
from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.likeness.fingerprint import Fingerprint, FingerprintMeter
from vinyl.core.likeness.index import DescriptorIndex
from vinyl.core.likeness.offset import settle_offset
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.onset_times import find_onset_times
from vinyl.core.spectrum import HOP, SpectrumMeter
from vinyl.demo.fresh import fresh_score
from vinyl.demo.render import render
from vinyl.demo.score import Score
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode

RATE_HZ = 44100
FRAMES_PER_S = RATE_HZ / 4 / HOP
VERSIONS = 6
FORMATS = ("mp3", "opus", "m4a")
INDEXED = 100_000
LOOP_BARS, LOOPS = 4, 16
# What is made of one piece, and how far under its backing a lead is hardly heard.
MADE = ("fresh", "loop", "backing")
FAINT_DB = -18


def measure_likeness(folder: Path | None) -> dict[str, Any]:
    """Precision and recall of "same", how edits and versions are told, time a pair, and the index over
    100,000 tracks.
    """
    originals: dict[str, Fingerprint] = {}
    told: dict[str, Counter[Relation]] = {}
    offsets_s: list[float] = []
    seconds, pairs = 0.0, 0
    for name, samples, versions in sources(folder):
        originals[name], attacks = fingerprint(samples), _attacks(samples)
        for what, other, offset_s in (*_copies(samples), *versions):
            began = time.perf_counter()
            match = compare(originals[name], fingerprint(other), FRAMES_PER_S)
            seconds, pairs = seconds + time.perf_counter() - began, pairs + 1
            told.setdefault(what, Counter())[match.relation] += 1
            # A loop that is cut is the same at many offsets.
            if offset_s is None or (name.startswith("loop") and offset_s < 0):
                continue
            if match.relation in ("same", "edit"):
                found_s = settle_offset(attacks, _attacks(other), match.offset_s)
                offsets_s.append(abs(found_s - offset_s))
    others = Counter(
        compare(originals[one], originals[other], FRAMES_PER_S).relation
        for one, other in combinations(originals, 2)
        if _origin(one) != _origin(other)
    )
    told["another song"] = others
    return {
        **_precision(told),
        "told": {what: dict(counts) for what, counts in told.items()},
        "offset error ms, median": round(1000 * float(np.median(offsets_s)), 2),
        "offset error ms, largest": round(1000 * max(offsets_s), 2),
        "ms a pair, fingerprint of the second included": round(1000 * seconds / pairs, 1),
        **_index_speed(),
    }


def _origin(name: str) -> str:
    """The same for all that is made of one piece."""
    made, _, seed = name.partition("-")
    return seed if made in MADE else name


def fingerprint(samples: Samples) -> Fingerprint:
    """The fingerprint of samples (channels, n)."""
    spectra = SpectrumMeter(RATE_HZ)
    meter = FingerprintMeter(spectra.rate_hz)
    meter.push(spectra.push(samples.mean(axis=0)))
    meter.push(spectra.finish())
    return meter.finish()


def _attacks(samples: Samples) -> NDArray[np.float64]:
    return find_onset_times(onsets(samples.mean(axis=0), RATE_HZ)).times_s


def sources(folder: Path | None) -> Iterator[tuple[str, Samples, list[tuple[str, Samples, float | None]]]]:
    """Pieces by name with their samples (channels, n), and versions of each."""
    files = sorted(folder.glob("*/*.opus"))[::7] if folder else []
    for path in files:
        yield path.stem + path.parent.name, decode(path).samples, []
    for seed in range(FIRST_SEED + 500, FIRST_SEED + 500 + VERSIONS):
        score = fresh_score(seed)
        samples = render(score)
        backing = render(replace(score, notes=tuple(note for note in score.notes if note.bus != "lead")))
        moved = tuple(
            note._replace(beat=note.beat + 1.25, midi=(note.midi or 60) + 3) if note.bus == "lead" else note
            for note in score.notes
        )
        versions: list[tuple[str, Samples, float | None]] = [
            ("without the lead", backing, None),
            ("with another lead", render(replace(score, notes=moved)), None),
        ]
        yield f"fresh-{seed}", samples, versions
        yield f"backing-{seed}", backing, [(f"with a lead at {FAINT_DB} dB", _faint(samples, backing), None)]
        yield f"loop-{seed}", _looped(score), []


def _faint(samples: Samples, backing: Samples) -> Samples:
    """The backing with what the samples have beside it, but quietly."""
    lead = samples - backing
    sounding = np.abs(lead).max(axis=0) > 1e-3
    scale = np.linalg.norm(backing[:, sounding]) / max(float(np.linalg.norm(lead[:, sounding])), 1e-9)
    faint: Samples = (backing + 10 ** (FAINT_DB / 20) * scale * lead).astype(np.float32)
    return faint


def _looped(score: Score) -> Samples:
    """A few bars of a piece over and over: each bar is like many others."""
    start_bar = next(section.first_bar for section in score.sections if section.label == "main")
    beats = np.array([start_bar, start_bar + LOOP_BARS]) * score.tempo_map.beats_per_bar
    first, end = np.rint(score.tempo_map.time_at(beats) * RATE_HZ).astype(np.int64)
    looped: Samples = np.tile(render(score)[:, first:end], (1, LOOPS))
    return looped


def _copies(samples: Samples) -> Iterator[tuple[str, Samples, float | None]]:
    for form in FORMATS:
        yield f"as {form}", encoded(samples, form), 0.0
    yield "quieter", 0.3 * samples, 0.0
    for silence_s in (0.37, 1.7, 2.13):
        silence = np.zeros((2, round(silence_s * RATE_HZ)), np.float32)
        yield f"{silence_s} s of silence before", np.hstack([silence, samples]), silence_s
    length = samples.shape[1]
    yield (
        "middle cut out",
        np.hstack([samples[:, : int(0.4 * length)], samples[:, int(0.6 * length) :]]),
        None,
    )
    yield "25 s cut off the front", samples[:, int(25.2 * RATE_HZ) :], -25.2


def encoded(samples: Samples, form: str) -> Samples:
    """Samples as they come back from a format."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"copy{ENCODINGS[form].suffix}"
        encode(samples, RATE_HZ, path, form)
        return decode(path).samples


def _precision(told: dict[str, Counter[Relation]]) -> dict[str, Any]:
    same = [what for what in told if what.startswith("as ") or "silence" in what or what == "quieter"]
    right = sum(told[what]["same"] for what in same)
    wrong = sum(counts["same"] for what, counts in told.items() if what not in same)
    edits = [told[what] for what in told if "cut" in what]
    versions = [told[what] for what in told if "lead" in what]
    return {
        "same: precision": round(right / max(right + wrong, 1), 4),
        "same: recall": round(right / sum(sum(told[what].values()) for what in same), 4),
        "edits told as edits": round(sum(c["edit"] for c in edits) / sum(sum(c.values()) for c in edits), 3),
        "versions told as same backing": round(
            sum(c["same backing"] for c in versions) / sum(sum(c.values()) for c in versions), 3
        ),
    }


def _index_speed() -> dict[str, Any]:
    random = np.random.default_rng(1)
    index = DescriptorIndex(np.arange(INDEXED), random.standard_normal((INDEXED, SIZE)).astype(np.float32))
    times = []
    for _ in range(9):
        began = time.perf_counter()
        index.nearest(random.standard_normal(SIZE).astype(np.float32), 20)
        times.append(time.perf_counter() - began)
    return {"nearest of 100,000, ms": round(1000 * float(np.median(times)), 1)}
