"""The best way through states over time, where each change costs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]


def best_path(score: FloatArray, cost: FloatArray) -> NDArray[np.int64]:
    """The states (times,) whose scores (times, states) sum to most, less the cost (states, states) of each
    change, or of those from each time to the next (times - 1, states, states) (Viterbi, 1967).
    """
    states = np.arange(score.shape[1])
    costs = np.broadcast_to(cost, (len(score) - 1, len(states), len(states)))
    total, back = score[0].copy(), np.zeros(score.shape, np.int64)
    for row in range(1, len(score)):
        options = total[None, :] - costs[row - 1]
        back[row] = np.argmax(options, axis=1)
        total = options[states, back[row]] + score[row]
    path = [int(np.argmax(total))]
    for row in range(len(score) - 1, 0, -1):
        path.append(int(back[row, path[-1]]))
    return np.array(path[::-1])


def best_owner(score: FloatArray, cost: float) -> NDArray[np.int64]:
    """The same where each change costs as much as any other."""
    states = np.arange(score.shape[1])
    total, back = score[0].copy(), np.zeros(score.shape, np.int16)
    for row in range(1, len(score)):
        best = int(np.argmax(total))
        changed = total < total[best] - cost
        back[row] = np.where(changed, best, states)
        total = np.where(changed, total[best] - cost, total) + score[row]
    path = [int(np.argmax(total))]
    for row in range(len(score) - 1, 0, -1):
        path.append(int(back[row, path[-1]]))
    return np.array(path[::-1])
