"""Twins on sets made for it: what copies, edits and versions are told as, how far times in a copy are off,
and the search through 100,000 tracks.
"""

from __future__ import annotations

import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from itertools import combinations
from multiprocessing import get_context
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.signal import resample_poly

from vinyl.bench.likeness import FORMATS, FRAMES_PER_S, RATE_HZ, encoded, fingerprint, sources
from vinyl.bench.material import Samples
from vinyl.core.likeness.descriptor import SIZE
from vinyl.core.likeness.residual import RATE_HZ as RESIDUAL_RATE_HZ
from vinyl.core.rhythm.onset import onsets
from vinyl.core.rhythm.onset_times import find_onset_times
from vinyl.core.twins.alignment import Alignment
from vinyl.core.twins.groups import LARGEST_DIFFERENCE, Pair
from vinyl.core.twins.relating import Relation, Sound, relate
from vinyl.jobs import twin_listening
from vinyl.library.database import Database
from vinyl.library.tracks import FileFacts, Said, add_tracks
from vinyl.library.twins import find_twins

# Copies are faster by these ratios: 0.1 % and 0.5 %.
FASTER = {"0.1 % faster": (1000, 1001), "0.5 % faster": (200, 201)}
SILENCE_S, CUT_S, LONG_CUT_S, FAINT_DB = 1.7, 0.4, 25.2, -9.0
SEEDED, COPIED, FRAMES = 100_000, 3_000, 2_200
BATCH = 5_000
WRONG_BITS = 0.06


@dataclass(frozen=True, slots=True)
class _Copy:
    """A file made of a piece: what it is, where the piece's times lie in it, None where nowhere, and what of
    it is cut out.
    """

    what: str
    samples: Samples
    truth: Alignment | None
    cut_s: tuple[float, float] | None = None


def measure_twins(folder: Path | None) -> dict[str, Any]:
    """What is told of pairs, errors of times in copies, and the search through 100,000 tracks."""
    told: dict[str, Counter[str]] = {}
    originals: dict[str, Sound] = {}
    errors_ms: dict[str, list[float]] = {}
    refused: Counter[str] = Counter()
    cuts_s: dict[str, list[float]] = {}
    for name, samples, versions in sources(folder):
        originals[name] = sound = _sound(samples)
        others = [_Copy(what, other, None) for what, other, _ in versions]
        for copy in (*_copies(samples), *others):
            found = relate(sound, _sound(copy.samples), FRAMES_PER_S)
            told.setdefault(copy.what, Counter())[_heard(found, samples, copy.samples)] += 1
            if copy.cut_s is not None and found.match.relation == "edit" and not name.startswith("loop"):
                cuts_s.setdefault(copy.what, []).append(_cut_error_s(found, copy.cut_s))
            if copy.truth is not None and found.alignment is None:
                refused[copy.what] += 1
            # A loop is the same at many offsets.
            elif copy.truth is not None and found.alignment is not None and not name.startswith("loop"):
                errors_ms.setdefault(copy.what, []).append(_error_ms(found, copy.truth, samples))
    told["another piece"] = Counter(
        relate(originals[one], originals[other], FRAMES_PER_S).match.relation
        for one, other in combinations(originals, 2)
        if one.split("-")[-1] != other.split("-")[-1]
    )
    return {
        "told": {what: dict(counts) for what, counts in told.items()},
        "what an edit leaves out, largest error s": {what: max(each) for what, each in cuts_s.items()},
        "time in the copy, largest error ms": {what: round(max(each), 2) for what, each in errors_ms.items()},
        "times of the copy unknown, and none given": dict(refused),
        **_search_speed(),
    }


def _sound(samples: Samples) -> Sound:
    return Sound(fingerprint(samples), find_onset_times(onsets(samples.mean(axis=0), RATE_HZ)).times_s)


def _heard(found: Relation, first: Samples, second: Samples) -> str:
    """The relation, once both were listened to; in brackets where it is not sure."""
    pair = Pair(1, 2, frozenset({"sound"}), found.match, found.alignment)
    if found.match.relation != "same":
        return found.match.relation
    if found.alignment is None or found.alignment.speed != 1.0:
        return "same (to be listened to)"
    difference = twin_listening.compare([_mono(first)], [_mono(second)], found.alignment.offset_s)
    if difference > LARGEST_DIFFERENCE:
        return "same backing"
    return "same" if replace(pair, difference=difference).is_sure else "same (to be listened to)"


def _mono(samples: Samples) -> NDArray[np.float32]:
    mono: NDArray[np.float32] = resample_poly(samples.mean(axis=0), RESIDUAL_RATE_HZ, RATE_HZ)
    return mono.astype(np.float32)


def _cut_error_s(found: Relation, cut_s: tuple[float, float]) -> float:
    """How far what is told to be cut out is from what is, at most."""
    told = max(found.match.missing_s, key=lambda part: part[1] - part[0], default=(0.0, 0.0))
    return round(max(abs(one - other) for one, other in zip(told, cut_s, strict=True)), 1)


