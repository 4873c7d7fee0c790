"""Looking at a file before it is added: is it audio, is it whole, and which audio is it?"""

from __future__ import annotations

import hashlib
import struct
from dataclasses import dataclass
from pathlib import Path

import av
from av.audio.frame import AudioFrame
from av.audio.stream import AudioStream
from av.container import InputContainer
from av.packet import Packet
from mutagen import MutagenError
from mutagen.mp3 import MP3, BitrateMode

from vinyl.media.decode import DEMUXERS, open_audio, packets_of
from vinyl.media.errors import BrokenAudioError, NotAudioError

AUDIO_SUFFIXES = frozenset(DEMUXERS)
SIGNATURES = (b"ID3", b"fLaC", b"RIFF", b"FORM", b"OggS", b"\xff\xfb", b"\xff\xf3", b"\xff\xfa")
MISSING_SHARE = 0.01
MISSING_S = 1.0
TRIAL_PACKETS = 24
UNKNOWN_SIZE = 0xFFFFFFFF


@dataclass(frozen=True, slots=True)
class SoundFacts:
    """What the file itself says.

    ``trimmed_samples`` and ``padding_samples`` are the codec's padding at both ends, which other programs may
    count; ``depth_bits`` is None where a codec has no such thing. Two names tell the sound, whatever the tags
    and the path: ``sampled_hash`` of a few pieces of it (vinyl.media.glance), ``packet_hash`` of all.
    """

    codec: str
    rate_hz: int
    channels: int
    bit_rate: int | None
    duration_s: float
    trimmed_samples: int
    sampled_hash: str | None = None
    packet_hash: str | None = None
    depth_bits: int | None = None
    variable_rate: bool = False
    padding_samples: int = 0

    @property
    def audio_hash(self) -> str:
        """The name by which what is made from the sound is kept."""
        return self.sampled_hash or self.packet_hash or ""


def probe(path: Path) -> SoundFacts:
    """Read a file's packets once, decoding only the first.

    Raises:
        NotAudioError: if it holds no sound.
        BrokenAudioError: if it is damaged or ends before its own header says.
    """
    try:
        check_container_size(path)
        with open_audio(path) as (container, stream):
            return _read_packets(container, stream)
    except NotAudioError as error:
        if _looks_like_audio(path):
            raise BrokenAudioError(
                f"The file begins like audio but cannot be opened; it may be incomplete. {error}"
            ) from error
        raise
    except (av.FFmpegError, OSError, ValueError, struct.error) as error:
        raise BrokenAudioError(
            f"The file could not be read to its end ({getattr(error, 'strerror', None) or error})."
        ) from error


def _read_packets(container: InputContainer, stream: AudioStream) -> SoundFacts:
    digest, ticks, trimmed, decoded, count = hashlib.blake2b(digest_size=20), 0, 0, 0, 0
    for packet in packets_of(container, stream):
        if not packet.size:
            continue
        if count == 0:
            trimmed = skip_samples(packet)
        if count < TRIAL_PACKETS:
            decoded += decoded_samples(packet)
        count += 1
        ticks += packet.duration or 0
        digest.update(packet)
    if not decoded:
        raise NotAudioError("Nothing in this file could be decoded as sound.")
    read_s = float(ticks * stream.time_base) if stream.time_base else 0.0
    said_s = read_s
    if stream.duration and stream.time_base and _tells_length(container):
        said_s = float(stream.duration * stream.time_base)
    if said_s - read_s > max(MISSING_S, MISSING_SHARE * said_s):
        raise BrokenAudioError(
            f"The file ends after {_clock(read_s)} of {_clock(said_s)}: it was cut off. Get it again."
        )
    context = stream.codec_context
    bit_rate = stream.bit_rate or (
        round(8 * Path(container.name).stat().st_size / read_s) if read_s else None
    )
    return SoundFacts(
        codec=context.codec.canonical_name,
        rate_hz=context.sample_rate,
        channels=context.channels,
        bit_rate=bit_rate,
        duration_s=min(said_s, read_s) or read_s,
        trimmed_samples=trimmed,
        packet_hash=digest.hexdigest(),
    )


def _tells_length(container: InputContainer) -> bool:
    """Whether a file tells its length; where it does not, FFmpeg guesses it from the first bit rate."""
    if container.format.name != "mp3":
        return container.format.name != "aac"
    try:
        return bool(MP3(container.name).info.bitrate_mode != BitrateMode.UNKNOWN)
    except MutagenError:
        return False


def check_container_size(path: Path) -> None:
    """RIFF and FORM files say in their head how long they are; FFmpeg reads cut-off ones without a word."""
    with path.open("rb") as file:
        head = file.read(8)
    order = {b"RIFF": "<I", b"FORM": ">I"}.get(head[:4])
    if order is None or len(head) < 8:
        return
    (said,) = struct.unpack(order, head[4:])
    size = path.stat().st_size
    if said != UNKNOWN_SIZE and said > size * (1 + MISSING_SHARE):
        raise BrokenAudioError(
            f"The file holds {size / 1e6:.1f} of {said / 1e6:.1f} MB: it was cut off. Get it again."
        )


def skip_samples(packet: Packet[AudioStream]) -> int:
    """Samples of padding at the start, as a file's first packet tells them."""
    if not packet.has_sidedata("skip_samples"):
        return 0
    (skip,) = struct.unpack_from("<I", bytes(packet.get_sidedata("skip_samples")))
    return int(skip)


def decoded_samples(packet: Packet[AudioStream]) -> int:
    """How many samples a packet gives; none where it is damaged."""
    try:
        return sum(frame.samples for frame in packet.decode() if isinstance(frame, AudioFrame))
    except (av.FFmpegError, ValueError):
        return 0


def _looks_like_audio(path: Path) -> bool:
    with path.open("rb") as file:
        head = file.read(12)
    return head.startswith(SIGNATURES) or head[4:8] == b"ftyp"


def _clock(seconds: float) -> str:
    return f"{int(seconds) // 60}:{int(seconds) % 60:02d}"
