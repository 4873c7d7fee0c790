"""One-shots: drums and notes as short arrays, at RATE_HZ, made from numbers alone."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

RATE_HZ = 44100
TABLE = 2048

Sound = NDArray[np.float32]


def _seconds(length_s: float) -> NDArray[np.float64]:
    return np.arange(int(length_s * RATE_HZ)) / RATE_HZ


def _decay(t: NDArray[np.float64], half_s: float) -> NDArray[np.float64]:
    envelope: NDArray[np.float64] = 0.5 ** (t / half_s)
    return envelope


def _noise(count: int, seed: int) -> NDArray[np.float64]:
    return np.random.default_rng(seed).standard_normal(count)


def _filtered(
    signal: NDArray[np.float64], kind: Literal["low", "high", "band"], hz: float | tuple[float, float]
) -> NDArray[np.float64]:
    result: NDArray[np.float64] = sosfilt(butter(2, np.array(hz), kind, fs=RATE_HZ, output="sos"), signal)
    return result


def kick(punch: float = 1.0) -> Sound:
    t = _seconds(0.36)
    pitch = 48.0 + 130.0 * punch * np.exp(-t / 0.022)
    body = np.sin(2 * np.pi * np.cumsum(pitch) / RATE_HZ) * _decay(t, 0.075)
    click = _filtered(_noise(len(t), 1), "high", 2000.0) * _decay(t, 0.002) * 0.25
    return _finish(body + click)


def snare() -> Sound:
    t = _seconds(0.24)
    tone = (np.sin(2 * np.pi * 186 * t) + 0.6 * np.sin(2 * np.pi * 331 * t)) * _decay(t, 0.03)
    return _finish(0.6 * tone + 0.5 * _filtered(_noise(len(t), 2), "high", 1200.0) * _decay(t, 0.045))


def clap() -> Sound:
    t = _seconds(0.26)
    bursts = _decay(t, 0.05) * 0.8
    for start in (0.0, 0.009, 0.019):
        bursts = bursts + np.where(t >= start, _decay(np.maximum(t - start, 0), 0.004), 0.0)
    return _finish(0.35 * _filtered(_noise(len(t), 3), "band", (900.0, 4200.0)) * bursts)


def rim() -> Sound:
    t = _seconds(0.07)
    return _finish(
        np.sin(2 * np.pi * 1740 * t) * _decay(t, 0.008) + 0.4 * np.sin(2 * np.pi * 480 * t) * _decay(t, 0.012)
    )


def hat() -> Sound:
    t = _seconds(0.06)
    return _finish(0.4 * _filtered(_noise(len(t), 4), "high", 7500.0) * _decay(t, 0.011))


def open_hat() -> Sound:
    t = _seconds(0.24)
    return _finish(0.35 * _filtered(_noise(len(t), 5), "high", 6800.0) * _decay(t, 0.07))


def shaker() -> Sound:
    t = _seconds(0.09)
    swell = np.minimum(t / 0.012, 1.0)
    return _finish(0.3 * _filtered(_noise(len(t), 6), "band", (5000.0, 11000.0)) * swell * _decay(t, 0.018))


def conga() -> Sound:
    t = _seconds(0.28)
    pitch = 210.0 + 60.0 * np.exp(-t / 0.012)
    return _finish(np.sin(2 * np.pi * np.cumsum(pitch) / RATE_HZ) * _decay(t, 0.06))


def crash() -> Sound:
    t = _seconds(2.2)
    return _finish(0.25 * _filtered(_noise(len(t), 7), "high", 3800.0) * _decay(t, 0.5))


DRUMS: dict[str, Callable[[], Sound]] = {
    "kick": kick,
    "snare": snare,
    "clap": clap,
    "rim": rim,
    "hat": hat,
    "open": open_hat,
    "shaker": shaker,
    "conga": conga,
    "crash": crash,
}


@cache
def drum(name: str) -> Sound:
    """A drum's one-shot by name."""
    return DRUMS[name]()


@cache
def _table(harmonics: tuple[float, ...]) -> NDArray[np.float64]:
    phase = 2 * np.pi * np.arange(TABLE) / TABLE
    wave: NDArray[np.float64] = np.sum([a * np.sin((k + 1) * phase) for k, a in enumerate(harmonics)], axis=0)
    wave /= np.abs(wave).max()
    return wave


