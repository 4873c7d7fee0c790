"""Frames out of a signal that arrives in blocks, and means of frames between times."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


class Framer:
    """Cuts a signal into frames of ``window`` samples every ``hop``; frame i is centred on sample i * hop."""

    def __init__(self, window: int, hop: int) -> None:
        self._window, self._hop = window, hop
        self._rest = np.zeros(window // 2, np.float32)
        self._seen = self._given = 0

    def push(self, block: NDArray[np.float32]) -> NDArray[np.float32]:
        """The frames that are complete with this block, (frames, window)."""
        self._seen += len(block)
        return self._cut(np.concatenate([self._rest, block]))

    def finish(self) -> NDArray[np.float32]:
        """The last frames, filled up with silence: one for each hop begun."""
        frames = self._cut(np.concatenate([self._rest, np.zeros(self._window + self._hop, np.float32)]))
        return frames[: max(self._seen // self._hop + 1 - (self._given - len(frames)), 0)]

    def _cut(self, signal: NDArray[np.float32]) -> NDArray[np.float32]:
        count = max((len(signal) - self._window) // self._hop + 1, 0)
        self._rest = signal[count * self._hop :]
        self._given += count
        if not count:
            return np.zeros((0, self._window), np.float32)
        return sliding_window_view(signal, self._window)[:: self._hop][:count]


def join(parts: list[NDArray[np.float32]]) -> NDArray[np.float32]:
    """Rows of all parts in one array; the list is emptied on the way, so that hardly more memory is needed."""
    whole = np.empty((sum(map(len, parts)), *parts[0].shape[1:]), np.float32)
    at = 0
    while parts:
        part = parts.pop(0)
        whole[at : at + len(part)] = part
        at += len(part)
    return whole


def means_between(frames: NDArray[np.float32], rate_hz: float, times_s: FloatArray) -> FloatArray:
    """Mean of frames (n, dims) between each time and the next, (times - 1, dims); frame i is centred on i / rate_hz."""
    if not len(frames):
        return np.zeros((max(len(times_s) - 1, 0), frames.shape[1]))
    edges = np.clip(times_s * rate_hz + 0.5, 0.0, len(frames) - 1e-6)
    whole = edges.astype(np.int64)
    part = (edges - whole)[:, None]
    sums = np.add.reduceat(frames, np.maximum(whole[:-1], 0), axis=0, dtype=np.float64)
    sums[-1] = frames[whole[-2] : max(whole[-1], whole[-2] + 1)].sum(axis=0, dtype=np.float64)
    sums[whole[1:] <= whole[:-1]] = 0.0
    sums += part[1:] * frames[whole[1:]] - part[:-1] * frames[whole[:-1]]
    means: FloatArray = sums / np.maximum(np.diff(edges), 1e-3)[:, None]
    return means
