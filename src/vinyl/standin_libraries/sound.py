"""Hearing a file as the other programs do: with the codec's padding, or without it."""

from __future__ import annotations

from pathlib import Path

import av
import numpy as np
from numpy.typing import NDArray

NEAR_S = 0.1
LOUD = 0.3


def samples(path: Path, counts_padding: bool) -> tuple[NDArray[np.float32], int]:
    """A file's first channel and its rate; with padding, all that the decoder gives."""
    parts = []
    with av.open(str(path)) as container:
        stream = container.streams.audio[0]
        if counts_padding:
            stream.codec_context.options = {"flags2": "+skip_manual"}
        rate = stream.rate
        to_plain = av.AudioResampler("flt", "mono", rate)
        for frame in container.decode(stream):
            parts += [plain.to_ndarray()[0] for plain in to_plain.resample(frame)]
    return np.concatenate(parts) if parts else np.zeros(0, np.float32), rate


def attack_near(path: Path, at_s: float, counts_padding: bool) -> float:
    """The time in seconds at which the sound near a place begins to be loud."""
    heard, rate = samples(path, counts_padding)
    first = max(0, round((at_s - NEAR_S) * rate))
    part = np.abs(heard[first : round((at_s + NEAR_S) * rate)])
    if not part.size:
        raise ValueError("there is no sound at this place")
    return (first + int(np.argmax(part >= LOUD * part.max()))) / rate