def _error_ms(found: Relation, truth: Alignment, samples: Samples) -> float:
    assert found.alignment is not None
    at_s = (CUT_S, 0.5 * samples.shape[1] / RATE_HZ, samples.shape[1] / RATE_HZ)
    return 1000 * max(abs(found.alignment.there(each) - truth.there(each)) for each in at_s)


def _copies(samples: Samples) -> Iterator[_Copy]:
    for form in FORMATS:
        yield _Copy(f"as {form}", encoded(samples, form), Alignment(1.0, 0.0, 0.0))
    yield _Copy("quieter", (10 ** (FAINT_DB / 20) * samples).astype(np.float32), Alignment(1.0, 0.0, 0.0))
    silence = np.zeros((2, round(SILENCE_S * RATE_HZ)), np.float32)
    before = np.hstack([silence, samples])
    yield _Copy("silence before, as mp3", encoded(before, "mp3"), Alignment(1.0, SILENCE_S, 0.0))
    cut = samples[:, round(CUT_S * RATE_HZ) :]
    yield _Copy("0.4 s cut off the front", cut, Alignment(1.0, -CUT_S, 0.0))
    for what, (up, down) in FASTER.items():
        faster = resample_poly(samples, up, down, axis=1).astype(np.float32)
        yield _Copy(what, faster, Alignment(up / down, 0.0, 0.0))
    length = samples.shape[1]
    yield _Copy(
        "middle cut out",
        np.hstack([samples[:, : int(0.4 * length)], samples[:, int(0.6 * length) :]]),
        None,
        (0.4 * length / RATE_HZ, 0.6 * length / RATE_HZ),
    )
    yield _Copy("25 s cut off the front", samples[:, int(LONG_CUT_S * RATE_HZ) :], None, (0.0, LONG_CUT_S))


def _search_speed() -> dict[str, Any]:
    """The search through tracks whose descriptors and fingerprints are made up."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "library.db"
        _seed(Database.prepared(path))
        # In a process of its own, whose memory is that of the search alone.
        with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
            return pool.submit(_search, path).result()


def _search(path: Path) -> dict[str, Any]:
    began, began_cpu = time.perf_counter(), time.process_time()
    read = Database(path, read_only=True).read()
    read.execute("BEGIN")
    groups = find_twins(read).groups
    return {
        f"search through {SEEDED:,}, s": round(time.perf_counter() - began, 1),
        "search, s of a core": round(time.process_time() - began_cpu, 1),
        "search, MB": _most_mb(),
        f"of {COPIED:,} copies found": sum(len(group.track_ids) == 2 for group in groups),
        "groups that are none": sum(len(group.track_ids) > 2 for group in groups),
    }


def _most_mb() -> int:
    """The most memory this process has had (what getrusage says begins with that of its parent)."""
    status = Path("/proc/self/status").read_text()
    return round(int(status.split("VmHWM:")[1].split()[0]) / 1024)


def _seed(database: Database) -> None:
    random = np.random.default_rng(1)
    kept: list[tuple[NDArray[np.uint32], NDArray[np.float32]]] = []
    for start in range(0, SEEDED, BATCH):
        with database.write() as connection:
            files = [
                (_facts(number), Said({"title": "", "artist": ""}, None))
                for number in range(start, start + BATCH)
            ]
            for track_id in add_tracks(connection, files):
                words, descriptor = _made_up(random, kept, track_id)
                connection.execute(
                    "INSERT INTO track_likeness (track_id, descriptor, fingerprint) VALUES (?, ?, ?)",
                    (track_id, descriptor.astype("<f4").tobytes(), words.astype("<u4").tobytes()),
                )


def _made_up(
    random: np.random.Generator, kept: list[tuple[NDArray[np.uint32], NDArray[np.float32]]], track_id: int
) -> tuple[NDArray[np.uint32], NDArray[np.float32]]:
    """A recording of its own, the first of them kept; or, at the end, a copy of one of those."""
    if track_id <= SEEDED - COPIED:
        words = random.integers(1, 2**32, FRAMES, dtype=np.uint32)
        descriptor = random.standard_normal(SIZE).astype(np.float32)
        if len(kept) < COPIED:
            kept.append((words, descriptor))
        return words, descriptor
    words, descriptor = kept[track_id - (SEEDED - COPIED) - 1]
    flips = (random.random((len(words), 32)) < WRONG_BITS).astype(np.uint32)
    wrong = (flips << np.arange(32, dtype=np.uint32)).sum(axis=1, dtype=np.uint32)
    return words ^ wrong, descriptor + 0.05 * random.standard_normal(SIZE).astype(np.float32)


def _facts(number: int) -> FileFacts:
    return FileFacts(
        path=f"/music/{number:06d}.flac", size_bytes=1, modified_ns=1, audio_hash=f"{number}", codec="flac",
        rate_hz=RATE_HZ, channels=2, bit_rate=None, trimmed_samples=0, duration_s=200.0, has_picture=False,
    )  # fmt: skip
