"""What the player's page cannot decode by itself, decoded for it: a player's own chip, so to say."""

from __future__ import annotations

import tempfile
from pathlib import Path

import av
from av.audio.stream import AudioStream


def decoded(path: Path) -> Path | None:
    """A file's sound as a new WAV file of 32-bit floats, to be deleted by the caller; None where it cannot be
    decoded.
    """
    target = Path(tempfile.mkstemp(prefix="stand-in-player-", suffix=".wav")[1])
    try:
        with av.open(str(path)) as source, av.open(str(target), "w", format="wav") as wav:
            into = wav.add_stream("pcm_f32le", rate=source.streams.audio[0].rate)
            assert isinstance(into, AudioStream), "WAV holds sound"
            into.layout = "stereo"
            resampler = av.AudioResampler("flt", "stereo", source.streams.audio[0].rate)
            for frame in source.decode(audio=0):
                for part in resampler.resample(frame):
                    part.pts = None
                    wav.mux(into.encode(part))
            wav.mux(into.encode(None))
    except (av.FFmpegError, IndexError, OSError):
        target.unlink(missing_ok=True)
        return None
    return target
