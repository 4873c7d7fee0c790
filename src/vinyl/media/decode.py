"""Decoding through PyAV: samples that start at the first one after the codec's own padding."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import cast

import av
import numpy as np
from av.audio.fifo import AudioFifo
from av.audio.frame import AudioFrame
from av.audio.resampler import AudioResampler
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.packet import Packet
from numpy.typing import NDArray

from vinyl.media.errors import BrokenAudioError, NotAudioError

ANALYSIS_RATE_HZ = 44100
# Rates that sound has, from speech by telephone to the finest converters.
LEAST_RATE_HZ, MOST_RATE_HZ = 4_000, 768_000
BLOCK = 262144
LAYOUTS = {1: "mono", 2: "stereo"}
# Containers that hold their own sound and open no other file. Files that are named for one and are another of
# these are common and harmless; a playlist or a list of parts is neither.
PLAIN_DEMUXERS = ("aac", "aiff", "asf", "flac", "mov", "mp3", "ogg", "wav", "w64")
DEMUXERS = {
    suffix: (own, *(name for name in PLAIN_DEMUXERS if name != own))
    for suffix, own in {
        ".aac": "aac", ".aif": "aiff", ".aiff": "aiff", ".alac": "mov", ".flac": "flac",
    ".m4a": "mov", ".mp2": "mp3",
        ".mp3": "mp3", ".mp4": "mov", ".oga": "ogg",
    ".ogg": "ogg", ".opus": "ogg", ".wav": "wav", ".wave": "wav",
        ".wma": "asf",
    }.items()
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Audio:
    """Decoded audio. ``samples`` is float32 of shape (channels, n), ``rate_hz`` in Hz."""

    samples: NDArray[np.float32]
    rate_hz: int

    @property
    def duration_s(self) -> float:
        return float(self.samples.shape[1] / self.rate_hz)


@contextmanager
def open_audio(path: Path, **more: str) -> Iterator[tuple[InputContainer, AudioStream]]:
    """Open a file and its first audio stream. ``more`` are options of FFmpeg's.

    Raises:
        NotAudioError: if there is nothing to decode in it.
        BrokenAudioError: if it cannot be read.
    """
    demuxers = DEMUXERS.get(path.suffix.lower(), PLAIN_DEMUXERS)
    options = {"format_whitelist": ",".join(demuxers), "protocol_whitelist": "file", **more}
    try:
        if path.stat().st_size == 0:
            raise NotAudioError("The file is empty (0 bytes).")
        container = av.open(str(path), metadata_errors="replace", options=options)
    except FileNotFoundError as error:
        raise BrokenAudioError("There is no file at this path.") from error
    except PermissionError as error:
        raise BrokenAudioError("Vinyl may not read this file: check its permissions.") from error
    except (av.FFmpegError, OSError, ValueError) as error:
        raise NotAudioError("This is no audio that Vinyl can read, whatever its name says.") from error
    with container:
        if not container.streams.audio:
            raise NotAudioError("There is no sound in this file.")
        stream = container.streams.audio[0]
        # A kind of sound that no decoder is built in for has no context, whatever the type says.
        if cast(object, stream.codec_context) is None:
            raise NotAudioError("There is no decoder for the sound in this file.")
        check_rate(stream.codec_context.sample_rate)
        yield container, stream


def check_rate(rate_hz: int) -> None:
    """Refuse a sample rate that no sound has: a second of it would be made of the noise of days.

    Raises:
        NotAudioError: if the head tells none at all.
        BrokenAudioError: if it is none.
    """
    if rate_hz == 0:
        raise NotAudioError("There is no sound in this file that could be told from other data.")
    if not LEAST_RATE_HZ <= rate_hz <= MOST_RATE_HZ:
        raise BrokenAudioError(
            f"Its head says that a second of it has {rate_hz:,} samples, which cannot be: it is damaged."
        )


def packets_of(container: InputContainer, stream: AudioStream) -> Iterator[Packet[AudioStream]]:
    """The packets of a stream up to its end, or up to where the file is too damaged to go on.

    Raises:
        BrokenAudioError: if the disk gives an error.
    """
    packets = container.demux(stream)
    while True:
        try:
            packet = next(packets)
        except (StopIteration, av.error.EOFError):
            return
        except (av.error.InvalidDataError, ValueError):
            return
        except (av.FFmpegError, OSError) as error:
            words = getattr(error, "strerror", None) or str(error)
            raise BrokenAudioError(f"The file could not be read to its end ({words}).") from error
        yield packet


def stream_frames(path: Path, rate_hz: int, sample_format: str, channels: int) -> Iterator[AudioFrame]:
    """Decode a file piece by piece, resampled and mixed to the wanted form.

    Damaged packets are passed over; what decodes before and after them is kept. A file may change its rate or
    its channels on the way, as spliced ones do.

    Raises:
        NotAudioError, BrokenAudioError: if it cannot be opened, or the disk gives an error.
    """
    with open_audio(path) as (container, stream):
        resampler, form = None, None
        for frame in _frames(container, stream):
            found = (frame.format.name, frame.layout.name, frame.sample_rate)
            if resampler is None or found != form:
                yield from _converted(resampler, None)
                resampler = AudioResampler(format=sample_format, layout=LAYOUTS[channels], rate=rate_hz)
                form = found
            yield from _converted(resampler, frame)
        yield from _converted(resampler, None)


def decode_blocks(path: Path, rate_hz: int = ANALYSIS_RATE_HZ) -> Iterator[NDArray[np.float32]]:
    """Decode a file piece by piece to stereo float32 (2, n) at one rate.

    Raises:
        NotAudioError, BrokenAudioError: with the reason.
    """
    fifo = AudioFifo()
    for frame in stream_frames(path, rate_hz, "fltp", 2):
        frame.pts = None  # damaged packets leave gaps, which are closed
        fifo.write(frame)
        if fifo.samples >= BLOCK:
            yield _taken(fifo, BLOCK)
    if not fifo.samples_written:
        raise BrokenAudioError("Not one second of this file could be decoded.")
    if fifo.samples:
        yield _taken(fifo, fifo.samples)


def decode(path: Path, rate_hz: int = ANALYSIS_RATE_HZ) -> Audio:
    """Decode a whole file to stereo float32 at one rate.

    Raises:
        NotAudioError, BrokenAudioError: with the reason.
    """
    samples = np.concatenate(list(decode_blocks(path, rate_hz)), axis=1)
    return Audio(np.nan_to_num(samples, copy=False, posinf=0.0, neginf=0.0), rate_hz)


def _taken(fifo: AudioFifo, count: int) -> NDArray[np.float32]:
    frame = fifo.read(count)
    return frame.to_ndarray().astype(np.float32, copy=False) if frame else np.zeros((2, 0), np.float32)


def _frames(container: InputContainer, stream: AudioStream) -> Iterator[AudioFrame]:
    for packet in packets_of(container, stream):
        try:
            yield from packet.decode()
        except (av.FFmpegError, ValueError):
            continue


def _converted(resampler: AudioResampler | None, frame: AudioFrame | None) -> list[AudioFrame]:
    """A frame in the wanted form, or what is left in the resampler; nothing for a frame that no sound can be
    made of.
    """
    if resampler is None:
        return []
    try:
        return resampler.resample(frame)
    except (av.FFmpegError, ValueError):
        return []
