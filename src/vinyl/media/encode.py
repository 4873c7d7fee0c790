"""Encoding through PyAV, to the formats Vinyl writes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from numpy.typing import NDArray

from vinyl.media.decode import decode_blocks, stream_frames
from vinyl.media.errors import MediaError

FRAME = 32768


@dataclass(frozen=True, slots=True)
class Encoding:
    """How a format is written: container, codec, sample format, rate, and bit rate where it is lossy."""

    suffix: str
    container: str
    codec: str
    sample_format: str
    rate_hz: int = 44100
    bit_rate: int | None = None
    options: tuple[tuple[str, str], ...] = ()


ENCODINGS = {
    "wav": Encoding(".wav", "wav", "pcm_s16le", "s16"),
    "aiff": Encoding(".aiff", "aiff", "pcm_s16be", "s16"),
    "flac": Encoding(".flac", "flac", "flac", "s16", options=(("compression_level", "3"),)),
    "mp3": Encoding(
        ".mp3", "mp3", "libmp3lame", "s16p", bit_rate=192_000, options=(("compression_level", "9"),)
    ),
    "m4a": Encoding(".m4a", "ipod", "aac", "fltp", bit_rate=160_000, options=(("aac_coder", "fast"),)),
    "opus": Encoding(".opus", "opus", "libopus", "s16", rate_hz=48000, bit_rate=112_000),
}


def encode(samples: NDArray[np.float32], rate_hz: int, path: Path, form: str) -> None:
    """Write samples of shape (2, n), -1 to 1, to a file of one of ENCODINGS."""
    encode_blocks([samples], rate_hz, path, form)


def encode_blocks(blocks: Iterable[NDArray[np.float32]], rate_hz: int, path: Path, form: str) -> None:
    """The same from blocks of samples (2, n), one after the other."""
    encode_as(blocks, rate_hz, path, ENCODINGS[form])


def encode_as(blocks: Iterable[NDArray[np.float32]], rate_hz: int, path: Path, encoding: Encoding) -> None:
    """The same in an encoding of one's own."""
    frames = (frame for samples in blocks for frame in _frames_of(samples, rate_hz))
    _encode(frames, path, encoding)


def convert(source: Path, path: Path, form: str, gain_db: float = 0.0) -> None:
    """Decode one file and encode it to another, without holding it in memory, louder or softer if wished.

    Raises:
        MediaError: if the source cannot be decoded or the target not be written.
    """
    encoding = ENCODINGS[form]
    if gain_db:
        gain = np.float32(10.0 ** (gain_db / 20.0))
        blocks = (block * gain for block in decode_blocks(source, encoding.rate_hz))
        encode_blocks(blocks, encoding.rate_hz, path, form)
        return
    _encode(stream_frames(source, encoding.rate_hz, encoding.sample_format, 2), path, encoding)


def _encode(frames: Iterable[AudioFrame], path: Path, encoding: Encoding) -> None:
    try:
        with av.open(str(path), "w", format=encoding.container) as container:
            stream = container.add_stream(
                encoding.codec, rate=encoding.rate_hz, options=dict(encoding.options)
            )
            if not isinstance(stream, AudioStream):
                raise MediaError(f"{encoding.codec} writes no audio.")
            stream.layout = "stereo"
            stream.format = encoding.sample_format
            if encoding.bit_rate:
                stream.bit_rate = encoding.bit_rate
            for frame in _timed(_reframed(frames, encoding, stream), encoding.rate_hz):
                container.mux(stream.encode(frame))
            container.mux(stream.encode(None))
    except av.FFmpegError as error:
        raise MediaError(f"{path.name} could not be written: {error.strerror}.") from error


def _reframed(frames: Iterable[AudioFrame], encoding: Encoding, stream: AudioStream) -> Iterator[AudioFrame]:
    """The frames in the form and of the size that the encoder takes."""
    stream.codec_context.open(strict=False)
    size = stream.codec_context.frame_size or None
    resampler = av.AudioResampler(encoding.sample_format, "stereo", encoding.rate_hz, size)
    for frame in frames:
        frame.pts = None
        yield from resampler.resample(frame)
    yield from resampler.resample(None)


def _timed(frames: Iterable[AudioFrame], rate_hz: int) -> Iterator[AudioFrame]:
    """Count samples from 0: only so does the container note the encoder's delay for decoders to trim."""
    position = 0
    for frame in frames:
        frame.pts, frame.time_base = position, Fraction(1, rate_hz)
        position += frame.samples
        yield frame


def _frames_of(samples: NDArray[np.float32], rate_hz: int) -> Iterable[AudioFrame]:
    for start in range(0, samples.shape[1], FRAME):
        piece = np.ascontiguousarray(samples[:, start : start + FRAME])
        frame = AudioFrame.from_ndarray(piece, format="fltp", layout="stereo")
        frame.sample_rate = rate_hz
        yield frame
