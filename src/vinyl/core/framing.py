"""Frames out of a signal that arrives in blocks, and means of frames between times."""

from __future__ import annotations

import mmap
from typing import Generic, TypeVar

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

# Samples, and edges between means, that are worked on at once, so that a long mix costs little memory.
STRETCH = 65536
EDGES_AT_ONCE = 128

FloatArray = NDArray[np.float64]
Float = TypeVar("Float", np.float16, np.float32)


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
        """The last frames (n, window), filled up with silence: one for each hop begun."""
        frames = self._cut(np.concatenate([self._rest, np.zeros(self._window + self._hop, np.float32)]))
        return frames[: max(self._seen // self._hop + 1 - (self._given - len(frames)), 0)]

    def _cut(self, signal: NDArray[np.float32]) -> NDArray[np.float32]:
        count = max((len(signal) - self._window) // self._hop + 1, 0)
        self._rest = signal[count * self._hop :]
        self._given += count
        if not count:
            return np.zeros((0, self._window), np.float32)
        return sliding_window_view(signal, self._window)[:: self._hop][:count]


class Rows(Generic[Float]):
    """Collects rows of one precision in stretches of memory of their own, each of which goes back to the
    system when it is no longer needed; those that malloc gives out may not.
    """

    def __init__(self, dtype: type[Float]) -> None:
        self._dtype: type[Float] = dtype
        self._full: list[NDArray[Float]] = []
        self._open: NDArray[Float] | None = None
        self._used = 0

    def add(self, rows: NDArray[np.float32]) -> None:
        """Take rows (n, dims)."""
        while len(rows):
            if self._open is None:
                memory = mmap.mmap(-1, STRETCH * rows.shape[1] * np.dtype(self._dtype).itemsize)
                self._open = np.frombuffer(memory, self._dtype).reshape(STRETCH, -1)
            part, rows = rows[: STRETCH - self._used], rows[STRETCH - self._used :]
            self._open[self._used : self._used + len(part)] = part
            self._used += len(part)
            if self._used == STRETCH:
                self._full.append(self._open)
                self._open, self._used = None, 0

    def join(self, dims: int) -> NDArray[Float]:
        """All rows in one array (n, dims); what was collected is given up on the way."""
        rest = self._open[: self._used] if self._open is not None else np.zeros((0, dims), self._dtype)
        whole = np.empty((STRETCH * len(self._full) + len(rest), dims), self._dtype)
        whole[len(whole) - len(rest) :] = rest
        while self._full:
            last = self._full.pop()
            start = STRETCH * len(self._full)
            whole[start : start + STRETCH] = last
        return whole


def means_between(frames: NDArray[np.floating], rate_hz: float, times_s: FloatArray) -> FloatArray:
    """Mean of frames (n, dims) between each time and the next, (times - 1, dims); frame i is centred on i /
    rate_hz.
    """
    if not len(frames):
        return np.zeros((max(len(times_s) - 1, 0), frames.shape[1]))
    edges = np.clip(times_s * rate_hz + 0.5, 0.0, len(frames) - 1e-6)
    whole = edges.astype(np.int64)
    part = (edges - whole)[:, None]
    sums = np.zeros((len(whole) - 1, frames.shape[1]))
    for first in range(0, len(sums), EDGES_AT_ONCE):
        edge = whole[first : first + EDGES_AT_ONCE + 1]
        stretch = frames[edge[0] : edge[-1] + 1].astype(np.float64)
        sums[first : first + len(edge) - 1] = np.add.reduceat(stretch, edge - edge[0], axis=0)[
            : len(edge) - 1
        ]
    sums[whole[1:] <= whole[:-1]] = 0.0
    sums += part[1:] * frames[whole[1:]] - part[:-1] * frames[whole[:-1]]
    means: FloatArray = sums / np.maximum(np.diff(edges), 1e-3)[:, None]
    return means
