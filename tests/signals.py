"""Synthesised signals with known answers."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

RATE_HZ = 44100
# FFmpeg's flag for coding by quality and not by rate.
USE_QUALITY = 2

Samples = NDArray[np.float32]


def click_track(
    times_s: NDArray[np.float64], duration_s: float, hz: float = 5000.0, length_s: float = 0.02
) -> Samples:
    """Stereo clicks that begin at full strength on the sample nearest to each time."""
    samples = np.zeros(int(duration_s * RATE_HZ), np.float32)
    t = np.arange(int(length_s * RATE_HZ)) / RATE_HZ
    click = (0.8 * np.cos(2 * np.pi * hz * t) * np.exp(-t / 0.008)).astype(np.float32)
    for start in np.rint(times_s * RATE_HZ).astype(int):
        piece = click[: len(samples) - start]
        samples[start : start + len(piece)] += piece
    return np.stack([samples, samples])


def drum_loop(
    bpm: float, first_s: float, duration_s: float, beats_per_bar: int = 4, seed: int = 0
) -> Samples:
    """Kick on every bar start, snares between, hats in eighths, and a chord that changes with each bar."""
    beats_s = first_s + np.arange(int((duration_s - first_s) * bpm / 60.0)) * 60.0 / bpm
    return drums_on(beats_s, duration_s, beats_per_bar, seed)


def drums_on(
    beats_s: NDArray[np.float64],
    duration_s: float,
    beats_per_bar: int = 4,
    seed: int = 0,
    chords: bool = True,
) -> Samples:
    """The same on given beats."""
    random = np.random.default_rng(seed)
    mono = 0.001 * random.standard_normal(int(duration_s * RATE_HZ))
    kick, snare, hat = _kick(), _noise(random, 0.12, 0.03), 0.4 * _noise(random, 0.05, 0.008)
    lengths = np.diff(beats_s, append=2 * beats_s[-1] - beats_s[-2])
    for beat, (at, length) in enumerate(zip(beats_s, lengths, strict=True)):
        _add(mono, kick if beat % beats_per_bar == 0 else snare, at)
        _add(mono, hat, at)
        _add(mono, hat, at + length / 2)
        if chords and beat % beats_per_bar == 0:
            chord = chord_tone(
                (57, 60, 64) if beat // beats_per_bar % 2 else (53, 57, 60), beats_per_bar * length
            )
            _add(mono, 0.12 * chord, at)
    return np.stack([mono, mono]).astype(np.float32)


def pattern_on(
    beats_s: NDArray[np.float64],
    pattern: dict[str, str],
    poor: tuple[dict[str, str], tuple[int, int], tuple[int, int]] | None = None,
) -> Samples:
    """Kick, snare, hat and bass in sixteenths of bars of four, with a chord on every second bar; ``poor`` is
    another pattern and from which beat to which it replaces the first, twice.
    """
    random = np.random.default_rng(1)
    sounds = {
        "kick": _kick(),
        "snare": 0.6 * _noise(random, 0.12, 0.03),
        "hat": 0.4 * _noise(random, 0.05, 0.008),
        "bass": 0.5 * chord_tone((33,), 0.18),
    }
    mono = 0.001 * random.standard_normal(int((beats_s[-1] + 1.0) * RATE_HZ))
    lengths = np.diff(beats_s, append=2 * beats_s[-1] - beats_s[-2])
    for beat, (at, length) in enumerate(zip(beats_s, lengths, strict=True)):
        is_poor = poor is not None and any(first <= beat < end for first, end in poor[1:])
        for name, steps in (poor[0] if poor is not None and is_poor else pattern).items():
            for quarter, step in enumerate(steps[beat % 4 * 4 :][:4]):
                if step != ".":
                    _add(mono, sounds[name], at + quarter * length / 4)
        if beat % 8 == 0:
            _add(mono, 0.1 * chord_tone(((57, 60, 64), (53, 57, 60))[beat // 8 % 2], 7.5 * length), at)
    return np.stack([mono, mono]).astype(np.float32)


def chord_tone(midi: tuple[int, ...], length_s: float) -> NDArray[np.float64]:
    """A chord of tones with five harmonics each."""
    t = np.arange(int(length_s * RATE_HZ)) / RATE_HZ
    fade = np.minimum(1.0, (length_s - t) / 0.02)
    waves = [np.sin(2 * np.pi * 440 * 2 ** ((m - 69) / 12) * k * t) / k for m in midi for k in range(1, 6)]
    total: NDArray[np.float64] = np.sum(waves, axis=0) * fade / len(midi)
    return total


def _kick() -> NDArray[np.float64]:
    t = np.arange(int(0.2 * RATE_HZ)) / RATE_HZ
    return np.sin(2 * np.pi * (50 * t + 2.2 * (1 - np.exp(-t / 0.02)))) * np.exp(-t / 0.06) + 0.3 * np.exp(
        -t / 0.001
    )


def _noise(random: np.random.Generator, length_s: float, decay_s: float) -> NDArray[np.float64]:
    t = np.arange(int(length_s * RATE_HZ)) / RATE_HZ
    return 0.5 * random.standard_normal(len(t)) * np.exp(-t / decay_s)


def _add(mono: NDArray[np.float64], sound: NDArray[np.float64], at_s: float) -> None:
    start = round(at_s * RATE_HZ)
    piece = sound[: max(0, len(mono) - start)]
    mono[start : start + len(piece)] += piece


def encode_with_head(path: Path, sound: Samples, late: int = 0, **head: str) -> None:
    """A file of a varying bit rate whose time begins so many samples late, with a head as it is asked for.

    Args:
        sound: shape (2, n), at 44.1 kHz.
        head: options of FFmpeg's for the container.
    """
    with av.open(str(path), "w", options=head) as out:
        codec = "libmp3lame" if path.suffix == ".mp3" else "aac"
        stream = out.add_stream(codec, rate=RATE_HZ, layout="stereo", options={"q:a": "2"})
        stream.codec_context.flags |= USE_QUALITY
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(sound), format="fltp", layout="stereo")
        frame.sample_rate = RATE_HZ
        for packet in (*stream.encode(frame), *stream.encode(None)):
            if late and packet.pts is not None and packet.dts is not None:
                packet.pts, packet.dts = packet.pts + late, packet.dts + late
            out.mux(packet)
