"""Playing a score: one-shots placed on buses, effects, and a master."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, oaconvolve, sosfilt

from vinyl.demo import instruments
from vinyl.demo.instruments import RATE_HZ
from vinyl.demo.score import Note, Score

TAIL_S = 2.5
SENDS = {"drums": 0.05, "bass": 0.0, "music": 0.22, "lead": 0.28}
DUCK_HOP = 64
DUCK_S = 0.13

Stereo = NDArray[np.float32]


def render(score: Score) -> Stereo:
    """The sound of a score, float32 of shape (2, n), peaking just below full scale."""
    length = int((float(score.tempo_map.time_at(score.end_beat)) + TAIL_S) * RATE_HZ)
    style = score.style
    buses = {name: np.zeros((2, length), np.float32) for name in SENDS}
    times = _note_times(score)
    for note, time_s in zip(score.notes, times, strict=True):
        _place(buses[note.bus], note, time_s, score)
    if style.duck:
        _duck(buses, score, times, style.duck)
    if style.echo:
        _echo(buses["music"], 0.75 * 60.0 / score.song.bpm)
    _open_up(buses["music"], score)
    return _master(buses, score.song.seed)


def _note_times(score: Score) -> NDArray[np.float64]:
    beats = np.array([note.beat for note in score.notes])
    times = score.tempo_map.time_at(beats)
    if score.jitter_s:
        random = np.random.default_rng(score.song.seed + 5)
        on_beat = np.array([note.bus == "drums" for note in score.notes])
        times = times + random.normal(0, score.jitter_s, len(times)) * np.where(on_beat, 0.6, 1.0)
    return np.maximum(times, 0.0)


def _place(bus: Stereo, note: Note, time_s: float, score: Score) -> None:
    sound = _sound(note, score)
    start = round(time_s * RATE_HZ)
    sound = sound[: bus.shape[1] - start]
    for channel, share in ((0, 1 - max(note.pan, 0)), (1, 1 + min(note.pan, 0))):
        bus[channel, start : start + len(sound)] += (note.gain * share) * sound


def _sound(note: Note, score: Score) -> NDArray[np.float32]:
    if note.midi is None:
        return instruments.drum(note.instrument)
    length = int(note.beats * 60.0 / score.song.bpm * RATE_HZ)
    play = {"bass": instruments.bass, "music": instruments.pad, "lead": instruments.lead}[note.bus]
    return play(note.midi, length, note.instrument)


def _duck(buses: dict[str, Stereo], score: Score, times: NDArray[np.float64], depth: float) -> None:
    """Pull bass and music down at each kick."""
    kicks = np.sort(times[[note.instrument == "kick" for note in score.notes]])
    length = buses["bass"].shape[1]
    grid = np.arange(0, length, DUCK_HOP) / RATE_HZ
    last = np.searchsorted(kicks, grid, side="right") - 1
    since = np.where(last >= 0, grid - kicks[np.maximum(last, 0)], 10.0)
    gain = np.repeat(1.0 - depth * np.exp(-since / DUCK_S), DUCK_HOP)[:length].astype(np.float32)
    for name in ("bass", "music"):
        buses[name] *= gain


def _echo(bus: Stereo, delay_s: float) -> None:
    """Three repeats, from side to side."""
    delay = int(delay_s * RATE_HZ)
    dry = bus.copy()
    for repeat, gain in ((1, 0.5), (2, 0.3), (3, 0.18)):
        source = dry if repeat % 2 == 0 else dry[::-1]
        bus[:, repeat * delay :] += gain * source[:, : -repeat * delay]


def _open_up(bus: Stereo, score: Score) -> None:
    """A filter that opens through the build."""
    metre = score.tempo_map.beats_per_bar
    for section in score.sections:
        if section.label != "build":
            continue
        ends = score.tempo_map.time_at(
            [section.first_bar * metre, (section.first_bar + section.bars) * metre]
        )
        first, last = (int(t * RATE_HZ) for t in ends)
        part = bus[:, first:last]
        dark = sosfilt(butter(2, 500.0, fs=RATE_HZ, output="sos").astype(np.float32), part, axis=1)
        ramp = np.linspace(0.0, 1.0, part.shape[1], dtype=np.float32)
        bus[:, first:last] = dark * (1 - ramp) + part * ramp


def _reverb(send: NDArray[np.float32], seed: int) -> Stereo:
    """A dark hall: decaying noise at half the rate, where its energy lies."""
    slow = (send[0:-1:2] + send[1::2]) / 2
    t = np.arange(int(1.3 * RATE_HZ / 2)) / (RATE_HZ / 2)
    noise = (
        np.random.default_rng(seed).standard_normal((2, len(t)))
        * np.exp(-t / 0.28)
        * np.minimum(t / 0.012, 1)
    )
    tails = [oaconvolve(slow, part.astype(np.float32) * 0.02)[: len(slow)] for part in noise]
    wet = np.repeat(np.stack(tails), 2, axis=1)
    return np.pad(wet, ((0, 0), (0, len(send) - wet.shape[1]))).astype(np.float32)


def _master(buses: dict[str, Stereo], seed: int) -> Stereo:
    mix = sum(buses.values(), np.zeros_like(buses["drums"]))
    send = sum(
        (SENDS[name] * bus.mean(axis=0) for name, bus in buses.items()), np.zeros(mix.shape[1], np.float32)
    )
    mix += _reverb(send, seed)
    drive = 1.1 + 0.6 * ((seed * 7) % 10) / 10
    mix *= drive / max(float(np.quantile(np.abs(mix[:, ::97]), 0.999)), 1e-6)
    np.tanh(mix, out=mix)
    mix *= 0.93 / float(np.abs(mix).max())
    return mix
