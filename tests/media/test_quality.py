"""Whether files are what they claim: lossy sound in lossless files, clipping, silence, sides, cut ends."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from tests.signals import RATE_HZ, Samples, drum_loop
from vinyl.core.quality.bandwidth import BandwidthMeter, Edge
from vinyl.core.quality.findings import Kind, findings
from vinyl.core.quality.levels import LevelMeter, Levels
from vinyl.media import encode as encoding
from vinyl.media.decode import decode
from vinyl.media.encode import ENCODINGS, encode

LENGTH_S = 20.0
BLOCK = 65_536


@pytest.fixture(scope="module")
def clean() -> Samples:
    """Drums and chords under air up to the highest frequency, different on both sides, fading out."""
    random = np.random.default_rng(5)
    drums = drum_loop(124.0, 0.2, LENGTH_S)
    air = random.normal(0, 0.01, drums.shape).astype(np.float32)
    fade = np.minimum(1.0, np.linspace(4.0, 0.0, drums.shape[1])).astype(np.float32)
    return np.clip((0.5 * drums + air) * fade, -1, 1)


def measure(samples: Samples) -> tuple[Levels, Edge | None]:
    levels, bandwidth = LevelMeter(RATE_HZ, len(samples)), BandwidthMeter(RATE_HZ)
    for start in range(0, samples.shape[1], BLOCK):
        part = samples[:, start : start + BLOCK]
        levels.push(part)
        bandwidth.push(part.mean(axis=0))
    return levels.finish(), bandwidth.finish()


def kinds(samples: Samples, codec: str = "flac", bit_rate: int | None = None) -> dict[Kind, float | None]:
    return {found.kind: found.at_s for found in findings(*measure(samples), codec, bit_rate)}


@pytest.mark.parametrize("target", ["flac", "wav"])
@pytest.mark.parametrize(
    ("form", "kbits", "told"),
    [
        ("mp3", 96, (96,)), ("mp3", 128, (128,)), ("mp3", 192, (192,)), ("mp3", 320, (256, 320)),
        ("m4a", 96, (96, 128)), ("m4a", 128, (128,)), ("m4a", 192, (192, 256)),
    ],
)  # fmt: skip
def test_lossy_sound_in_a_lossless_file_is_told_with_its_rate(
    clean: Samples,
    form: str,
    kbits: int,
    told: tuple[int, ...],
    target: str,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setitem(encoding.ENCODINGS, form, replace(ENCODINGS[form], bit_rate=1000 * kbits, options=()))
    lossy, lossless = (tmp_path / f"song{ENCODINGS[each].suffix}" for each in (form, target))
    encode(clean, RATE_HZ, lossy, form)
    encode(np.clip(decode(lossy).samples, -1, 1), RATE_HZ, lossless, target)
    found = findings(*measure(decode(lossless).samples), "flac" if target == "flac" else "pcm_s16le", None)
    words = next(finding.words for finding in found if finding.kind == "lossy before")
    assert any(f"about {rate} kbit/s" in words for rate in told), words
    own = findings(*measure(decode(lossy).samples), form, 1000 * kbits)
    assert "lossy before" not in {finding.kind for finding in own}, "the lossy file itself is honest"


def test_lossy_sound_is_told_though_it_was_clipped_when_it_was_decoded(
    clean: Samples, tmp_path: Path
) -> None:
    lossy = tmp_path / "loud.mp3"
    encode(np.clip(3.0 * clean, -1, 1), RATE_HZ, lossy, "mp3")
    told = kinds(np.clip(1.5 * decode(lossy).samples, -1, 1))
    assert {"clipped", "lossy before"} <= told.keys()


def test_clean_and_dull_music_raise_no_alarm(clean: Samples) -> None:
    assert kinds(clean) == {}
    spectrum = np.fft.rfft(clean, axis=1)
    hz = np.fft.rfftfreq(clean.shape[1], 1 / RATE_HZ)
    for slope in (1, 2, 3):  # 6, 12 and 18 dB an octave from 1.5 kHz on
        dull = np.fft.irfft(spectrum / (1 + (hz / 1500.0) ** slope), clean.shape[1], axis=1)
        assert kinds(dull.astype(np.float32)) == {}
    assert kinds(np.zeros((2, 5 * RATE_HZ), np.float32)) == {}


def test_a_raised_bit_rate_is_told(clean: Samples) -> None:
    low = np.fft.rfft(clean, axis=1)
    low[:, np.fft.rfftfreq(clean.shape[1], 1 / RATE_HZ) > 16_800] = 0
    cut = np.fft.irfft(low, clean.shape[1], axis=1).astype(np.float32)
    assert "lossy before" in kinds(cut, "mp3", 320_000)
    assert "lossy before" not in kinds(cut, "mp3", 128_000)


def test_levels_and_sides_are_told_with_their_place(clean: Samples) -> None:
    quiet = np.zeros((2, 6 * RATE_HZ), np.float32)
    late = np.concatenate([quiet, clean, quiet, quiet], axis=1)
    assert kinds(late) == {
        "silence before": pytest.approx(6.0, abs=0.1),
        "silence after": pytest.approx(26, abs=0.5),
    }
    loud = np.clip(6.0 * clean, -0.99, 0.99)
    assert kinds(loud)["clipped"] == pytest.approx(0.2, abs=0.1)
    assert "clipped" not in kinds(0.9 * loud), "loud is not clipped, but that was: only full heights are told"
    assert set(kinds(clean[[0, 0]])) == {"same on both sides"}
    assert set(kinds(clean * np.array([[1], [0]], np.float32))) == {"one side silent"}
    assert set(kinds(clean[[0, 0]] * np.array([[1], [-1]], np.float32))) == {"sides opposed"}
    assert set(kinds(clean[:1])) == set(), "mono in a mono file is as it should be"
    assert set(kinds(clean + np.float32(0.02))) == {"off centre"}
    cut = clean[:, : int(8.25 * RATE_HZ)]
    assert kinds(cut[:, : _loudest_end(cut)]) == {"ends early": pytest.approx(3.9, abs=0.6)}


def _loudest_end(samples: Samples) -> int:
    """Just after the loudest moment of the last second."""
    last = samples.shape[1] - RATE_HZ
    return last + int(np.argmax(np.abs(samples[:, last:]).max(axis=0))) + 400