def _tone(
    midi: float, length: int, harmonics: tuple[float, ...], cents: float = 0.0, vibrato: float = 0.0
) -> NDArray[np.float64]:
    hz = 440.0 * 2 ** ((midi - 69 + cents / 100) / 12)
    step = np.full(length, hz * TABLE / RATE_HZ)
    if vibrato:
        step *= 1 + vibrato * np.sin(2 * np.pi * 5.3 * np.arange(length) / RATE_HZ)
    kept = harmonics[: max(1, int(16000 / hz))]
    wave: NDArray[np.float64] = _table(kept)[np.cumsum(step).astype(np.int64) % TABLE]
    return wave


SAW = tuple(1.0 / k for k in range(1, 40))
ROUND = (1.0, 0.35, 0.12, 0.05)
REED = (1.0, 0.2, 0.55, 0.12, 0.3, 0.05, 0.12)
BELL = (1.0, 0.0, 0.0, 0.45, 0.0, 0.0, 0.2, 0.0, 0.1)


def _envelope(length: int, attack_s: float, release_s: float) -> NDArray[np.float64]:
    t = np.arange(length) / RATE_HZ
    return np.minimum(np.minimum(t / attack_s, (length / RATE_HZ - t) / release_s), 1.0)


@cache
def bass(midi: int, length: int, colour: str) -> Sound:
    """A bass note: "sub" is a sine with a little edge, "saw" a closing filter, "reese" two saws that beat."""
    if colour == "sub":
        wave = np.tanh(1.6 * _tone(midi, length, ROUND))
    elif colour == "reese":
        wave = 0.5 * (_tone(midi, length, SAW, -14) + _tone(midi, length, SAW, 14))
        wave = 0.7 * _filtered(wave, "low", 420.0) + 0.5 * _tone(midi, length, (1.0,))
    else:
        bright, dark = (_filtered(_tone(midi, length, SAW), "low", hz) for hz in (1400.0, 260.0))
        opening = np.exp(-np.arange(length) / RATE_HZ / 0.07)
        wave = bright * opening + dark
    return _finish(0.8 * wave * _envelope(length, 0.004, 0.02))


@cache
def pad(midi: int, length: int, colour: str) -> Sound:
    """A held note of a chord; "strings" swell, "organ" speaks at once, "stab" dies away."""
    harmonics = {"strings": SAW, "organ": REED, "stab": SAW, "keys": ROUND}[colour]
    wave = _tone(midi, length, harmonics, -6) + _tone(midi, length, harmonics, 6)
    if colour in ("strings", "stab"):
        wave = _filtered(wave, "low", 2400.0)
    shape = _envelope(length, 0.35 if colour == "strings" else 0.006, 0.12)
    if colour in ("stab", "keys"):
        shape = shape * _decay(np.arange(length) / RATE_HZ, 0.16 if colour == "stab" else 0.45)
    return _finish(0.3 * wave * shape)


@cache
def lead(midi: int, length: int, colour: str) -> Sound:
    """A melody note: "flute", "pluck", "bell" or "brass"."""
    harmonics = {"flute": ROUND, "pluck": SAW, "bell": BELL, "brass": SAW}[colour]
    wave = _tone(midi, length, harmonics, vibrato=0.004 if colour == "flute" else 0.0)
    if colour in ("pluck", "brass"):
        wave = _filtered(wave, "low", 3200.0 if colour == "brass" else 4200.0)
    shape = _envelope(length, 0.03 if colour in ("flute", "brass") else 0.003, 0.05)
    if colour in ("pluck", "bell"):
        shape = shape * _decay(np.arange(length) / RATE_HZ, 0.11 if colour == "pluck" else 0.3)
    return _finish(0.5 * wave * shape)


def _finish(wave: NDArray[np.float64]) -> Sound:
    """A short fade at the end so that no one-shot stops with a click."""
    fade = min(len(wave), 200)
    wave[-fade:] *= np.linspace(1.0, 0.0, fade)
    return wave.astype(np.float32)
