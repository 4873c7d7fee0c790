"""The same questions put to librosa, with its usual settings."""

from __future__ import annotations

from typing import Any

import librosa
import numpy as np
from librosa.beat import beat_track
from librosa.feature import chroma_stft

from vinyl.bench import agreement
from vinyl.bench.material import Samples
from vinyl.bench.rhythm import Tracked
from vinyl.bench.tonal import Heard
from vinyl.core.tonal.key import Key
from vinyl.core.tonal.profiles import RATED

RATE_HZ = 22050


def track_beats(samples: Samples) -> Tracked:
    """librosa's beat tracker."""
    tempo, beats = beat_track(y=_slow(samples), sr=RATE_HZ, units="time")
    return Tracked(float(np.atleast_1d(tempo)[0]), np.asarray(beats, dtype=np.float64))


def find_key(samples: Samples) -> Heard:
    """librosa's chroma against the key profiles of Krumhansl and Kessler."""
    chroma = chroma_stft(y=_slow(samples), sr=RATE_HZ).mean(axis=1)
    scores = {
        (tonic, mode): float(np.corrcoef(chroma, np.roll(np.array(RATED[mode]), tonic))[0, 1])
        for mode in (0, 1)
        for tonic in range(12)
    }
    tonic, mode = max(scores, key=lambda key: scores[key])
    return Heard(str(Key(tonic, "minor" if mode else "major")))


def hear(samples: Samples) -> agreement.Heard:
    """Both, for asking again."""
    return agreement.Heard(track_beats(samples).beats_s, key=find_key(samples).key)


def _slow(samples: Samples) -> Any:
    return librosa.resample(samples.mean(axis=0), orig_sr=44100, target_sr=RATE_HZ, res_type="soxr_mq")
