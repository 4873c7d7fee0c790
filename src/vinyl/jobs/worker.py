"""What runs in a worker process: one file in, its analysis out."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path

from vinyl.core.analysis import RATE_HZ, Analysis, analyse_blocks
from vinyl.media.decode import decode_blocks

NICE = 10
WATCH_S = 1.0


def prepare(parent: int) -> None:
    """Give way to playing and drawing, and end when the server does, even if it was killed."""
    os.nice(NICE)
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()


def analyse_file(path: str, window_bpm: tuple[float, float] | None = None) -> Analysis:
    """Decode and analyse a file.

    Raises:
        MediaError, AnalysisError: with the reason.
    """
    return analyse_blocks(decode_blocks(Path(path), RATE_HZ), window_bpm)


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(WATCH_S)
    os._exit(1)
